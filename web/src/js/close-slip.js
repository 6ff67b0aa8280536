// The slip of the Close-up: its first line is the reach, below stand the rows of
// close-rows; what is clicked and typed in it goes out as changes by hand. These are methods
// of the Mat's component (mat.js).
{
  const { el, measure, notice } = Aspen

  Aspen.closeUpSlip = {
    openCloseSlip() {
      this.slip.addEventListener('change', (e) => this.slipChanged(e))
      this.slip.addEventListener('pointerdown', (e) => {
        if (!e.target.closest('[data-before]')) return
        const unit = this.picked[0]
        this.showBefore(unit, true)
        addEventListener('pointerup', () => this.part(unit) && this.showBefore(unit, false), { once: true })
      })
      this.slip.addEventListener('keydown', (e) => {
        if (!this.close || e.key !== 'Escape') return
        e.stopPropagation()
        this.$refs.close.focus({ preventScroll: true })
        this.pick('')
      })
    },
    closeSlip() {
      if (!this.close) return
      if (this.slip.contains(document.activeElement) && document.activeElement.matches('input')) return
      const list = this.picked.map((u) => this.part(u)).filter(Boolean)
      this.slip.hidden = !list.length
      this.fitClose()
      if (!list.length) return
      this.foldSlip(false)
      const rows = list.length > 1 ? this.slipOfSeveral(list) : this.slipOfPart(list[0])
      this.slip.replaceChildren(...this.slipReach(list), ...rows.filter(Boolean))
      this.placeCloseSlip(list[0])
    },
    slipReach(list) {
      const p = this.info(this.close)
      const reach = this.active?.field ? this.active.reach : this.closeReach
      const channel = this.channelOf(p.id).toLowerCase()
      const names = [
        ['set', 'all'],
        ['channel', channel],
        ['class', this.state.close.shape],
        ['piece', 'this piece'],
      ]
      const hand = list.flatMap((q) => q.hand)
      const from = [...new Set(hand.map((h) => h.reach))]
      const now = {
        set: 'set',
        channel: 'channel:' + p.channel,
        class: 'class:' + this.state.close.class,
        piece: 'piece:' + p.id,
      }[reach]
      const further =
        list.length === 1 &&
        from.length === 1 &&
        from[0] !== now &&
        el('button.back', { 'data-further': from[0], 'data-to': now }, 'let what was changed reach as far')
      return [
        el(
          'div.reach',
          { role: 'group', 'aria-label': 'Change in' },
          names.map(([r, t]) => el('button', { 'data-reach': r, 'aria-pressed': r === reach ? 'true' : 'false' }, t)),
        ),
        further && el('div.row.further', {}, further),
      ].filter(Boolean)
    },
    // showBefore shows a picture without its dials and colours while the button is held
    showBefore(unit, on) {
      for (const g of this.groupsOf(unit))
        for (const img of g.querySelectorAll('image')) {
          img.dataset.after ??= img.getAttribute('href')
          const [path, query] = img.dataset.after.split('?')
          const keep = new URLSearchParams(query)
          keep.delete('dials')
          if (this.value(this.part(unit), 'duotone')) keep.delete('tone')
          img.setAttribute('href', on ? path + (keep.size ? '?' + keep : '') : img.dataset.after)
          if (!on) delete img.dataset.after
        }
    },
    // the slip stands to the right of the piece, beside the part
    placeCloseSlip(q) {
      if (this.compact()) {
        this.slip.style.left = this.slip.style.top = this.slip.style.maxHeight = '' // its sheet places it
        return
      }
      const art = this.figure(this.close).querySelector('.art').getBoundingClientRect()
      const room = this.$refs.room.getBoundingClientRect()
      const k = this.scale(this.info(this.close))
      this.slip.style.maxHeight = room.height - 20 + 'px'
      const height = this.slip.offsetHeight
      const top = Math.max(room.top + 10, Math.min(art.top + (q?.box[1] ?? 0) * k - 10, room.bottom - height - 10))
      this.slip.style.left =
        Math.min(Math.max(art.right + 22, room.left + 40), room.right - this.slip.offsetWidth - 10) + 'px'
      this.slip.style.top = top + 'px'
    },
    // closeClick is a click in the slip of the Close-up; true where it was its own
    closeClick(b) {
      const d = b.dataset
      const q = this.part(this.picked[0])
      if (d.reach) {
        this.closeReach = d.reach
        if (this.active?.field) this.active.reach = d.reach
        this.closeSlip()
        if (this.active?.field) this.field.focus({ preventScroll: true })
      } else if (d.further) this.box.put({ further: { placement: this.close, slot: q.unit, from: d.further, to: d.to } })
      else if (d.liftUnit) this.liftUnit(d.liftUnit)
      else if (d.run) this.setRun(q, d.run, d.value)
      else if (d.edge) this.edgeSet(q, d.edge, d.key, d.value)
      else if ('mirror' in d) this.mirror(q, d.mirror)
      else if (d.paint) this.sendHand(this.picked.map((u) => this.edit(u, d.paint, d.value)))
      else if (d.clear) this.liftProperty(q, d.clear)
      else if (d.fit) this.fitPart(q, d.fit)
      else if (d.toggle) {
        const value = d.value.startsWith('{') ? JSON.parse(d.value) : d.value
        if (b.getAttribute('aria-pressed') === 'true') this.liftProperty(q, d.toggle)
        else this.sendHand([this.edit(q.unit, d.toggle, value)])
      } else if ('lock' in d) {
        if (this.value(q, 'locked')) this.liftProperty(q, 'locked')
        else this.sendHand([this.edit(q.unit, 'locked', true)])
      } else if ('together' in d) {
        const group = 'g' + Math.random().toString(36).slice(2, 8)
        this.sendHand(this.picked.map((u) => this.edit(u, 'group', group)))
      } else if ('swap' in d) {
        const [a, b] = this.picked.map((u) => this.part(u))
        this.sendHand([this.edit(a.unit, 'level', b.level), this.edit(b.unit, 'level', a.level)])
      } else if ('apart' in d) this.picked.forEach((u) => this.liftProperty(this.part(u), 'group'))
      else if ('drop' in d) this.pickColour(d.drop)
      else if (d.intoKit) this.box.put({ intoKit: d.intoKit }).then(() => notice('The kit has this colour now.'))
      else if (d.faceIntoKit) this.faceIntoKit(q, d.faceIntoKit)
      else if (d.align) this.alignPicked(d.align)
      else if (d.order) this.orderPicked(Number(d.order))
      else if ('gone' in d) this.removePicked()
      else if (d.everywhere) this.forAllWords(q, d.everywhere)
      else if (d.behind) this.behind(q, d.behind)
      else if ('frameIcon' in d) this.openFrames(q)
      else if ('iconOf' in d) this.openIcons(q)
      else if ('markWhole' in d) this.markWhole(q.unit)
      else if (d.copyAs) this.copyAs(d.copyAs)
      else if ('twice' in d) this.twice()
      else if (d.pic) this.fillFrame(q, d.pic)
      else return false
      return true
    },
    // forAllWords gives all words on all pieces what was chosen by hand of one part
    forAllWords(q, property) {
      const value = this.value(q, property)
      const words = this.state.pieces.flatMap((p) => [...p.words, ...p.said].map((w) => w.slot))
      const edits = [...new Set([q.unit, ...words])].map((slot) => ({ reach: 'set', slot, property, value }))
      this.sendHand(edits)
    },
    // faceIntoKit has the kit set the level of these words in their face; they follow it then
    async faceIntoKit(q, family) {
      await this.box.put({ faceIntoKit: { level: q.level, family } })
      this.liftProperty(q, 'family')
      notice(`The kit sets its ${q.level} in ${family} now.`)
    },
    // behind changes what a colour behind words is of
    behind(q, to) {
      this.behindAs = to
      const from = to === 'band' ? 'highlight' : 'band'
      const h = q.hand.find((h) => h.property === from)
      if (h) this.sendHand([this.edit(q.unit, to, h.value), { reach: h.reach, slot: q.unit, property: from }])
      else this.closeSlip()
    },
    async pickColour(property) {
      const units = this.picked
      const take = (hex) => this.sendHand(units.map((u) => this.edit(u, property, hex.toUpperCase())))
      // where the browser has no dropper of its own, from the drawing's own pixels
      if (!window.EyeDropper) return Aspen.dropper(this.figure(this.close).querySelector('.art > svg'), take)
      try {
        take((await new window.EyeDropper().open()).sRGBHex)
      } catch {
        // let go of without a colour
      }
    },
    liftProperty(q, property) {
      const h = q.hand.find((h) => h.property === property)
      if (h) this.sendHand([{ reach: h.reach, slot: q.unit, property }])
    },
    liftUnit(unit) {
      const q = this.part(unit)
      if (q?.hand.length) this.sendHand(q.hand.map((h) => ({ reach: h.reach, slot: unit, property: h.property })))
    },
    slipChanged(e) {
      if (!this.close) return
      const d = e.target.dataset
      const q = this.part(this.picked[0])
      if (!q) return
      if (d.amount === 'width') {
        const p = this.info(this.close)
        const px = measure.amount(e.target.value, this.lineOf(q))
        e.target.blur()
        if (px >= 1 && px <= 0.5 * Math.min(p.w, p.h)) this.changePart(q, { width: px / Math.min(p.w, p.h) })
        else this.closeSlip()
      } else if (d.part === 'text' || d.amount === 'count') {
        const v = d.part
          ? { text: e.target.value.trim() }
          : { count: Math.round(measure.amount(e.target.value, q.part.count)) }
        e.target.blur()
        if (v.text || v.count > 0) this.changePart(q, v)
        else this.closeSlip()
      } else if (d.dialOf) {
        const dials = { ...this.value(q, 'dials'), [d.dialOf]: Number(e.target.value) / 100 }
        for (const k of Object.keys(dials)) if (!dials[k]) delete dials[k]
        if (Object.keys(dials).length) this.sendHand([this.edit(q.unit, 'dials', dials)])
        else this.liftProperty(q, 'dials')
      } else if (d.hand) {
        const v = e.target.value
        e.target.blur()
        if (v === '') this.liftProperty(q, d.hand)
        else this.sendHand([this.edit(q.unit, d.hand, d.hand === 'weight' ? Number(v) : v)])
      } else if (d.edgeFree) this.edgeSet(q, d.edgeFree, d.key, e.target.value.toUpperCase())
      else if (d.amount?.includes('.')) this.edgeTyped(q, d.amount, e.target)
      else if (d.free) this.sendHand(this.picked.map((u) => this.edit(u, d.free, e.target.value.toUpperCase())))
      else if (d.amount) this.amountTyped(q, d.amount, e.target)
    },
    // changePart changes what was added
    changePart(q, change) {
      return this.sendHand([{ reach: q.partReach, slot: q.unit, property: 'part', value: { ...q.part, ...change } }])
    },
    // amountTyped takes a number: where a part stands, how large, how far turned
    amountTyped(q, what, input) {
      const p = this.info(this.close)
      const now = {
        x: q.box[0],
        y: q.box[1],
        w: q.box[2],
        wide: q.box[2],
        high: q.box[3],
        type: q.size,
        rotate: q.rotate,
        opacity: q.opacity * 100,
        tracking: this.value(q, 'tracking') ?? 0,
        leading: this.value(q, 'leading') ?? 1.1,
      }[what]
      const v = measure.amount(input.value, now)
      input.blur()
      if (!input.value.trim()) {
        // an emptied field is as the rule has it
        const of = { x: 'offset', y: 'offset', w: 'scale', type: 'scale', wide: 'sides', high: 'sides' }[what] ?? what
        this.liftProperty(q, of) // what was added has no rule for its sides
        this.closeSlip()
        return
      }
      if (!Number.isFinite(v)) {
        notice(`“${input.value.slice(0, 40)}” is no number here. Write 24, +12, 50% or 1/3.`, { bad: true })
        this.closeSlip()
        return
      }
      const m = this.frameOf(q)
      const moved = {
        x: { cx: m.cx + v - q.box[0] },
        y: { cy: m.cy + v - q.box[1] },
        w: { w: (m.w * v) / q.box[2] },
        wide: this.frameAsWide(q, m, v),
        high: { h: v, apart: true },
        type: { w: (m.w * v) / q.size },
        rotate: { rotate: Math.round(v * 10) / 10 },
      }[what]
      if (what === 'opacity') this.sendHand([this.edit(q.unit, 'opacity', Math.max(0.02, Math.min(1, v / 100)))])
      else if (!moved) this.sendHand([this.edit(q.unit, what, v)])
      else {
        if (
          what === 'x' || what === 'y'
            ? Math.abs(v) > 20 * Math.min(p.w, p.h)
            : what !== 'rotate' && !(v > 0 && v < 1e5)
        ) {
          notice(`${input.value.slice(0, 40)} is too far or too large for this piece.`, { bad: true })
          this.closeSlip()
          return
        }
        this.sendPlaces([q.unit], new Map([[q.unit, { ...m, ...moved }]]))
      }
    },
    orderPicked(by) {
      const q = this.part(this.picked[0])
      if (!q) return
      const now = this.value(q, 'order') ?? 0
      this.sendHand([this.edit(q.unit, 'order', now + by)])
    },
    removePicked() {
      const edits = this.picked
        .map((u) => this.part(u))
        .filter((q) => q && this.free(q.unit))
        .flatMap((q) => (q.added ? this.deletion(q) : [this.edit(q.unit, 'hidden', true)]))
      const added = this.picked.map((u) => this.part(u)).filter((q) => q?.added && this.free(q.unit))
      this.picked = []
      this.sendHand(edits).then(() => this.closeSlip())
      if (!added.length) return
      const back = added.flatMap((q) => [
        { reach: q.partReach, slot: q.unit, property: 'part', value: q.part },
        ...q.hand.map((h) => ({ reach: h.reach, slot: q.unit, property: h.property, value: h.value })),
      ])
      notice(added.length > 1 ? `${added.length} parts are deleted.` : `${added[0].label} is deleted.`, {
        label: 'Bring it back',
        action: () => this.sendHand(back.filter((e, i) => back.findIndex((o) => o.slot === e.slot && o.property === e.property) === i)),
      })
    },
    // deletion takes an added part away with all that was changed of it
    deletion(q) {
      return [
        ...q.hand.map((h) => ({ reach: h.reach, slot: q.unit, property: h.property })),
        { reach: q.partReach, slot: q.unit, property: 'part' },
      ]
    },
  }
}
