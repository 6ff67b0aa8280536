// Start: words save while they are typed and the pieces beside them follow.
;(() => {
  const { post, get, outbox, settled, upload, notice, swap, fill, parts, el, onChange, files, toKit, whenSeen, swatch } = Aspen
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
    if (plain(told) !== plain(facts)) {
      // an open choice of icons stays where nothing changed
      facts = told
      drawFacts()
    }
    openSaid()
  }
  // sections that say something stand open
  function openSaid() {
    for (const el of document.querySelectorAll('.say'))
      if ([...el.querySelectorAll('[data-path]')].some((f) => f.value)) el.open = true
  }

  const box = outbox('start-' + id, () => `/briefs/${id}/edit${onCard}`, {
    done: (d, item) => {
      if (item.body.path) acked.set(item.body.path, d.seq)
      if (!box.waiting(item.tag)) show(d)
    },
    refused: (e, { body }) => {
      if (e.status === 409) {
        notice('This was changed in another tab; it now says “' + said(e.data.theirs) + '”.', {
          bad: true,
          label: 'Keep mine',
          stays: true,
          action: () => {
            acked.set(body.path, e.data.seq)
            const f = [...document.querySelectorAll('[data-path]')].find((x) => at(x.dataset.path) === body.path)
            put(body.path, f && !f.dataset.as ? f.value : body.value)
          },
        })
      } else notice(e.message, { bad: true })
    },
  })
  const said = (v) => (v == null ? '' : typeof v === 'string' ? v : JSON.stringify(v))
  const put = (path, value, typing) => box.put({ path, value, typing }, { tag: path, base: acked.get(path) ?? filled })

  // how a field's text becomes a value; what is empty is left to the kit or out
  const as = {
    kit: (v) => v || null,
    number: (v) => (v === '' ? null : Number(v)),
    words: (v) =>
      v
        .split(',')
        .map((w) => w.trim())
        .filter(Boolean),
    lines: (v) =>
      v
        .split('\n')
        .map((w) => w.trim())
        .filter(Boolean),
  }
  document.addEventListener('input', (e) => {
    const d = e.target.dataset
    if (!d.path || e.target.tagName === 'SELECT') return
    const value = as[d.as]
      ? as[d.as](e.target.value)
      : /\/(when|offer|quote|person)\//.test(d.path) && !e.target.value
        ? null
        : e.target.value
    put(at(d.path), value, true)
  })
  document.addEventListener('change', (e) => {
    const d = e.target.dataset
    if (e.target.name === 'signature') put('/signature', e.target.value)
    else if (e.target.name === 'logo') put('/logo', e.target.value || null)
    else if (d.path && e.target.tagName === 'SELECT') put(at(d.path), e.target.value || null)
    else if ('alt' in d)
      put(`${at('card/pictures')}/@${e.target.closest('.bp').dataset.id}/alt`, e.target.value || null)
  })

  // --- cards of a post one swipes through --------------------------------------
  document.querySelector('.cards').addEventListener('click', async (e) => {
    const d = e.target.dataset
    const n = document.querySelectorAll('.cards a').length
    if (!('addCard' in d) && !('dropCard' in d)) return
    await settled()
    try {
      if ('addCard' in d) {
        await post(`/briefs/${id}/edit`, { path: '/cards/-', value: { headline: '' }, base: seq })
        location.search = '?card=' + (n + 1)
      }
      if ('dropCard' in d) {
        await post(`/briefs/${id}/edit`, { path: '/cards/@' + cardID, value: null, base: seq })
        location.search = '?card=' + Math.max(1, card)
      }
    } catch (err) {
      notice(err.message, { bad: true })
    }
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
    const svg = el('svg', {
      viewBox: '0 0 24 24',
      width: 20,
      height: 20,
      fill: 'none',
      stroke: 'currentColor',
      'stroke-width': 2,
      'stroke-linecap': 'round',
      'stroke-linejoin': 'round',
      'aria-hidden': 'true',
    })
    svg.append(...parts(`<svg>${data.icons[name]}</svg>`).firstChild.childNodes)
    return svg
  }
  function drawFacts() {
    factHost.replaceChildren(
      ...facts.map((f, i) => {
        const field = el('input', { 'data-fact': i, 'aria-label': `Fact ${i + 1}` })
        field.value = f.text
        return el(
          'div.fact',
          {},
          el('button.sign', { type: 'button', 'data-sign': i, 'aria-label': `Icon of fact ${i + 1}` }, sign(f.icon)),
          field,
          el('button.tiny', { type: 'button', 'data-fact-go': i, 'aria-label': `Take fact ${i + 1} away` }, '×'),
        )
      }),
    )
  }
  const saveFacts = (typing) =>
    put(
      at('card/facts'),
      facts.filter((f) => f.text || f.icon),
      typing,
    )
  document.querySelector('[data-add-fact]').addEventListener('click', () => {
    facts.push({ icon: '', text: '' })
    drawFacts()
    factHost.lastChild.querySelector('input').focus()
  })
  // a fact without an icon gets the one its words propose, unless none was chosen
  const decided = new WeakSet()
  let soon
  async function propose(fact) {
    const { icon } = await get(`/icons?for=${encodeURIComponent(fact.text)}`)
    const i = facts.indexOf(fact)
    if (!icon || i < 0 || fact.icon || decided.has(fact)) return
    fact.icon = icon
    factHost.children[i].querySelector('[data-sign]').replaceChildren(sign(icon)) // the field keeps the hand
    saveFacts(true)
  }
  factHost.addEventListener('input', (e) => {
    if (!e.target.dataset.fact) return
    const fact = facts[e.target.dataset.fact]
    fact.text = e.target.value
    saveFacts(true)
    clearTimeout(soon)
    if (!fact.icon && fact.text.trim()) soon = setTimeout(() => propose(fact), 300)
  })
  factHost.addEventListener('click', (e) => {
    const b = e.target.closest('button')
    if (!b) return
    if (b.dataset.factGo) {
      facts.splice(b.dataset.factGo, 1)
      drawFacts()
      saveFacts()
    }
    if (b.dataset.sign) {
      const open = b.parentElement.querySelector('.signs')
      factHost.querySelector('.signs')?.remove()
      if (open) return
      const finder = el('input', { type: 'search', placeholder: 'Find an icon', 'aria-label': 'Find an icon' })
      const box = el(
        'div.signs',
        {},
        finder,
        el(
          'div',
          {},
          ['', ...signs].map((n) =>
            el('button', { type: 'button', 'data-pick-sign': n, title: n || 'none' }, n ? sign(n) : '–'),
          ),
        ),
      )
      finder.addEventListener('input', (ev) => {
        for (const x of box.querySelectorAll('[data-pick-sign]'))
          x.hidden = !x.dataset.pickSign.includes(ev.target.value.toLowerCase())
      })
      b.parentElement.append(box)
      finder.focus()
    }
    if ('pickSign' in b.dataset) {
      const i = b.closest('.fact').querySelector('[data-sign]').dataset.sign
      facts[i].icon = b.dataset.pickSign
      decided.add(facts[i])
      drawFacts()
      saveFacts()
    }
  })
  drawFacts()

  host.addEventListener('change', async (e) => {
    if (!('onlyOwn' in e.target.dataset)) return
    try {
      await settled()
      show(await post(`/briefs/${id}/edit${onCard}`, { path: '/onlyPalette', value: e.target.checked, base: seq }))
    } catch (err) {
      notice(err.message, { bad: true })
    }
  })

  // --- pictures --------------------------------------------------------------
  host.addEventListener('click', (e) => {
    const fig = e.target.closest('.bp')
    if (!fig) return
    const path = `${at('card/pictures')}/@${fig.dataset.id}`
    if (e.target.closest('[data-drop]')) put(path, null)
    else if (e.target.closest('[data-lead]'))
      box.put({ path, move: true, before: '@' + host.querySelector('.bp').dataset.id }, { base: seq })
  })
  // what matters most is a point that is clicked or dragged, or a part that is drawn and
  // kept whole; the arrow keys move either, with Shift they size the part
  const three = (n) => Math.round(n * 1000) / 1000
  const held01 = (n, most = 1) => three(Math.min(most, Math.max(0, n)))
  const focusOf = (pic) => {
    const img = pic.querySelector('img')
    const part = (name, el) => Number(el.getAttribute(name))
    const dot = pic.querySelector('circle')
    const rect = pic.querySelector('.said')
    return {
      path: `${at('card/pictures')}/@${pic.closest('.bp').dataset.id}`,
      w: img.width,
      h: img.height,
      dot,
      rect,
      point: [part('cx', dot) / img.width, part('cy', dot) / img.height],
      part: rect && [
        part('x', rect) / img.width,
        part('y', rect) / img.height,
        part('width', rect) / img.width,
        part('height', rect) / img.height,
      ],
    }
  }
  const drawPoint = (f, x, y) => {
    f.dot.setAttribute('cx', x * f.w)
    f.dot.setAttribute('cy', y * f.h)
    for (const r of f.dot.parentElement.querySelectorAll('.found')) r.remove()
  }
  function setPoint(pic, x, y) {
    const f = focusOf(pic)
    const to = [held01(x), held01(y)]
    drawPoint(f, ...to)
    if (f.rect) {
      f.rect.remove()
      put(f.path + '/focusBox', null)
    }
    put(f.path + '/focus', to, true)
  }
  function setPart(pic, x, y, w, h) {
    const f = focusOf(pic)
    ;[w, h] = [Math.min(1, Math.max(leastPart, w)), Math.min(1, Math.max(leastPart, h))].map(three)
    const to = [held01(x, 1 - w), held01(y, 1 - h), w, h]
    if (!f.rect) {
      f.rect = el('rect.said')
      f.dot.before(f.rect)
    }
    Object.entries({ x: to[0] * f.w, y: to[1] * f.h, width: w * f.w, height: h * f.h }).forEach(([k, v]) =>
      f.rect.setAttribute(k, v),
    )
    drawPoint(f, to[0] + w / 2, to[1] + h / 2)
    put(f.path + '/focusBox', to, true)
  }
  const leastPart = 0.05
  let drawing = null
  host.addEventListener('pointerdown', (e) => {
    const pic = e.target.closest?.('[data-focus]')
    if (!pic || e.button) return
    e.preventDefault()
    pic.focus()
    const r = pic.querySelector('img').getBoundingClientRect()
    const f = focusOf(pic)
    const from = [(e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height]
    drawing = {
      id: pic.id,
      r,
      from,
      far: false,
      dot: !f.rect && Math.hypot((from[0] - f.point[0]) * r.width, (from[1] - f.point[1]) * r.height) < 9,
    }
  })
  addEventListener('pointermove', (e) => {
    if (!drawing) return
    const { id, r, from, dot } = drawing
    const pic = document.getElementById(id) // drawn anew when what was drawn is saved
    if (!pic) return
    const [x, y] = [(e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height].map((n) =>
      Math.min(1, Math.max(0, n)),
    )
    drawing.far ||= Math.hypot((x - from[0]) * r.width, (y - from[1]) * r.height) > 6
    if (!drawing.far) return
    if (dot) setPoint(pic, x, y)
    else setPart(pic, Math.min(x, from[0]), Math.min(y, from[1]), Math.abs(x - from[0]), Math.abs(y - from[1]))
  })
  addEventListener('pointerup', () => {
    const pic = drawing && document.getElementById(drawing.id)
    if (pic && !drawing.far) setPoint(pic, ...drawing.from)
    drawing = null
  })
  addEventListener('pointercancel', () => {
    drawing = null
  })
  host.addEventListener('keydown', (e) => {
    const pic = e.target.closest('[data-focus]')
    const by = { ArrowLeft: [-0.03, 0], ArrowRight: [0.03, 0], ArrowUp: [0, -0.03], ArrowDown: [0, 0.03] }[e.key]
    if (!pic || (!by && e.key !== 'Delete')) return
    e.preventDefault()
    const {
      path,
      point: [px, py],
      part,
    } = focusOf(pic)
    if (!by) {
      if (part) put(path + '/focusBox', null)
      put(path + '/focus', null)
    } else if (e.shiftKey) {
      const [x, y, w, h] = part || [px - 0.15, py - 0.15, 0.3, 0.3]
      setPart(pic, x, y, w + by[0], h + by[1])
    } else if (part) setPart(pic, part[0] + by[0], part[1] + by[1], part[2], part[3])
    else setPoint(pic, px + by[0], py + by[1])
  })

  // --- where it goes ---------------------------------------------------------
  const purposeField = document.querySelector('#f-purpose')
  const where = Aspen.where({
    address: (q) => `/briefs/${id}/places?q=${encodeURIComponent(q)}&purpose=${purposeField.value}`,
    changed: (list) => {
      document.querySelector('[data-count]').textContent = `${list.length} place${list.length === 1 ? '' : 's'}`
      if (list.length) put('/placements', list)
    },
  })
  // a brief for a purpose goes where the last one for it went, if one likes
  purposeField.addEventListener('change', async (e) => {
    const list = await where.usual()
    if (!list.length) return
    const n = list.length === 1 ? 'one place' : `${list.length} places`
    notice(`The last brief that was for ${e.target.value} went to ${n}.`, {
      stays: true,
      label: 'Go there instead',
      action: () => where.choose(list),
    })
  })
  document.querySelector('[data-where]').addEventListener('click', () => where.open())
  document.querySelector('[data-add-place]')?.addEventListener('click', (e) => {
    where.add(e.target.dataset.addPlace)
    e.target.closest('.swipe').remove()
  })

  // --- examples --------------------------------------------------------------
  const exHost = document.querySelector('[data-examples]')
  let purpose = '',
    exTimer
  const finder = document.querySelector('[data-find]')
  const findExamples = async () =>
    fill(exHost, (await get(`/briefs/${id}/examples?purpose=${purpose}&q=${encodeURIComponent(finder.value)}`)).html)
  whenSeen([exHost], findExamples)
  finder.addEventListener('input', () => {
    clearTimeout(exTimer)
    exTimer = setTimeout(findExamples, 150)
  })
  exHost.addEventListener('click', async (e) => {
    const b = e.target.closest('button')
    if (!b) return
    if ('purpose' in b.dataset) {
      purpose = b.dataset.purpose
      findExamples()
    }
    if (b.dataset.example) {
      try {
        await settled()
        show(await post(`/briefs/${id}/example${onCard}`, { example: b.dataset.example }), true)
        scrollTo(0, 0)
        document.querySelector('.start-pieces').scrollTo({ top: 0 })
        notice('The example is filled in with its own words; make them yours.')
      } catch (err) {
        notice(err.message, { bad: true })
      }
    }
  })

  // the colours of a picture that is no part of the brief
  async function coloursFrom(from) {
    const found = host.querySelector('[data-colours-found]')
    found.replaceChildren('looking …')
    try {
      const list = (await from())?.colours
      if (!list) return found.replaceChildren()
      found.replaceChildren(
        el(
          'span.strip.pick',
          {},
          list.map((hex) => {
            const title = `Add ${hex} to the kit`
            return el('button', { 'data-add-colour': hex, title, 'aria-label': title }, swatch(hex))
          }),
        ),
        el(
          'button.tiny',
          { 'data-own-palette': list.join(' '), title: 'Colourways may use them, in this brief only' },
          'use them in this brief',
        ),
      )
    } catch (err) {
      found.replaceChildren()
      notice(err.message, { bad: true })
    }
  }
  host.addEventListener('click', (e) => {
    const hash = e.target.closest('[data-colours-of]')?.dataset.coloursOf
    if (hash) coloursFrom(() => get(`/pictures/${hash}/colours`))
  })
  host.addEventListener('change', (e) => {
    const [file] = ('coloursFile' in e.target.dataset && e.target.files) || []
    if (file) coloursFrom(() => upload('/pictures/colours', file))
  })

  // between this brief and its kit: a picture, a colour
  const kit = document.body.dataset.kit
  host.addEventListener('click', async (e) => {
    const b = e.target.closest('button')
    if (!b) return
    const d = b.dataset
    try {
      if (d.usePicture) show(await post(`/briefs/${id}/picture${onCard}`, { file: d.usePicture, alt: d.alt }))
      else if (d.ownPalette) {
        await settled()
        show(
          await post(`/briefs/${id}/edit${onCard}`, {
            path: '/palette',
            value: d.ownPalette.split(' ').map((hex) => ({ hex })),
            base: seq,
          }),
        )
        notice('Colourways on Looks and the Mat may use them now.')
      } else if ('ownNone' in d) {
        await settled()
        show(await post(`/briefs/${id}/edit${onCard}`, { path: '/onlyPalette', value: null, base: seq }))
        show(await post(`/briefs/${id}/edit${onCard}`, { path: '/palette', value: null, base: seq }))
      } else if (d.asLogo) {
        show(await post(`/briefs/${id}/promote${onCard}`, { file: d.asLogo, as: 'logo' }))
        notice('It is a logo of the kit now.')
      } else if (d.promote) {
        show(await post(`/briefs/${id}/promote${onCard}`, { file: d.promote }))
        notice('The picture is in the kit now.')
      } else if (d.addColour) {
        await post(`/kits/${kit}/edit`, { action: 'keep', text: d.addColour })
        notice(d.addColour + ' is in the kit now.')
        show(await get(`/briefs/${id}/preview${onCard}`))
      }
    } catch (err) {
      notice(err.message, { bad: true })
    }
  })
  // several pictures at once come in one after the other, so that they keep their
  // order
  let coming = Promise.resolve()
  files((kind, f) => {
    coming = coming.then(async () => {
      if (await toKit(kit, f)) return
      await settled()
      if (kind !== 'portrait' && (await Aspen.isFilm(f))) {
        await Aspen.bringClip(id, cardID, f)
        return
      }
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
  document.addEventListener('focusout', (e) => {
    if (held && within(e.target) && !within(e.relatedTarget)) follow()
  })
  addEventListener('aspen:reverted', async () => show(await get(`/briefs/${id}/preview${onCard}`), true))

  // a brief made again begins with its headline
  if (location.hash === '#f-headline') {
    const f = document.querySelector('#f-headline')
    f.focus()
    f.select()
  }

  // what an earlier page could not save is in the fields and on its way
  for (const { path, value } of box.recover()) {
    const field = [...document.querySelectorAll('[data-path]')].find((f) => at(f.dataset.path) === path)
    if (field && typeof value === 'string') field.value = value
  }
})()
