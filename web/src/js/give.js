// Giving: files and words go to the server one after the other, and each thing
// that found its place is said, with a way back. On a page of its own there is a
// list and the pieces so far; elsewhere a notice says it.
;(() => {
  const { client, request, post, notice, el, fill, paint, report } = Aspen
  const host = document.querySelector('[data-give]')
  if (!host) return
  const list = host.querySelector('[data-given]')
  const seen = document.querySelector('[data-given-seen]')
  const form = host.matches('[data-give-form]') ? host : host.querySelector('[data-give-form]')
  const here = { kit: host.dataset.kit || '', brief: host.dataset.brief || '' }
  const only = 'only' in host.dataset
  const memory = 'aspenridge-given'

  // what comes waits its turn: a kit exists from the first thing given
  const waiting = []
  let busy = false
  function take(thing) {
    if (list) {
      thing.row = el('li.taking', {}, el('span', {}, `Taking in ${thing.name} …`))
      list.prepend(thing.row)
    } else notice(`Taking in ${thing.name} …`, { label: 'Hide' })
    waiting.push(thing)
    next()
  }
  async function next() {
    if (busy) return
    busy = true
    while (waiting.length) {
      const thing = waiting.shift()
      try {
        show(await send(thing), thing)
      } catch (e) {
        if (e.status === undefined) report(e)
        refused(thing, e)
      }
    }
    busy = false
  }
  async function send(thing) {
    const body = new FormData()
    const into = thing.kit ? { kit: thing.kit, brief: '' } : here
    for (const [k, v] of Object.entries(into)) if (v) body.append(k, v)
    if (only || thing.only) body.append('only', 'yes')
    if (seen) body.append('seen', 'yes')
    if (thing.as) body.append('as', thing.as)
    if (thing.file) body.append('file', thing.file, thing.file.name || 'pasted.png')
    else body.append('text', thing.text)
    return request('/give', {
      method: 'POST',
      headers: { Accept: 'application/json', 'X-Client': client, 'X-Change': crypto.randomUUID() },
      body,
    })
  }
  function stand(d) {
    Object.assign(here, { kit: d.kit, brief: d.brief })
    if (!seen) return
    fill(seen, d.html)
    paint(seen)
    document.querySelector('[data-doors]')?.toggleAttribute('hidden', !!d.kit)
    const q = new URLSearchParams(Object.entries(here).filter(([, v]) => v))
    history.replaceState(null, '', q.size ? '?' + q : location.pathname)
  }
  function show(d, thing) {
    stand(d)
    if (!list) {
      told(d, thing)
      return
    }
    const rows = d.placed.map((p) => row(p, thing))
    for (const l of d.left ?? [])
      rows.push(el('li.left', {}, el('b', {}, l.what), el('span', {}, ' found no place: ' + l.why)))
    thing.row.replaceWith(...rows)
    remember()
  }
  // elsewhere than on the page of its own a notice says what came where
  function told(d, thing) {
    const where = d.placed
      .map((p) => `${p.what}: ${p.into}`)
      .concat((d.left ?? []).map((l) => `${l.what} found no place: ${l.why}`))
      .join('. ')
    window.dispatchEvent(new CustomEvent('aspen:given', { detail: d }))
    const back = d.placed.length
      ? {
          label: 'Take it back',
          action: async () => {
            for (const p of [...d.placed].reverse()) await takeBack(p, d)
            window.dispatchEvent(new CustomEvent('aspen:given', { detail: d }))
          },
        }
      : {}
    notice(where + '.', {
      ...back,
      stays: true,
      link: thing.only
        ? null
        : d.brief
          ? { href: `/briefs/${d.brief}/start`, label: 'Open the brief' }
          : d.kit && !only
            ? { href: '/kits/' + d.kit, label: 'Open the kit' }
            : null,
    })
  }
  function refused(thing, e) {
    if (!list) {
      notice(e.message, { bad: true })
      return
    }
    thing.row.replaceWith(el('li.left', {}, el('b', {}, thing.name), el('span', {}, ' ' + e.message)))
    if (thing.text && form && !form.elements.text.value) form.elements.text.value = thing.text // nothing typed is lost
  }
  const takeBack = (placed, d = here) => post('/give/back', { placed, kit: d.kit, brief: d.brief, seen: !!seen })

  function row(p, thing) {
    const li = el('li', {}, el('b', {}, p.what), el('span.to', { 'aria-hidden': 'true' }, '→'), el('span', {}, p.into))
    li.placed = p
    const again = thing.file || thing.text
    if (again && p.others?.length > 1) {
      const pick = el(
        'select.as',
        { 'aria-label': `What ${p.what} is` },
        p.others.map((o) => el('option', { value: o, selected: o === p.as }, 'as ' + plain(o))),
      )
      pick.onchange = async () => {
        if (!(await undo(li))) {
          pick.value = p.as
          return
        }
        take({ ...thing, text: thing.file ? undefined : p.what, name: p.what, as: pick.value })
      }
      li.append(pick)
    }
    const back = el('button.tiny', { type: 'button' }, 'take back')
    back.onclick = () => undo(li)
    li.append(back)
    return li
  }
  const plain = (o) => o.replace(/[A-Z]/g, (c) => ' ' + c.toLowerCase())
  async function undo(li) {
    li.inert = true
    try {
      const d = await takeBack(li.placed)
      stand(d)
      li.remove()
      remember()
      return true
    } catch (e) {
      li.inert = false
      notice(e.message, { bad: true })
      return false
    }
  }
  // the list outlives a reload, while the kit is the same
  function remember() {
    try {
      sessionStorage.setItem(
        memory,
        JSON.stringify({ ...here, placed: [...list.children].map((li) => li.placed).filter(Boolean) }),
      )
    } catch {
      /* storage is off */
    }
  }
  if (list && here.kit) {
    try {
      const was = JSON.parse(sessionStorage.getItem(memory))
      if (was?.kit === here.kit) list.append(...was.placed.map((p) => row(p, {})))
    } catch {
      /* storage is off, or not ours */
    }
  }

  const words = (text) => ({ text, name: text.trim().split('\n')[0].slice(0, 40) })
  form?.addEventListener('submit', (e) => {
    e.preventDefault()
    const field = form.elements.text
    if (!field.value.trim()) {
      field.focus()
      return
    }
    take(words(field.value))
    field.value = ''
    field.focus()
  })
  form?.addEventListener('keydown', (e) => {
    if (e.key === 'Enter' && !e.shiftKey && !e.isComposing && e.target.matches('textarea')) {
      e.preventDefault()
      form.requestSubmit()
    }
  })
  document.addEventListener('change', (e) => {
    if (!('giveFiles' in (e.target.dataset ?? {}))) return
    for (const file of e.target.files) take({ file, name: file.name })
    e.target.value = ''
  })
  if (host.dataset.give !== 'quiet') {
    Aspen.files((_, file, over) =>
      take({
        file,
        name: file.name || 'the pasted picture',
        kit: over?.closest?.('[data-give-kit]')?.dataset.giveKit,
        only: !!over?.closest?.('[data-give-kit]'),
      }),
    )
  }
  document.addEventListener('paste', (e) => {
    if (e.target.matches?.('input, textarea, select, [contenteditable]') || e.clipboardData?.files.length) return
    const text = e.clipboardData?.getData('text/plain')
    if (text?.trim()) {
      e.preventDefault()
      take(words(text))
    }
  })
  host.addEventListener('change', (e) => {
    if (e.target.matches('[data-give-into]')) Object.assign(here, { kit: e.target.value, brief: '' })
  })
  Aspen.give = take
})()
