// The video of a brief: its running order beside the film, which is shown as it will be
// made. Every change goes out as the whole order; the answer is the film anew.
;(() => {
  const { el, notice, outbox } = Aspen
  const id = document.body.dataset.brief
  const find = (name) => document.querySelector(`[data-${name}]`)
  const [screen, list, track] = [find('screen'), find('shots'), find('track')]
  let state = JSON.parse(find('state').textContent)
  let place = state.place // the shape that is asked for
  // the piece that moves and is watched instead of the video
  let moving = { moving: state.movingPlacement ?? '', seconds: 6 }
  const film = () => state.moves ?? state.film // what is watched
  let shown = null // the film on the screen
  let now = 0 // s
  let playing = 0 // the frame that is asked for, 0 while it stands
  const named = { hook: 'Hook', point: 'Point', proof: 'Proof', offer: 'Offer', call: 'What to do' }
  const roleOf = (r) => named[r] ?? r[0].toUpperCase() + r.slice(1)
  const sec = (v) => (Math.round(v * 10) / 10).toFixed(1)

  const box = outbox('video-' + id, () => `/briefs/${id}/video/sync`, {
    add: () => ({ place, ...moving }),
    done: (d, item) => {
      if (d.seq < state.seq) return
      apply(d)
      if (d.nothing) window.dispatchEvent(new CustomEvent('aspen:nothing', { detail: item.body.revert }))
    },
    refused: (e, { body }) => {
      if (e.status !== 409) notice(e.message, { bad: true })
      else if (body.video) clash(e.data, body)
      else notice('This was changed in another tab meanwhile. Make your change again if you still want it.', { bad: true })
      box.put({}, { reads: true }) // what was refused is not what stands
    },
  })
  // clash tells of something that was changed here and elsewhere: it stands as it is there,
  // until somebody wants it as it was here
  function clash({ theirs, seq }, { video, was, typing }) {
    const there = typeof theirs === 'string' && theirs ? ` There it is “${theirs.slice(0, 80)}”, and stands so now.` : ''
    notice(`The video was changed in another tab at the same place.${there}`, {
      stays: true,
      bad: true,
      label: 'Have it as it was here',
      action: () => box.put({ video, was, typing }, { base: seq }),
    })
  }
  addEventListener('aspen:revert', (e) => {
    e.preventDefault()
    box.put({ revert: e.detail.redo ? 'redo' : 'undo' })
  })
  Aspen.onChange(() => {
    if (box.idle()) box.put({}, { reads: true })
  })

  // --- what is kept -----------------------------------------------------------------
  const plain = ({ reads, says, said, clip, loud, frame, heard, ...s }) =>
    s.card ? { ...s, headline: undefined, body: undefined, picture: undefined } : s // of a card are its words
  const shots = () => state.shots.map(plain)
  const inUse = () => (state.own ? shots() : [])
  // what the brief's video is, with what was sent and has no answer yet: the next change
  // starts from it
  let had = state.video ?? { shots: [] }
  const kitTakes = { noOpening: 'opening', noClosing: 'closing', noMark: 'mark', noBeat: 'beat' }
  const newID = () => 's' + crypto.randomUUID().slice(0, 8)
  const cues = () => (state.ownCues ? state.cues : [])
  function send(next = shots(), typing = false, own = cues()) {
    const [music, voice, captions] = ['music', 'voice', 'captions'].map((name) => find(name).value)
    const video = { shots: next, music, voice, captions, cues: own, song: state.songFile }
    if (music === 'own') video.music = state.music
    else video.song = ''
    for (const c of document.querySelectorAll('[data-kit-take]')) if (!c.checked) video[c.dataset.kitTake] = true
    for (const c of document.querySelectorAll('[data-way]')) if (c.checked) video[c.dataset.way] = true
    if (state.video?.onBeat) video.onBeat = true // of a brief made elsewhere
    for (const s of next) s.id ??= newID()
    const was = had
    had = structuredClone(video)
    const answered = box.put({ video, was, typing }, { tag: typing ? 'video' : '', base: state.seq })
    const ids = () => state.shots.map((s) => s.id).join()
    const before = ids()
    overlay(video)
    if (ids() !== before) order.draw()
    return answered
  }
  // overlay has what was sent and has no answer yet stand on the page
  function overlay(video) {
    const known = new Map(state.shots.map((s) => [s.id, s]))
    const seen = ({ reads, says, said, clip, loud, frame, heard } = { reads: 2, says: [], said: '' }) => ({
      ...{ reads, says, said, clip, loud, frame, heard },
    })
    if (video.shots.length)
      state.shots = video.shots.map((s) => ({
        ...seen(known.get(s.id)),
        ...(s.card ? { headline: known.get(s.id)?.headline } : {}),
        ...JSON.parse(JSON.stringify(s)),
      }))
    Object.assign(state, { own: state.own || video.shots.length > 0, music: video.music ?? '', voice: video.voice ?? '' })
    Object.assign(state, { captions: video.captions ?? '', ownCues: video.cues.length > 0 })
    if (video.cues.length) state.cues = video.cues
    for (const way of ['calm', 'countUp']) state[way] = !!video[way]
    for (const [no, what] of Object.entries(kitTakes)) state[what] = !video[no]
  }
  function change(f) {
    const next = shots()
    f(next)
    return send(next)
  }

  // --- what is seen -----------------------------------------------------------------
  let drawn = [] // the ids of the shots as the film on the screen has them
  function apply(d) {
    state = d
    for (const s of state.shots) s.id ??= newID() // of a proposal
    drawn = state.shots.map((s) => s.id)
    const last = box.bodies().findLast((b) => b.video)?.video
    had = last ?? d.video ?? { shots: [] }
    if (last) overlay(last)
    window.dispatchEvent(new CustomEvent('aspen:steps', { detail: d }))
    draw()
  }
  function draw() {
    shown = Aspen.film.screen(film())
    const over = el('svg', { viewBox: `0 0 ${film().w} ${film().h}`, class: 'covered', 'aria-hidden': 'true' })
    const [x, y, w, h] = film().safe
    over.append(el('path', { d: `M0 0H${film().w}V${film().h}H0ZM${x} ${y}V${y + h}H${x + w}V${y}Z` }))
    over.toggleAttribute('hidden', !find('safe').checked)
    screen.replaceChildren(shown.svg, over)
    screen.style.setProperty('--ratio', film().w / film().h)
    find('total').textContent = sec(state.film.seconds) + ' s'
    find('proposed').hidden = state.own || !state.shots.length
    find('no-shots').hidden = state.shots.length > 0
    find('shapes').replaceChildren(...state.others.map(shapeOf))
    for (const c of document.querySelectorAll('[data-kit-take]'))
      c.checked = state[kitTakes[c.dataset.kitTake]]
    find('end-card').hidden = !state.hasEnd || !state.closing
    find('end-card').href = `/briefs/${id}/mat?close=${state.endCard}`
    find('end-make').hidden = !state.endCard || state.hasEnd || !state.closing
    for (const c of document.querySelectorAll('[data-way]')) c.checked = state[c.dataset.way]
    for (const name of ['make', 'cue-tools']) find(name).toggleAttribute('hidden', !!state.moves) // they are the video's
    find('cut-says').hidden = !state.cut
    find('cut-says').firstElementChild.textContent = state.cut?.says ?? ''
    find('cut').hidden = !state.cut?.fits
    const plays = state.pieces.find((p) => p.id === state.plays)
    const byKit = (own, now) => ['', own ? 'as the kit has it' : `as the kit has it: ${now}`]
    const tunes = state.pieces.map((p) => [p.id, `${p.name}, ${p.mood}`])
    const own = state.song ? [['own', `your own: ${state.song}`]] : []
    offer('music', [...own, byKit(state.music, state.kitSong || plays?.name || 'none'), ['none', 'none'], ...tunes])
    if (state.song) find('music').value = 'own'
    const who = { none: 'nobody', low: 'a low voice', middle: 'a middle voice', high: 'a high voice' }
    offer('voice', [byKit(state.voice, who[state.speaks]), ...Object.entries(who)])
    find('voice-note').hidden = state.speaks === 'none'
    find('voiceless').textContent = state.voiceless ?? ''
    offer('captions', [
      ['', 'where it is not on the screen'],
      ['all', 'of everything said'],
      ['beside', 'only as files'],
      ['none', 'none'],
    ])
    if (!list.contains(document.activeElement) || !document.activeElement.matches('input, textarea')) order.draw()
    drawTrack()
    sound.of(state.sounds && !state.moves ? `/briefs/${id}/video/sound.wav?place=${state.place}&seq=${state.seq}` : '')
    go(Math.min(now, film().seconds))
  }
  function shapeOf(o) {
    const k = 30 / Math.max(o.w, o.h)
    const shape = el('svg', { width: 32, height: 32, viewBox: '-16 -16 32 32', 'aria-hidden': 'true' })
    shape.append(el('rect', { x: (-o.w * k) / 2, y: (-o.h * k) / 2, width: o.w * k, height: o.h * k, rx: 2 }))
    const on = o.id === state.place && !state.moves
    return el('button', { 'data-shape': o.id, 'aria-pressed': on ? 'true' : 'false' }, shape, el('span', {}, o.name))
  }
  // offer fills a choice, with what is chosen now
  function offer(name, choices) {
    const option = ([v, t]) => el('option', { value: v, ...(v === state[name] ? { selected: '' } : {}) }, t)
    find(name).replaceChildren(...choices.map(option))
  }
  // shotOf is which shot of the order a take of the film on the screen is of, -1 for none
  const shotOf = (t) => (t.shot < 0 ? -1 : state.shots.findIndex((s) => s.id === drawn[t.shot]))
  const takeOf = (i) => state.film.takes.find((t) => shotOf(t) === i)

  find('add-shot').addEventListener('click', () =>
    change((all) => {
      const last = all[all.length - 1]?.role === 'call' ? all.length - 1 : all.length
      all.splice(last, 0, { role: 'point', headline: 'One more thing' })
    }),
  )
  const moves = () => {
    moving = {
      moving: find('moving-piece').value,
      seconds: Number(find('moving-seconds').value),
      loop: find('moving-loop').checked,
    }
    now = 0
    box.put({}, { reads: true })
  }
  find('moving-piece').addEventListener('change', moves)
  find('moving-seconds').addEventListener('change', moves)
  find('moving-loop').addEventListener('change', moves)
  find('own-music').addEventListener('click', () =>
    Aspen.chooseSound((file) => {
      state.songFile = file
      find('music').append(el('option', { value: 'own' }, 'your own'))
      find('music').value = 'own'
      send(inUse())
    }),
  )
  find('cut').addEventListener('click', () => send(state.cut.shots))
  find('propose').addEventListener('click', () => send([]))
  find('of-set').addEventListener('click', () => send(state.ofSet.map(plain)))
  document.addEventListener('change', (e) => {
    const d = e.target.dataset
    if (d.kitTake || d.way || 'music' in d || 'voice' in d || 'captions' in d) send(inUse())
    if ('safe' in e.target.dataset) draw()
  })
  // a script: every paragraph a shot, the first one stops people, the last says what to do
  find('script').addEventListener('click', () => {
    const field = el('textarea', { rows: 8, 'aria-label': 'The script', placeholder: 'One paragraph, one shot' })
    const use = el('button.act', {}, 'Make shots of it')
    const sheet = el('dialog.script', { 'aria-label': 'From a script' }, el('h2', {}, 'From a script'), field, use)
    use.addEventListener('click', () => {
      const all = field.value
        .split(/\n\s*\n|\n/)
        .map((s) => s.trim())
        .filter(Boolean)
      if (all.length > 60) {
        notice(`That is ${all.length} paragraphs. A video has at most 60 shots.`, { bad: true })
        return
      }
      const first = state.pics[0]?.file
      const role = (i) => (i === 0 ? 'hook' : i === all.length - 1 && all.length > 2 ? 'call' : 'point')
      if (all.length)
        send(all.map((headline, i) => ({ role: role(i), headline, ...(i === 0 && first ? { picture: first } : {}) })))
      sheet.close()
    })
    sheet.addEventListener('close', () => sheet.remove())
    document.body.append(sheet)
    sheet.showModal()
  })

  // --- time -------------------------------------------------------------------------
  function go(t) {
    now = Math.min(Math.max(0, t), film().seconds)
    shown.show(now, playing ? (find('slow').checked ? 0.5 : 1) : 0)
    find('clock').textContent = sec(now) + ' s'
    track.setAttribute('aria-valuenow', sec(now))
    track.parentElement.style.setProperty('--at', (now / (film().seconds || 1)) * 100 + '%')
    const k = film().takes.findLastIndex((s) => now >= s.from)
    const shot = film().takes[k] ? shotOf(film().takes[k]) : -1
    for (const li of list.children) li.classList.toggle('on', Number(li.dataset.shot) === shot)
  }
  function play() {
    if (playing) {
      cancelAnimationFrame(playing)
      playing = 0
      sound.pause()
      find('play').textContent = 'Play'
      go(now)
      return
    }
    if (now >= film().seconds - 0.01) now = 0
    find('play').textContent = 'Stop'
    const speed = find('slow').checked ? 0.5 : 1
    sound.play(
      () => now,
      speed,
      find('quiet').checked,
      () => playing !== 0,
    )
    const loop = find('loop').checked && film().takes.findLast((t) => now >= t.from)
    let last = performance.now()
    const tick = (at) => {
      now = sound.clock(now + ((at - last) / 1000) * speed)
      last = at
      if (loop && now >= loop.to) {
        now = loop.from
        sound.seek(now)
      }
      go(now)
      if (now >= film().seconds) play()
      else playing = requestAnimationFrame(tick)
    }
    playing = requestAnimationFrame(tick)
  }
  function step(frames) {
    if (playing) play()
    go(Math.round(now * film().fps + frames) / film().fps + 1e-6)
  }
  find('play').addEventListener('click', play)
  for (const b of document.querySelectorAll('[data-step]'))
    b.addEventListener('click', () => step(Number(b.dataset.step)))
  addEventListener('keydown', (e) => {
    if (e.target.matches('input, textarea, select') || e.ctrlKey || e.metaKey || e.altKey) return
    const act = {
      ' ': play,
      ArrowLeft: () => step(e.shiftKey ? -film().fps : -1),
      ArrowRight: () => step(e.shiftKey ? film().fps : 1),
      Home: () => go(0),
      End: () => go(film().seconds),
    }[e.key]
    if (!act || (e.key === ' ' && e.target.matches('button'))) return
    e.preventDefault()
    act()
  })
  find('shapes').addEventListener('click', (e) => {
    const b = e.target.closest('[data-shape]')
    if (!b) return
    place = b.dataset.shape
    moving.moving = find('moving-piece').value = ''
    history.replaceState(null, '', `?place=${encodeURIComponent(place)}`) // it stays chosen
    box.put({}, { reads: true })
  })

  find('end-make').addEventListener('click', () => box.put({ end: place }))

  // the strip: takes as long as they run, their ends pulled at
  function drawTrack() {
    const all = film().seconds || 1
    track.setAttribute('aria-valuemax', sec(all))
    const marks = []
    for (let s = 0; s < all; s++)
      marks.push(
        Object.assign(el('i.reel-tick' + (s % 5 ? '' : '.five'), {}, s % 5 ? '' : String(s)), {
          style: `left:${(s / all) * 100}%`,
        }),
      )
    track.replaceChildren(
      ...marks,
      ...film().takes.map((t) => {
        const b = el(
          'div.reel-take' + (t.shot < 0 ? '.kits' : ''),
          {},
          el('span', {}, roleOf(t.role)),
          el('small', {}, state.shots[shotOf(t)]?.headline ?? ''),
          t.shot >= 0 && el('u', { 'data-end': shotOf(t), title: 'Longer or shorter' }),
        )
        b.style.left = (t.from / all) * 100 + '%'
        b.style.width = ((t.to - t.from) / all) * 100 + '%'
        return b
      }),
    )
    captions.draw(state)
  }
  let pulled = null
  const timeAt = (e) => {
    const r = track.getBoundingClientRect()
    return ((e.clientX - r.left) / r.width) * film().seconds
  }
  track.addEventListener('pointerdown', (e) => {
    e.preventDefault()
    track.focus()
    const end = e.target.dataset.end
    pulled = end === undefined ? { scrub: true } : { shot: Number(end) }
    track.setPointerCapture(e.pointerId)
    if (pulled.scrub) {
      if (playing) play()
      go(timeAt(e))
    }
  })
  track.addEventListener('pointermove', (e) => {
    if (!pulled) return
    if (pulled.scrub) {
      go(timeAt(e))
      return
    }
    const take = takeOf(pulled.shot)
    pulled.seconds = Math.min(60, Math.max(0.5, Math.round((timeAt(e) - take.from) * 10) / 10))
    find('clock').textContent = sec(pulled.seconds) + ' s long'
  })
  track.addEventListener('pointerup', () => {
    const p = pulled
    pulled = null
    if (p?.seconds) change((all) => (all[p.shot].seconds = p.seconds))
  })

  // a film or a picture that is dropped on the running order, or pasted
  Aspen.files(async (kind, f, onto) => {
    if (onto?.closest?.('.reel')) return // captions
    if (await Aspen.isFilm(f)) await Aspen.bringClip(id, '', f)
    else if (f.type.startsWith('image/')) await Aspen.upload(`/briefs/${id}/pictures`, f)
    else notice(`${f.name} is no picture and no film. Captions go onto the strip.`, { bad: true })
  })
  find('quiet').addEventListener('change', (e) => sound.mute(e.target.checked))
  const sound = Aspen.videoSound(find('wave'))
  const order = Aspen.videoShots(list, {
    id,
    go,
    now: () => now,
    state: () => state,
    takeOf,
    roleOf,
    send,
    change,
    recut: (body) => box.put(body),
  })
  const captions = Aspen.videoCaptions({
    go,
    now: () => now,
    state: () => state,
    // keep makes captions those of the video, none for those of what is said
    keep: (own, typing) => send(inUse(), typing, own),
    read: (file) => box.put({ file }),
  })
  Aspen.videoMake(() => (find('all-shapes').checked ? state.others : state.others.filter((o) => o.id === state.place)), state.made ?? [])
  box.recover()
  apply(state)
})()
