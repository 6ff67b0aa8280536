// The Close-up: one piece of the Mat large, as an annotated drawing. Its parts are called
// out in the margin, the other pieces lie alongside and follow. These are methods of the
// Mat's component (mat.js); how parts are moved is in close-hand, the slip in close-slip.
{
  const { el } = Aspen
  const svg = (name, attrs) => {
    const e = document.createElementNS('http://www.w3.org/2000/svg', name)
    for (const [k, v] of Object.entries(attrs)) e.setAttribute(k, v)
    return e
  }
  const slipRoom = 336 // px beside the piece, for the slip
  const marginRoom = 204 // px for the names of parts
  const leadRoom = 44 // px between them and the piece
  const finger = matchMedia('(pointer: coarse)').matches ? 32 : 16 // px of a corner to pull at
  const along = [132, 150] // px a piece alongside has at most

  // what is drawn with another part
  const goesWith = { button: 'callToAction', plate: 'logo', 'rating-stars': 'rating', 'rating-ground': 'rating' }

  // a button that stays pressed, and a drawn sign in it
  Aspen.press = (on, attrs, ...kids) => el('button.press', { 'aria-pressed': on ? 'true' : 'false', ...attrs }, ...kids)
  Aspen.sign = (d) =>
    el(
      'svg',
      { viewBox: '0 0 24 24', width: 20, height: 20, 'aria-hidden': 'true' },
      el('path', { d, fill: 'currentColor', 'fill-rule': 'evenodd' }),
    )

  Aspen.closeUp = {
    close: '', // the piece that is large
    closeZoom: 1,
    closeReach: 'piece',
    picked: [], // units of parts that are taken hold of
    place: null, // where the figure of the piece stands on the Mat

    // openClose shows a piece large; it is drawn from what the Mat has, and its parts
    // come with the answer.
    async openClose(piece, units = []) {
      const fig = this.figure(piece)
      if (!fig || this.info(piece).done) {
        if (fig) this.sayDone(piece)
        return
      }
      this.leave()
      this.shutClose()
      this.stop(piece)
      this.close = piece
      this.closeZoom = 1
      this.picked = units
      this.state.close = null
      this.place = document.createComment('')
      fig.before(this.place)
      this.$refs.stage.append(fig)
      document.body.classList.add('closed-up')
      this.$refs.close.hidden = false
      document.querySelector('[data-close-name]').textContent = this.info(piece).name
      document.querySelector('[data-close-size]').textContent = `${this.info(piece).w} × ${this.info(piece).h}`
      history.replaceState(null, '', `?close=${encodeURIComponent(piece)}`)
      this.setZoom(this.zoom, true)
      await this.sync({})
      this.hearSaid()
      this.$refs.close.focus({ preventScroll: true })
    },
    shutClose() {
      this.said = []
      if (!this.close) return
      this.settleHand()
      const piece = this.close
      this.leave()
      this.close = ''
      this.picked = []
      this.slip.hidden = true
      this.place.replaceWith(this.figure(piece))
      document.body.classList.remove('closed-up')
      this.$refs.close.hidden = true
      this.figure(piece).querySelector('[data-over]')?.remove()
      history.replaceState(null, '', location.pathname)
      this.setZoom(this.zoom, true)
      this.figure(piece).focus()
    },
    // stepClose goes to the next piece, or the one before
    stepClose(by) {
      const open = this.state.pieces.filter((p) => !p.done)
      const at = open.findIndex((p) => p.id === this.close)
      this.openClose(open[(at + by + open.length) % open.length].id)
    },
    // hearSaid asks what is said of the piece: it stands beside the parts it is about
    async hearSaid() {
      const piece = this.close
      const d = await Aspen.get(`/briefs/${this.id}/proof/state`).catch(() => null)
      if (!d || this.close !== piece) return
      this.said = d.threads.filter((t) => t.piece === piece && !t.resolved)
      this.drawClose()
    },
    saidOf(unit) {
      return (this.said ?? []).filter(
        (t) => t.slot === unit || (unit === 'ground' && (!t.slot || t.slot === 'piece' || t.gone)),
      )
    },
    closeWide(p) {
      if (p.id !== this.close) return Math.min(along[0], (along[1] * p.w) / p.h)
      const room = this.$refs.room
      const small = this.compact()
      const by = (side) => small === side && !this.slip.hidden
      const w = room.clientWidth - (small ? (by('beside') ? 300 : 0) + 28 : marginRoom + leadRoom + slipRoom)
      const below = by('below') ? 0.46 * innerHeight : 0
      const h = room.clientHeight - below - (small ? 72 : 56)
      return Math.max(120, Math.min(w, (h * p.w) / p.h)) * this.closeZoom
    },
    fitted: '', // what the piece has made room for
    // fitClose makes room for the slip where there is little, once no hand is on the piece
    fitClose() {
      const fitted = `${this.compact()} ${this.slip.hidden}`
      if (!this.close || this.pressed || fitted === this.fitted || !this.compact()) return
      this.fitted = fitted
      this.setZoom(this.zoom, true)
    },
    // compact is where the slip stands when there is no room around the piece: beside it or
    // below it; the parts are named in a row above
    compact() {
      const [w, h] = [innerWidth, innerHeight]
      return w >= 820 ? '' : w > h ? 'beside' : 'below'
    },
    zoomClose(z) {
      this.closeZoom = Math.min(8, Math.max(0.1, z))
      this.setZoom(this.zoom, true)
    },
    // the size it is seen
    seenClose() {
      const p = this.info(this.close)
      this.zoomClose((this.closeZoom * p.seen) / this.wide(p))
    },
    // channelOf is the channel a piece is of, as people call it
    channelOf(piece) {
      const at = piece === this.close ? this.place.parentElement : this.figure(piece)
      return at.closest('.ch').getAttribute('aria-label')
    },
    // groupsOf are the drawn groups of a part
    groupsOf(unit) {
      const all = this.figure(this.close)?.querySelectorAll('.art > svg > [data-group]') ?? []
      return [...all].filter((g) => (g.dataset.unit ?? this.unitOf(g.dataset)) === unit)
    },
    unitOf({ slot, group }) {
      return goesWith[slot] && this.part(goesWith[slot]) ? goesWith[slot] : group
    },
    // calledAt is how far down a part is called out, in px of the piece: where it begins,
    // not too far down
    calledAt(q) {
      return q.box[1] + Math.min(q.box[3] / 2, 60 / this.scale(this.info(this.close)))
    },
    // reading is the parts in the order they are read; what covers the canvas comes last
    reading() {
      const wide = (q) => q.unit === 'ground'
      const at = new Map(this.parts().map((q) => [q, this.calledAt(q)]))
      return [...this.parts()].sort((a, b) => wide(a) - wide(b) || at.get(a) - at.get(b) || a.box[0] - b.box[0])
    },
    pick(unit, more) {
      const typing = this.active
      if (typing && typing.slot !== unit) this.leave()
      if (!unit) this.picked = []
      else if (!more) this.picked = this.heldWith(unit)
      else this.picked = this.picked.includes(unit) ? this.picked.filter((u) => u !== unit) : [...this.picked, unit]
      this.layers()
      this.closeSlip()
      if (unit) this.say(this.picked.map((u) => this.told(this.part(u))).join('; '))
    },
    // heldWith are the parts that are taken hold of together with one
    heldWith(unit) {
      const group = (q) => q?.hand.find((h) => h.property === 'group')?.value
      const own = group(this.part(unit))
      if (!own) return [unit]
      return this.parts()
        .filter((q) => group(q) === own)
        .map((q) => q.unit)
    },
    // free reports whether a part can be moved
    free(unit) {
      const q = this.part(unit)
      return !!q?.moves && !q.hand.some((h) => h.property === 'locked')
    },
    told(q) {
      if (!q) return ''
      const [x, y, w, h] = q.box.map(Math.round)
      return `${q.label}${q.text ? ', ' + q.text : ''}: ${w} by ${h} px, ${x} from the left, ${y} from the top`
    },
    say(text) {
      document.querySelector('[data-close-said]').textContent = text
    },
    // under is the topmost part at a place of the piece: words and marks before what they
    // lie on
    under([x, y]) {
      const slack = 4 / this.scale(this.info(this.close))
      const hits = this.parts().filter((q) => {
        const m = this.frameOf(q)
        const r = (-m.rotate * Math.PI) / 180
        const [dx, dy] = [x - m.cx, y - m.cy]
        const [u, v] = [dx * Math.cos(r) - dy * Math.sin(r), dx * Math.sin(r) + dy * Math.cos(r)]
        return Math.abs(u) <= m.w / 2 + slack && Math.abs(v) <= m.h / 2 + slack
      })
      return hits[hits.length - 1]?.unit ?? ''
    },
    // frameOf is where a part stands: its middle, its size, how far it is turned
    frameOf(q) {
      const p = this.info(this.close)
      const short = Math.min(p.w, p.h)
      const [px, py] = this.pivot(q)
      const [dx, dy] = this.fromPivot(q, q.scale, q.rotate)
      return {
        cx: px + dx + q.offset[0] * short,
        cy: py + dy + q.offset[1] * short,
        w: q.was[2] * q.scale,
        h: q.was[3] * q.scale,
        rotate: q.rotate,
      }
    },
    // pivot is what a part is sized and turned about: the middle of where it was solved
    pivot: ({ before: [x, y, w, h] }) => [x + w / 2, y + h / 2],
    // fromPivot is the way from there to the middle of its frame, sized and turned
    fromPivot(q, scale, rotate) {
      const [px, py] = this.pivot(q)
      const flip = this.value(q, 'flip')
      const dx = (q.was[0] + q.was[2] / 2 - px) * scale * (flip === 'across' || flip === 'both' ? -1 : 1)
      const dy = (q.was[1] + q.was[3] / 2 - py) * scale * (flip === 'down' || flip === 'both' ? -1 : 1)
      const r = (rotate * Math.PI) / 180
      return [dx * Math.cos(r) - dy * Math.sin(r), dx * Math.sin(r) + dy * Math.cos(r)]
    },
    // at is a place on the screen in px of the piece
    at(e) {
      const r = this.figure(this.close).querySelector('.art > svg').getBoundingClientRect()
      const k = this.scale(this.info(this.close))
      return [(e.clientX - r.left) / k, (e.clientY - r.top) / k]
    },
    // drawClose draws what lies over the large piece: the selection, what is kept whole of
    // a picture, and while something moves its guides.
    drawClose(guides = this.hit && { hit: this.hit }) {
      if (!this.state.close) return // it has not come yet
      const p = this.info(this.close)
      const art = this.figure(p.id).querySelector('.art')
      let over = art.querySelector('[data-over]')
      if (!over) {
        over = svg('svg', { 'data-over': '', class: 'close-over', 'aria-hidden': 'true' })
        art.append(over)
      }
      const k = this.scale(p)
      over.setAttribute('viewBox', `0 0 ${p.w} ${p.h}`)
      over.setAttribute('width', p.w * k)
      over.setAttribute('height', p.h * k)
      const kids = []
      const [sx, sy, sw, sh] = p.safe
      if (this.picked.length)
        kids.push(
          svg('rect', {
            class: 'margin-line',
            x: sx,
            y: sy,
            width: sw,
            height: sh,
            'stroke-width': 1 / k,
            'stroke-dasharray': `${4 / k} ${4 / k}`,
          }),
        )
      for (const unit of this.picked) {
        const q = this.part(unit)
        if (q) kids.push(this.drawPicked(q, k))
      }
      if (this.picked.length > 1) kids.push(this.drawTogether(k))
      if (guides) kids.push(...this.drawGuides(guides, k, p))
      over.replaceChildren(...kids)
      if (!this.held?.moved) this.callOut() // names stay while the hand moves
    },
    // drawTogether draws a box around several parts, with places to size them by together
    drawTogether(k) {
      const units = this.picked.filter((u) => this.free(u))
      const frames = units.map((u) => this.held?.frames?.get(u) ?? this.frameOf(this.part(u)))
      const g = svg('g', { class: 'picked-together' })
      if (frames.length < 2) return g
      const [x, y, w, h] = Aspen.measure.union(frames.map((m) => this.boxOfFrame(m)))
      const pad = 6 / k
      g.append(svg('rect', { x: x - pad, y: y - pad, width: w + 2 * pad, height: h + 2 * pad, 'stroke-width': 1.5 / k }))
      for (const [i, j] of [
        [-1, -1],
        [1, -1],
        [1, 1],
        [-1, 1],
      ])
        g.append(
          svg('rect', {
            class: `grip ${i * j < 0 ? 'nesw' : 'nwse'}`,
            'data-grip': `${i} ${j}`,
            x: (i < 0 ? x - pad : x + w + pad) - finger / 2 / k,
            y: (j < 0 ? y - pad : y + h + pad) - finger / 2 / k,
            width: finger / k,
            height: finger / k,
          }),
        )
      return g
    },
    // drawPicked draws corner ticks around a part, with places to size and turn it by
    drawPicked(q, k) {
      const live = this.held?.frames?.get(q.unit)
      const m = live ?? this.frameOf(q)
      const g = svg('g', { transform: `translate(${m.cx} ${m.cy}) rotate(${m.rotate})`, class: 'picked-part' })
      const [w, h] = [m.w / 2 + 6 / k, m.h / 2 + 6 / k]
      const arm = Math.min(16 / k, m.w / 2, m.h / 2)
      for (const [i, j] of [
        [-1, -1],
        [1, -1],
        [1, 1],
        [-1, 1],
      ]) {
        const [x, y] = [i * w, j * h]
        g.append(svg('path', { class: 'tick', 'stroke-width': 3 / k, d: `M${x - i * arm} ${y}H${x}V${y - j * arm}` }))
        if (q.moves && this.picked.length === 1)
          g.append(
            svg('rect', {
              class: `grip ${i * j < 0 ? 'nesw' : 'nwse'}`,
              'data-grip': `${i} ${j}`,
              x: x - finger / 2 / k,
              y: y - finger / 2 / k,
              width: finger / k,
              height: finger / k,
            }),
          )
      }
      const sides = [
        [-1, 0],
        [1, 0],
        [0, -1],
        [0, 1],
      ].filter(([, j]) => q.sides === 'both' || (q.sides === 'across' && !j))
      if (q.moves && this.picked.length === 1)
        for (const [i, j] of sides)
          g.append(
            svg('path', {
              class: 'tick',
              'stroke-width': 3 / k,
              d: i ? `M${i * w} ${-arm / 2}V${arm / 2}` : `M${-arm / 2} ${j * h}H${arm / 2}`,
            }),
            svg('rect', {
              class: `grip side ${i ? 'ew' : 'ns'}`,
              'data-grip': `${i} ${j}`,
              x: i * w - (i ? finger / 2 / k : Math.min(finger, m.w * k * 0.4) / 2 / k),
              y: j * h - (j ? finger / 2 / k : Math.min(finger, m.h * k * 0.4) / 2 / k),
              width: (i ? finger : Math.min(finger, m.w * k * 0.4)) / k,
              height: (j ? finger : Math.min(finger, m.h * k * 0.4)) / k,
            }),
          )
      if (q.moves && this.picked.length === 1) {
        g.append(svg('path', { class: 'stem', 'stroke-width': 1 / k, d: `M0 ${-h}V${-h - 18 / k}` }))
        g.append(
          svg('circle', {
            class: 'turn',
            'data-grip': 'turn',
            cx: 0,
            cy: -h - 24 / k,
            r: finger / 2.6 / k,
            'stroke-width': 2 / k,
          }),
        )
      }
      for (const s of live ? [] : (q.subjects ?? []))
        g.append(
          svg('rect', {
            class: 'subject',
            x: s[0] - m.cx,
            y: s[1] - m.cy,
            width: s[2],
            height: s[3],
            'stroke-width': 1.5 / k,
          }),
        )
      return g
    },
    drawGuides(guides, k, p) {
      const out = []
      const line = (x1, y1, x2, y2, cls) => out.push(svg('line', { class: cls, x1, y1, x2, y2, 'stroke-width': 1 / k }))
      const chip = (x, y, text) => {
        const w = (text.length * 7 + 10) / k
        out.push(svg('rect', { class: 'far-chip', x: x - w / 2, y: y - 8 / k, width: w, height: 16 / k, rx: 2 / k }))
        const t = svg('text', { class: 'far-text', x, y: y + 4 / k, 'font-size': 11 / k, 'text-anchor': 'middle' })
        t.textContent = text
        out.push(t)
      }
      for (const x of guides.x ?? []) line(x, 0, x, p.h, 'guide')
      for (const y of guides.y ?? []) line(0, y, p.w, y, 'guide')
      for (const [x1, y1, x2, y2] of guides.far ?? []) {
        line(x1, y1, x2, y2, 'far')
        chip((x1 + x2) / 2, (y1 + y2) / 2, String(Math.round(Math.abs(x2 - x1 + y2 - y1))))
      }
      if (guides.say) chip(guides.say.x, guides.say.y, guides.say.text)
      if (guides.hit) {
        const [x, y, w, h] = guides.hit.box
        out.push(svg('rect', { class: 'hit-box', x, y, width: w, height: h, 'stroke-width': 2 / k }))
        chip(x + w / 2, y + h / 2, guides.hit.says)
      }
      if (guides.thirds) {
        const [x, y, w, h] = guides.thirds
        for (const i of [1, 2]) {
          line(x + (w * i) / 3, y, x + (w * i) / 3, y + h, 'third')
          line(x, y + (h * i) / 3, x + w, y + (h * i) / 3, 'third')
        }
      }
      return out
    },
    // callOut names the parts in the margin, each with a line to where it stands; what is
    // left out by hand comes last
    callOut() {
      const host = this.$refs.callouts
      const room = this.$refs.room.getBoundingClientRect()
      const art = this.figure(this.close).querySelector('.art').getBoundingClientRect()
      const list = this.reading()
      const gone = this.state.close.gone
      const named = JSON.stringify([
        list.map((q) => [q.unit, q.label, q.says, q.hand.map((h) => h.label)]),
        gone,
        this.picked,
        this.said,
      ])
      if (host.dataset.named !== named) {
        host.dataset.named = named
        host.replaceChildren(...list.map((q) => this.callOutOf(q)), ...gone.map((q) => this.callOutGone(q)))
      }
      const k = this.scale(this.info(this.close))
      const to = list.map((q) => art.top - room.top + Math.min(Math.max(this.calledAt(q) * k, 4), art.height - 4))
      const tall = [...host.children].map((li) => li.offsetHeight + 5)
      const row = !!this.compact()
      const many = !row && tall.reduce((sum, h) => sum + h, 0) > room.height - 14
      host.classList.toggle('many', many)
      if (many || row) {
        this.$refs.leads.replaceChildren()
        return
      }
      const tops = this.spread(
        to,
        [...host.children].map((li) => li.offsetHeight),
      )
      ;[...host.children].forEach((li, i) => (li.style.top = tops[i] + 'px'))
      const left = art.left - room.left
      // a line ends at its part, unless words or a logo stand in its way
      const inTheWay = (q) => {
        const y = this.calledAt(q)
        return list.some(
          (o) =>
            o.unit !== q.unit &&
            !['shape', 'picture'].includes(o.kind) &&
            o.box[0] < q.box[0] &&
            y > o.box[1] - 4 &&
            y < o.box[1] + o.box[3] + 4,
        )
      }
      const lines = list.flatMap((q, i) => {
        if (q.unit === 'ground') return [] // it is everywhere
        const on = this.picked.includes(q.unit) ? ' on' : ''
        const y = tops[i] + 10
        const end = left + (inTheWay(q) ? 5 : Math.max(5, q.box[0] * k - 7))
        const d = `M${marginRoom} ${y}H${left - 26}L${left - 10} ${to[i]}H${end}`
        return [
          svg('path', { class: 'lead' + on, d }),
          svg('circle', { class: 'lead-dot' + on, cx: end, cy: to[i], r: 2.5 }),
        ]
      })
      this.$refs.leads.setAttribute('width', room.width)
      this.$refs.leads.setAttribute('height', room.height)
      this.$refs.leads.replaceChildren(...lines)
    },
    // spread sets names beside where they belong, none over another
    spread(to, tall) {
      const tops = []
      let free = 8
      tall.forEach((h, i) => {
        tops.push(Math.max((to[i] ?? free) - 10, free))
        free = tops[i] + h + 5
      })
      let least = this.$refs.room.clientHeight - 6
      for (let i = tops.length - 1; i >= 0; i--) {
        tops[i] = Math.min(tops[i], least - tall[i])
        least = tops[i] - 5
      }
      return tops
    },
    callOutGone(q) {
      const says = q.lost ? 'changed by hand, and not on this piece' : 'left out by hand'
      const button = q.lost
        ? el('button.back', { 'data-clear-unit': q.unit }, 'clear')
        : el('button.back', { 'data-show-again': q.unit }, 'show it again')
      return el('li.by-hand', { 'data-called': q.unit }, el('span.soft', {}, q.label), el('small', {}, says, button))
    },
    callOutOf(q) {
      const on = this.picked.includes(q.unit)
      const by = q.hand.map((h) => h.label).join(', ')
      return el(
        'li' + (on ? '.on' : '') + (q.hand.length ? '.by-hand' : ''),
        { 'data-called': q.unit },
        el('button', { 'data-unit': q.unit, 'aria-pressed': on ? 'true' : 'false' }, q.label),
        by
          ? el('small', {}, by + ' by hand', el('button.back', { 'data-lift-unit': q.unit }, 'back to the rule'))
          : q.says && el('small', {}, q.says),
        ...this.saidOf(q.unit).map((t) =>
          el(
            'a.said-here',
            { href: `/briefs/${this.id}/proof/#${this.close}`, title: `${t.name}: ${t.words}`, dir: 'auto' },
            t.words,
          ),
        ),
      )
    },
  }
}
