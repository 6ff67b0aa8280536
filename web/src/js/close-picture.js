// Pictures in their frames in the Close-up: moved by the mouse, more or less of them by the
// wheel. These are methods of the Mat's component (mat.js).
Aspen.closePicture = {
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
