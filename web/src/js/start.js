// Start: words save while they are typed and the pieces beside them follow.
(() => {
  const { post, get, upload, notice, saved, swap, onChange, files, toKit } = Aspen
  const id = document.body.dataset.brief
  const host = document.querySelector('[data-preview]')
  let seq = Number(document.body.dataset.seq)
  const key = 'aspenridge-start-' + id // what is typed but not yet saved outlives the tab

  function show(d, fields) {
    if (d.seq < seq) return
    seq = d.seq
    swap(host, d.preview)
    window.dispatchEvent(new CustomEvent('aspen:steps', { detail: d }))
    if (!fields) return
    for (const [name, value] of Object.entries(d.fields)) {
      const el = document.getElementById('f-' + name)
      if (el && el.value !== value) el.value = value
    }
  }

  // the newest value of each field waits here; one request is in flight
  let waiting = {}
  let busy = false
  async function flush() {
    if (busy) return
    busy = true
    saved('saving')
    for (let path; (path = Object.keys(waiting)[0]); ) {
      const { value, typing } = waiting[path]
      try {
        const d = await post(`/briefs/${id}/edit`, { path, value, typing, base: seq })
        if (waiting[path]?.value === value) delete waiting[path]
        show(d)
      } catch (e) {
        delete waiting[path]
        if (e.status === 409) {
          notice('This was changed in another tab; it now says “' + (e.data.theirs ?? '') + '”.', { bad: true, label: 'Keep mine', action: () => { seq = e.data.seq; put(path, value) } })
        } else notice(e.message, { bad: true })
      }
      keep()
    }
    busy = false
    saved('saved')
  }
  const keep = () => { try { if (Object.keys(waiting).length) localStorage.setItem(key, JSON.stringify(waiting)); else localStorage.removeItem(key) } catch { /* storage is off */ } }
  function put(path, value, typing) { waiting[path] = { value, typing }; keep(); flush() }

  document.addEventListener('input', (e) => {
    const f = e.target.dataset.field
    if (f) put(f === 'name' ? '/name' : '/cards/0/' + f, e.target.value === '' && ['callToAction', 'website'].includes(f) ? null : e.target.value, true)
  })
  document.addEventListener('change', (e) => {
    if (e.target.name === 'signature') put('/signature', e.target.value)
    if ('place' in e.target.dataset) {
      const list = [...document.querySelectorAll('[data-place]:checked')].map((el) => el.value)
      document.querySelector('[data-count]').textContent = list.length + ' places'
      put('/placements', list)
    }
  })
  // between this brief and its kit: a picture, a colour
  const kit = document.body.dataset.kit
  host.addEventListener('click', async (e) => {
    const b = e.target.closest('button')
    if (!b) return
    const d = b.dataset
    try {
      if (d.usePicture) show(await post(`/briefs/${id}/picture`, { file: d.usePicture, alt: d.alt }))
      else if (d.asLogo) { show(await post(`/briefs/${id}/promote`, { file: d.asLogo, as: 'logo' })); notice('It is a logo of the kit now.') }
      else if (d.promote) { show(await post(`/briefs/${id}/promote`, { file: d.promote })); notice('The picture is in the kit now.') }
      else if (d.addColour) { await post(`/kits/${kit}/edit`, { action: 'keep', text: d.addColour }); notice(d.addColour + ' is in the kit now.'); show(await get(`/briefs/${id}/preview`)) }
    } catch (err) { notice(err.message, { bad: true }) }
  })
  files(async (_, f) => { if (await toKit(kit, f)) return; const d = await upload(`/briefs/${id}/pictures`, f); if (d) show(d) })
  onChange(async () => { if (!busy) { const d = await get(`/briefs/${id}/preview`); show(d, !document.activeElement?.dataset.field) } })
  addEventListener('aspen:reverted', async () => show(await get(`/briefs/${id}/preview`), true))

  try {
    const lost = JSON.parse(localStorage.getItem(key) || '{}')
    for (const [path, w] of Object.entries(lost)) {
      const el = document.getElementById('f-' + path.split('/').pop())
      if (el && typeof w.value === 'string') el.value = w.value
      waiting[path] = w
    }
    if (Object.keys(lost).length) flush()
  } catch { /* nothing kept */ }
})()
