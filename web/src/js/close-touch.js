// Fingers in the Close-up: one moves what it touches or the drawing, two make larger and
// smaller, of a picture that is held more or less. These are methods of the Mat's
// component (mat.js).
{
  const middle = ([a, b]) => [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]
  const apart = ([a, b]) => Math.hypot(a[0] - b[0], a[1] - b[1])
  const twice = 350 // ms within which a second touch is a double one

  Aspen.closeTouch = {
    fingers: new Map(),
    pinch: null,
    touched: null, // the last short touch: {unit, at}

    // touch takes a finger in; true where it is the second one
    touch(e) {
      if (e.pointerType !== 'touch') return false
      this.fingers.set(e.pointerId, [e.clientX, e.clientY])
      if (this.fingers.size !== 2) return this.fingers.size > 2
      this.dropBack()
      const two = [...this.fingers.values()]
      const [x, y] = middle(two)
      const q = this.picked.length === 1 && this.part(this.picked[0])
      const on = q?.crop && this.under(this.at({ clientX: x, clientY: y })) === q.unit
      this.pinch = { picture: on ? q : null, far: apart(two), zoom: this.closeZoom, at: [x, y] }
      return true
    },
    // touchMoved follows fingers; true while there are two
    touchMoved(e) {
      if (!this.fingers.has(e.pointerId)) return false
      this.fingers.set(e.pointerId, [e.clientX, e.clientY])
      const p = this.pinch
      if (!p || this.fingers.size < 2) return !!p
      const two = [...this.fingers.values()]
      const [far, at] = [apart(two), middle(two)]
      if (p.picture) {
        this.zoomPicture(p.picture, (p.last ?? p.far) / far, this.at({ clientX: at[0], clientY: at[1] }))
        p.last = far
      } else {
        this.zoomAt((p.zoom * far) / p.far, at)
        this.$refs.stage.scrollBy(p.at[0] - at[0], p.at[1] - at[1])
        p.at = at
      }
      return true
    },
    // touchEnded lets a finger go; true while what two of them did ends
    touchEnded(e) {
      if (!this.fingers.delete(e.pointerId)) return false
      const pinched = !!this.pinch
      if (!this.fingers.size) this.pinch = null
      return pinched
    },
    // tapped is a short touch on a part; the second one in a row types in its words
    tapped(e, unit) {
      const before = this.touched
      this.touched = { unit, at: e.timeStamp }
      if (before?.unit === unit && e.timeStamp - before.at < twice && this.part(unit)?.field) {
        this.touched = null
        this.typeIn(unit, e)
      }
    },
    // zoomAt makes the drawing larger or smaller about a place on the screen
    zoomAt(z, [x, y]) {
      const before = this.at({ clientX: x, clientY: y })
      this.zoomClose(z)
      const k = this.scale(this.info(this.close))
      const r = this.figure(this.close).querySelector('.art > svg').getBoundingClientRect()
      this.$refs.stage.scrollBy(r.left + before[0] * k - x, r.top + before[1] * k - y)
    },
  }
}
