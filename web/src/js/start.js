// Start: words save while they are typed and the pieces beside them follow.
(() => {
  const { post, get, outbox, settled, upload, notice, swap, fill, parts, el, onChange, files, toKit, whenSeen } = Aspen
  const id = document.body.dataset.brief
  const host = document.querySelector('[data-preview]')
  const card = Number(document.body.dataset.card)
  const cardID = document.body.dataset.cardId
  const onCard = '?on=' + encodeURIComponent(cardID)
  let seq = Number(document.body.dataset.seq)
  // how far the document had come when a field last said what the server has: what
  // is typed in it is built on that, however much else was heard of since
  let filled = seq
  const acked = new Map()
  const at = (path) => '/' + path.replace(/^card\//, `cards/@${cardID}/`)
  function show(d, fields) {
    if (d.seq < seq) return
    seq = d.seq
    swap(host, d.preview)
    document.querySelector('[data-title]').textContent = d.title
    window.dispatchEvent(new CustomEvent('aspen:steps', { detail: d }))
    const portrait = document.querySelector('[data-portrait]')
    portrait.hidden = !d.portrait
    if (d.portrait) portrait.src = d.portrait
    if (!fields) return
    filled = d.seq
    acked.clear()
    for (const el of document.querySelectorAll('[data-path]')) {
      const value = d.fields[el.dataset.path] ?? ''
      if (el.value !== value) el.value = value
    }
    for (const el of document.querySelectorAll('[name=signature]')) el.checked = el.value === d.fields.signature
    for (const el of document.querySelectorAll('[name=logo]')) el.checked = el.value === d.fields.logo
    const told = JSON.parse(d.fields['card/facts'] || '[]') || []
    const plain = (list) => JSON.stringify(list.map((f) => [f.icon || '', f.text]))
    if (plain(told) !== plain(facts)) { // an open choice of icons stays where nothing changed
      facts = told
      drawFacts()
    }
    openSaid()
  }
  // sections that say something stand open
  function openSaid() {
    for (const el of document.querySelectorAll('.say')) if ([...el.querySelectorAll('[data-path]')].some((f) => f.value)) el.open = true
  }

  const box = outbox('start-' + id, () => `/briefs/${id}/edit${onCard}`, {
    done: (d, item) => {
      if (item.body.path) acked.set(item.body.path, d.seq)
      if (!box.waiting(item.tag)) show(d)
    },
    refused: (e, { body }) => {
      if (e.status === 409) {
        notice('This was changed in another tab; it now says “' + said(e.data.theirs) + '”.', { bad: true, label: 'Keep mine', stays: true, action: () => { acked.set(body.path, e.data.seq); const f = [...document.querySelectorAll('[data-path]')].find((x) => at(x.dataset.path) === body.path); put(body.path, f && !f.dataset.as ? f.value : body.value) } })
      } else notice(e.message, { bad: true })
    },
  })
  const said = (v) => (v == null ? '' : typeof v === 'string' ? v : JSON.stringify(v))
  const put = (path, value, typing) => box.put({ path, value, typing }, { tag: path, base: acked.get(path) ?? filled })

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
    else if (e.target.name === 'logo') put('/logo', e.target.value || null)
    else if (d.path && e.target.tagName === 'SELECT') put(at(d.path), e.target.value || null)
    else if ('alt' in d) put(`${at('card/pictures')}/@${e.target.closest('.bp').dataset.id}/alt`, e.target.value || null)
  })

  // --- cards of a post one swipes through --------------------------------------
  document.querySelector('.cards').addEventListener('click', async (e) => {
    const d = e.target.dataset
    const n = document.querySelectorAll('.cards a').length
    if (!('addCard' in d) && !('dropCard' in d)) return
    await settled()
    try {
      if ('addCard' in d) { await post(`/briefs/${id}/edit`, { path: '/cards/-', value: { headline: '' }, base: seq }); location.search = '?card=' + (n + 1) }
      if ('dropCard' in d) { await post(`/briefs/${id}/edit`, { path: '/cards/@' + cardID, value: null, base: seq }); location.search = '?card=' + Math.max(1, card) }
    } catch (err) { notice(err.message, { bad: true }) }
  })

  // --- facts with icons ------------------------------------------------------
  const data = JSON.parse(document.querySelector('[data-start]').textContent)
  const factHost = document.querySelector('[data-facts]')
  let facts = data.facts || []
  const signs = [...data.kitIcons.map((i) => i.name), ...Object.keys(data.icons)]
  // sign draws an icon: the kit's by its address, a shipped one by its outline
  function sign(name) {
    const kit = data.kitIcons.find((i) => i.name === name)
    if (kit) return el('img', { src: kit.src, alt: '', width: 20, height: 20 })
    if (!Object.hasOwn(data.icons, name)) return el('i', {}, name ? '–' : '+')
    const svg = el('svg', { viewBox: '0 0 24 24', width: 20, height: 20, fill: 'none', stroke: 'currentColor', 'stroke-width': 2, 'stroke-linecap': 'round', 'stroke-linejoin': 'round', 'aria-hidden': 'true' })
    svg.append(...parts(`<svg>${data.icons[name]}</svg>`).firstChild.childNodes)
    return svg
  }
  function drawFacts() {
    factHost.replaceChildren(...facts.map((f, i) => {
      const field = el('input', { 'data-fact': i, 'aria-label': `Fact ${i + 1}` })
      field.value = f.text
      return el('div.fact', {},
        el('button.sign', { type: 'button', 'data-sign': i, 'aria-label': `Icon of fact ${i + 1}` }, sign(f.icon)), field,
        el('button.tiny', { type: 'button', 'data-fact-go': i, 'aria-label': `Take fact ${i + 1} away` }, '×'))
    }))
  }
  const saveFacts = (typing) => put(at('card/facts'), facts.filter((f) => f.text || f.icon), typing)
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
      const finder = el('input', { type: 'search', placeholder: 'Find an icon', 'aria-label': 'Find an icon' })
      const box = el('div.signs', {}, finder, el('div', {}, ['', ...signs].map((n) => el('button', { type: 'button', 'data-pick-sign': n, title: n || 'none' }, n ? sign(n) : '–'))))
      finder.addEventListener('input', (ev) => { for (const x of box.querySelectorAll('[data-pick-sign]')) x.hidden = !x.dataset.pickSign.includes(ev.target.value.toLowerCase()) })
      b.parentElement.append(box)
      finder.focus()
    }
    if ('pickSign' in b.dataset) { const i = b.closest('.fact').querySelector('[data-sign]').dataset.sign; facts[i].icon = b.dataset.pickSign; drawFacts(); saveFacts() }
  })
  drawFacts()

  // --- pictures --------------------------------------------------------------
  host.addEventListener('click', (e) => {
    const fig = e.target.closest('.bp')
    if (!fig) return
    const path = `${at('card/pictures')}/@${fig.dataset.id}`
    if (e.target.closest('[data-drop]')) put(path, null)
    else if (e.target.closest('[data-lead]')) box.put({ path, move: true, before: '@' + host.querySelector('.bp').dataset.id }, { base: seq })
  })
  // what matters most is a point that is clicked, dragged, or moved by the arrow keys
  const setFocus = (fig, x, y) => {
    const [u, v] = [x, y].map((n) => Math.round(Math.min(1, Math.max(0, n)) * 1000) / 1000)
    const img = fig.querySelector('img')
    const dot = fig.querySelector('circle')
    dot.setAttribute('cx', u * img.width)
    dot.setAttribute('cy', v * img.height)
    put(`${at('card/pictures')}/@${fig.dataset.id}/focus`, [u, v], true)
  }
  const onFocus = (e) => {
    const pic = e.target.closest?.('[data-focus]')
    if (!pic || !(e.buttons & 1)) return
    e.preventDefault()
    const r = pic.querySelector('img').getBoundingClientRect()
    setFocus(pic.closest('.bp'), (e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height)
  }
  host.addEventListener('pointerdown', onFocus)
  host.addEventListener('pointermove', onFocus)
  host.addEventListener('keydown', (e) => {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key]
    const pic = by && e.target.closest('[data-focus]')
    if (!pic) return
    e.preventDefault()
    const img = pic.querySelector('img')
    const dot = pic.querySelector('circle')
    setFocus(pic.closest('.bp'), dot.getAttribute('cx') / img.width + by[0] * 0.03, dot.getAttribute('cy') / img.height + by[1] * 0.03)
  })

  // --- where it goes ---------------------------------------------------------
  const where = Aspen.where({ brief: id, changed: (list) => {
    document.querySelector('[data-count]').textContent = list.length + ' places'
    if (list.length) put('/placements', list)
  } })
  document.querySelector('[data-where]').addEventListener('click', () => where.open())
  document.querySelector('[data-add-place]')?.addEventListener('click', (e) => { where.add(e.target.dataset.addPlace); e.target.closest('.swipe').remove() })

  // --- examples --------------------------------------------------------------
  const exHost = document.querySelector('[data-examples]')
  let purpose = '', exTimer
  const finder = document.querySelector('[data-find]')
  const findExamples = async () => fill(exHost, (await get(`/briefs/${id}/examples?purpose=${purpose}&q=${encodeURIComponent(finder.value)}`)).html)
  whenSeen([exHost], findExamples)
  finder.addEventListener('input', () => { clearTimeout(exTimer); exTimer = setTimeout(findExamples, 150) })
  exHost.addEventListener('click', async (e) => {
    const b = e.target.closest('button')
    if (!b) return
    if ('purpose' in b.dataset) { purpose = b.dataset.purpose; findExamples() }
    if (b.dataset.example) {
      try {
        await settled()
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
      else if (d.ownPalette) { await settled(); show(await post(`/briefs/${id}/edit${onCard}`, { path: '/palette', value: d.ownPalette.split(' ').map((hex) => ({ hex })), base: seq })); notice('Colourways on Looks and the Mat may use them now.') }
      else if ('ownNone' in d) { await settled(); show(await post(`/briefs/${id}/edit${onCard}`, { path: '/palette', value: null, base: seq })) }
      else if (d.asLogo) { show(await post(`/briefs/${id}/promote${onCard}`, { file: d.asLogo, as: 'logo' })); notice('It is a logo of the kit now.') }
      else if (d.promote) { show(await post(`/briefs/${id}/promote${onCard}`, { file: d.promote })); notice('The picture is in the kit now.') }
      else if (d.addColour) { await post(`/kits/${kit}/edit`, { action: 'keep', text: d.addColour }); notice(d.addColour + ' is in the kit now.'); show(await get(`/briefs/${id}/preview${onCard}`)) }
    } catch (err) { notice(err.message, { bad: true }) }
  })
  // several pictures at once come in one after the other, so that they keep their
  // order
  let coming = Promise.resolve()
  files((kind, f) => {
    coming = coming.then(async () => {
      if (await toKit(kit, f)) return
      await settled()
      const d = await upload(`/briefs/${id}/${kind === 'portrait' ? 'portrait' : 'pictures'}${onCard}`, f)
      if (d) show(d)
    })
  })
  // words changed in another tab wait while the hand is in them here, and come when
  // it leaves
  let held = false
  const within = (el) => !!el?.closest?.('.start-words')
  async function follow() {
    if (!box.idle()) return
    const d = await get(`/briefs/${id}/preview${onCard}`)
    if (!box.idle()) return // something was changed here meanwhile, and is heard of in turn
    held = within(document.activeElement)
    show(d, !held)
  }
  onChange(follow)
  document.addEventListener('focusout', (e) => { if (held && within(e.target) && !within(e.relatedTarget)) follow() })
  addEventListener('aspen:reverted', async () => show(await get(`/briefs/${id}/preview${onCard}`), true))

  // a brief made again begins with its headline
  if (location.hash === '#f-headline') { const f = document.querySelector('#f-headline'); f.focus(); f.select() }

  // what an earlier page could not save is in the fields and on its way
  for (const { path, value } of box.recover()) {
    const field = [...document.querySelectorAll('[data-path]')].find((f) => at(f.dataset.path) === path)
    if (field && typeof value === 'string') field.value = value
  }
})()
