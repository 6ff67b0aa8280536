// Sizing and turning in the Close-up: one part by its corners and sides, several together, and
// what was added bound to the edges of the piece. These are methods of the Mat's component
// (mat.js).
{
  const { measure } = Aspen
  const { pull } = measure

  Aspen.closeSize = {
    // stretchPart moves one side of a part, or with Alt the one across as well
    stretchPart(h) {
      const [unit] = h.units
      const m = h.start.get(unit)
      const r = (m.rotate * Math.PI) / 180
      const [gx, gy] = h.grip
      const way = [gx * Math.cos(r) - gy * Math.sin(r), gx * Math.sin(r) + gy * Math.cos(r)]
      const size = gx ? m.w : m.h
      const fixed = h.free ? [m.cx, m.cy] : [m.cx - (way[0] * size) / 2, m.cy - (way[1] * size) / 2]
      const k = this.scale(this.info(this.close))
      let long = ((h.to[0] - fixed[0]) * way[0] + (h.to[1] - fixed[1]) * way[1]) * (h.free ? 2 : 1)
      const guides = {}
      if (!h.free && !m.rotate) {
        const side = [fixed[0] + way[0] * long, fixed[1] + way[1] * long, 0, 0]
        const near = measure.snap(side, this.others([unit]), this.canvas(), pull / k)
        const { by, line } = gx ? near.across : near.down
        if (line !== undefined) {
          long += by * (gx || gy)
          guides[gx ? 'x' : 'y'] = [line]
        }
      }
      long = Math.max(4, long)
      const half = h.free ? 0 : long / 2
      const next = {
        ...m,
        apart: true,
        w: gx ? long : m.w,
        h: gx ? m.h : long,
        cx: fixed[0] + way[0] * half,
        cy: fixed[1] + way[1] * half,
      }
      h.frames.set(unit, next)
      this.show(unit, next)
      const box = this.boxOfFrame(next)
      guides.far = this.distances(box, this.others([unit]))
      const text = `${Math.round(next.w)} × ${Math.round(next.h)}`
      guides.say = { x: box[0] + box[2] / 2, y: box[1] + box[3] + 22 / k, text }
      this.drawClose(guides)
    },
    // fitPart binds a part to edges of the piece, or puts it behind the nearest words
    fitPart(q, fit) {
      if (fit === (q.part?.fit ?? this.value(q, 'fit')))
        return q.part ? this.changePart(q, { fit: undefined }) : this.liftProperty(q, 'fit')
      const p = this.info(this.close)
      const short = Math.min(p.w, p.h)
      const lifted = q.hand
        .filter((h) => ['offset', 'scale', 'rotate', 'sides', 'order'].includes(h.property))
        .map((h) => ({ reach: h.reach, slot: q.unit, property: h.property }))
      const part = (value) => ({ reach: q.partReach, slot: q.unit, property: 'part', value })
      if (fit !== 'behind') return this.sendHand([...lifted, q.part ? part({ ...q.part, fit }) : this.edit(q.unit, 'fit', fit)])
      const middle = ([x, y, w, h]) => [x + w / 2, y + h / 2]
      const far = (o) => Math.hypot(...middle(o.box).map((v, i) => v - middle(q.box)[i]))
      const [words] = this.parts()
        .filter((o) => o.unit !== q.unit && o.kind === 'text')
        .sort((a, b) => far(a) - far(b))
      if (!words) return this.say('There are no words here')
      const pad = 0.03 * short
      const [cx, cy] = middle(words.box)
      const [w, h] = [words.box[2] + 2 * pad, words.box[3] + 2 * pad]
      const below = this.edit(q.unit, 'order', words.stack - q.stack)
      if (!q.part) return this.sendPlaces([q.unit], new Map([[q.unit, { cx, cy, w, h, rotate: 0, apart: true }]]), [below])
      const size = [w, h].map((v) => Math.round((v / short) * 1e5) / 1e5)
      return this.sendHand([
        ...lifted.filter((e) => e.property !== 'order'),
        part({ ...q.part, fit: undefined, at: [cx / p.w, cy / p.h], size }),
        below,
      ])
    },
    // frameAsWide is the frame of a part of another width; words keep the side they are aligned to
    frameAsWide(q, m, w) {
      const side = q.sides === 'across' ? ({ start: 0.5, end: -0.5 }[q.align] ?? 0) : 0
      return { apart: true, w, cx: m.cx + side * (w - m.w) }
    },
    // sidesTo are the changes that give a part of the layout the sides of a frame. Words keep
    // the side they are aligned to, and their height follows from them.
    sidesTo(q, m, short) {
      const round = (v) => Math.round(v * 1e5) / 1e5
      const most = (v) => round(Math.max(0.05, Math.min(20, v)))
      const words = q.sides === 'across'
      const value = [most(m.w / q.scale / q.before[2]), words ? 1 : most(m.h / q.scale / q.before[3])]
      const edits = [this.edit(q.unit, 'sides', value)]
      const fit = q.hand.find((h) => h.property === 'fit')
      if (fit) edits.push({ reach: fit.reach, slot: q.unit, property: 'fit' })
      const was = this.frameOf(q)
      const r = (q.rotate * Math.PI) / 180
      const mirrored = ['across', 'both'].includes(this.value(q, 'flip')) ? -1 : 1
      const side = words ? ({ start: -0.5, end: 0.5 }[q.align] ?? 0) * mirrored * (m.w - was.w) : 0
      const offset = [
        q.offset[0] + (m.cx - was.cx + side * Math.cos(r)) / short,
        q.offset[1] + (m.cy - was.cy + side * Math.sin(r)) / short,
      ].map(round)
      if (offset.some((v, i) => Math.abs(v - q.offset[i]) > 1e-6)) edits.push(this.edit(q.unit, 'offset', offset))
      if (m.rotate !== q.rotate) edits.push(this.edit(q.unit, 'rotate', m.rotate))
      return edits
    },
    // sidedBox is where a part with these sides stands before anything else is changed of it
    sidedBox(q) {
      const p = this.info(this.close)
      const [x, y, w, h] = q.before
      const [kx, ky] = this.value(q, 'sides') ?? [1, 1]
      const anchor = q.sides === 'across' ? ({ start: 0, end: 1 }[q.align] ?? 0.5) : 0.5
      const box = [x + w * (1 - kx) * anchor, y + (h * (1 - ky)) / 2, w * kx, h * ky]
      if (q.sides === 'across') [box[1], box[3]] = [q.was[1], q.was[3]]
      const fit = this.value(q, 'fit')
      if (fit === 'whole' || fit === 'wide') [box[0], box[2]] = [0, p.w]
      if (fit === 'whole' || fit === 'high') [box[1], box[3]] = [0, p.h]
      return box
    },
    // sizeTogether sizes several parts about the corner across of the box around them, or with
    // Alt about its middle
    sizeTogether(h) {
      const [x, y, w, t] = measure.union([...h.start.values()].map((m) => this.boxOfFrame(m)))
      const [gx, gy] = h.grip
      const at = h.free ? [x + w / 2, y + t / 2] : [gx < 0 ? x + w : x, gy < 0 ? y + t : y]
      const was = [(gx < 0 ? x : x + w) - at[0], (gy < 0 ? y : y + t) - at[1]]
      const now = [h.to[0] - at[0], h.to[1] - at[1]]
      let s = (now[0] * was[0] + now[1] * was[1]) / (was[0] ** 2 + was[1] ** 2)
      const scales = h.units.map((u) => this.part(u).scale)
      s = Math.max(0.05 / Math.min(...scales), Math.min(20 / Math.max(...scales), s))
      for (const [u, m] of h.start) {
        const next = {
          ...m,
          w: m.w * s,
          h: m.h * s,
          cx: at[0] + (m.cx - at[0]) * s,
          cy: at[1] + (m.cy - at[1]) * s,
        }
        h.frames.set(u, next)
        this.show(u, next)
      }
      const text = `${Math.round(w * s)} × ${Math.round(t * s)}`
      this.drawClose({ say: { x: at[0] + was[0] * s * 0.5, y: at[1] + was[1] * s * 0.5, text } })
    },
    sizePart(h) {
      if (h.units.length > 1) return this.sizeTogether(h)
      if (!h.grip[0] || !h.grip[1]) return this.stretchPart(h)
      const [unit] = h.units
      const m = h.start.get(unit)
      const r = (m.rotate * Math.PI) / 180
      const turn = ([x, y], a) => [x * Math.cos(a) - y * Math.sin(a), x * Math.sin(a) + y * Math.cos(a)]
      // the corner across stays, or with Alt the middle
      const [gx, gy] = h.grip
      const far = h.free ? [0, 0] : turn([(-gx * m.w) / 2, (-gy * m.h) / 2], r)
      const fixed = [m.cx + far[0], m.cy + far[1]]
      const was = turn([gx * m.w, gy * m.h], r).map((v) => (h.free ? v / 2 : v))
      const now = [h.to[0] - fixed[0], h.to[1] - fixed[1]]
      const k = this.scale(this.info(this.close))
      let s = (now[0] * was[0] + now[1] * was[1]) / (was[0] ** 2 + was[1] ** 2)
      const guides = {}
      if (!h.free && !m.rotate) {
        // the sides that are pulled find the edges of other parts and the margins
        const corner = [fixed[0] + was[0] * s, fixed[1] + was[1] * s, 0, 0]
        const near = measure.snap(corner, this.others([unit]), this.canvas(), pull / k)
        const ways = [near.across, near.down].map(({ by, line }, i) => line !== undefined && { by, line, i })
        const best = ways.filter(Boolean).sort((a, b) => Math.abs(a.by) - Math.abs(b.by))[0]
        if (best) {
          s = (best.line - fixed[best.i]) / was[best.i]
          guides[best.i ? 'y' : 'x'] = [best.line]
        }
      }
      s = Math.max(0.05 / this.part(unit).scale, Math.min(20 / this.part(unit).scale, s))
      const next = { ...m, w: m.w * s, h: m.h * s, cx: fixed[0] - far[0] * s, cy: fixed[1] - far[1] * s }
      h.frames.set(unit, next)
      this.show(unit, next)
      const box = this.boxOfFrame(next)
      const q = this.part(unit)
      const text = q.size ? `${Math.round((q.size * next.w) / m.w)} px` : `${Math.round(next.w)} × ${Math.round(next.h)}`
      guides.far = this.distances(box, this.others([unit]))
      guides.say = { x: box[0] + box[2] / 2, y: box[1] + box[3] + 22 / k, text }
      this.drawClose(guides)
    },
    turnPart(h) {
      const [unit] = h.units
      const m = h.start.get(unit)
      let rotate = (Math.atan2(h.to[1] - m.cy, h.to[0] - m.cx) * 180) / Math.PI + 90
      rotate = ((((rotate + 180) % 360) + 360) % 360) - 180
      // upright, level and the steps between are easily found
      const step = h.even ? 15 : 45
      const near = Math.round(rotate / step) * step
      if (!h.free && (h.even || Math.abs(near - rotate) < 3)) rotate = near
      rotate = Math.round(rotate * 10) / 10
      h.frames.set(unit, { ...m, rotate })
      this.show(unit, h.frames.get(unit))
      this.drawClose({ say: { x: m.cx, y: m.cy, text: `${rotate}°` } })
    },
  }
}
