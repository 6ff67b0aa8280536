// Choosing on the Mat: a part, a piece, several pieces; a picture moved in its frame. These
// are methods of the Mat's component (mat.js).
{
  const { post, notice } = Aspen

  Aspen.matChoose = {
    press(e) {
      const fig = e.target.closest('[data-piece]')
      if (!fig || this.close || e.target.closest('a, button')) return
      const hit = e.target.closest('.hit')
      const piece = fig.dataset.piece
      const same = hit && this.active?.piece === piece && this.active?.slot === hit.dataset.slot
      if (same && this.active.field && this.stops.length && (e.shiftKey || e.detail > 1)) {
        // within the words
        e.preventDefault()
        this.selectWith(piece, e)
        return
      }
      if (e.ctrlKey || e.metaKey || e.shiftKey) {
        e.preventDefault()
        this.choosing(piece)
        return
      }
      if (fig.classList.contains('done')) {
        this.sayDone(piece)
        return
      }
      if (!hit) {
        this.leave()
        return
      }
      e.preventDefault()
      if (same && hit.dataset.slot.startsWith('picture')) {
        this.holdPicture(piece, hit.dataset.slot, e)
        return
      }
      this.choose(piece, hit.dataset.slot, e)
      if (this.active?.field) this.dragged = { kind: 'words', piece, from: e }
    },
    // drag selects words from where the mouse went down, or moves a picture
    drag(e) {
      const d = this.dragged
      if (!d || !(e.buttons & 1)) return
      if (d.kind === 'picture') {
        this.movePicture(e)
        return
      }
      if (!this.stops.length || !this.active?.field) return
      const [i, j] = [this.nearest(d.piece, d.from), this.nearest(d.piece, e)]
      this.field.setSelectionRange(Math.min(i, j), Math.max(i, j), j < i ? 'backward' : 'forward')
      this.drawCaret()
    },
    drop() {
      this.dragged = null
    },
    // a finished piece says why nothing happens, and what can be done
    sayDone(piece) {
      const p = this.info(piece)
      notice(`${p.name} is finished: it stays as it is, whatever the brief or the kit does.`, {
        stays: true,
        label: 'Open it again',
        link: p.moved ? { href: `/briefs/${this.id}/forward`, label: 'Bring it forward' } : null,
        action: async () => {
          await post(`/briefs/${this.id}/finish?back=1&piece=${encodeURIComponent(p.key)}`, {})
          location.reload()
        },
      })
    },
    holdPicture(piece, slot, e) {
      const { crop, box } = this.pictureOf(piece, slot)
      this.dragged = { kind: 'picture', piece, slot, x: e.clientX, y: e.clientY, crop, box }
    },
    // pictureOf is a picture as it was last moved, answered or not
    pictureOf(piece, slot) {
      const pic = this.info(piece).pictures.find((q) => q.slot === slot)
      const moves = this.box.bodies().filter((b) => b.move?.slot === slot && b.move.reach === this.reachOf(this.active))
      return pic && { ...pic, crop: moves.at(-1)?.move.crop ?? pic.crop }
    },
    movePicture(e) {
      const d = this.dragged
      const k = this.scale(this.info(d.piece))
      this.cropTo(
        d.slot,
        d.crop,
        -((e.clientX - d.x) / k / d.box[2]) * d.crop[2],
        -((e.clientY - d.y) / k / d.box[3]) * d.crop[3],
      )
    },
    cropTo(slot, [x, y, w, h], dx, dy) {
      const within = (v, size) => Math.min(1 - size, Math.max(0, v))
      const crop = [within(x + dx, w), within(y + dy, h), w, h]
      this.box.put(
        { move: { reach: this.reachOf(this.active), slot, crop } },
        { tag: `move ${slot} ${this.reachOf(this.active)}` },
      )
    },
    choose(piece, slot, e) {
      this.stop(piece) // what one works on stands still
      this.shutFindings()
      const p = this.info(piece)
      const same = this.active?.piece === piece && this.active?.slot === slot
      const w = p.words.find((x) => x.slot === slot)
      const adjusted = slot.startsWith('picture')
        ? (p.adjusted[slot + ' crop'] ?? p.adjusted.picture)
        : p.adjusted[slot]
      const reach = same
        ? this.active.reach
        : !adjusted || adjusted === 'set'
          ? 'set'
          : adjusted.startsWith('piece')
            ? 'piece'
            : 'channel'
      this.active = { piece, slot, field: w?.field, reach, text: w?.text }
      this.stops = same ? this.stops : []
      if (!w) {
        this.field.blur()
      } else {
        if (!same) {
          this.unecho()
          this.echo = null
          this.field.value = w.text
          this.drawn = w.text
          this.known = this.state.seq
        }
        this.field.focus({ preventScroll: true })
        const text = w.text
        const put = () => {
          if (this.field.value !== text || this.active?.slot !== slot) return
          const i = e ? this.nearest(piece, e) : this.field.value.length
          this.field.setSelectionRange(i, i)
          this.drawCaret()
        }
        if (same && this.stops.length) put()
        else this.sync({ caret: { placement: piece, slot, text: w.text } }).then(put)
      }
      this.layers()
      this.openSlip()
    },
    choosePiece(piece, e) {
      if (e && (e.ctrlKey || e.metaKey || e.shiftKey)) {
        this.choosing(piece)
        return
      }
      this.shutFindings()
      this.active = { piece, slot: 'piece', reach: 'piece' }
      this.stops = []
      this.field.blur()
      this.layers()
      this.openSlip()
    },
    // several pieces at once
    choosing(piece) {
      if (!this.chosen.delete(piece)) this.chosen.add(piece)
      this.leave()
      this.bar.hidden = !this.chosen.size
      this.bar.querySelector('[data-chosen-count]').textContent = this.chosen.size + ' chosen'
      this.layers()
    },
    barClick(e) {
      const b = e.target.closest('button')
      if (b) this.withChosen(b.dataset.chosenDo)
    },
    async withChosen(what) {
      const keys = [...this.chosen]
      const left = this.state.pieces.filter((p) => !this.chosen.has(p.id))
      const key = (p) => p.key
      if (what === 'download') {
        location.href = `/briefs/${this.id}/handover?` + left.map((p) => 'skip=' + encodeURIComponent(key(p))).join('&')
        return
      }
      if (what === 'finish') {
        await post(
          `/briefs/${this.id}/finish?` + keys.map((k) => 'piece=' + encodeURIComponent(key(this.info(k)))).join('&'),
          {},
        )
        location.reload()
        return
      }
      if (what === 'out') {
        if (!left.length) {
          notice('A set keeps at least one piece.')
          return
        }
        this.sync({ places: [...new Set(left.map((p) => p.id.split('+')[0]))] })
      }
      this.chosen.clear()
      this.bar.hidden = true
      this.layers()
    },
    // stepOut leaves the words and stays on their piece
    stepOut() {
      const at = this.active?.piece || this.foundOn
      this.left = this.active && { piece: this.active.piece, reach: this.active.reach }
      const fig = at && this.figure(at)
      this.leave()
      fig?.focus({ preventScroll: true })
    },
    leave() {
      this.shutFindings()
      if (!this.active) return
      this.unecho()
      this.dragged = null
      this.active = null
      this.stops = []
      this.slip.hidden = true
      this.field.blur()
      this.layers()
    },
  }
}
