// Pictures in their frames in the Close-up: moved by the mouse, more or less of them by the
// wheel, what stays whole marked. These are methods of the Mat's component (mat.js).
Aspen.closePicture = {
  marking: '', // the picture on which what stays whole is marked next

  carryPicture(h) {
    const q = this.part(h.unit)
    const m = h.start.get(h.unit)
    const [x, y, w, hh] = q.crop
    const within = (v, size) => Math.min(1 - size, Math.max(0, v))
    h.crop = [
      within(x - ((h.to[0] - h.from[0]) / m.w) * w, w),
      within(y - ((h.to[1] - h.from[1]) / m.h) * hh, hh),
      w,
      hh,
    ]
    // the whole picture is not on the page: what shows is slid as far as it goes
    const dx = ((x - h.crop[0]) / w) * m.w
    const dy = ((y - h.crop[1]) / hh) * m.h
    for (const g of this.groupsOf(h.unit))
      for (const img of g.querySelectorAll('image')) img.setAttribute('transform', `translate(${dx} ${dy})`)
    this.drawClose({ thirds: [m.cx - m.w / 2, m.cy - m.h / 2, m.w, m.h] })
  },
  // markWhole lets the hand draw what of a picture is kept whole in every shape
  markWhole(unit) {
    this.marking = this.marking ? '' : unit
    document.body.classList.toggle('marking', !!this.marking)
    this.say(this.marking ? 'Draw a box around what must stay whole' : '')
    this.closeSlip()
  },
  carryWhole(h) {
    const [x, y] = [Math.min(h.from[0], h.to[0]), Math.min(h.from[1], h.to[1])]
    h.box = [x, y, Math.abs(h.to[0] - h.from[0]), Math.abs(h.to[1] - h.from[1])]
    this.drawClose({ hit: { box: h.box, says: 'stays whole' } })
  },
  // sendWhole says what of a picture is kept whole, as fractions of it
  sendWhole(h) {
    const q = this.part(h.unit)
    this.markWhole('')
    if (!q || !h.box) return
    const m = this.frameOf(q)
    const r = (-m.rotate * Math.PI) / 180
    const within = (v) => Math.min(1, Math.max(0, v))
    const on = ([x, y]) => {
      const [dx, dy] = [x - m.cx, y - m.cy]
      const u = (dx * Math.cos(r) - dy * Math.sin(r)) / m.w + 0.5
      const v = (dx * Math.sin(r) + dy * Math.cos(r)) / m.h + 0.5
      return [within(q.crop[0] + u * q.crop[2]), within(q.crop[1] + v * q.crop[3])]
    }
    const [a, b] = [on(h.box), on([h.box[0] + h.box[2], h.box[1] + h.box[3]])]
    const [x, y] = [Math.min(a[0], b[0]), Math.min(a[1], b[1])]
    const box = [x, y, Math.abs(a[0] - b[0]), Math.abs(a[1] - b[1])].map((v) => Math.round(v * 1e4) / 1e4)
    if (box[2] < 0.02 || box[3] < 0.02)
      Aspen.notice('That box is too small. Draw it around the whole of it.', { bad: true })
    else this.sendHand([this.edit(q.unit, 'whole', box)])
  },
  letPictureGo(h) {
    if (!h.crop) return
    this.sendHand([
      this.edit(
        h.unit,
        'crop',
        h.crop.map((v) => Math.round(v * 1e4) / 1e4),
      ),
    ])
  },
  // zoomPicture shows more or less of a picture about the middle of what shows
  zoomPicture(q, by) {
    const [x, y, w, h] = this.zooming?.unit === q.unit ? this.zooming.crop : q.crop
    const most = Math.min(1 / w, 1 / h)
    const least = Math.max(0.02 / w, 0.02 / h)
    const s = Math.min(most, Math.max(least, by))
    const within = (v, size) => Math.min(1 - size, Math.max(0, v))
    const crop = [within(x + (w - w * s) / 2, w * s), within(y + (h - h * s) / 2, h * s), w * s, h * s]
    this.zooming = { unit: q.unit, crop }
    clearTimeout(this.zoomed)
    this.zoomed = setTimeout(() => {
      const z = this.zooming
      this.zooming = null
      this.sendHand([
        this.edit(
          z.unit,
          'crop',
          z.crop.map((v) => Math.round(v * 1e4) / 1e4),
        ),
      ])
    }, 150)
  },
}
