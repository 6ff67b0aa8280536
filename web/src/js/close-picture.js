// Pictures in their frames in the Close-up: moved by the mouse, more or less of them by the
// wheel, what stays whole marked. These are methods of the Mat's component (mat.js).
{
  // within keeps a share of a picture inside of it
  const within = (v, size) => Math.min(1 - size, Math.max(0, v))

  Aspen.closePicture = {
    marking: '', // the picture on which what stays whole is marked next

    carryPicture(h) {
      const q = this.part(h.unit)
      const m = h.start.get(h.unit)
      const [x, y, w, hh] = q.crop
      const [dx, dy] = this.inFrame(q, m, [h.to[0] - h.from[0], h.to[1] - h.from[1]])
      h.crop = [within(x - dx * w, w), within(y - dy * hh, hh), w, hh]
      this.show(h.unit, m, h.crop)
      this.drawClose({ thirds: [m.cx - m.w / 2, m.cy - m.h / 2, m.w, m.h] })
    },
    // inFrame is a way on the piece as a share of a frame, along the sides of the picture in it:
    // it may be turned and mirrored
    inFrame(q, m, [dx, dy]) {
      const r = (-m.rotate * Math.PI) / 180
      const flip = this.value(q, 'flip')
      const [across, down] = [flip === 'across' || flip === 'both', flip === 'down' || flip === 'both']
      const u = (dx * Math.cos(r) - dy * Math.sin(r)) / m.w
      const v = (dx * Math.sin(r) + dy * Math.cos(r)) / m.h
      return [across ? -u : u, down ? -v : v]
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
      const on = ([x, y]) => {
        const [u, v] = this.inFrame(q, m, [x - m.cx, y - m.cy])
        return [within(q.crop[0] + (u + 0.5) * q.crop[2], 0), within(q.crop[1] + (v + 0.5) * q.crop[3], 0)]
      }
      const [a, b] = [on(h.box), on([h.box[0] + h.box[2], h.box[1] + h.box[3]])]
      const [x, y] = [Math.min(a[0], b[0]), Math.min(a[1], b[1])]
      const box = [x, y, Math.abs(a[0] - b[0]), Math.abs(a[1] - b[1])].map((v) => Math.round(v * 1e4) / 1e4)
      if (box[2] < 0.02 || box[3] < 0.02)
        Aspen.notice('That box is too small. Draw it around the whole of it.', { bad: true })
      else this.sendHand([this.edit(q.unit, 'whole', box)])
    },
    letPictureGo(h) {
      if (h.crop) this.sendCrop(h.unit, h.crop)
    },
    sendCrop(unit, crop) {
      const value = crop.map((v) => Math.round(v * 1e4) / 1e4)
      this.sendHand([this.edit(unit, 'crop', value)])
    },
    // zoomPicture shows more or less of a picture about a place of the piece, or about the
    // middle of what shows
    zoomPicture(q, by, at) {
      if (this.value(q, 'locked')) {
        this.say(`${q.label} is locked`)
        return
      }
      if (this.zooming?.unit !== q.unit) this.settleZoom()
      const [x, y, w, h] = this.zooming?.crop ?? q.crop
      const most = Math.min(1 / w, 1 / h)
      const least = Math.max(0.02 / w, 0.02 / h)
      const s = Math.min(most, Math.max(least, by))
      const m = this.frameOf(q)
      const [u, v] = at ? this.inFrame(q, m, [at[0] - m.cx, at[1] - m.cy]) : [0, 0]
      const crop = [
        within(x + (u + 0.5) * w * (1 - s), w * s),
        within(y + (v + 0.5) * h * (1 - s), h * s),
        w * s,
        h * s,
      ]
      this.zooming = { unit: q.unit, crop }
      this.show(q.unit, m, crop)
      clearTimeout(this.zoomed)
      this.zoomed = setTimeout(() => this.settleZoom(), 150)
    },
    settleZoom() {
      const z = this.zooming
      clearTimeout(this.zoomed)
      this.zooming = null
      if (z) this.sendCrop(z.unit, z.crop)
    },
  }
}
