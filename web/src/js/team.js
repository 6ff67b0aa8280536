// The team: a role is set as it is chosen, what cannot be undone is asked about.
;(() => {
  for (const form of document.querySelectorAll('[data-role-form]')) {
    form.querySelector('button').hidden = true
    form.querySelector('select').addEventListener('change', () => form.requestSubmit())
  }
  const { el, notice } = Aspen
  async function sure(words) {
    const dialog = el(
      'dialog.again',
      { 'aria-label': words },
      el(
        'form',
        { method: 'dialog' },
        el('p', {}, words),
        el(
          'p.buttons',
          {},
          el('button.act', { value: 'yes' }, 'Yes'),
          el('button.ghost', { value: '', autofocus: true }, 'No'),
        ),
      ),
    )
    document.body.append(dialog)
    dialog.showModal()
    await new Promise((done) => dialog.addEventListener('close', done, { once: true }))
    dialog.remove()
    return dialog.returnValue === 'yes'
  }
  document.addEventListener('submit', async (e) => {
    const words = e.target.dataset.asks
    if (!words || e.target.dataset.asked) return
    e.preventDefault()
    if (!(await sure(words))) return
    e.target.dataset.asked = '1'
    e.target.requestSubmit()
  })
  // choosing one of the kits and briefs means only those
  document.addEventListener('change', (e) => {
    if (e.target.name === 'only' && e.target.checked) e.target.form.elements.sees.value = 'some'
  })
  // a workspace from a file: a large one takes a while
  document.querySelector('[data-bring-workspace]')?.addEventListener('change', async (e) => {
    const file = e.target.files[0]
    const says = document.querySelector('[data-bring-says]')
    if (!file) return
    says.textContent = `Reading ${file.name} …`
    try {
      const r = await fetch('/workspaces/bring', {
        method: 'POST',
        headers: { Accept: 'application/json' },
        body: file,
      })
      const d = await r.json().catch(() => ({}))
      if (!r.ok) throw new Error(d.error || 'The server did not take it. Try again in a moment.')
      location.href = d.go
    } catch (err) {
      says.textContent = ''
      notice(err.message, { bad: true })
    }
    e.target.value = ''
  })
  document.querySelector('[data-copy-fresh]')?.addEventListener('click', async (e) => {
    const field = document.querySelector('[data-fresh-address]')
    await navigator.clipboard.writeText(field.value).catch(() => field.select())
    e.target.textContent = 'copied'
  })
})()
