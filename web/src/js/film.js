// A film in the page: where its layers stand at a time, as the server reckons them when it
// makes the file, and an SVG that shows them. Nothing here knows the page.
;(() => {
  const ns = 'http://www.w3.org/2000/svg'
  const make = (name, attrs = {}) => {
    const e = document.createElementNS(ns, name)
    for (const [k, v] of Object.entries(attrs)) e.setAttribute(k, v)
    return e
  }
  const leaveFor = 0.25 // s words take to go
  // what slows down towards the end
  const ease = (u) => 1 - (1 - Math.min(1, Math.max(0, u))) ** 3

  // part is how much of a box is seen once so much of it has come in from a side
  function part([x, y, w, h], edge, done) {
    if (edge === 'left') return [x, y, w * done, h]
    if (edge === 'right') return [x + w * (1 - done), y, w * done, h]
    if (edge === 'top') return [x, y, w, h * done]
    return [x, y + h * (1 - done), w, h * done]
  }

  // pushed is how far a take that comes from a side, and the one it pushes out, stand off
  function pushed(film, edge, done) {
    const along = edge === 'right' ? film.w : film.h
    const off = Math.round((1 - done) * along)
    return edge === 'right'
      ? [
          [off, 0],
          [off - along, 0],
        ]
      : [
          [0, off],
          [0, off - along],
        ]
  }

  function poses(take, k, u, alpha, show, shift = [0, 0]) {
    const out = []
    take.layers.forEach(({ box, move, while: there }, index) => {
      if (there && (u < there[0] || u >= there[1])) return
      const p = { take: k, index, alpha, show, shift, down: 0, zoom: 1, time: u }
      const standing = u < move.again // until it goes, to come again
      const done = standing || !move.for ? 1 : ease((u - move.delay) / move.for)
      if (standing) p.alpha *= 1 - ease(1 - Math.min(1, (move.again - u) / leaveFor))
      if (move.kind === 'fade' || move.kind === 'rise') p.alpha *= done
      if (move.kind === 'rise') p.down = (1 - done) * move.by
      if (move.kind === 'wipe') p.part = part(box, move.edge, done)
      if (move.kind === 'drift') {
        let at = Math.min(1, Math.max(0, u / move.for))
        if (move.round) at = (1 - Math.cos((2 * Math.PI * u) / move.round)) / 2
        else if (move.back) at = 1 - at
        p.zoom = 1 + (move.by - 1) * at
      }
      const left = take.to - take.from - u
      if (move.leave && left < take.leave) p.alpha *= 1 - ease(1 - left / take.leave)
      out.push(p)
    })
    return out
  }

  // at is how every layer that is seen stands at a time, from below
  function at(film, t) {
    const takes = film.takes
    if (!takes.length) return []
    let k = 0
    while (k < takes.length - 1 && t >= takes[k].to) k++
    const take = takes[k]
    const u = Math.min(Math.max(0, t - take.from), take.to - take.from)
    const whole = [0, 0, film.w, film.h]
    let out = []
    let [alpha, show, shift] = [1, whole, [0, 0]]
    if (k > 0 && take.in.kind && u < take.in.for) {
      const before = takes[k - 1]
      const done = ease(u / take.in.for)
      let gone
      if (take.in.kind === 'fade') alpha = done
      else if (take.in.kind === 'push') [shift, gone] = pushed(film, take.in.edge, done)
      else show = part(whole, take.in.edge, done)
      out = poses(before, k - 1, before.to - before.from, 1, whole, gone)
    }
    out = out.concat(poses(take, k, u, alpha, show, shift))
    if (t - take.from >= take.markIn)
      (take.mark || []).forEach((index) => out.push({ take: -1, index, alpha: 1, show: whole, down: 0, zoom: 1 }))
    film.over.forEach((o, index) => {
      if (t >= o.from && t < o.to) out.push({ take: -2, index, alpha: 1, show: whole, down: 0, zoom: 1 })
    })
    return out.filter((p) => p.alpha > 0 && p.show[2] > 0 && p.show[3] > 0)
  }

  // tintOf is a filter that does to a clip what the dials and the tone do to its picture
  function tintOf({ dials, tone }, id) {
    if (!dials && !tone) return null
    const filter = make('filter', { id, x: 0, y: 0, width: '100%', height: '100%' })
    const srgb = { 'color-interpolation-filters': 'sRGB' }
    if (dials) filter.append(make('feColorMatrix', { type: 'matrix', values: dials.join(' '), ...srgb }))
    if (tone) {
      // its light as a grey, then looked up
      const grey = '0.2126 0.7152 0.0722 0 0 '.repeat(3) + '0 0 0 1 0'
      const look = make('feComponentTransfer', srgb)
      for (const [k, c] of ['R', 'G', 'B'].entries())
        look.append(make('feFunc' + c, { type: 'table', tableValues: tone[k] }))
      filter.append(
        make('feColorMatrix', { type: 'matrix', values: grey, 'color-interpolation-filters': 'linearRGB' }),
        look,
      )
    }
    const svg = make('svg', { width: 0, height: 0 })
    svg.append(filter)
    return svg
  }

  // running is a clip in the frame of a picture: the part of it that is shown, at a time
  function running(runs, [x, y, width, height], id) {
    const host = make('foreignObject', { x, y, width, height })
    const video = Object.assign(document.createElement('video'), {
      muted: true,
      playsInline: true,
      preload: 'auto',
      src: runs.src,
    })
    const [cx, cy, cw, ch] = runs.crop
    Object.assign(video.style, {
      position: 'absolute',
      width: `${width / cw}px`,
      height: `${height / ch}px`,
      objectFit: 'fill',
    })
    Object.assign(video.style, { left: `${(-cx * width) / cw}px`, top: `${(-cy * height) / ch}px`, maxWidth: 'none' })
    const frame = document.createElement('div')
    Object.assign(frame.style, { position: 'relative', width: `${width}px`, height: `${height}px`, overflow: 'hidden' })
    frame.append(video)
    host.append(frame)
    const tint = tintOf(runs, id)
    if (tint) {
      host.append(tint)
      video.style.filter = `url(#${id})`
    }
    let [wants, plays] = [runs.from, false]
    // seek goes to where it should be, one step after the other
    const seek = () => {
      if (video.readyState > 0 && !video.seeking && Math.abs(video.currentTime - wants) > 0.02)
        video.currentTime = wants
    }
    video.addEventListener('seeked', () => plays || seek())
    video.addEventListener('loadedmetadata', seek)
    return {
      host,
      show(time, speed) {
        wants = runs.from + Math.min(time, Math.max(0, runs.for - 0.03)) + 0.001
        plays = speed > 0 && time < runs.for - 0.03
        if (!plays) {
          video.pause()
          seek()
          return
        }
        video.playbackRate = speed
        if (Math.abs(video.currentTime - wants) > 0.15) seek()
        if (video.paused) video.play().catch(() => {}) // then it is sought through
      },
      rest: () => video.pause(),
    }
  }

  // screen is an SVG that shows a film at any time
  function screen(film, ids = 'film') {
    const svg = make('svg', { viewBox: `0 0 ${film.w} ${film.h}`, role: 'img', 'aria-label': 'The video' })
    const defs = make('defs')
    svg.append(defs)
    const clip = (id, shape) => {
      const c = make('clipPath', { id })
      c.append(shape)
      defs.append(c)
      return shape
    }
    const layerOf = ({ svg: inside, box, clip: path, runs, move }, id, drifts) => {
      const g = make('g')
      const inner = make('g')
      Aspen.fill(inner, inside)
      const film = runs && running(runs, box, `${id}-tint`)
      if (film) inner.append(film.host) // over the frame that stands for it
      g.append(inner)
      if (drifts) {
        const [x, y, width, height] = box
        clip(id, path ? make('path', { d: path }) : make('rect', { x, y, width, height }))
        g.setAttribute('clip-path', `url(#${id})`)
      }
      let part = null // of it that is uncovered
      if (move?.kind === 'wipe') {
        part = clip(id, make('rect'))
        g.setAttribute('clip-path', `url(#${id})`)
      }
      return { g, inner, box, film, part }
    }
    const rows = film.takes.map((take, k) => {
      const show = clip(`${ids}-t${k}`, make('rect'))
      const g = make('g', { 'clip-path': `url(#${ids}-t${k})`, display: 'none' })
      const layers = take.layers.map((l, i) => layerOf(l, `${ids}-t${k}l${i}`, l.move.kind === 'drift'))
      g.append(...layers.map((l) => l.g))
      svg.append(g)
      return { g, show, layers }
    })
    const marks = film.mark.map((l, i) => layerOf(l, `${ids}-m${i}`, false))
    svg.append(...marks.map((l) => l.g))
    const overs = film.over.map((l, i) => layerOf(l, `${ids}-o${i}`, false))
    svg.append(...overs.map((l) => l.g))
    return {
      svg,
      // speed is how fast it runs, 0 while it stands
      show(t, speed = 0) {
        const now = at(film, t)
        const seen = new Set(now.map((p) => p.take))
        rows.forEach((row, k) => row.g.setAttribute('display', seen.has(k) ? 'inline' : 'none'))
        marks.forEach((l, i) => {
          const on = now.some((p) => p.take === -1 && p.index === i)
          l.g.setAttribute('display', on ? 'inline' : 'none')
        })
        const drawn = new Set()
        overs.forEach((l, i) => {
          const on = now.some((p) => p.take === -2 && p.index === i)
          l.g.setAttribute('display', on ? 'inline' : 'none')
        })
        for (const p of now) {
          if (p.take < 0) continue
          const row = rows[p.take]
          const l = row.layers[p.index]
          drawn.add(l)
          for (const [rect, box] of [
            [row.show, p.show],
            [l.part, p.part],
          ])
            if (rect && box) ['x', 'y', 'width', 'height'].forEach((a, i) => rect.setAttribute(a, box[i]))
          row.g.setAttribute('transform', `translate(${p.shift})`)
          l.film?.show(p.time, p.take === now.findLast((q) => q.take >= 0).take ? speed : 0)
          l.g.setAttribute('opacity', p.alpha)
          l.g.removeAttribute('display')
          if (p.zoom !== 1) {
            const [cx, cy] = film.takes[p.take].layers[p.index].move.about
            l.inner.setAttribute('transform', `translate(${cx} ${cy}) scale(${p.zoom}) translate(${-cx} ${-cy})`)
          } else if (p.down) l.inner.setAttribute('transform', `translate(0 ${p.down})`)
          else l.inner.removeAttribute('transform')
        }
        rows.forEach((row, k) => seen.has(k) || row.layers.forEach((l) => l.film?.rest()))
        for (const k of seen)
          if (k >= 0) for (const l of rows[k].layers) if (!drawn.has(l)) l.g.setAttribute('display', 'none')
      },
    }
  }

  Aspen.film = { at, screen }
})()
