// The Mat: the whole set as live drawings. Words are typed on any piece: a
// hidden field takes the keys, the caret is drawn from places the server
// sends, and only groups that changed come back. One request is in flight;
// what is typed meanwhile waits, and an answer that is no longer the newest is
// dropped.
document.addEventListener('alpine:init', () => {
  const { post, outbox, upload, notice, paint, fill, el, swatch, onChange, files, toKit } = Aspen
  const svgns = 'http://www.w3.org/2000/svg'

  Alpine.data('mat', () => ({
    ...Aspen.matWords,
    id: '', state: null, zoom: 0.6, small: false, safe: false,
    active: null, // {piece, slot, field, reach}: what is being typed or chosen
    chosen: new Set(), // pieces chosen together
    stops: [], composing: false,
    echo: null, glyphs: null, glyphsOf: '', drawn: '', // letters drawn before the server's
    known: 0, // how far the document had come when what is in the field was the server's
    clash: null, // two texts of which one is to be chosen
    dragged: null,

    init() {
      this.id = document.body.dataset.brief
      this.state = JSON.parse(document.querySelector('[data-state]').textContent)
      this.field = document.querySelector('[data-typing]')
      this.slip = document.querySelector('[data-slip]')
      this.bench = document.querySelector('[data-bench]')
      this.field.addEventListener('input', () => this.typed())
      this.field.addEventListener('compositionstart', () => { this.composing = true })
      this.field.addEventListener('compositionend', () => { this.composing = false; this.typed() })
      for (const on of ['keyup', 'select', 'mouseup']) this.field.addEventListener(on, () => this.drawCaret())
      document.addEventListener('selectionchange', () => this.drawCaret())
      this.field.addEventListener('keydown', (e) => {
        if (e.key === 'Escape') { e.preventDefault(); this.stepOut() }
        if (e.key === 'Tab') { e.preventDefault(); this.nextWords(e.shiftKey ? -1 : 1) }
        this.moveByLine(e)
        this.moveAsSeen(e)
      })
      this.$root.addEventListener('mousedown', (e) => this.press(e))
      document.addEventListener('mousemove', (e) => this.drag(e))
      document.addEventListener('mouseup', () => this.drop())
      // a file over one piece is for that piece: its place is outlined, not the Mat
      let over = null
      const onto = (fig) => { if (fig === over) return; over?.classList.remove('taking'); over = fig; fig?.classList.add('taking'); document.body.classList.toggle('onto-piece', !!fig) }
      document.addEventListener('dragover', (e) => onto(e.target.closest?.('[data-piece]') ?? null))
      for (const end of ['drop', 'dragend']) document.addEventListener(end, () => onto(null))
      document.addEventListener('dragleave', (e) => { if (!e.relatedTarget) onto(null) })
      // the path, not the target: choosing a part draws its place anew
      document.addEventListener('mousedown', (e) => { if (!e.composedPath().some((el) => el.matches?.('[data-piece], [data-slip], [data-bench], [data-ways], [data-clash], [data-notices], .top'))) this.leave() })
      this.$root.addEventListener('click', (e) => {
        const flag = e.target.closest('[data-flag]')
        if (flag) this.showFindings(flag.closest('[data-piece]'))
        const name = e.target.closest('[data-name]')
        if (name) this.choosePiece(name.closest('[data-piece]').dataset.piece, e)
        if (e.target.closest('[data-fit]')) this.fit()
        if (e.target.closest('[data-as-seen]')) this.setZoom(1)
        if (e.target.closest('[data-smallest]')) this.smallest(!this.small)
        const tab = e.target.closest('[data-show-look]')
        if (tab) post(`/briefs/${this.id}/looks`, { shown: tab.dataset.showLook }).then(() => location.reload())
        const z = e.target.closest('[data-zoom]')
        if (z) this.setZoom(this.zoom * (z.dataset.zoom > 0 ? 1.2 : 1 / 1.2))
      })
      this.$root.addEventListener('change', (e) => { if ('safe' in e.target.dataset) { this.safe = e.target.checked; this.layers() } })
      this.$root.addEventListener('change', (e) => { if ('filter' in e.target.dataset) this.filter() })
      this.matters = document.querySelector('[data-matters]')
      this.matters.addEventListener('click', (e) => this.mattersClick(e))
      this.bar = document.querySelector('[data-chosen-bar]')
      this.bar.addEventListener('click', (e) => { const b = e.target.closest('button'); if (b) this.withChosen(b.dataset.chosenDo) })
      if (new URLSearchParams(location.search).has('preflight')) this.showMatters()
      this.bench.addEventListener('click', (e) => {
        if (e.target.closest('[data-preflight]')) this.showMatters(true)
        if (e.target.closest('[data-all-ways]')) this.showWays()
        const b = e.target.closest('[data-turn]')
        if (b) this.turn(b.dataset.turn, Number(b.dataset.by))
        if (e.target.closest('[data-keep-colours]')) this.sync({ keep: true })
      })
      this.slip.addEventListener('click', (e) => this.slipClick(e))
      this.ways = document.querySelector('[data-ways]')
      this.ways.addEventListener('click', (e) => {
        const b = e.target.closest('button')
        if (!b) return
        if ('closeWays' in b.dataset) { this.ways.hidden = true; this.bench.querySelector('[data-all-ways]')?.focus() } else if (b.dataset.way) this.turn('colourway', 0, Number(b.dataset.way)).then(() => this.showWays(true))
      })
      addEventListener('keydown', (e) => this.key(e))
      addEventListener('aspen:reverted', () => this.sync({}))
      onChange(() => { if (this.box.idle()) this.sync({}) })
      files(async (kind, f, on) => {
        // dropped on a piece it is for that piece, anywhere else for the set
        const fig = kind ? null : on?.closest?.('[data-piece]')
        const reach = kind === 'here' ? this.reachOf(this.active) : fig ? 'piece:' + fig.dataset.piece : 'set'
        if (await toKit(document.body.dataset.kit, f)) this.sync({})
        else if (await upload(`/briefs/${this.id}/pictures/first?reach=${encodeURIComponent(reach)}`, f)) this.sync({})
      })
      this.$root.addEventListener('scroll', () => this.slipRefresh())
      // where it goes: the set is drawn anew when the sheet closes
      let places = null
      const where = Aspen.where({ brief: this.id, changed: (list) => { places = list } })
      const go = () => { if (places?.length) this.sync({ places }); places = null }
      where.closed(go)
      this.$root.addEventListener('click', (e) => {
        const b = e.target.closest('button')
        if (b?.dataset.placesOf !== undefined) where.open(b.dataset.placesOf)
        if (b?.dataset.swipe) { where.add(b.dataset.swipe); go() }
      })
      this.lookTabs()
      this.setZoom(this.zoom)
      this.openBox()
    },

    // --- drawing -------------------------------------------------------------
    figure(piece) { return document.querySelector(`[data-piece="${piece}"]`) },
    info(piece) { return this.state.pieces.find((p) => p.id === piece) },
    wide(p) { return this.small ? p.small : p.seen * this.zoom }, // px a piece is shown
    scale(p) { return this.wide(p) / p.w },
    smallest(on) { this.small = on; this.setZoom(this.zoom, true) },
    setZoom(z, keep) {
      if (!keep) this.small = false
      document.querySelector('[data-smallest]').setAttribute('aria-pressed', this.small)
      this.zoom = Math.min(1.6, Math.max(0.25, z))
      document.querySelector('[data-zoom-is]').textContent = Math.round(this.zoom * 100) + ' %'
      for (const p of this.state.pieces) {
        const svg = this.figure(p.id)?.querySelector('.art > :is(svg, img)')
        if (!svg) continue
        svg.setAttribute('width', this.wide(p))
        svg.setAttribute('height', (this.wide(p) * p.h) / p.w)
        this.figure(p.id).style.width = Math.max(this.wide(p), 84) + 'px'
      }
      this.layers()
    },
    have() {
      const out = {}
      for (const fig of document.querySelectorAll('[data-piece]:not(.done)')) {
        const groups = {}
        for (const g of fig.querySelectorAll('.art > svg > [data-group]')) groups[g.dataset.group] = g.dataset.hash
        out[fig.dataset.piece] = groups
      }
      return out
    },
    // apply puts an answer on the mat: groups the page has are kept in place.
    apply(d) {
      if (d.pieces.some((p) => !this.figure(p.id)) || d.pieces.length !== this.state.pieces.length || d.pieces.some((p) => p.done !== this.info(p.id).done)) { location.reload(); return }
      this.state = d
      for (const p of d.pieces) {
        if (p.done) { this.figure(p.id).querySelector('[data-moved]').classList.toggle('moved', p.moved); continue }
        const svg = this.figure(p.id).querySelector('.art > svg')
        const have = new Map([...svg.querySelectorAll(':scope > [data-group]')].map((g) => [g.dataset.group, g]))
        let moved = have.size !== p.groups.length
        const nodes = p.groups.map((g, i) => {
          if (!g.svg) { moved ||= svg.children[i] !== have.get(g.id); return have.get(g.id) }
          moved = true
          const fresh = fill(document.createElementNS(svgns, 'g'), g.svg).firstChild
          this.keepCrop(have.get(g.id), fresh)
          return fresh
        })
        if (moved) svg.replaceChildren(...nodes.filter(Boolean))
        svg.setAttribute('aria-label', p.alt)
        const n = p.findings.filter((f) => f.severity !== 'note').length
        const flag = this.figure(p.id).querySelector('[data-flag]')
        flag.hidden = n === 0
        flag.textContent = n
      }
      const moved = d.pieces.filter((p) => p.moved).length
      document.querySelector('[data-forward]').hidden = !moved
      document.querySelector('[data-moved-count]').textContent = moved
      this.lookTabs()
      if (d.kept) notice(`The kit keeps this colourway as ${d.kept}.`)
      if (d.fixed?.length) notice(d.fixed.join('; ') + '.', { stays: true, label: 'Undo', action: () => document.querySelector('button[data-undo]').click() })
      if (d.bench) paint(fill(this.bench, d.bench))
      window.dispatchEvent(new CustomEvent('aspen:steps', { detail: d }))
      const w = this.word()
      if (w && !this.typing() && !this.composing && !this.clash) {
        if (w.text !== this.field.value) { // undone, or changed elsewhere
          const at = Math.min(this.field.selectionStart, w.text.length)
          this.field.value = w.text
          this.field.setSelectionRange(at, at)
          this.unecho()
        }
        this.known = d.seq // what is in the field is what the server has
      }
      this.layers()
    },
    // keepCrop shows a picture as it was until its new part has come.
    keepCrop(old, fresh) {
      const before = old ? [...old.querySelectorAll('image')] : []
      fresh.querySelectorAll('image').forEach((img, i) => {
        const to = img.getAttribute('href')
        const was = before[i]?.getAttribute('href')
        if (!was || was === to || to.startsWith('data:')) return
        img.setAttribute('href', was)
        img.setAttribute('preserveAspectRatio', 'xMidYMid slice')
        img.dataset.coming = ''
        const next = new Image()
        next.src = to
        const show = () => { delete img.dataset.coming; img.setAttribute('href', to); img.setAttribute('preserveAspectRatio', 'none') }
        next.decode().then(show, show)
      })
    },
    // the kept looks, the one that is shown marked
    lookTabs() {
      const host = document.querySelector('[data-look-tabs]')
      if (!this.state.looks.length) { host.replaceChildren(); return }
      host.replaceChildren(...this.state.looks.map((l) => el('button', { 'data-show-look': l.id, 'aria-pressed': l.shown ? 'true' : 'false', title: l.name }, l.letter)),
        el('a', { href: `/briefs/${this.id}/looks`, title: 'Keep another look', 'aria-label': 'Keep another look' }, '+'))
    },
    // layers lays what is not part of the piece over it: places to click, the
    // safe area, the selection, the caret.
    layers() {
      for (const p of this.state.pieces) {
        const layer = this.figure(p.id)?.querySelector('[data-layer]')
        if (!layer) continue
        const k = this.scale(p)
        const place = (cls, [x, y, w, h], pad = 0) => {
          const el = document.createElement('span')
          el.className = cls
          Object.assign(el.style, { left: x * k - pad + 'px', top: y * k - pad + 'px', width: w * k + 2 * pad + 'px', height: h * k + 2 * pad + 'px' })
          return el
        }
        const kids = p.pictures.map((w) => { const el = place('hit pic-hit', w.box); el.dataset.slot = w.slot; return el })
        kids.push(...p.said.map((w) => { const el = place('hit', w.box, 2); el.dataset.slot = w.slot; return el }))
        kids.push(...p.words.map((w) => { const el = place('hit', w.box, 2); el.dataset.slot = w.slot; return el }))
        if (p.logo) { const el = place('hit logo', p.logo, 2); el.dataset.slot = 'logo'; kids.push(el) }
        if (this.safe && p.safe) kids.push(place('safe', p.safe))
        const mine = this.active?.piece === p.id
        this.figure(p.id).classList.toggle('sel', mine)
        this.figure(p.id).classList.toggle('chosen', this.chosen.has(p.id))
        const box = mine && this.boxOf(p, this.active.slot)
        if (box) {
          const [x, y, w, h] = box.map((v) => v * k)
          for (const [c, dx, dy] of [['tl', -6, -6], ['tr', w - 3, -6], ['bl', -6, h - 3], ['br', w - 3, h - 3]]) {
            const t = document.createElement('span')
            t.className = 'tick ' + c
            Object.assign(t.style, { left: x + dx + 'px', top: y + dy + 'px' })
            kids.push(t)
          }
        }
        layer.replaceChildren(...kids)
      }
      this.drawCaret()
    },

    // --- talking -------------------------------------------------------------
    // sync sends a change, or without one asks how things are; it resolves with
    // the answer when it has been shown.
    sync(body) {
      const reads = !Object.keys(body).some((k) => k !== 'caret')
      return this.box.put(body, { reads, base: this.state.seq })
    },
    openBox() {
      this.box = outbox('mat-' + this.id, () => `/briefs/${this.id}/sync`, {
        add: (item) => {
          const a = this.active
          const asked = item.body.caret ?? (a?.field ? { piece: a.piece, slot: a.slot, text: this.field.value } : undefined)
          item.asked = asked
          return { have: this.have(), caret: asked && { ...asked, have: this.glyphsOf }, ...(item.reads ? { base: this.state.seq } : {}) }
        },
        done: (d, item) => {
          if (d.seq < this.state.seq) return
          this.apply(d)
          if (item.body.write) this.known = d.seq
          if (d.caret && this.active?.piece === d.caret.piece && this.active?.slot === d.caret.slot) {
            this.echo = d.caret.echo
            if (this.echo?.glyphs) { this.glyphs = this.echo.glyphs; this.glyphsOf = this.echo.key }
            // the server's places, carried on to what was typed since
            this.unecho()
            this.stops = d.caret.stops
            this.drawn = item.asked.text
            if (this.field.value !== this.drawn) this.echoTyped()
            this.drawCaret()
          }
          this.slipRefresh()
          if (!this.matters.hidden && !item.asked) this.showMatters()
          this.filter()
        },
        refused: (e, { body }) => {
          if (e.status !== 409) { notice(e.message, { bad: true }); return }
          if (!body.write) { notice('This was changed in another tab meanwhile.', { bad: true }); this.sync({}); return }
          // both texts stand until somebody chooses; what is typed goes on being mine
          const mine = this.active?.field === body.write.field ? this.field.value : body.write.text
          this.clash = { write: { ...body.write, text: mine }, theirs: typeof e.data.theirs === 'string' ? e.data.theirs : '', seq: e.data.seq }
          this.showClash()
          this.sync({})
        },
      })
      this.box.recover()
    },

    reachOf(a) { return a.reach === 'channel' ? 'channel:' + this.info(a.piece).channel : a.reach === 'piece' ? 'piece:' + a.piece : 'set' },

    press(e) {
      const fig = e.target.closest('[data-piece]')
      if (!fig || e.target.closest('a, button')) return
      const hit = e.target.closest('.hit')
      const piece = fig.dataset.piece
      const same = hit && this.active?.piece === piece && this.active?.slot === hit.dataset.slot
      if (same && this.active.field && this.stops.length && (e.shiftKey || e.detail > 1)) { // within the words
        e.preventDefault()
        this.selectWith(piece, e)
        return
      }
      if (e.ctrlKey || e.metaKey || e.shiftKey) { e.preventDefault(); this.choosing(piece); return }
      if (fig.classList.contains('done')) { this.sayDone(piece); return }
      if (!hit) { this.leave(); return }
      e.preventDefault()
      if (same && hit.dataset.slot.startsWith('picture')) { this.holdPicture(piece, hit.dataset.slot, e); return }
      this.choose(piece, hit.dataset.slot, e)
      if (this.active?.field) this.dragged = { kind: 'words', piece, from: e }
    },
    // drag selects words from where the mouse went down, or moves a picture
    drag(e) {
      const d = this.dragged
      if (!d || !(e.buttons & 1)) return
      if (d.kind === 'picture') { this.movePicture(e); return }
      if (!this.stops.length || !this.active?.field) return
      const [i, j] = [this.nearest(d.piece, d.from), this.nearest(d.piece, e)]
      this.field.setSelectionRange(Math.min(i, j), Math.max(i, j), j < i ? 'backward' : 'forward')
      this.drawCaret()
    },
    drop() { this.dragged = null },
    // a finished piece says why nothing happens, and what can be done
    sayDone(piece) {
      const p = this.info(piece)
      notice(`${p.name} is finished: it stays as it is, whatever the brief or the kit does.`, {
        stays: true, label: 'Open it again', link: p.moved ? { href: `/briefs/${this.id}/forward`, label: 'Bring it forward' } : null,
        action: async () => { await post(`/briefs/${this.id}/finish?back=1&piece=${encodeURIComponent(p.key)}`, {}); location.reload() },
      })
    },
    // --- a picture in its frame ----------------------------------------------
    holdPicture(piece, slot, e) {
      const pic = this.info(piece).pictures.find((q) => q.slot === slot)
      this.dragged = { kind: 'picture', piece, slot, x: e.clientX, y: e.clientY, crop: pic.crop, box: pic.box }
    },
    movePicture(e) {
      const d = this.dragged
      const k = this.scale(this.info(d.piece))
      this.cropTo(d.slot, d.crop, -((e.clientX - d.x) / k / d.box[2]) * d.crop[2], -((e.clientY - d.y) / k / d.box[3]) * d.crop[3])
    },
    cropTo(slot, [x, y, w, h], dx, dy) {
      const within = (v, size) => Math.min(1 - size, Math.max(0, v))
      const crop = [within(x + dx, w), within(y + dy, h), w, h]
      this.box.put({ move: { reach: this.reachOf(this.active), slot, crop } }, { tag: `move ${slot} ${this.reachOf(this.active)}` })
    },
    choose(piece, slot, e) {
      const p = this.info(piece)
      const same = this.active?.piece === piece && this.active?.slot === slot
      const w = p.words.find((x) => x.slot === slot)
      const adjusted = slot.startsWith('picture') ? p.adjusted[slot + ' crop'] ?? p.adjusted.picture : p.adjusted[slot]
      const reach = same ? this.active.reach : !adjusted || adjusted === 'set' ? 'set' : adjusted.startsWith('piece') ? 'piece' : 'channel'
      this.active = { piece, slot, field: w?.field, reach, text: w?.text }
      this.stops = same ? this.stops : []
      if (!w) { this.field.blur() } else {
        if (!same) { this.unecho(); this.echo = null; this.field.value = w.text; this.drawn = w.text; this.known = this.state.seq }
        this.field.focus({ preventScroll: true })
        const text = w.text
        const put = () => { if (this.field.value !== text || this.active?.slot !== slot) return; const i = e ? this.nearest(piece, e) : this.field.value.length; this.field.setSelectionRange(i, i); this.drawCaret() }
        if (same && this.stops.length) put()
        else this.sync({ caret: { piece, slot, text: w.text } }).then(put)
      }
      this.layers()
      this.openSlip()
    },
    // stepOut leaves the words and stays on their piece
    stepOut() {
      const fig = this.active && this.figure(this.active.piece)
      this.leave()
      fig?.focus({ preventScroll: true })
    },
    leave() {
      if (!this.active) return
      this.unecho()
      this.dragged = null
      this.active = null
      this.stops = []
      this.slip.hidden = true
      this.field.blur()
      this.layers()
    },
    key(e) {
      if (e.target.matches('input, textarea, select') || e.ctrlKey || e.metaKey || e.altKey) return
      const turn = { l: 'layout', c: 'colourway', o: 'logo', t: 'type', p: 'picture' }[e.key.toLowerCase()]
      const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key]
      if (by && this.active?.slot.startsWith('picture')) { // the picture moves under its frame
        e.preventDefault()
        const pic = this.info(this.active.piece).pictures.find((q) => q.slot === this.active.slot)
        const step = e.shiftKey ? 0.1 : 0.02
        if (pic) this.cropTo(pic.slot, pic.crop, -by[0] * step * pic.crop[2], -by[1] * step * pic.crop[3])
        return
      }
      if (turn) { e.preventDefault(); this.turn(turn, e.shiftKey ? -1 : 1) }
      if (e.key.toLowerCase() === 'f') this.fit()
      if (e.key === '1') this.setZoom(1)
      if (e.key === '0') this.smallest(!this.small)
      if (e.key.toLowerCase() === 'v') this.showMatters(true)
      if (e.key === '+' || e.key === '=') this.setZoom(this.zoom * 1.2)
      if (e.key === '-') this.setZoom(this.zoom / 1.2)
      if (e.key === 'Escape') { if (!this.ways.hidden) this.ways.hidden = true; else this.stepOut() }
      const fig = document.activeElement?.closest?.('[data-piece]')
      if (fig && e.key === 'Enter' && document.activeElement === fig) {
        e.preventDefault()
        const first = this.info(fig.dataset.piece).words[0]
        if (first) this.choose(fig.dataset.piece, first.slot)
      }
    },
    // turn steps an ingredient: within the slip's reach while a part is chosen, else
    // for the whole set; at names a place in the order instead of a step.
    turn(what, by, at) {
      const a = this.active
      const reach = a && this.reachOf(a) !== 'set' && what !== 'type' ? { reach: this.reachOf(a), piece: a.piece } : {}
      return this.sync({ turn: { what, by, ...(at === undefined ? {} : { at }), ...reach } })
    },
    async showWays(stay) {
      if (!stay && !this.ways.hidden) { this.ways.hidden = true; return }
      const piece = this.active?.piece ?? this.state.pieces.find((p) => !p.done)?.id ?? this.state.pieces[0].id
      const at = this.ways.scrollTop
      fill(this.ways, (await Aspen.get(`/briefs/${this.id}/colourways?piece=${encodeURIComponent(piece)}`)).html)
      const a = this.active
      const within = !a || this.reachOf(a) === 'set' ? 'the whole set' : a.reach === 'piece' ? this.info(piece).name : this.figure(piece).closest('.ch').getAttribute('aria-label')
      this.ways.querySelector('h2').append(' for ' + within)
      this.ways.hidden = false
      this.ways.scrollTop = at
      const on = this.ways.querySelector('[aria-pressed=true]')
      if (!stay) on?.scrollIntoView({ block: 'nearest' })
      if (!stay) on?.focus()
    },

    // --- the slip ------------------------------------------------------------
    // boxOf is where a part stands on a piece, in its px
    boxOf(p, slot) {
      if (slot === 'logo') return p.logo
      if (slot === 'piece') return [0, 0, p.w, p.h]
      return [...p.words, ...p.said, ...p.pictures].find((w) => w.slot === slot)?.box
    },
    choosePiece(piece, e) {
      if (e && (e.ctrlKey || e.metaKey || e.shiftKey)) { this.choosing(piece); return }
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
    async withChosen(what) {
      const keys = [...this.chosen]
      const left = this.state.pieces.filter((p) => !this.chosen.has(p.id))
      const key = (p) => p.key
      if (what === 'download') { location.href = `/briefs/${this.id}/handover?` + left.map((p) => 'skip=' + encodeURIComponent(key(p))).join('&'); return }
      if (what === 'finish') { await post(`/briefs/${this.id}/finish?` + keys.map((k) => 'piece=' + encodeURIComponent(key(this.info(k)))).join('&'), {}); location.reload(); return }
      if (what === 'out') {
        if (!left.length) { notice('A set keeps at least one piece.'); return }
        this.sync({ places: [...new Set(left.map((p) => p.id.split('+')[0]))] })
      }
      this.chosen.clear()
      this.bar.hidden = true
      this.layers()
    },
    fit() {
      let low = 0.25, high = 1.6
      for (let i = 0; i < 8; i++) {
        const mid = (low + high) / 2
        this.setZoom(mid)
        if (this.$root.scrollHeight <= this.$root.clientHeight + 1 && this.$root.scrollWidth <= this.$root.clientWidth + 1) low = mid
        else high = mid
      }
      this.setZoom(low)
    },
    filter() {
      const want = document.querySelector('[data-filter]').value
      for (const p of this.state.pieces) {
        const on = !want || (want === 'found' ? p.findings.some((f) => f.severity !== 'note') : want === 'open' ? !p.done : Object.keys(p.adjusted).length > 0)
        this.figure(p.id)?.classList.toggle('off', !on)
      }
      for (const ch of document.querySelectorAll('.ch')) ch.classList.toggle('off', !ch.querySelector('[data-piece]:not(.off)'))
    },
    async showMatters(toggle) {
      if (toggle && !this.matters.hidden) { this.closeMatters(); return }
      const d = await Aspen.get(`/briefs/${this.id}/matters`)
      fill(this.matters, d.html)
      this.matters.hidden = false
      document.body.classList.add('with-matters')
    },
    closeMatters() { this.matters.hidden = true; document.body.classList.remove('with-matters') },
    mattersClick(e) {
      const b = e.target.closest('button')
      if (!b) return
      if ('close' in b.dataset) this.closeMatters()
      if ('fixAll' in b.dataset) this.sync({ fix: { code: '', slot: '' } })
      if (b.dataset.fix) this.sync({ fix: { code: b.dataset.fix, slot: b.dataset.slot } })
      if (b.dataset.show) {
        const ids = b.dataset.show.split(' ')
        for (const el of document.querySelectorAll('.shown-now')) el.classList.remove('shown-now')
        for (const id of ids) this.figure(id)?.classList.add('shown-now')
        this.figure(ids[0])?.scrollIntoView({ block: 'center', inline: 'center' })
      }
    },
    openSlip() { this.slip.hidden = false; this.foldSlip(false); this.slipRefresh() },
    // while one types the slip is one line; a touch of the mouse opens it again
    foldSlip(on) {
      this.slip.classList.toggle('folded', on)
      if (on) this.slip.onmousemove = () => { this.foldSlip(false); this.slip.onmousemove = null; this.slipRefresh() }
    },
    slipRefresh() {
      const a = this.active
      if (!a || this.slip.hidden) return
      const p = this.info(a.piece)
      const channel = document.querySelector(`[data-piece="${a.piece}"]`).closest('.ch').getAttribute('aria-label')
      const reach = [...(a.slot === 'piece' ? [] : [['set', 'whole set']]), ['channel', channel.toLowerCase()], ['piece', 'this piece']]
        .map(([r, t]) => el('button', { 'data-reach': r, 'aria-pressed': a.reach === r ? 'true' : 'false' }, t))
      const rows = this.slipRows(a, p)
      if (!rows) { this.slip.hidden = true; return }
      this.slip.replaceChildren(el('div.reach', {}, el('span', {}, 'Change in'), reach), ...rows)
      this.placeSlip(this.figure(a.piece), this.boxOf(p, a.slot) || [0, 0, p.w, p.h], this.scale(p))
    },
    // slipRows is what the slip says of a part, row by row; null for nothing.
    slipRows(a, p) {
      const row = (...kids) => el('div.row', {}, ...kids)
      const back = (reach, attrs = {}) => reach && el('button.back', { 'data-lift': reach, ...attrs }, 'back to the rule')
      const start = (hash, text) => el('a.back', { href: `/briefs/${this.id}/start#f-${hash}` }, text)
      if (a.slot === 'piece') {
        const step = (what, title, property, shown) => row(el('b', {}, title),
          el('button.quiet', { 'data-turn-here': what, 'data-by': -1, 'aria-label': `${what} before` }, '‹'), shown,
          el('button.quiet', { 'data-turn-here': what, 'data-by': 1, 'aria-label': `next ${what}` }, '›'),
          back(p.adjusted[property], { 'data-property': property }))
        const file = (ext) => el('a', { href: `/briefs/${this.id}/pieces/${p.id}.${ext}`, download: true }, ext.toUpperCase())
        return [step('layout', 'Layout', 'layout', el('span', {}, p.layout)),
          step('colourway', 'Colours', 'seats', p.seats.map((c) => el('span.sw', {}, swatch(c)))),
          el('div.row.links', {}, file('png'), file('svg'), file('pdf'), el('button.back', { 'data-out': true }, 'take it out of the set'))]
      }
      if (a.slot.startsWith('picture')) {
        return [row(el('b', {}, 'Picture'),
          el('label.tiny', {}, 'another file', el('input', { type: 'file', hidden: true, accept: '.png,.jpg,.jpeg,.webp,.gif,.svg', 'data-upload': 'here' })),
          back(p.adjusted.picture, { 'data-property': 'file', 'data-of': 'picture' })),
        row(el('span.soft', {}, 'Drag it in its frame, or use the arrow keys'), back(p.adjusted[a.slot + ' crop'], { 'data-property': 'crop' })),
        el('div.row.pics', {}, this.state.pics.map((c) => el('button', { 'data-pic': c.file, title: c.alt || 'use it' }, el('img', { src: c.src, alt: '', width: 52, height: 40 }))))]
      }
      const said = p.said.find((w) => w.slot === a.slot)
      if (said) {
        const field = { when: 'date', offer: 'percent', quote: 'quote', person: 'person', lines: 'lines', facts: 'lines' }
        return [row(el('b', {}, said.label), start(field[a.slot] || 'headline', 'change it on Start')), el('p.said', {}, said.text.replace(/\n/g, ' · '))]
      }
      if (a.slot === 'logo') {
        const mine = p.adjusted.logo || this.state.logo ? p.logoFile : ''
        const chip = (file) => document.querySelector('[data-logo-chips]').content.querySelector(`[data-chip="${CSS.escape(file)}"]`)?.cloneNode(true)
        const pick = (file, name) => el('li', {}, el('button', { 'data-logo': file, 'aria-pressed': file === (mine || '') ? 'true' : 'false' }, file && chip(file), name))
        return [row(el('b', {}, 'Logo'), back(p.adjusted.logo)),
          el('ul', {}, a.reach === 'set' && pick('', 'picked by the rule, for each ground'), this.state.logos.map((l) => pick(l.file, l.name)))]
      }
      const w = this.word()
      if (!w) return null
      const rows = [row(el('b', {}, w.label), el('span.mono', {}, `${Math.round(w.size)} px`), el('span.sw', {}, swatch(w.fill)), el('span.mono', {}, `${w.contrast.toFixed(1)} : 1`), back(p.adjusted[a.slot]))]
      if (w.otherField) { // of the two headlines both are seen
        rows.push(row(el('span.soft', {}, w.otherLabel.toLowerCase() + ':'), el('span.other', {}, w.other), w.doubt && el('button.tiny', { 'data-follow': '' }, 'make the short one follow')))
      }
      return rows
    },
    placeSlip(fig, box, k) {
      // clear of the piece: under it, over it, or beside it; on a piece larger than
      // the window, clear of the part
      const r = fig.querySelector('.art').getBoundingClientRect()
      const [x, y, w, h] = box
      const width = this.slip.offsetWidth, height = this.slip.offsetHeight
      const top = 84, bottom = innerHeight - 122
      const part = { left: r.left + x * k, top: r.top + y * k, right: r.left + (x + w) * k, bottom: r.top + (y + h) * k }
      const under = (b, gap) => [r.left + x * k - 8, b + gap]
      const places = [
        under(r.bottom, 8), under(r.top, -height - 8),
        [r.right + 10, Math.max(top, Math.min(part.top, bottom - height))], [r.left - width - 10, Math.max(top, Math.min(part.top, bottom - height))],
        under(part.bottom, 14), under(part.top, -height - 14),
      ]
      const fits = ([l, t]) => t >= top && t + height <= bottom && l >= -20 && l + width <= innerWidth + 40
      // of those where it fits, the one that covers least of the other pieces
      const others = [...document.querySelectorAll('.art')].map((a) => a.getBoundingClientRect())
      const covers = ([l, t]) => others.reduce((sum, o) => sum + Math.max(0, Math.min(o.right, l + width) - Math.max(o.left, l)) * Math.max(0, Math.min(o.bottom, t + height) - Math.max(o.top, t)), 0)
      const good = places.slice(0, 4).filter(fits)
      const [left, at] = good.sort((u, v) => covers(u) - covers(v))[0] ?? places.slice(4).find(fits) ?? [part.left, bottom - height]
      this.slip.style.left = Math.max(8, Math.min(left, innerWidth - width - 12)) + 'px'
      this.slip.style.top = at + 'px'
    },
    slipClick(e) {
      const b = e.target.closest('button')
      const a = this.active
      if (!b) return
      const d = b.dataset
      if (d.reach && a) { a.reach = d.reach; this.slipRefresh(); if (a.field) this.field.focus({ preventScroll: true }) }
      else if (d.turnHere) this.sync({ turn: { what: d.turnHere, by: Number(d.by), reach: this.reachOf(a), piece: a.piece } })
      else if ('follow' in d) this.sync({ fix: { code: 'short-stale', slot: 'shortHeadline' } })
      else if (d.pic) this.sync({ picture: { reach: this.reachOf(a), file: d.pic } })
      else if ('out' in d) { this.chosen = new Set([a.piece]); this.leave(); this.withChosen('out') }
      else if ('logo' in d) this.sync({ logo: { Reach: this.reachOf(a), File: d.logo } })
      else if (d.lift) {
        this.sync({ lift: { Reach: d.lift, Slot: a.slot === 'piece' ? 'look' : a.slot.startsWith('picture') ? (d.property === 'crop' ? a.slot : 'picture') : a.field || a.slot, Property: d.property || (a.slot === 'logo' ? 'file' : 'text') } }).then(() => { if (a.slot !== 'piece') a.reach = 'set'; const w = this.word(); if (w) this.field.value = w.text; this.slipRefresh() })
      }
    },
    showFindings(fig) {
      this.leave()
      const p = this.info(fig.dataset.piece)
      this.slip.replaceChildren(el('div.row', {}, el('b', {}, 'To look at')), ...p.findings.map((f) => el('p.found', {},
        el('b', {}, f.severity === 'note' ? 'Note' : f.severity === 'warning' ? 'Look at this' : 'Must be put right'), el('small', {}, f.message))))
      this.slip.hidden = false
      this.placeSlip(fig, [p.w * 0.6, 0, p.w * 0.4, 20], this.scale(p))
      this.figure(p.id).classList.add('sel')
    },
  }))
})
