// Moving, sizing and turning parts in the Close-up. While the hand moves nothing is asked
// of the server: the drawn groups of the part go with it; when it lets go one change goes
// out, and the answer settles in the place of what was moved. These are methods of the
// Mat's component (mat.js).
{
  const { measure, notice } = Aspen
  const { pull } = measure

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
        guides.equal = [s.across.equal, s.down.equal]
      }
      guides.far = this.distances(moved, others, guides.equal)
      for (const u of h.units) {
        const m = h.start.get(u)
        h.frames.set(u, { ...m, cx: m.cx + dx, cy: m.cy + dy })
        this.show(u, h.frames.get(u))
      }
      this.drawClose(guides)
    },
    // distances are lines to what is nearest beside a box and below or above it; where both gaps
    // are equal, across or down, to both
    distances(box, others, equal = []) {
      const [sx, sy, sw, sh] = this.info(this.close).safe
      const [x, y, w, h] = box
      const out = []
      const [even, level] = equal
      if (even) for (const i of [0, 2]) out.push([even[i], y + h / 2, even[i + 1], y + h / 2])
      if (level) for (const i of [0, 2]) out.push([x + w / 2, level[i], x + w / 2, level[i + 1]])
      const across = measure.gaps(box, others, 0)
      const down = measure.gaps(box, others, 1)
      const left = x - (across.before ?? sx)
      const right = (across.after ?? sx + sw) - x - w
      const nearer = right >= 1 && (right <= left || left < 1)
      if (!even && nearer) out.push([x + w, y + h / 2, across.after ?? sx + sw, y + h / 2])
      else if (!even && left >= 1) out.push([across.before ?? sx, y + h / 2, x, y + h / 2])
      const up = y - (down.before ?? sy)
      const below = (down.after ?? sy + sh) - y - h
      if (level) return out
      if (up >= 1 && (up <= below || below < 1)) out.push([x + w / 2, down.before ?? sy, x + w / 2, y])
      else if (below >= 1) out.push([x + w / 2, y + h, x + w / 2, down.after ?? sy + sh])
      return out
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
    sendPlaces(units, frames, more = []) {
      const p = this.info(this.close)
      const short = Math.min(p.w, p.h)
      const round = (v, n) => Math.round(v * n) / n
      const edits = [...more]
      for (const u of units) {
        const q = this.part(u)
        const m = frames.get(u)
        if (m.apart && !q.part) {
          edits.push(...this.sidesTo(q, m, short))
          continue
        }
        const scale = round(m.w / q.was[2], 1e5)
        const [px, py] = this.pivot(q)
        const [dx, dy] = this.fromPivot(q, scale, m.rotate)
        const offset = [m.cx - px - dx, m.cy - py - dy].map((v) => round(v / short, 1e5))
        if (offset.some((v, i) => Math.abs(v - q.offset[i]) > 1e-6)) edits.push(this.edit(u, 'offset', offset))
        if (m.apart) {
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
      const onCanvas = ['offset', 'scale', 'sides', 'rotate', 'breaks'].includes(property)
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
