// What was changed by hand and has no answer yet: parts are as the hand left them, on the
// screen and for whatever is changed next. These are methods of the Mat's component (mat.js).
Aspen.closeWaiting = {
  // unanswered are the changes by hand that are on their way, the oldest first; what undo
  // leads to is not known here
  unanswered() {
    let edits = []
    for (const body of this.box?.bodies() ?? []) {
      if (body.revert || body.liftAll) edits = []
      else if (body.hand?.placement === this.close) edits.push(...body.hand.edits)
    }
    return edits
  },
  // parts are the parts of the piece as the hand left them
  parts() {
    const drawn = this.state.close?.parts ?? []
    const edits = this.unanswered()
    if (!edits.length) return drawn
    return drawn.map((q) => {
      const own = edits.filter((e) => e.slot === q.unit)
      return own.length ? this.asLeft(q, own) : q
    })
  },
  part(unit) {
    return this.parts().find((q) => q.unit === unit)
  },
  drawnPart(unit) {
    return this.state.close?.parts.find((q) => q.unit === unit)
  },
  // asLeft is a part with changes that are on their way
  asLeft(drawn, edits) {
    const rule = { offset: [0, 0], scale: 1, rotate: 0, opacity: 1, crop: drawn.crop, part: drawn.part }
    const q = { ...drawn, hand: [...drawn.hand] }
    for (const { reach, property, value } of edits) {
      q.hand = q.hand.filter((h) => h.property !== property)
      if (value !== undefined) q.hand.push({ reach, property, value, label: property })
      if (property in rule) q[property] = value ?? rule[property]
      if (property === 'part' && value?.size) q.was = q.before = this.solvedBox(value)
      if (property === 'sides' || property === 'fit') q.was = this.sidedBox(q)
    }
    if (q.size) q.size = (drawn.size * q.scale) / drawn.scale
    q.box = this.boxOfFrame(this.frameOf(q))
    return q
  },
  // solvedBox is where an added part stands before anything else is changed of it
  solvedBox({ at, size, fit }) {
    const p = this.info(this.close)
    const [w, h] = size.map((v) => v * Math.min(p.w, p.h))
    const box = [at[0] * p.w - w / 2, at[1] * p.h - h / 2, w, h]
    if (fit === 'whole' || fit === 'wide') [box[0], box[2]] = [0, p.w]
    if (fit === 'whole' || fit === 'high') [box[1], box[3]] = [0, p.h]
    return box
  },
  // showWaiting shows parts where the hand left them, over what was drawn before; what has
  // its answer stands as it is drawn
  showWaiting() {
    if (!this.close || !this.state.close) return
    const changed = new Set(this.unanswered().map((e) => e.slot))
    for (const { unit } of this.state.close.parts) {
      const q = this.part(unit)
      if (this.held?.moved && this.held.frames?.has(unit)) this.show(unit, this.held.frames.get(unit), this.held.crop)
      else if (this.nudged?.frames.has(unit)) this.showNudged()
      else if (this.zooming?.unit === unit) this.show(unit, this.frameOf(q), this.zooming.crop)
      else this.show(unit, changed.has(unit) ? this.frameOf(q) : null, q.crop)
    }
  },
  // show moves what is drawn of a part to a frame, and what shows of its picture to a crop;
  // null for as it is drawn
  show(unit, frame, crop) {
    const q = this.drawnPart(unit)
    if (!q) return
    const d = this.frameOf(q)
    const m = frame ?? d
    const same = m.cx === d.cx && m.cy === d.cy && m.w === d.w && m.h === d.h && m.rotate === d.rotate
    // its own sides grow, whichever way it is turned; words keep their size in another width
    const [wide, high] = [m.w / d.w, m.h / d.h]
    const across = m.apart && q.sides === 'across' ? high : wide
    const down = q.sides === 'both' ? high : across
    const grow = `rotate(${m.rotate}) scale(${across} ${down}) rotate(${-d.rotate})`
    const move = `translate(${m.cx} ${m.cy}) ${grow} translate(${-d.cx} ${-d.cy})`
    for (const g of this.groupsOf(unit)) {
      if (same) g.removeAttribute('transform')
      else g.setAttribute('transform', move)
      for (const img of q.crop ? g.querySelectorAll('image') : []) this.showCrop(img, q.crop, crop ?? this.part(unit).crop)
    }
  },
  // showCrop moves a picture in its frame: the whole of it is not on the page, what shows is
  // slid and sized as far as it goes
  showCrop(img, [dx, dy, dw, dh], [x, y, w, h]) {
    if (x === dx && y === dy && w === dw && h === dh) {
      img.removeAttribute('transform')
      return
    }
    // as the picture stands before its frame is turned, mirrored and sized
    const [left, top, wide, high] = ['x', 'y', 'width', 'height'].map((name) => Number(img.getAttribute(name)))
    const [sx, sy] = [dw / w, dh / h]
    const [tx, ty] = [((dx - x) / w) * wide, ((dy - y) / h) * high]
    img.setAttribute('transform', `matrix(${sx} 0 0 ${sy} ${left + tx - sx * left} ${top + ty - sy * top})`)
  },
}
