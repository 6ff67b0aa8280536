// Start: words save while they are typed and the pieces beside them follow.
(() => {
  const { post, get, upload, notice, saved, swap, onChange, files, toKit } = Aspen
  const id = document.body.dataset.brief
  const host = document.querySelector('[data-preview]')
  const card = Number(document.body.dataset.card)
  const onCard = '?card=' + (card + 1)
  let seq = Number(document.body.dataset.seq)
  const key = 'aspenridge-start-' + id // what is typed but not yet saved outlives the tab

  const at = (path) => '/' + path.replace(/^card\//, `cards/${card}/`)
  function show(d, fields) {
    if (d.seq < seq) return
    seq = d.seq
    swap(host, d.preview)
    window.dispatchEvent(new CustomEvent('aspen:steps', { detail: d }))
    const portrait = document.querySelector('[data-portrait]')
    portrait.hidden = !d.portrait
    if (d.portrait) portrait.src = d.portrait
    if (!fields) return
    for (const el of document.querySelectorAll('[data-path]')) {
      const value = d.fields[el.dataset.path] ?? ''
      if (el.value !== value) el.value = value
    }
    for (const el of document.querySelectorAll('[name=signature]')) el.checked = el.value === d.fields.signature
    facts = JSON.parse(d.fields['card/facts'] || '[]') || []
    drawFacts()
    openSaid()
  }
  // sections that say something stand open
  function openSaid() {
    for (const el of document.querySelectorAll('.say')) if ([...el.querySelectorAll('[data-path]')].some((f) => f.value)) el.open = true
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
        const d = await post(`/briefs/${id}/edit${onCard}`, { path, value, typing, base: seq })
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

  // how a field's text becomes a value; what is empty is left to the kit or out
  const as = {
    kit: (v) => v || null,
    number: (v) => (v === '' ? null : Number(v)),
    words: (v) => v.split(',').map((w) => w.trim()).filter(Boolean),
    lines: (v) => v.split('\n').map((w) => w.trim()).filter(Boolean),
  }
  document.addEventListener('input', (e) => {
    const d = e.target.dataset
    if (!d.path || e.target.tagName === 'SELECT') return
    const value = as[d.as] ? as[d.as](e.target.value) : /\/(when|offer|quote|person)\//.test(d.path) && !e.target.value ? null : e.target.value
    put(at(d.path), value, true)
  })
  document.addEventListener('change', (e) => {
    const d = e.target.dataset
    if (e.target.name === 'signature') put('/signature', e.target.value)
    else if (d.path && e.target.tagName === 'SELECT') put(at(d.path), e.target.value || null)
    else if ('place' in d) setPlaces(placesNow())
    else if ('alt' in d) { const l = pictures(); l[e.target.closest('.bp').dataset.n].alt = e.target.value; put(`/cards/${card}/pictures`, l) }
  })

  // --- cards of a post one swipes through --------------------------------------
  document.querySelector('.cards').addEventListener('click', async (e) => {
    const d = e.target.dataset
    const n = document.querySelectorAll('.cards a').length
    if (!('addCard' in d) && !('dropCard' in d)) return
    await idle()
    try {
      if ('addCard' in d) { await post(`/briefs/${id}/edit`, { path: '/cards/-', value: { headline: '' }, base: seq }); location.search = '?card=' + (n + 1) }
      if ('dropCard' in d) { await post(`/briefs/${id}/edit`, { path: '/cards/' + card, value: null, base: seq }); location.search = '?card=' + Math.max(1, card) }
    } catch (err) { notice(err.message, { bad: true }) }
  })

  // --- facts with icons ------------------------------------------------------
  const data = JSON.parse(document.querySelector('[data-start]').textContent)
  const factHost = document.querySelector('[data-facts]')
  let facts = data.facts || []
  const signs = [...data.kitIcons.map((i) => i.name), ...Object.keys(data.icons)]
  function sign(name) {
    const kit = data.kitIcons.find((i) => i.name === name)
    if (kit) return `<img src="${kit.src}" alt="" width="20" height="20">`
    return data.icons[name] ? `<svg viewBox="0 0 24 24" width="20" height="20" fill="none" stroke="currentColor" stroke-width="2" stroke-linecap="round" stroke-linejoin="round" aria-hidden="true">${data.icons[name]}</svg>` : '<i>+</i>'
  }
  function drawFacts() {
    factHost.replaceChildren(...facts.map((f, i) => {
      const row = document.createElement('div')
      row.className = 'fact'
      row.innerHTML = `<button type="button" class="sign" data-sign="${i}" aria-label="Icon of fact ${i + 1}">${sign(f.icon)}</button><input data-fact="${i}" aria-label="Fact ${i + 1}"><button type="button" class="tiny" data-fact-go="${i}" aria-label="Take fact ${i + 1} away">×</button>`
      row.querySelector('input').value = f.text
      return row
    }))
  }
  const saveFacts = (typing) => put(`/cards/${card}/facts`, facts.filter((f) => f.text || f.icon), typing)
  document.querySelector('[data-add-fact]').addEventListener('click', () => { facts.push({ icon: '', text: '' }); drawFacts(); factHost.lastChild.querySelector('input').focus() })
  factHost.addEventListener('input', (e) => { if (e.target.dataset.fact) { facts[e.target.dataset.fact].text = e.target.value; saveFacts(true) } })
  factHost.addEventListener('click', (e) => {
    const b = e.target.closest('button')
    if (!b) return
    if (b.dataset.factGo) { facts.splice(b.dataset.factGo, 1); drawFacts(); saveFacts() }
    if (b.dataset.sign) {
      const open = b.parentElement.querySelector('.signs')
      factHost.querySelector('.signs')?.remove()
      if (open) return
      const box = document.createElement('div')
      box.className = 'signs'
      box.innerHTML = `<input type="search" placeholder="Find an icon" aria-label="Find an icon"><div>${['', ...signs].map((n) => `<button type="button" data-pick-sign="${n}" title="${n || 'none'}">${n ? sign(n) : '–'}</button>`).join('')}</div>`
      box.querySelector('input').addEventListener('input', (ev) => { for (const x of box.querySelectorAll('[data-pick-sign]')) x.hidden = !x.dataset.pickSign.includes(ev.target.value.toLowerCase()) })
      b.parentElement.append(box)
      box.querySelector('input').focus()
    }
    if ('pickSign' in b.dataset) { const i = b.closest('.fact').querySelector('[data-sign]').dataset.sign; facts[i].icon = b.dataset.pickSign; drawFacts(); saveFacts() }
  })
  drawFacts()

  // --- pictures --------------------------------------------------------------
  const pictures = () => [...host.querySelectorAll('.bp')].map((el) => {
    const c = el.querySelector('circle'), img = el.querySelector('img')
    return { file: el.dataset.file, focus: [c.cx.baseVal.value / img.width, c.cy.baseVal.value / img.height].map((v) => Math.round(v * 1000) / 1000), alt: el.querySelector('[data-alt]').value }
  })
  host.addEventListener('click', (e) => {
    const fig = e.target.closest('.bp')
    if (!fig) return
    const list = pictures()
    const n = [...host.querySelectorAll('.bp')].indexOf(fig)
    if (e.target.closest('[data-drop]')) list.splice(n, 1)
    else if (e.target.closest('[data-lead]')) list.unshift(...list.splice(n, 1))
    else if (e.target.closest('[data-focus]')) {
      const r = fig.querySelector('img').getBoundingClientRect()
      list[n].focus = [(e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height].map((v) => Math.round(Math.min(1, Math.max(0, v)) * 1000) / 1000)
    } else return
    put(`/cards/${card}/pictures`, list)
  })

  // --- where it goes ---------------------------------------------------------
  const sheet = document.querySelector('[data-where-sheet]')
  const placeHost = document.querySelector('[data-places]')
  let chosen = null
  const placesNow = () => {
    const shown = new Map([...placeHost.querySelectorAll('[data-place]')].map((el) => [el.value, el.checked]))
    chosen ??= [...shown].filter(([, on]) => on).map(([v]) => v)
    const kept = chosen.filter((v) => !shown.has(v) || shown.get(v))
    return (chosen = [...kept, ...[...shown].filter(([v, on]) => on && !kept.includes(v)).map(([v]) => v)])
  }
  function setPlaces(list) {
    chosen = list
    document.querySelector('[data-count]').textContent = list.length + ' places'
    if (list.length) put('/placements', list)
  }
  document.querySelector('[data-where]').addEventListener('click', () => { placesNow(); sheet.showModal() })
  let placeTimer
  async function findPlaces() {
    placesNow()
    const d = await get(`/briefs/${id}/places?q=${encodeURIComponent(sheet.querySelector('[data-find-place]').value)}`)
    placeHost.innerHTML = d.html
    for (const el of placeHost.querySelectorAll('[data-place]')) el.checked = chosen.includes(el.value)
  }
  sheet.querySelector('[data-find-place]').addEventListener('input', () => { clearTimeout(placeTimer); placeTimer = setTimeout(findPlaces, 120) })
  sheet.addEventListener('click', async (e) => {
    const d = e.target.closest('button')?.dataset
    if (!d) return
    if (d.custom) { setPlaces([...placesNow().filter((v) => v !== d.custom), d.custom]); sheet.querySelector('[data-find-place]').value = ''; await idle(); findPlaces() }
    if (d.combo) { setPlaces(JSON.parse(d.combo)); for (const el of placeHost.querySelectorAll('[data-place]')) el.checked = chosen.includes(el.value) }
    if (d.comboGo) { await post('/channels', { action: 'combine', name: d.comboGo, placements: [] }); findPlaces() }
  })
  sheet.addEventListener('submit', async (e) => {
    if (!('combine' in e.target.dataset)) return
    e.preventDefault()
    try { await post('/channels', { action: 'combine', name: e.target.elements.name.value, placements: placesNow() }); findPlaces() } catch (err) { notice(err.message, { bad: true }) }
  })
  const idle = async () => { while (busy) await new Promise((r) => setTimeout(r, 30)) }

  // --- examples --------------------------------------------------------------
  const exHost = document.querySelector('[data-examples]')
  let purpose = '', exTimer
  const finder = document.querySelector('[data-find]')
  const findExamples = async () => { exHost.innerHTML = (await get(`/briefs/${id}/examples?purpose=${purpose}&q=${encodeURIComponent(finder.value)}`)).html }
  finder.addEventListener('input', () => { clearTimeout(exTimer); exTimer = setTimeout(findExamples, 150) })
  exHost.addEventListener('click', async (e) => {
    const b = e.target.closest('button')
    if (!b) return
    if ('purpose' in b.dataset) { purpose = b.dataset.purpose; findExamples() }
    if (b.dataset.example) {
      try {
        await idle()
        show(await post(`/briefs/${id}/example${onCard}`, { example: b.dataset.example }), true)
        scrollTo(0, 0)
        document.querySelector('.start-pieces').scrollTo({ top: 0 })
        notice('The example is filled in with its own words; make them yours.')
      } catch (err) { notice(err.message, { bad: true }) }
    }
  })

  // between this brief and its kit: a picture, a colour
  const kit = document.body.dataset.kit
  host.addEventListener('click', async (e) => {
    const b = e.target.closest('button')
    if (!b) return
    const d = b.dataset
    try {
      if (d.usePicture) show(await post(`/briefs/${id}/picture${onCard}`, { file: d.usePicture, alt: d.alt }))
      else if (d.ownPalette) { await idle(); show(await post(`/briefs/${id}/edit${onCard}`, { path: '/palette', value: d.ownPalette.split(' ').map((hex) => ({ hex })), base: seq })); notice('Colourways on Looks and the Mat may use them now.') }
      else if ('ownNone' in d) { await idle(); show(await post(`/briefs/${id}/edit${onCard}`, { path: '/palette', value: null, base: seq })) }
      else if (d.asLogo) { show(await post(`/briefs/${id}/promote${onCard}`, { file: d.asLogo, as: 'logo' })); notice('It is a logo of the kit now.') }
      else if (d.promote) { show(await post(`/briefs/${id}/promote${onCard}`, { file: d.promote })); notice('The picture is in the kit now.') }
      else if (d.addColour) { await post(`/kits/${kit}/edit`, { action: 'keep', text: d.addColour }); notice(d.addColour + ' is in the kit now.'); show(await get(`/briefs/${id}/preview${onCard}`)) }
    } catch (err) { notice(err.message, { bad: true }) }
  })
  files(async (kind, f) => { if (await toKit(kit, f)) return; await idle(); const d = await upload(`/briefs/${id}/${kind === 'portrait' ? 'portrait' : 'pictures'}${onCard}`, f); if (d) show(d) })
  onChange(async () => { if (!busy) { const d = await get(`/briefs/${id}/preview${onCard}`); show(d, !document.activeElement?.closest('.start-words')) } })
  addEventListener('aspen:reverted', async () => show(await get(`/briefs/${id}/preview${onCard}`), true))

  try {
    const lost = JSON.parse(localStorage.getItem(key) || '{}')
    for (const [path, w] of Object.entries(lost)) {
      const el = [...document.querySelectorAll('[data-path]')].find((f) => at(f.dataset.path) === path)
      if (el && typeof w.value === 'string') el.value = w.value
      waiting[path] = w
    }
    if (Object.keys(lost).length) flush()
  } catch { /* nothing kept */ }
})()
