// The Kit: every field saves as it changes, and the sheet and the shelf come
// back as they are then.
(() => {
  const { post, get, upload, notice, saved, swap, onChange, files } = Aspen
  const id = document.body.dataset.kit
  const sheet = document.querySelector('[data-sheet]')
  const shelf = document.querySelector('[data-shelf]')
  let seq = Number(document.body.dataset.seq)

  function show(d) {
    if (d.seq < seq) return
    seq = d.seq
    swap(sheet, d.sheet)
    swap(shelf, d.shelf)
    document.querySelector('[data-title]').textContent = d.name || 'New kit'
    window.dispatchEvent(new CustomEvent('aspen:steps', { detail: d }))
  }
  async function refresh() { show(await get(`/kits/${id}/sheet`)) }

  // one change at a time, in the order they were made
  let queue = Promise.resolve()
  function change(body) {
    saved('saving')
    queue = queue.then(async () => {
      try {
        show(await post(`/kits/${id}/edit`, { base: seq, ...body }))
      } catch (e) {
        if (e.status === 409) notice('Somebody changed this meanwhile; it now says ' + JSON.stringify(e.data.theirs), { bad: true })
        else notice(e.message, { bad: true })
        await refresh()
      }
      saved('saved')
    })
    return queue
  }

  sheet.addEventListener('change', (e) => {
    const d = e.target.dataset
    if (d.set) change({ action: 'set', path: d.set, value: e.target.value === '' && !d.set.endsWith('/name') ? null : e.target.value })
    else if (d.setList) change({ action: 'set', path: d.setList, value: e.target.value.split(',').map((s) => s.trim()).filter(Boolean) })
    else if (d.colour) change({ action: 'colour', token: d.colour, text: e.target.value })
  })
  sheet.addEventListener('input', (e) => { e.target.dataset.dirty = '1' })
  sheet.addEventListener('keydown', (e) => {
    if (e.key === 'Enter' && e.target.matches('input')) e.target.blur()
    if (e.key === 'Enter' && !e.shiftKey && e.target.matches('[data-paste] textarea')) { e.preventDefault(); e.target.form.requestSubmit() }
    if (e.key === 'Escape') for (const p of sheet.querySelectorAll('details[open]')) p.open = false
  })
  sheet.addEventListener('submit', (e) => {
    if (!e.target.matches('[data-paste]')) return
    e.preventDefault()
    const text = e.target.elements.text.value
    if (text.trim()) change({ action: 'paste', text })
  })
  sheet.addEventListener('click', (e) => {
    const b = e.target.closest('button')
    if (!b) return
    const d = b.dataset
    if (d.keep) change({ action: 'keep', text: d.keep })
    else if (d.decline) change({ action: 'decline', text: d.decline })
    else if (d.family) { b.closest('details').open = false; change({ action: 'family', level: d.level, text: d.family }) }
    else if (d.remove) {
      change({ action: 'set', path: d.remove, value: null })
      notice('Taken out of the kit.', { label: 'Undo', action: () => document.querySelector('button[data-undo]').click() })
    }
  })
  files(async (_, f) => {
    const d = await upload(`/kits/${id}/logos`, f)
    if (d) show(d)
  })
  onChange(async () => { const d = await get(`/kits/${id}/sheet`); if (d.seq > seq) show(d) })
  addEventListener('aspen:reverted', refresh)
})()
