// One piece of a set that is judged: large, with the spots people mean, what they say of it,
// how it was before, and the two verdicts.
;(() => {
  if (!Aspen.proof) return
  const { el } = Aspen
  const { state, tell, heard, earlier, name } = Aspen.proof
  const find = (name) => document.querySelector(`[data-${name}]`)
  const sheet = find('one')
  const paper = find('paper')
  const field = find('say-words')
  const team = state().team // whom an @ reaches, as the page came
  const behind = document.querySelectorAll('body > :is(main, header, footer)')
  let key = '' // the piece that is seen
  let spot = null // what a new comment is about, 0-1 of the piece: its middle, and of an area its width and height
  const piece = () => state().pieces.find((p) => p.key === key)
  const day = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })
  const when = (at) => day.format(new Date(at))
  const draft = () => `proof-draft ${state().base} ${key}`
  const insteadDraft = () => `proof-instead ${state().base} ${key}`
  const other = find('say-suggests')

  // --- which piece, as the address says ---------------------------------------------
  function go() {
    const next = decodeURIComponent(location.hash.slice(1))
    if (!state().pieces.some((p) => p.key === next)) {
      if (sheet.open) sheet.close()
      for (const n of behind) n.inert = false
      document.querySelector(`[data-piece="${CSS.escape(key)}"] a`)?.focus()
      key = ''
      return
    }
    if (next !== key) {
      key = next
      field.value = localStorage.getItem(draft()) ?? ''
      const instead = JSON.parse(localStorage.getItem(insteadDraft()) ?? 'null')
      spot = instead?.spot ?? null
      other.value = instead?.text ?? ''
      find('say-instead').hidden = !instead
      paper.replaceChildren()
    }
    draw()
    if (sheet.open) return
    sheet.show()
    for (const n of behind) n.inert = true
    find('one-close').focus()
  }
  function step(by) {
    const all = state().pieces
    const i = all.findIndex((p) => p.key === key)
    location.hash = all[(i + by + all.length) % all.length].key
  }
  const away = () => {
    history.replaceState(null, '', location.pathname)
    go()
  }

  // --- what is seen -----------------------------------------------------------------
  const place = (pin, [x, y]) => Object.assign(pin.style, { left: `${x * 100}%`, top: `${y * 100}%` })
  function draw() {
    const p = piece()
    if (!p) return
    const all = state().pieces
    find('one-name').textContent = p.name
    find('one-change').hidden = !state().brief
    find('one-change').href = `${state().brief}/mat?close=${encodeURIComponent(p.key)}`
    find('one-size').textContent = `${p.w} × ${p.h}`
    find('one-at').textContent = `${all.indexOf(p) + 1} of ${all.length}`
    let img = paper.querySelector('img.now')
    if (!img) {
      img = el('img.now', { alt: p.alt, width: p.w, height: p.h, draggable: 'false' })
      paper.replaceChildren(img)
    }
    if (img.getAttribute('src') !== p.large) img.src = p.large
    paper.style.setProperty('--ratio', p.w / p.h)
    paper.querySelector('img.then')?.remove()
    find('then').hidden = !p.then
    if (!p.then) sheet.classList.remove('pair')
    if (p.then) {
      paper.append(el('img.then', { src: p.then, alt: 'as it was', draggable: 'false' }))
      slide()
    }
    drawVotes(p)
    drawThreads()
    const may = state().maySay
    find('verdicts').hidden = !may
    find('say').hidden = !may
    for (const b of document.querySelectorAll('[data-verdict-is]'))
      b.setAttribute('aria-pressed', p.state === b.dataset.verdictIs ? 'true' : 'false')
    drawSpot()
  }
  function slide() {
    const then = paper.querySelector('img.then')
    if (then) then.style.clipPath = `inset(0 0 0 ${find('then').querySelector('input').value}%)`
  }
  find('then').addEventListener('input', slide)
  find('pair').addEventListener('click', () => {
    const on = sheet.classList.toggle('pair')
    find('pair').setAttribute('aria-pressed', on ? 'true' : 'false')
  })

  function drawVotes(p) {
    find('votes').replaceChildren(
      ...p.by.map((v) =>
        el(
          'li',
          { 'data-verdict': v.now ? v.verdict : 'changed' },
          el('b', { dir: 'auto' }, v.name),
          ` ${v.verdict === 'approved' ? 'approved it' : 'asks for changes'}, ${when(v.at)}`,
          !v.now && el('small', {}, 'before it was changed'),
        ),
      ),
      ...(p.unsigned ? [el('li.why', {}, el('b', {}, 'Not signed off: '), p.unsigned)] : []),
      ...(p.why.length ? [el('li.why', {}, el('b', {}, 'Changed since: '), p.why.join('; '))] : []),
    )
  }
  // areaOf is the frame around what a comment is about, where that is more than a spot
  const areaOf = ([x, y, w, h]) =>
    w > 0 &&
    Object.assign(el('span.area', { 'aria-hidden': 'true' }), {
      style: `left:${(x - w / 2) * 100}%;top:${(y - h / 2) * 100}%;width:${w * 100}%;height:${h * 100}%`,
    })
  function drawThreads() {
    const list = state().threads.filter((t) => t.piece === key)
    paper.querySelectorAll('.pin:not(.new)').forEach((n) => n.remove())
    let n = 0
    find('earlier').hidden = !state().earlier
    const typing = document.activeElement?.closest('.answer') && document.activeElement
    find('threads').replaceChildren(
      ...list.map((t) => {
        n++
        const pinned = t.spot && !t.resolved
        if (pinned) {
          const pin = el('button.pin', { 'data-pin': t.id, title: t.words, 'aria-label': `Comment ${n}` }, String(n))
          const area = areaOf(t.spot)
          if (area) pin.addEventListener('mouseenter', () => paper.append(area))
          if (area) pin.addEventListener('mouseleave', () => area.remove())
          place(pin, t.spot)
          paper.append(pin)
        }
        return threadOf(t, n)
      }),
    )
    typing?.focus({ preventScroll: true })
  }
  // a page deletes what was said under its own name, and an owner anybody's
  const mayDelete = (s) => s.under && (!state().guest || s.under.toLowerCase() === name().toLowerCase())
  const said = (s) => [
    el(
      'p.said-by',
      {},
      el('b', { dir: 'auto' }, s.name),
      el('small.soft', {}, when(s.at)),
      mayDelete(s) && el('button.tiny.soft', { 'data-unsay': s.id, title: 'Delete this comment' }, 'delete'),
    ),
    el('p.said', { dir: 'auto' }, s.words),
  ]
  function threadOf(t, n) {
    const about = t.gone
      ? `what it was about (${t.part}) is gone`
      : t.part && t.spot && t.part !== 'piece'
        ? t.word
          ? `about “${t.word}” in the ${t.part}`
          : `about the ${t.part}`
        : ''
    return el(
      'li.thread' + (t.resolved ? '.over' : ''),
      { 'data-thread': t.id },
      el('span.thread-n', {}, String(n)),
      el('div', {}, [
        ...said(t),
        t.suggests && el('p.suggests', { dir: 'auto' }, t.suggests),
        t.taken && el('small.soft', {}, 'taken'),
        about && el('small.soft', {}, about),
        ...t.replies.map((r) => el('div.reply', {}, said(r))),
        t.resolved && el('small.soft', { dir: 'auto' }, `done, says ${t.resolved}`),
        state().maySay &&
          el('p.thread-acts', {}, [
            t.suggests &&
              !t.taken &&
              state().mayTake &&
              el('button.tiny', { 'data-take': t.id, title: 'These words instead, in the whole set' }, 'take it'),
            el('button.tiny.soft', { 'data-reply': t.id }, 'answer'),
            el(
              'button.tiny.soft',
              { 'data-settle': t.id, ...(t.resolved ? { 'data-again': '' } : {}) },
              t.resolved ? 'open again' : 'done',
            ),
          ]),
        state().maySay && answerTo(t.id),
      ]),
    )
  }
  find('threads').addEventListener('click', (e) => {
    const take = e.target.closest('[data-take]')
    if (take) tell('take', { thread: take.dataset.take, client: Aspen.client })
    const gone = e.target.closest('[data-unsay]')
    if (gone) tell('unsay', { comment: gone.dataset.unsay })
    const b = e.target.closest('[data-reply]')
    if (!b) return
    const form = answerTo(b.dataset.reply, true)
    if (!form.isConnected) b.parentElement.after(form)
    form.querySelector('textarea').focus()
  })
  // answerTo is the form in which a comment is answered; what is written in it stays when the
  // list is drawn anew and when the page is left, null where none is written
  const answers = new Map()
  const answerDraft = (thread) => `proof-answer ${state().base} ${thread}`
  function answerTo(thread, begin) {
    const written = localStorage.getItem(answerDraft(thread))
    if (answers.has(thread) || (!begin && !written)) return answers.get(thread) ?? null
    const answer = el('textarea', { rows: 2, maxlength: 2000, 'aria-label': 'Your answer' })
    answer.value = written ?? ''
    answer.addEventListener('input', () => localStorage.setItem(answerDraft(thread), answer.value))
    const form = el('form.answer', {}, answer, el('button.tiny', {}, 'Answer'))
    form.addEventListener('submit', async (e) => {
      e.preventDefault()
      const words = answer.value
      if (!words.trim() || !(await tell('say', { id: crypto.randomUUID(), piece: key, about: thread, words }))) return
      answers.delete(thread)
      localStorage.removeItem(answerDraft(thread))
      drawThreads()
    })
    answers.set(thread, form)
    Aspen.hearers?.(answer, team)
    return form
  }

  // --- what is said -----------------------------------------------------------------
  // wordsAt are those under the spot, which could be others
  const wordsAt = () =>
    spot &&
    piece().words.find(({ box: [x, y, w, h] }) => {
      const near = 0.02
      return spot[0] > x - near && spot[0] < x + w + near && spot[1] > y - near && spot[1] < y + h + near
    })
  find('say-other').addEventListener('click', () => {
    find('say-instead').hidden = false
    other.value = wordsAt().text
    other.focus()
    other.select()
    drawSpot()
  })
  function drawSpot() {
    find('say-other').hidden = !wordsAt() || !find('say-instead').hidden
    if (!wordsAt()) find('say-instead').hidden = true
    for (const n of paper.querySelectorAll('.pin.new, .area')) n.remove()
    find('say-whole').hidden = !spot
    const under = wordsAt()
    find('say-about').textContent = spot ? `about this ${spot[2] ? 'area' : 'spot'}${under ? `, “${under.text}”` : ''}` : ''
    if (!spot) return
    const area = areaOf(spot)
    if (area) paper.append(area)
    const pin = el('span.pin.new', { 'aria-hidden': 'true' }, '+')
    place(pin, spot)
    paper.append(pin)
  }
  // a drag of the mouse marks an area
  let from = null
  const on = (e) => {
    const r = paper.getBoundingClientRect()
    const in1 = (v) => Math.min(1, Math.max(0, v))
    return [in1((e.clientX - r.left) / r.width), in1((e.clientY - r.top) / r.height)]
  }
  paper.addEventListener('pointerdown', (e) => {
    if (e.pointerType === 'mouse' && e.button === 0 && state().maySay && !e.target.closest('[data-pin]')) from = on(e)
  })
  addEventListener('pointermove', (e) => {
    if (!from || !(e.buttons & 1)) return
    const to = on(e)
    const [w, h] = [Math.abs(to[0] - from[0]), Math.abs(to[1] - from[1])]
    if (Math.max(w, h) < 0.015) return
    spot = [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2, w, h]
    drawSpot()
  })
  // by keys: arrows set the spot, with Shift they make an area of it, Enter goes to the words
  const keyStep = 0.02
  paper.addEventListener('keydown', (e) => {
    if (e.target !== paper || !state().maySay || e.ctrlKey || e.metaKey || e.altKey) return
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key]
    if (e.key === 'Enter' && spot) field.focus()
    else if (by) {
      const [x, y, w = 0, h = 0] = spot ?? [0.5, 0.5]
      const within = (v, size) => Math.min(1 - size / 2, Math.max(size / 2, v))
      const grown = (v, d) => Math.min(1, Math.max(0, v + d * keyStep))
      if (e.shiftKey) {
        const size = [grown(w || keyStep, by[0]), grown(h || keyStep, by[1])]
        spot = [within(x, size[0]), within(y, size[1]), ...size]
      } else if (spot) spot = [within(x + by[0] * keyStep, w), within(y + by[1] * keyStep, h), w, h]
      else spot = [x, y]
      drawSpot()
    } else return
    e.preventDefault()
    e.stopPropagation()
  })
  paper.addEventListener('click', (e) => {
    const dragged = from && spot?.[2] > 0 && Math.hypot(on(e)[0] - from[0], on(e)[1] - from[1]) >= 0.015
    from = null
    if (dragged) {
      field.focus()
      return
    }
    const pin = e.target.closest('[data-pin]')
    if (pin) {
      const li = document.querySelector(`[data-thread="${pin.dataset.pin}"]`)
      li.scrollIntoView({ block: 'nearest' })
      li.classList.add('lit')
      li.addEventListener('animationend', () => li.classList.remove('lit'), { once: true })
      return
    }
    if (!state().maySay) return
    spot = on(e)
    drawSpot()
    field.focus()
  })
  find('say-whole').addEventListener('click', () => {
    spot = null
    drawSpot()
    field.focus()
  })
  Aspen.hearers?.(field, team)
  field.addEventListener('input', () => localStorage.setItem(draft(), field.value))
  other.addEventListener('input', () =>
    localStorage.setItem(insteadDraft(), JSON.stringify({ spot, text: other.value })),
  )
  field.addEventListener('keydown', (e) => {
    if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) find('say').requestSubmit()
  })
  find('say').addEventListener('submit', async (e) => {
    e.preventDefault()
    const suggests = find('say-instead').hidden || other.value.trim() === wordsAt()?.text ? '' : other.value
    if (!field.value.trim() && !suggests.trim()) {
      field.focus()
      return
    }
    if (await tell('say', { id: crypto.randomUUID(), piece: key, spot, words: field.value, suggests })) {
      localStorage.removeItem(draft())
      localStorage.removeItem(insteadDraft())
      field.value = ''
      find('say-instead').hidden = true
      spot = null
      draw()
    }
  })
  find('verdicts').addEventListener('click', async (e) => {
    const b = e.target.closest('[data-verdict-is]')
    if (!b) return
    const verdict = b.dataset.verdictIs
    if (!(await tell('decide', { verdict, seen: { [key]: piece().hash } }))) return
    if (verdict === 'changes') field.focus() // to say which
  })

  // --- ways about -------------------------------------------------------------------
  find('one-close').addEventListener('click', away)
  find('earlier').addEventListener('click', earlier)
  for (const b of document.querySelectorAll('[data-one-step]'))
    b.addEventListener('click', () => step(Number(b.dataset.oneStep)))
  addEventListener('keydown', (e) => {
    if (!key || document.querySelector('dialog:modal')) return
    if (e.key === 'Escape') away()
    if (e.target.matches('input, textarea') || e.ctrlKey || e.metaKey || e.altKey) return
    const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key]
    if (by) step(by)
  })
  // a finger that goes sideways over the piece goes to the next one; one that stays a moment
  // first marks an area
  let down = null
  let held = 0 // the timer of a finger that stays
  let marking = null // where it began to mark
  const holdTime = 350 // ms
  paper.addEventListener(
    'touchstart',
    (e) => {
      clearTimeout(held)
      down = e.touches.length === 1 ? e.touches[0] : null
      marking = null
      const at = down && on(down)
      if (at && state().maySay && !e.target.closest('[data-pin]'))
        held = setTimeout(() => {
          marking = at
          spot = [...at]
          drawSpot()
          navigator.vibrate?.(10)
        }, holdTime)
    },
    { passive: true },
  )
  paper.addEventListener('touchmove', (e) => {
    const to = e.touches[0]
    if (!marking) {
      if (down && Math.hypot(to.clientX - down.clientX, to.clientY - down.clientY) > 10) clearTimeout(held)
      return
    }
    e.preventDefault() // the page stays where it is
    const [x, y] = on(to)
    const [w, h] = [Math.abs(x - marking[0]), Math.abs(y - marking[1])]
    spot = Math.max(w, h) < 0.015 ? [...marking] : [(x + marking[0]) / 2, (y + marking[1]) / 2, w, h]
    drawSpot()
  })
  paper.addEventListener('contextmenu', (e) => marking && e.preventDefault())
  paper.addEventListener(
    'touchend',
    (e) => {
      clearTimeout(held)
      const up = e.changedTouches[0]
      if (marking) {
        e.preventDefault() // no click, which would make a spot of it
        marking = down = null
        field.focus()
        return
      }
      if (down && Math.abs(up.clientX - down.clientX) > 60 && Math.abs(up.clientY - down.clientY) < 40)
        step(up.clientX < down.clientX ? 1 : -1)
      down = null
    },
  )
  addEventListener('hashchange', go)
  heard.push(() => key && draw())
  go()
})()
