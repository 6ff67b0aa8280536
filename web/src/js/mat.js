// The Mat: the whole set as live drawings. Words are typed on any piece: a
// hidden field takes the keys, the caret is drawn from places the server
// sends, and only groups that changed come back. One request is in flight;
// what is typed meanwhile waits, and an answer that is no longer the newest is
// dropped.
document.addEventListener('alpine:init', () => {
  const { post, upload, notice, saved, paint, onChange, files, toKit } = Aspen
  const svgns = 'http://www.w3.org/2000/svg'

  Alpine.data('mat', () => ({
    id: '', state: null, zoom: 0.6, small: false, safe: false,
    active: null, // {piece, slot, field, reach}: what is being typed or chosen
    chosen: new Set(), // pieces chosen together
    stops: [], busy: false, again: false, jobs: [], dirty: false, newest: 0, composing: false,

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
        if (e.key === 'Escape') { e.preventDefault(); this.leave() }
        if (e.key === 'Tab') { e.preventDefault(); this.nextWords(e.shiftKey ? -1 : 1) }
        this.moveByLine(e)
      })
      this.$root.addEventListener('mousedown', (e) => this.press(e))
      // the path, not the target: choosing a part draws its place anew
      document.addEventListener('mousedown', (e) => { if (!e.composedPath().some((el) => el.matches?.('[data-piece], [data-slip], [data-bench]'))) this.leave() })
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
        const b = e.target.closest('[data-turn]')
        if (b) this.turn(b.dataset.turn, Number(b.dataset.by))
        if (e.target.closest('[data-keep-colours]')) this.sync({ keep: true })
      })
      this.slip.addEventListener('click', (e) => this.slipClick(e))
      addEventListener('keydown', (e) => this.key(e))
      addEventListener('aspen:reverted', () => this.sync({}))
      onChange(() => { if (!this.busy) this.sync({}) })
      files(async (kind, f, on) => {
        // dropped on a piece it is for that piece, anywhere else for the set
        const fig = kind ? null : on?.closest?.('[data-piece]')
        const reach = kind === 'here' ? this.reachOf(this.active) : fig ? 'piece:' + fig.dataset.piece : 'set'
        if (await toKit(document.body.dataset.kit, f)) this.sync({})
        else if (await upload(`/briefs/${this.id}/pictures/first?reach=${encodeURIComponent(reach)}`, f)) this.sync({})
      })
      this.$root.addEventListener('scroll', () => this.slipRefresh())
      this.setZoom(this.zoom)
      this.recover()
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
          const holder = document.createElementNS(svgns, 'g')
          holder.innerHTML = g.svg
          return holder.firstChild
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
      if (d.kept) notice(`The kit keeps this colourway as ${d.kept}.`)
      if (d.bench) { this.bench.innerHTML = d.bench; paint(this.bench) }
      window.dispatchEvent(new CustomEvent('aspen:steps', { detail: d }))
      const w = this.word()
      if (w && !this.dirty && !this.composing && w.text !== this.field.value) { // undone, or changed elsewhere
        const at = Math.min(this.field.selectionStart, w.text.length)
        this.field.value = w.text
        this.field.setSelectionRange(at, at)
      }
      this.layers()
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
    // stopAt is where the caret stands before a UTF-16 unit of the words.
    stopAt(unit) { return this.stops.find((s) => s.i >= unit) ?? this.stops[this.stops.length - 1] },
    drawCaret() {
      for (const el of document.querySelectorAll('.caret, .range')) el.remove()
      const a = this.active
      if (!a || !a.field || document.activeElement !== this.field || !this.stops.length) return
      const p = this.info(a.piece)
      const layer = this.figure(a.piece).querySelector('[data-layer]')
      const k = this.scale(p)
      const at = (i) => this.stopAt(i)
      const [from, to] = [this.field.selectionStart, this.field.selectionEnd]
      const s = at(from)
      if (from === to) {
        const el = document.createElement('span')
        el.className = 'caret'
        el.dataset.at = from
        Object.assign(el.style, { left: s.x * k - 1 + 'px', top: s.t * k + 'px', height: (s.b - s.t) * k + 'px' })
        layer.append(el)
        return
      }
      for (let i = from; i < to; i++) {
        const [u, v] = [at(i), at(i + 1)]
        if (u.t !== v.t) continue
        const el = document.createElement('span')
        el.className = 'range'
        Object.assign(el.style, { left: Math.min(u.x, v.x) * k + 'px', top: u.t * k + 'px', width: Math.abs(v.x - u.x) * k + 'px', height: (u.b - u.t) * k + 'px' })
        layer.append(el)
      }
    },

    // --- talking -------------------------------------------------------------
    // sync queues a change and sends it when nothing is in flight.
    sync(body) { this.jobs.push(body); return this.pump() },
    async pump() {
      if (this.busy) return
      this.busy = true
      while (this.jobs.length || this.dirty) {
        let body = this.jobs.shift()
        if (!body) { // typing: always the newest words
          this.dirty = false
          const a = this.active || this.lastTyped
          body = { write: { card: this.info(a.piece)?.card ?? 0, field: a.field, reach: this.reachOf(a), text: a.text }, caret: { piece: a.piece, slot: a.slot, text: a.text } }
        } else if (this.active?.field) {
          body.caret = { piece: this.active.piece, slot: this.active.slot, text: this.field.value }
        }
        const number = ++this.newest
        saved('saving')
        try {
          const d = await post(`/briefs/${this.id}/sync`, { base: this.state.seq, have: this.have(), ...body })
          if (number === this.newest && d.seq >= this.state.seq) {
            const stale = body.caret && this.active && body.caret.text !== this.field.value
            this.apply(d)
            if (d.caret && !stale) { this.stops = d.caret.stops; this.drawCaret() }
            this.slipRefresh()
            if (!this.matters.hidden && !body.caret) this.showMatters()
            this.filter()
          }
          if (!this.dirty) this.forget()
          saved(this.dirty ? 'saving' : 'saved')
        } catch (e) {
          this.refused(e, body)
        }
      }
      this.busy = false
    },
    refused(e, body) {
      saved('saved')
      if (e.status !== 409) { notice(e.message, { bad: true }); return }
      const yours = body.write?.text
      notice('These words were changed in another tab; they now say “' + (e.data.theirs ?? '') + '”.', {
        bad: true, label: 'Keep mine',
        action: () => { this.state.seq = e.data.seq; if (yours != null) this.sync({ write: { ...body.write } }) },
      })
      this.state.seq = e.data.seq
      this.sync({}).then(() => { const w = this.word(); if (w) this.field.value = w.text })
    },
    // what is typed but not yet saved outlives the tab
    remember() { try { localStorage.setItem('aspenridge-mat-' + this.id, JSON.stringify({ card: this.info(this.active.piece).card, field: this.active.field, reach: this.reachOf(this.active), text: this.field.value })) } catch { /* storage is off */ } },
    forget() { try { localStorage.removeItem('aspenridge-mat-' + this.id) } catch { /* storage is off */ } },
    recover() {
      try {
        const lost = JSON.parse(localStorage.getItem('aspenridge-mat-' + this.id))
        if (lost) this.sync({ write: lost })
      } catch { /* nothing kept */ }
    },

    // --- typing --------------------------------------------------------------
    word() { const a = this.active; return a && this.info(a.piece)?.words.find((w) => w.slot === a.slot) },
    reachOf(a) { return a.reach === 'channel' ? 'channel:' + this.info(a.piece).channel : a.reach === 'piece' ? 'piece:' + a.piece : 'set' },
    typed() {
      if (!this.active || this.composing) return
      this.active.text = this.field.value
      this.lastTyped = { ...this.active }
      this.dirty = true
      this.remember()
      this.pump()
    },
    press(e) {
      const fig = e.target.closest('[data-piece]')
      if (!fig || e.target.closest('a, button')) return
      if (e.ctrlKey || e.metaKey || e.shiftKey) { e.preventDefault(); this.choosing(fig.dataset.piece); return }
      const hit = e.target.closest('.hit')
      if (!hit) { this.leave(); return }
      e.preventDefault()
      this.choose(fig.dataset.piece, hit.dataset.slot, e)
    },
    choose(piece, slot, e) {
      const p = this.info(piece)
      const same = this.active?.piece === piece && this.active?.slot === slot
      const w = p.words.find((x) => x.slot === slot)
      const adjusted = p.adjusted[slot.startsWith('picture') ? 'picture' : slot]
      const reach = same ? this.active.reach : !adjusted || adjusted === 'set' ? 'set' : adjusted.startsWith('piece') ? 'piece' : 'channel'
      this.active = { piece, slot, field: w?.field, reach, text: w?.text }
      this.stops = same ? this.stops : []
      if (!w) { this.field.blur() } else {
        if (!same) this.field.value = w.text
        this.field.focus({ preventScroll: true })
        const text = w.text
        const put = () => { if (this.field.value !== text || this.active?.slot !== slot) return; const i = e ? this.nearest(piece, e) : this.field.value.length; this.field.setSelectionRange(i, i); this.drawCaret() }
        if (same && this.stops.length) put()
        else this.sync({ caret: { piece, slot, text: w.text } }).then(put)
      }
      this.layers()
      this.openSlip()
    },
    nearest(piece, e) {
      const r = this.figure(piece).querySelector('.art > svg').getBoundingClientRect()
      const k = this.scale(this.info(piece))
      const [x, y] = [(e.clientX - r.left) / k, (e.clientY - r.top) / k]
      let best = 0, least = Infinity
      this.stops.forEach((s) => {
        const dy = y < s.t ? s.t - y : y > s.b ? y - s.b : 0
        const d = dy * 50 + Math.abs(s.x - x)
        if (d < least) { least = d; best = s.i }
      })
      return best
    },
    // moveByLine makes up, down, home and end follow the lines as they are
    // drawn: the hidden field knows only one.
    moveByLine(e) {
      if (!['ArrowUp', 'ArrowDown', 'Home', 'End'].includes(e.key) || e.ctrlKey || e.metaKey || !this.stops.length) return
      const back = this.field.selectionDirection === 'backward'
      const [at, anchor] = back ? [this.field.selectionStart, this.field.selectionEnd] : [this.field.selectionEnd, this.field.selectionStart]
      const here = this.stopAt(at)
      const lines = [...new Set(this.stops.map((s) => s.t))].sort((a, b) => a - b)
      const line = lines[lines.indexOf(here.t) + ({ ArrowUp: -1, ArrowDown: 1 }[e.key] || 0)]
      let to = e.key === 'ArrowUp' ? 0 : this.field.value.length
      const on = this.stops.filter((s) => s.t === line)
      if (e.key === 'Home') to = on[0].i
      else if (e.key === 'End') to = on[on.length - 1].i
      else if (on.length) to = on.reduce((best, s) => (Math.abs(s.x - here.x) < Math.abs(best.x - here.x) ? s : best)).i
      e.preventDefault()
      if (e.shiftKey) this.field.setSelectionRange(Math.min(anchor, to), Math.max(anchor, to), to < anchor ? 'backward' : 'forward')
      else this.field.setSelectionRange(to, to)
      this.drawCaret()
    },
    nextWords(by) {
      const p = this.info(this.active.piece)
      const i = p.words.findIndex((w) => w.slot === this.active.slot)
      const w = p.words[(i + by + p.words.length) % p.words.length]
      this.choose(p.id, w.slot)
    },
    leave() {
      if (!this.active) return
      this.active = null
      this.stops = []
      this.slip.hidden = true
      this.field.blur()
      this.layers()
    },
    key(e) {
      if (e.target.matches('input, textarea, select') || e.ctrlKey || e.metaKey || e.altKey) return
      const turn = { l: 'layout', c: 'colourway', o: 'logo', t: 'type', p: 'picture' }[e.key.toLowerCase()]
      if (turn) { e.preventDefault(); this.turn(turn, e.shiftKey ? -1 : 1) }
      if (e.key.toLowerCase() === 'f') this.fit()
      if (e.key === '1') this.setZoom(1)
      if (e.key === '0') this.smallest(!this.small)
      if (e.key.toLowerCase() === 'v') this.showMatters(true)
      if (e.key === '+' || e.key === '=') this.setZoom(this.zoom * 1.2)
      if (e.key === '-') this.setZoom(this.zoom / 1.2)
      if (e.key === 'Escape') this.leave()
      const fig = document.activeElement?.closest?.('[data-piece]')
      if (fig && e.key === 'Enter' && document.activeElement === fig) {
        e.preventDefault()
        const first = this.info(fig.dataset.piece).words[0]
        if (first) this.choose(fig.dataset.piece, first.slot)
      }
    },
    turn(what, by) { return this.sync({ turn: { what, by } }) },

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
      this.matters.innerHTML = d.html
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
    openSlip() { this.slip.hidden = false; this.slipRefresh() },
    slipRefresh() {
      const a = this.active
      if (!a || this.slip.hidden) return
      const p = this.info(a.piece)
      const channel = document.querySelector(`[data-piece="${a.piece}"]`).closest('.ch').getAttribute('aria-label')
      const reach = [...(a.slot === 'piece' ? [] : [['set', 'whole set']]), ['channel', channel.toLowerCase()], ['piece', 'this piece']]
        .map(([r, t]) => `<button data-reach="${r}" aria-pressed="${a.reach === r}">${t}</button>`).join('')
      const back = p.adjusted[a.slot] ? `<button class="back" data-lift="${p.adjusted[a.slot]}">back to the rule</button>` : ''
      let rows
      if (a.slot === 'piece') {
        const step = (what, text) => `<div class="row"><b>${what === 'layout' ? 'Layout' : 'Colours'}</b><button class="quiet" data-turn-here="${what}" data-by="-1" aria-label="${what} before">‹</button>${text}<button class="quiet" data-turn-here="${what}" data-by="1" aria-label="next ${what}">›</button>${p.adjusted[what === 'layout' ? 'layout' : 'seats'] ? `<button class="back" data-lift="${p.adjusted[what === 'layout' ? 'layout' : 'seats']}" data-property="${what === 'layout' ? 'layout' : 'seats'}">back to the rule</button>` : ''}</div>`
        const swatches = p.seats.map((c) => `<span class="sw"><svg><rect width="100%" height="100%" fill="${c}"/></svg></span>`).join('')
        rows = step('layout', `<span>${p.layout}</span>`) + step('colourway', swatches) +
          `<div class="row links"><a href="/briefs/${this.id}/pieces/${p.id}.png" download>PNG</a><a href="/briefs/${this.id}/pieces/${p.id}.svg" download>SVG</a><a href="/briefs/${this.id}/pieces/${p.id}.pdf" download>PDF</a><button class="back" data-out>take it out of the set</button></div>`
      } else if (a.slot.startsWith('picture')) {
        const lift = p.adjusted.picture ? `<button class="back" data-lift="${p.adjusted.picture}" data-property="file" data-of="picture">back to the rule</button>` : ''
        rows = `<div class="row"><b>Picture</b><label class="tiny">another file<input type="file" hidden accept=".png,.jpg,.jpeg,.webp,.gif,.svg" data-upload="here"></label>${lift}</div><div class="row pics">` +
          this.state.pics.map((c) => `<button data-pic="${c.file}" title="${(c.alt || 'use it').replace(/"/g, '&quot;')}"><img src="${c.src}" alt="" width="52" height="40"></button>`).join('') + '</div>'
      } else if (p.said.some((w) => w.slot === a.slot)) {
        const w = p.said.find((x) => x.slot === a.slot)
        rows = `<div class="row"><b>${{ when: 'Date', offer: 'Offer', quote: 'Quote', person: 'Person', facts: 'Facts', lines: 'Lines' }[a.slot] || 'Words'}</b><a class="back" href="/briefs/${this.id}/start#f-${{ when: 'date', offer: 'percent', quote: 'quote', person: 'person', lines: 'lines', facts: 'lines' }[a.slot] || 'headline'}">change it on Start</a></div><p class="said"></p>`
        this.saidText = w.text
      } else if (a.slot === 'logo') {
        const pick = (file, name, on) => `<li><button data-logo="${file}" aria-pressed="${on}">${name}</button></li>`
        const mine = p.adjusted.logo || this.state.logo ? p.logoFile : ''
        rows = `<div class="row"><b>Logo</b>${back}</div><ul>` + (a.reach === 'set' ? pick('', 'picked by the rule, for each ground', !mine) : '') +
          this.state.logos.map((l) => pick(l.file, l.name, l.file === mine)).join('') + '</ul>'
      } else {
        const w = this.word()
        if (!w) { this.slip.hidden = true; return }
        const names = { headline: 'Headline', shortHeadline: 'Shorter headline', subheading: 'Subheading', body: 'Body', callToAction: 'Call to action', website: 'Address', businessName: 'Name', tagline: 'Tagline', where: 'Place' }
        rows = `<div class="row"><b>${names[w.field]}</b><span class="mono">${Math.round(w.size)} px</span><span class="sw"><svg><rect width="100%" height="100%" fill="${w.fill}"/></svg></span><span class="mono">${w.contrast.toFixed(1)} : 1</span>${back}</div>`
      }
      this.slip.innerHTML = `<div class="reach"><span>Change in</span>${reach}</div>${rows}`
      const said = this.slip.querySelector('.said')
      if (said) said.textContent = this.saidText.replace(/\n/g, ' · ')
      this.placeSlip(this.figure(a.piece), this.boxOf(p, a.slot) || [0, 0, p.w, p.h], this.scale(p))
    },
    placeSlip(fig, box, k) {
      const r = fig.querySelector('.art').getBoundingClientRect()
      const [x, y, w, h] = box
      const width = 318, height = this.slip.offsetHeight
      let left = r.left + x * k - 8
      let top = r.top + (y + h) * k + 14
      if (top + height > innerHeight - 120) top = r.top + y * k - height - 14
      if (top < 50) { top = Math.max(50, r.top + y * k); left = r.left + (x + w) * k + 20 }
      this.slip.style.left = Math.max(8, Math.min(left, innerWidth - width - 12)) + 'px'
      this.slip.style.top = top + 'px'
    },
    slipClick(e) {
      const b = e.target.closest('button')
      const a = this.active
      if (!b) return
      const d = b.dataset
      if (d.reach && a) { a.reach = d.reach; this.slipRefresh(); if (a.field) this.field.focus({ preventScroll: true }) }
      else if (d.turnHere) this.sync({ turn: { what: d.turnHere, by: Number(d.by), reach: this.reachOf(a), piece: a.piece } })
      else if (d.pic) this.sync({ picture: { reach: this.reachOf(a), file: d.pic } })
      else if ('out' in d) { this.chosen = new Set([a.piece]); this.leave(); this.withChosen('out') }
      else if ('logo' in d) this.sync({ logo: { Reach: this.reachOf(a), File: d.logo } })
      else if (d.lift) {
        this.sync({ lift: { Reach: d.lift, Slot: a.slot === 'piece' ? 'look' : a.slot.startsWith('picture') ? 'picture' : a.slot, Property: d.property || (a.slot === 'logo' ? 'file' : 'text') } }).then(() => { if (a.slot !== 'piece') a.reach = 'set'; const w = this.word(); if (w) this.field.value = w.text; this.slipRefresh() })
      }
    },
    showFindings(fig) {
      this.leave()
      const p = this.info(fig.dataset.piece)
      const esc = (s) => s.replace(/[&<>"]/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c])
      this.slip.innerHTML = '<div class="row"><b>To look at</b></div>' + p.findings.map((f) => `<p class="found"><b>${f.severity === 'note' ? 'Note' : f.severity === 'warning' ? 'Look at this' : 'Must be put right'}</b><small>${esc(f.message)}</small></p>`).join('')
      this.slip.hidden = false
      this.placeSlip(fig, [p.w * 0.6, 0, p.w * 0.4, 20], this.scale(p))
      this.figure(p.id).classList.add('sel')
    },
  }))
})
