// Moving, sizing and turning parts in the Close-up. While the hand moves nothing is asked
// of the server: the drawn groups of the part go with it; when it lets go one change goes
// out, and the answer settles in the place of what was moved. These are methods of the
// Mat's component (mat.js).
{
  const { measure, notice } = Aspen
  const pull = 6 // px on the screen within which things snap

  Aspen.closeHand = {
    pressed: false, // a hand is on the drawing
    held: null, // what the hand holds: {kind, from, units, frames, ...}

    openHand() {
      const stage = this.$refs.stage
      stage.addEventListener('pointerdown', (e) => this.close && !this.touch(e) && this.take(e))
      addEventListener('pointermove', (e) => !this.touchMoved(e) && this.carry(e))
      addEventListener('pointerup', (e) => {
        this.pressed = false
        if (!this.touchEnded(e)) this.letGo(e)
        this.fitClose()
      })
      addEventListener('pagehide', () => this.settleHand())
      addEventListener('pointercancel', (e) => {
        this.pressed = false
        this.touchEnded(e)
        this.dropBack()
      })
      stage.addEventListener('dblclick', (e) => {
        const unit = this.close && this.under(this.at(e))
        if (unit && this.active?.field && this.active.slot === unit) this.selectWith(this.close, e) // a word
        else if (unit) this.typeIn(unit, e)
      })
      stage.addEventListener(
        'wheel',
        (e) => {
          if (!this.close) return
          const pic = this.picked.length === 1 && this.part(this.picked[0])
          if (e.ctrlKey) {
            e.preventDefault()
            this.zoomAt(this.closeZoom * Math.exp(-e.deltaY / 300), [e.clientX, e.clientY])
          } else if (pic?.crop && this.under(this.at(e)) === pic.unit) {
            e.preventDefault()
            this.zoomPicture(pic, Math.exp(e.deltaY / 600), this.at(e))
          }
        },
        { passive: false },
      )
    },
    take(e) {
      this.pressed = true
      if (e.button > 0) return
      if (e.target.closest('a, button, [data-slip]')) return
      this.settleHand()
      const at = this.at(e)
      if (this.spaced) {
        this.pan(e)
        return
      }
      if (this.marking) {
        e.preventDefault()
        this.held = { kind: 'whole', from: at, to: at, unit: this.marking }
        return
      }
      const grip = e.target.closest('[data-grip]')?.dataset.grip
      if (grip) {
        this.hold(grip === 'turn' ? 'turn' : 'size', at, { grip: grip.split(' ').map(Number) })
        e.preventDefault()
        return
      }
      const unit = this.inside(at) ? this.under(at) : ''
      if (this.active?.field && unit === this.active.slot) {
        this.typeAt(e)
        return
      }
      e.preventDefault()
      if (e.shiftKey) this.pick(unit, true)
      else if (!unit || !this.picked.includes(unit)) this.pick(unit)
      const q = this.part(unit)
      if (!unit || q?.unit === 'ground') {
        if (e.pointerType === 'touch') this.pan(e)
        else this.held = { kind: 'box', from: at, to: at }
        return
      }
      // a picture chosen before moves inside its frame; with Ctrl the frame moves
      if (q.crop && !e.ctrlKey && !q.added && this.free(unit)) this.hold('crop', at, { unit })
      else if (this.free(unit)) this.hold('move', at)
      else this.say(`${q.label} is locked`)
    },
    pan(e) {
      const room = this.$refs.stage
      this.held = { kind: 'pan', x: e.clientX, y: e.clientY, left: room.scrollLeft, top: room.scrollTop }
    },
    inside([x, y]) {
      const p = this.info(this.close)
      return x >= -8 && y >= -8 && x <= p.w + 8 && y <= p.h + 8
    },
    hold(kind, from, more = {}) {
      const units = this.picked.filter((u) => this.free(u))
      const frames = new Map(units.map((u) => [u, this.frameOf(this.part(u))]))
      this.held = { kind, from, to: from, units, frames, start: new Map(frames), moved: false, ...more }
    },
    carry(e) {
      const h = this.held
      if (!h || !this.close) return
      if (h.kind === 'pan') {
        this.$refs.stage.scrollTo(h.left - e.clientX + h.x, h.top - e.clientY + h.y)
        return
      }
      h.to = this.at(e)
      h.free = e.altKey
      h.even = e.shiftKey
      if (!h.moved && Math.hypot(h.to[0] - h.from[0], h.to[1] - h.from[1]) * this.scale(this.info(this.close)) < 3)
        return
      h.moved = true
      if (!h.waits) {
        h.waits = true
        requestAnimationFrame(() => {
          h.waits = false
          if (this.held === h) this.follow(h)
        })
      }
    },
    // follow brings what is held to where the hand is
    follow(h) {
      const how = {
        move: 'carryPart',
        size: 'sizePart',
        turn: 'turnPart',
        crop: 'carryPicture',
        box: 'carryBox',
        whole: 'carryWhole',
      }[h.kind]
      this[how]?.(h)
    },
    // boxOfFrame is the upright box around a frame
    boxOfFrame(m) {
      const r = (m.rotate * Math.PI) / 180
      const [c, s] = [Math.abs(Math.cos(r)), Math.abs(Math.sin(r))]
      const [w, h] = [m.w * c + m.h * s, m.w * s + m.h * c]
      return [m.cx - w / 2, m.cy - h / 2, w, h]
    },
    canvas() {
      const p = this.info(this.close)
      return { w: p.w, h: p.h, safe: p.safe }
    },
    others(units) {
      const p = this.info(this.close)
      const covers = (b) => b[2] >= p.w - 1 && b[3] >= p.h - 1
      return this.parts()
        .filter((q) => !units.includes(q.unit) && !covers(q.box))
        .map((q) => q.box)
    },
    // baselines are those of words that move, by so much further down, and those of words
    // that stay
    baselines(units, dy) {
      const own = units.length === 1 ? (this.part(units[0]).baselines ?? []) : []
      const others = this.parts().filter((q) => !units.includes(q.unit))
      return { own: own.map((y) => y + dy), others: others.flatMap((q) => q.baselines ?? []) }
    },
    carryPart(h) {
      const k = this.scale(this.info(this.close))
      let [dx, dy] = [h.to[0] - h.from[0], h.to[1] - h.from[1]]
      if (h.even) Math.abs(dx) > Math.abs(dy) ? (dy = 0) : (dx = 0)
      const box = measure.union(h.units.map((u) => this.boxOfFrame(h.start.get(u))))
      const others = this.others(h.units)
      const moved = [box[0] + dx, box[1] + dy, box[2], box[3]]
      const guides = {}
      if (!h.free) {
        const s = measure.snap(moved, others, this.canvas(), pull / k, this.baselines(h.units, dy))
        dx += s.dx
        dy += s.dy
        moved[0] += s.dx
        moved[1] += s.dy
        if (s.across.line !== undefined) guides.x = [s.across.line]
        if (s.down.line !== undefined) guides.y = [s.down.line]
      }
      guides.far = this.distances(moved, others)
      for (const u of h.units) {
        const m = h.start.get(u)
        h.frames.set(u, { ...m, cx: m.cx + dx, cy: m.cy + dy })
        this.show(u, h.frames.get(u))
      }
      this.drawClose(guides)
    },
    // distances are lines to what is nearest beside a box and below or above it
    distances(box, others) {
      const [sx, sy, sw, sh] = this.info(this.close).safe
      const [x, y, w, h] = box
      const out = []
      const across = measure.gaps(box, others, 0)
      const down = measure.gaps(box, others, 1)
      const left = x - (across.before ?? sx)
      const right = (across.after ?? sx + sw) - x - w
      if (right >= 1 && (right <= left || left < 1)) out.push([x + w, y + h / 2, across.after ?? sx + sw, y + h / 2])
      else if (left >= 1) out.push([across.before ?? sx, y + h / 2, x, y + h / 2])
      const up = y - (down.before ?? sy)
      const below = (down.after ?? sy + sh) - y - h
      if (up >= 1 && (up <= below || below < 1)) out.push([x + w / 2, down.before ?? sy, x + w / 2, y])
      else if (below >= 1) out.push([x + w / 2, y + h, x + w / 2, down.after ?? sy + sh])
      return out
    },
    // sidesApart reports whether a part has a width and a height of its own: shapes, pictures
    // and patterns that were added
    sidesApart(q) {
      return !!q?.part && ['shape', 'picture', 'pattern'].includes(q.part.kind)
    },
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
    // fitPart binds an added part to edges of the piece, or puts it behind the nearest words
    fitPart(q, fit) {
      const p = this.info(this.close)
      const short = Math.min(p.w, p.h)
      const lifted = q.hand
        .filter((h) => ['offset', 'scale', 'rotate', 'order'].includes(h.property))
        .map((h) => ({ reach: h.reach, slot: q.unit, property: h.property }))
      const part = (value) => ({ reach: q.partReach, slot: q.unit, property: 'part', value })
      if (fit !== 'behind') return this.sendHand([...lifted, part({ ...q.part, fit })])
      const middle = ([x, y, w, h]) => [x + w / 2, y + h / 2]
      const far = (o) => Math.hypot(...middle(o.box).map((v, i) => v - middle(q.box)[i]))
      const [words] = this.parts()
        .filter((o) => o.unit !== q.unit && o.kind === 'text')
        .sort((a, b) => far(a) - far(b))
      if (!words) return this.say('There are no words here')
      const pad = 0.03 * short
      const [cx, cy] = middle(words.box)
      const size = [words.box[2] + 2 * pad, words.box[3] + 2 * pad].map((v) => Math.round((v / short) * 1e5) / 1e5)
      return this.sendHand([
        ...lifted.filter((e) => e.property !== 'order'),
        part({ ...q.part, fit: undefined, at: [cx / p.w, cy / p.h], size }),
        this.edit(q.unit, 'order', words.stack - q.stack),
      ])
    },
    sizePart(h) {
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
    carryBox(h) {
      const [x, y] = [Math.min(h.from[0], h.to[0]), Math.min(h.from[1], h.to[1])]
      const box = [x, y, Math.abs(h.to[0] - h.from[0]), Math.abs(h.to[1] - h.from[1])]
      const within = (b) =>
        b[0] >= box[0] && b[1] >= box[1] && b[0] + b[2] <= box[0] + box[2] && b[1] + b[3] <= box[1] + box[3]
      this.picked = this.parts()
        .filter((q) => this.free(q.unit) && within(q.box))
        .map((q) => q.unit)
      this.drawClose()
      const over = this.figure(this.close).querySelector('[data-over]')
      over.append(
        Aspen.el('rect', {
          class: 'drawn-box',
          x: box[0],
          y: box[1],
          width: box[2],
          height: box[3],
          'stroke-width': 1 / this.scale(this.info(this.close)),
        }),
      )
    },
    // dropBack lets go without a change
    dropBack() {
      if (!this.held) return
      this.held = null
      this.showWaiting()
      if (this.close) this.layers()
    },
    letGo(e) {
      const h = this.held
      if (!h || h.kind === 'pan') {
        this.held = null
        return
      }
      if (!h.moved) {
        this.held = null
        if (h.kind === 'box') this.layers()
        else if (e.pointerType === 'touch') this.tapped(e, h.unit ?? h.units?.[0])
        return
      }
      h.to = this.at(e) // the last way of the hand may not have been drawn yet
      this.follow(h)
      this.held = null
      if (h.kind === 'box') {
        this.layers()
        this.closeSlip()
      } else if (h.kind === 'crop') this.letPictureGo(h)
      else if (h.kind === 'whole') this.sendWhole(h)
      else this.sendPlaces(h.units, h.frames)
    },
    // sendPlaces sends where parts stand now: place, size and angle
    sendPlaces(units, frames) {
      const p = this.info(this.close)
      const short = Math.min(p.w, p.h)
      const round = (v, n) => Math.round(v * n) / n
      const edits = []
      for (const u of units) {
        const q = this.part(u)
        const m = frames.get(u)
        const offset = [m.cx - q.was[0] - q.was[2] / 2, m.cy - q.was[1] - q.was[3] / 2].map((v) =>
          round(v / short, 1e5),
        )
        const scale = round(m.w / q.was[2], 1e5)
        if (offset.some((v, i) => Math.abs(v - q.offset[i]) > 1e-6)) edits.push(this.edit(u, 'offset', offset))
        if (this.sidesApart(q) && Math.abs((m.w * q.was[3]) / (m.h * q.was[2]) - 1) > 0.002) {
          const size = [m.w, m.h].map((v) => round(v / short / q.scale, 1e5))
          const at = [(q.was[0] + q.was[2] / 2) / p.w, (q.was[1] + q.was[3] / 2) / p.h]
          const value = { ...q.part, fit: undefined, at, size }
          edits.push({ reach: q.partReach, slot: u, property: 'part', value })
        } else if (Math.abs(scale - q.scale) > 1e-6) edits.push(this.edit(u, 'scale', scale))
        if (m.rotate !== q.rotate) edits.push(this.edit(u, 'rotate', m.rotate))
      }
      if (edits.length && ['set', 'channel'].includes(this.closeReach)) {
        this.closeReach = 'class'
        this.say(`Places reach pieces of one shape: ${this.state.close.shape}`)
        this.closeSlip()
      }
      this.sendHand(edits)
    },
    // edit is a change by hand within the reach that is set, as wide as it can be
    edit(slot, property, value) {
      return { reach: this.handReach(property), slot, property, ...(value === undefined ? {} : { value }) }
    },
    handReach(property) {
      const p = this.info(this.close)
      const shape = 'class:' + this.state.close.class
      const onCanvas = ['offset', 'scale', 'rotate', 'breaks'].includes(property)
      const wide = { set: 'set', channel: 'channel:' + p.channel }[this.closeReach]
      if (wide) return onCanvas ? shape : wide
      return this.closeReach === 'class' ? shape : 'piece:' + p.id
    },
    // sendHand sends changes as one step; what was moved stays where the hand left it until
    // the answer is drawn
    sendHand(edits) {
      const sent = edits.length && this.box.put({ hand: { placement: this.close, edits } }, { base: this.state.seq })
      this.showWaiting()
      this.layers()
      return sent || Promise.resolve()
    },
    // handClash tells of a property that was changed here and elsewhere: there it stands as
    // it was changed there, until somebody wants it as it was here
    handClash({ theirs, yours, seq }, hand) {
      const said = (v) => JSON.stringify(v?.value ?? v ?? 'the rule').replace(/"/g, '')
      const slots = [...new Set(hand.edits.map((e) => this.part(e.slot)?.label ?? e.slot))].join(', ')
      notice(`${slots}: changed here to ${said(yours)} and in another tab to ${said(theirs)}, where it stands now.`, {
        stays: true,
        bad: true,
        label: 'Have it as it was here',
        action: () => this.box.put({ hand }, { base: seq }),
      })
    },
    // nudge moves by px as seen on the screen
    nudge(dx, dy) {
      const k = this.scale(this.info(this.close))
      const units = this.picked.filter((u) => this.free(u))
      if (!units.length) return
      // keys that come before the answer add up
      if (this.nudged?.units.join() !== units.join()) this.settleNudge()
      const base =
        this.nudged ?? { units, frames: new Map(units.map((u) => [u, this.frameOf(this.part(u))])), x: 0, y: 0 }
      base.x += dx / k
      base.y += dy / k
      this.nudged = base
      this.showNudged()
      clearTimeout(this.nudging)
      this.nudging = setTimeout(() => this.settleNudge(), 250)
    },
    // settleHand sends what keys and the wheel have moved and was not sent yet
    settleHand() {
      this.settleNudge()
      this.settleZoom()
    },
    settleNudge() {
      const n = this.nudged
      clearTimeout(this.nudging)
      this.nudged = null
      if (!n) return
      this.sendPlaces(n.units, this.nudgedTo(n))
      this.say(n.units.map((u) => this.told(this.part(u))).join('; '))
    },
    nudgedTo({ frames, x, y }) {
      return new Map([...frames].map(([u, m]) => [u, { ...m, cx: m.cx + x, cy: m.cy + y }]))
    },
    showNudged() {
      for (const [u, m] of this.nudgedTo(this.nudged)) this.show(u, m)
    },
    alignPicked(how) {
      const units = this.picked.filter((u) => this.free(u))
      const frames = new Map(units.map((u) => [u, this.frameOf(this.part(u))]))
      const boxes = units.map((u) => this.part(u).box)
      const ways =
        how === 'across' || how === 'down'
          ? measure.distributed(boxes, how === 'down' ? 1 : 0)
          : measure.aligned(boxes, how)
      units.forEach((u, i) => {
        const m = frames.get(u)
        frames.set(u, { ...m, cx: m.cx + ways[i][0], cy: m.cy + ways[i][1] })
      })
      this.sendPlaces(units, frames)
    },
  }
}
