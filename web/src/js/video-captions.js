// The captions of a video, below its strip: each as long as it is seen. One that is changed
// makes all of them one's own; until then they are what is said.
Aspen.videoCaptions = ({ go, now, state, keep, read }) => {
  const { el, notice } = Aspen
  const id = document.body.dataset.brief
  const find = (name) => document.querySelector(`[data-${name}]`)
  const [line, edit] = [find('cues'), find('cue-edit')]
  const [text, from, to] = ['cue-text', 'cue-from', 'cue-to'].map(find)
  let chosen = -1
  const least = 0.3 // s
  const round = (v) => Math.round(v * 100) / 100
  const list = () => state().cues.map((c) => ({ ...c }))

  function draw() {
    const { film, ownCues, moves } = state()
    const cues = moves ? [] : state().cues // a piece that moves has none
    const all = film.seconds || 1
    const blocks = cues.map((c, i) => {
      const b = el(
        'button.cue' + (i === chosen ? '.on' : ''),
        { 'data-cue': i, title: c.text, 'aria-pressed': i === chosen ? 'true' : 'false' },
        el('u', { 'data-side': 'from' }),
        el('span', {}, c.text.replace('\n', ' ')),
        el('u', { 'data-side': 'to' }),
      )
      b.style.left = (c.from / all) * 100 + '%'
      b.style.width = (Math.max(0, Math.min(c.to, all) - c.from) / all) * 100 + '%'
      return b
    })
    line.replaceChildren(
      ...blocks,
      cues.length
        ? ''
        : el('span.soft', {}, moves ? '' : 'No captions: give the video a voice, or a file of captions.'),
    )
    find('cues-back').hidden = !ownCues
    for (const a of document.querySelectorAll('[data-caption-file]')) {
      a.hidden = !cues.length
      a.href = `/briefs/${id}/video/captions.${a.dataset.captionFile}?place=${state().place}`
    }
    if (chosen >= cues.length) choose(-1)
    fill()
  }
  function fill() {
    const c = state().cues[chosen]
    edit.hidden = !c
    if (!c || edit.contains(document.activeElement)) return
    text.value = c.text
    from.value = c.from.toFixed(2)
    to.value = c.to.toFixed(2)
  }
  function choose(i) {
    chosen = i
    const c = state().cues[i]
    if (c && (now() < c.from || now() >= c.to)) go(c.from + 0.01)
    for (const b of line.querySelectorAll('.cue')) {
      b.classList.toggle('on', Number(b.dataset.cue) === i)
      b.setAttribute('aria-pressed', Number(b.dataset.cue) === i ? 'true' : 'false')
    }
    fill()
  }
  function change(f, typing = false) {
    const next = list()
    f(next[chosen], next)
    return keep(next, typing)
  }
  // bounds are how far a side of a caption goes: to its neighbours, and not past itself
  function bounded(cues, i, side, t) {
    const [before, after] = [cues[i - 1]?.to ?? 0, cues[i + 1]?.from ?? Infinity]
    return round(
      side === 'from'
        ? Math.min(Math.max(t, before), cues[i].to - least)
        : Math.max(Math.min(t, after), cues[i].from + least),
    )
  }

  let pulled = null
  line.addEventListener('pointerdown', (e) => {
    const b = e.target.closest('.cue')
    if (!b) return
    choose(Number(b.dataset.cue))
    const side = e.target.dataset.side
    if (!side) return
    e.preventDefault()
    pulled = { side, i: chosen, b }
    line.setPointerCapture(e.pointerId)
  })
  line.addEventListener('pointermove', (e) => {
    if (!pulled) return
    const r = line.getBoundingClientRect()
    const all = state().film.seconds
    const cues = list()
    pulled.t = bounded(cues, pulled.i, pulled.side, ((e.clientX - r.left) / r.width) * all)
    cues[pulled.i][pulled.side] = pulled.t
    const c = cues[pulled.i]
    pulled.b.style.left = (c.from / all) * 100 + '%'
    pulled.b.style.width = ((c.to - c.from) / all) * 100 + '%'
    go(Math.max(0, pulled.side === 'to' ? pulled.t - 0.01 : pulled.t))
  })
  line.addEventListener('pointerup', () => {
    const p = pulled
    pulled = null
    if (p?.t !== undefined) change((c) => (c[p.side] = p.t))
  })
  line.addEventListener('click', (e) => {
    const b = e.target.closest('.cue')
    if (b) choose(Number(b.dataset.cue))
  })
  // where there is none, two clicks put one
  line.addEventListener('dblclick', (e) => {
    if (e.target.closest('.cue')) {
      text.focus()
      text.select()
      return
    }
    const r = line.getBoundingClientRect()
    const at = round(((e.clientX - r.left) / r.width) * state().film.seconds)
    add(at)
  })
  async function add(at) {
    const cues = list()
    const k = cues.filter((c) => c.from <= at).length
    const room = (cues[k]?.from ?? state().film.seconds) - at
    if (room < 2 * least || (cues[k - 1]?.to ?? 0) > at) {
      notice('There is no room for a caption here.', { bad: true })
      return
    }
    cues.splice(k, 0, { from: at, to: round(at + Math.min(2, room)), text: 'A caption' })
    chosen = k
    await keep(cues, false)
    choose(k)
    text.focus()
    text.select()
  }
  find('add-cue').addEventListener('click', () => add(round(now())))
  text.addEventListener('input', () => {
    if (text.value.trim()) change((c) => (c.text = text.value), true)
  })
  for (const [field, side] of [
    [from, 'from'],
    [to, 'to'],
  ])
    field.addEventListener('change', () => {
      const t = Number(field.value.replace(',', '.'))
      if (!(t >= 0)) {
        notice('A time is in seconds, like 3.5.', { bad: true })
        return
      }
      change((c, all) => (c[side] = bounded(all, chosen, side, t)))
      field.blur()
    })
  const out = () => {
    const next = list()
    next.splice(chosen, 1)
    choose(-1)
    keep(next, false)
  }
  find('cue-out').addEventListener('click', out)
  line.addEventListener('keydown', (e) => {
    if (!['Delete', 'Backspace'].includes(e.key) || !e.target.closest('.cue')) return
    e.preventDefault()
    out()
  })
  find('cues-back').addEventListener('click', () => keep([], false))

  // a file of captions, chosen or dropped
  const most = 2e6 // bytes
  async function bring(file) {
    if (!file) return
    if (file.size > most) {
      notice(`${file.name} is too large for captions. Bring a .srt or .vtt file.`, { bad: true })
      return
    }
    await read((await file.text()) || ' ')
  }
  const chooser = find('cue-file')
  find('bring-cues').addEventListener('click', () => chooser.click())
  chooser.addEventListener('change', () => {
    bring(chooser.files[0])
    chooser.value = ''
  })
  const host = line.closest('.reel')
  host.addEventListener('dragover', (e) => {
    if (!e.dataTransfer.types.includes('Files')) return
    e.preventDefault()
    host.classList.add('takes')
  })
  host.addEventListener('dragleave', (e) => host.contains(e.relatedTarget) || host.classList.remove('takes'))
  host.addEventListener('drop', (e) => {
    e.preventDefault()
    host.classList.remove('takes')
    bring(e.dataTransfer.files[0])
  })
  return { draw }
}
