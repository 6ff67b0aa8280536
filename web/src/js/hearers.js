// Names at an @: what is typed after one in a field is looked for among names, and the one
// that is chosen is put in.
;(() => {
  const { el } = Aspen
  let lists = 0

  // hearers offers names under a field.
  Aspen.hearers = (field, names) => {
    if (!names?.length) return
    const id = `hearers-${++lists}`
    const list = el('ul.hearers', { id, role: 'listbox', 'aria-label': 'Whom to tell', hidden: '' })
    let found = []
    let at = 0
    let from = 0 // where in the field the @ stands

    const shown = () => !list.hidden
    function close() {
      list.hidden = true
      field.removeAttribute('aria-activedescendant')
      field.setAttribute('aria-expanded', 'false')
    }
    function draw() {
      list.replaceChildren(
        ...found.map((name, i) =>
          el('li', { id: `${id}-${i}`, role: 'option', 'aria-selected': String(i === at), dir: 'auto' }, name),
        ),
      )
      list.hidden = false
      field.setAttribute('aria-activedescendant', `${id}-${at}`)
      field.setAttribute('aria-expanded', 'true')
      list.children[at].scrollIntoView({ block: 'nearest' })
    }
    function look() {
      const before = field.value.slice(0, field.selectionStart)
      const typed = /(?:^|[\s(])@([\p{L}\p{M}'’.-]*(?: [\p{L}\p{M}'’.-]*)?)$/u.exec(before)
      const low = typed?.[1].toLocaleLowerCase()
      const parts = (name) => [name, ...name.split(' ')].map((s) => s.toLocaleLowerCase())
      found = typed ? names.filter((n) => parts(n).some((s) => s.startsWith(low) && s !== low)).slice(0, 6) : []
      if (!found.length) return close()
      from = before.length - typed[1].length
      at = 0
      draw()
    }
    function choose(name) {
      const rest = field.value.slice(field.selectionStart)
      field.setRangeText(name + (rest.startsWith(' ') ? '' : ' '), from, field.selectionStart, 'end')
      close()
      field.dispatchEvent(new Event('input', { bubbles: true }))
      field.focus()
    }
    field.setAttribute('aria-controls', id)
    field.setAttribute('aria-autocomplete', 'list')
    field.setAttribute('role', 'combobox')
    field.setAttribute('aria-expanded', 'false')
    field.after(list)
    field.addEventListener('input', look)
    field.addEventListener('blur', close)
    field.addEventListener('keydown', (e) => {
      if (!shown() || e.isComposing) return
      const by = { ArrowDown: 1, ArrowUp: -1 }[e.key]
      if (by) {
        at = (at + by + found.length) % found.length
        draw()
      } else if ((e.key === 'Enter' && !e.ctrlKey && !e.metaKey) || e.key === 'Tab') choose(found[at])
      else if (e.key === 'Escape') close()
      else return
      e.preventDefault()
      e.stopImmediatePropagation()
    })
    list.addEventListener('mousedown', (e) => {
      e.preventDefault() // the field keeps the focus
      const li = e.target.closest('[role=option]')
      if (li) choose(li.textContent)
    })
  }
})()
