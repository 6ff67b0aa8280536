// The keyboard in the Close-up and its map. These are methods of the Mat's component
// (mat.js).
{
  const { el, notice } = Aspen

  const keys = [
    ['Tab, Shift Tab', 'the next part, the one before, in reading order'],
    ['Enter', 'type in the words; while typing, end the line here'],
    ['Arrows', 'move by 1 px as seen, with Shift by 10'],
    ['Drag', 'move; with Alt nothing snaps, with Shift straight'],
    ['Drag a picture', 'move it in its frame, with Ctrl the frame'],
    ['Wheel on a picture', 'show more or less of it'],
    ['+ and −', 'larger and smaller on the screen; with Ctrl the wheel'],
    ['1, 0, F', 'the size it is seen, up close to the part, all of it'],
    ['Space and drag', 'move the drawing'],
    [', and .', 'the piece before, the next piece'],
    ['[ and ]', 'further to the back, further to the front'],
    ['E', 'to all that can be changed of the part; Escape goes back'],
    ['Ctrl B, I, U', 'bold, italic, underlined: the words that are selected, else all of the part'],
    ['K, Shift K', 'the next colour of the kit that reads here, the one before'],
    ['A', 'add a part'],
    ['B', 'back to the rule'],
    ['Ctrl D', 'the part twice'],
    ['Ctrl C, Ctrl V', 'copy parts, put them here or on another piece'],
    ['Ctrl A', 'take hold of all parts'],
    ['Delete', 'leave the part out'],
    ['R', 'the next reach: all, channel, shape, piece'],
    ['L C O T P', 'next layout, colourway, logo, type, picture; with Shift back'],
    ['Ctrl Z, Ctrl Shift Z', 'undo, redo'],
    ['Escape', 'let go; back to the Mat'],
    ['N', 'give the part a name'],
    ['V', 'another try at the piece, beside it'],
    ['H', 'what was done; go back to any of it'],
    ['Drag a name', 'in front of another part, or behind it'],
    ['Two fingers', 'larger and smaller; on a picture, more or less of it'],
    ['?', 'these keys'],
  ]

  Aspen.closeKeys = {
    spaced: false,
    keySheet: null,

    openCloseKeys() {
      addEventListener('keyup', (e) => {
        if (e.key === ' ') this.space(false)
      })
      addEventListener('resize', () => {
        if (this.close) this.setZoom(this.zoom, true)
      })
      this.$refs.stage.addEventListener('scroll', () => {
        if (this.close && this.state.close) this.callOut()
      })
      this.$refs.stage.addEventListener('contextmenu', (e) => {
        const unit = this.close && this.under(this.at(e))
        if (!unit) return
        e.preventDefault()
        if (!this.picked.includes(unit)) this.pick(unit)
        this.closeSlip()
        this.slip.querySelector('button')?.focus()
      })
    },
    space(on) {
      this.spaced = on
      document.body.classList.toggle('panning', on)
    },
    // closeKey is a key in the Close-up; true where it was for it
    closeKey(e) {
      if (e.target.matches('input, textarea, select')) return false
      const held = this.picked.filter((u) => this.part(u))
      const mod = e.ctrlKey || e.metaKey
      const arrow = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key]
      const inSlip = e.target.closest('[data-slip]')
      let act
      const run = mod && { b: 'bold', i: 'italic', u: 'underline' }[e.key.toLowerCase()]
      const set = held.length === 1 && this.part(held[0])
      if (run && (set.kind === 'text' || set.kind === 'button')) act = () => this.setRun(set, run)
      else if (mod && e.key.toLowerCase() === 'd') act = () => this.twice()
      else if (mod && e.key.toLowerCase() === 'a') act = () => this.pickAll()
      else if (mod || e.altKey) return false
      else if (e.key === 'Escape') act = () => this.stepBack()
      else if (inSlip) return false
      else if (arrow && held.length)
        act = () => this.nudge(arrow[0] * (e.shiftKey ? 10 : 1), arrow[1] * (e.shiftKey ? 10 : 1))
      else if (e.key === 'Tab' && (e.target === this.$refs.close || e.target === document.body))
        act = () => this.walk(e.shiftKey ? -1 : 1)
      else if (e.key === 'Enter' && held.length === 1 && !e.target.matches('button, a'))
        act = () => this.typeIn(held[0])
      else if ((e.key === 'Delete' || e.key === 'Backspace') && held.length) act = () => this.removePicked()
      else if (e.key === ' ' && !e.target.matches('button, a')) act = () => this.space(true)
      else
        act = {
          '+': () => this.zoomClose(this.closeZoom * 1.25),
          '=': () => this.zoomClose(this.closeZoom * 1.25),
          '-': () => this.zoomClose(this.closeZoom / 1.25),
          1: () => this.seenClose(),
          0: () => this.zoomToPart(),
          f: () => this.zoomClose(1),
          ',': () => this.stepClose(-1),
          '.': () => this.stepClose(1),
          '[': () => this.orderPicked(-1),
          ']': () => this.orderPicked(1),
          a: () => this.openAdd(),
          e: () => this.slip.querySelector('.row button, .row input, .row select')?.focus(),
          k: () => this.nextColour(e.shiftKey ? -1 : 1),
          h: () => this.openPast(),
          n: () => held.length === 1 && this.rename(held[0]),
          v: () => this.tryBeside(),
          b: () => held.forEach((u) => this.liftUnit(u)),
          r: () => this.nextReach(),
          '?': () => this.showKeys(),
        }[e.key.length === 1 ? e.key.toLowerCase() : e.key]
      if (!act) return false
      e.preventDefault()
      act()
      return true
    },
    stepBack() {
      if (this.keySheet || this.adds) {
        this.hideKeys()
        if (this.adds) this.closeAdd()
      } else if (this.active) {
        this.leave()
        this.closeSlip()
        this.$refs.close.focus({ preventScroll: true })
      } else if (this.picked.length) this.pick('')
      else this.shutClose()
    },
    // nextColour gives what is held the next colour of the kit that reads where it stands
    nextColour(by) {
      const dots = [...this.slip.querySelectorAll('[data-paint=fill]')]
      const good = dots.filter((d) => !d.classList.contains('faint'))
      const list = good.length > 1 ? good : dots
      if (!list.length) return
      const at = list.findIndex((d) => d.getAttribute('aria-pressed') === 'true')
      const next = list[(at + by + list.length) % list.length]
      next.click()
      this.say(next.title)
    },
    walk(by) {
      const list = this.reading().map((q) => q.unit)
      const at = list.indexOf(this.picked[0])
      this.pick(list[at < 0 ? (by > 0 ? 0 : list.length - 1) : (at + by + list.length) % list.length])
    },
    pickAll() {
      this.picked = this.parts()
        .filter((q) => q.moves)
        .map((q) => q.unit)
      this.layers()
      this.closeSlip()
    },
    nextReach() {
      const order = ['set', 'channel', 'class', 'piece']
      this.closeReach = order[(order.indexOf(this.closeReach) + 1) % order.length]
      this.closeSlip()
      const p = this.info(this.close)
      this.say(
        'Changes reach ' +
          { set: 'all pieces', channel: this.channelOf(p.id), class: this.state.close.shape, piece: 'this piece' }[
            this.closeReach
          ],
      )
    },
    // zoomToPart brings the part that is held close
    zoomToPart() {
      const q = this.part(this.picked[0])
      if (!q) return
      const room = this.$refs.room
      const k = Math.min((room.clientWidth - 560) / q.box[2], (room.clientHeight - 80) / q.box[3])
      this.zoomClose((this.closeZoom * k) / this.scale(this.info(this.close)))
      const art = this.figure(this.close).querySelector('.art')
      const now = this.scale(this.info(this.close))
      const stage = this.$refs.stage
      stage.scrollTo(art.offsetLeft + q.box[0] * now - 240, art.offsetTop + q.box[1] * now - 40)
    },
    // liftPiece gives the piece back to the rule, and offers the same for the whole set
    async liftPiece() {
      const here = this.state.close
      const some = here?.parts.some((q) => q.hand.length) || here?.gone.length
      if (some) await this.box.put({ liftAll: this.close })
      if (this.state.pieces.some((p) => Object.keys(p.adjusted).some((k) => k.endsWith(' by hand'))))
        notice(some ? 'This piece is as the rule has it.' : 'Nothing of this piece alone was changed by hand.', {
          label: 'The whole set as well',
          action: () => this.box.put({ liftAll: 'set' }),
        })
      else if (!some) notice('Nothing here was changed by hand.')
    },
    calledOut(e) {
      const b = e.target.closest('button')
      if (b?.dataset.unit) {
        this.pick(b.dataset.unit, e.shiftKey)
        this.$refs.close.focus({ preventScroll: true })
      }
      if (b?.dataset.liftUnit) this.liftUnit(b.dataset.liftUnit)
      if (b?.dataset.clearUnit) {
        const q = this.state.close.gone.find((g) => g.unit === b.dataset.clearUnit)
        this.sendHand(q.hand.map((h) => ({ reach: h.reach, slot: q.unit, property: h.property })))
      }
      if (b?.dataset.showAgain) {
        const q = this.state.close.gone.find((g) => g.unit === b.dataset.showAgain)
        const h = q.hand.find((x) => x.property === 'hidden')
        this.sendHand([{ reach: h.reach, slot: q.unit, property: 'hidden' }])
      }
    },
    showKeys() {
      if (this.keySheet) {
        this.hideKeys()
        return
      }
      const list = el(
        'dl',
        {},
        keys.map(([k, what]) => el('div', {}, el('dt', {}, el('kbd', {}, k)), el('dd', {}, what))),
      )
      const search = el('input', { type: 'search', placeholder: 'Find a key', 'aria-label': 'Find a key' })
      search.addEventListener('input', () => {
        const want = search.value.toLowerCase()
        for (const div of list.children) div.hidden = !div.textContent.toLowerCase().includes(want)
      })
      this.keySheet = el(
        'div.adds-sheet.keys-sheet',
        { role: 'dialog', 'aria-label': 'Keys', 'data-slip': '' },
        el('header', {}, el('b', {}, 'Keys'), search),
        list,
      )
      this.keySheet.addEventListener('keydown', (e) => {
        if (e.key === 'Escape') this.hideKeys()
        e.stopPropagation()
      })
      this.$refs.close.append(this.keySheet)
      search.focus()
    },
    hideKeys() {
      this.keySheet?.remove()
      this.keySheet = null
      this.$refs.close.focus({ preventScroll: true })
    },
  }
}
