// The margin of the Close-up as the order of drawing: a name is dragged in front of another
// part, or behind it, and parts get names of their own. These are methods of the Mat's
// component (mat.js).
{
  const { el } = Aspen
  const order = (q) => q.hand.find((h) => h.property === 'order')?.value ?? 0

  // drawn is the order parts are drawn in, from below, were one of them moved by steps
  const drawn = (parts, unit, steps) => {
    const by = (q) => (q.unit === unit ? steps : order(q))
    const ground = (q) => q.unit !== 'ground'
    return [...parts].sort(
      (p, q) =>
        ground(p) - ground(q) ||
        p.stack + by(p) - q.stack - by(q) ||
        Math.sign(by(p)) - Math.sign(by(q)) ||
        p.stack - q.stack,
    )
  }

  Aspen.closeLayers = {
    lifted: null, // the name that is dragged: {unit, y, li, over, front}

    openLayers() {
      const host = this.$refs.callouts
      host.addEventListener('pointerdown', (e) => {
        const li = e.target.closest('[data-called]')
        if (li && e.button === 0 && this.part(li.dataset.called)?.moves && !e.target.closest('.back, input'))
          this.lifted = { unit: li.dataset.called, y: e.clientY, li }
      })
      addEventListener('pointermove', (e) => this.lift(e))
      addEventListener('pointerup', () => this.putDown())
      addEventListener('pointercancel', () => this.putDown(true))
      // a click that ends a drag chooses nothing
      host.addEventListener(
        'click',
        (e) => {
          if (!this.justPut) return
          this.justPut = false
          e.stopImmediatePropagation()
        },
        true,
      )
      host.addEventListener('dblclick', (e) => {
        const li = e.target.closest('[data-called]')
        if (li && this.part(li.dataset.called)) this.rename(li.dataset.called)
      })
    },
    lift(e) {
      const l = this.lifted
      if (!l || (!l.moved && Math.abs(e.clientY - l.y) < 5)) return
      l.moved = true
      l.li.classList.add('lifted')
      l.li.style.translate = `0 ${e.clientY - l.y}px`
      const names = [...this.$refs.callouts.querySelectorAll('[data-called]')].filter(
        (li) => li !== l.li && this.part(li.dataset.called),
      )
      const far = (li) => {
        const r = li.getBoundingClientRect()
        return Math.abs(e.clientY - (r.top + r.bottom) / 2)
      }
      const on = names.reduce((best, li) => (!best || far(li) < far(best) ? li : best), null)
      const r = on.getBoundingClientRect()
      l.over = on.dataset.called
      l.front = l.over === 'ground' || e.clientY < (r.top + r.bottom) / 2
      for (const li of names) li.removeAttribute('data-put')
      on.dataset.put = l.front ? 'front' : 'behind'
    },
    putDown(nothing) {
      const l = this.lifted
      this.lifted = null
      if (!l?.moved) return
      this.justPut = true
      setTimeout(() => {
        this.justPut = false
      })
      l.li.classList.remove('lifted')
      l.li.style.translate = ''
      for (const li of this.$refs.callouts.querySelectorAll('[data-put]')) li.removeAttribute('data-put')
      if (!nothing && l.over) this.putBy(l.unit, l.over, l.front)
    },
    // putBy draws a part directly in front of another one, or behind it
    putBy(unit, other, front) {
      const parts = this.parts()
      const q = this.part(unit)
      const stands = (steps) => {
        const list = drawn(parts, unit, steps).map((p) => p.unit)
        return list.indexOf(unit) - list.indexOf(other) === (front ? 1 : -1)
      }
      for (let n = 0; n <= parts.length + 100; n++)
        for (const steps of [n, -n])
          if (stands(steps)) {
            if (steps === order(q)) return
            if (steps) this.sendHand([this.edit(unit, 'order', steps)])
            else this.liftProperty(q, 'order')
            this.say(`${q.label} is ${front ? 'in front of' : 'behind'} ${this.part(other).label}`)
            return
          }
    },
    // rename lets a part be called something else; an empty name is the one it had
    rename(unit) {
      const li = this.$refs.callouts.querySelector(`[data-called="${unit}"]`)
      const q = this.part(unit)
      if (!li || !q) return
      const field = el('input.name-field', { value: q.label, 'aria-label': 'What this part is called', maxlength: 60 })
      let over = false
      const done = (keep) => {
        if (over) return
        over = true // taking the field away blurs it
        const name = field.value.trim()
        delete this.$refs.callouts.dataset.named // it is listed anew
        field.remove()
        if (keep && !name && this.value(q, 'name')) this.liftProperty(q, 'name')
        else if (keep && name && name !== q.label) this.sendHand([this.edit(unit, 'name', name)])
        else this.callOut()
        this.$refs.close.focus({ preventScroll: true })
      }
      field.addEventListener('keydown', (e) => {
        e.stopPropagation()
        if (e.key === 'Enter' || e.key === 'Escape') done(e.key === 'Enter')
      })
      field.addEventListener('blur', () => done(true))
      li.querySelector('button').replaceWith(field)
      field.focus()
      field.select()
    },
  }
}
