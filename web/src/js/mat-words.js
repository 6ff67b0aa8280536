// Words on the Mat: the caret drawn from places the server sends, letters drawn in
// the moment they are typed, selecting, going about by the lines as they are drawn,
// and what happens when two tabs write the same words. These are methods of the
// Mat's component (mat.js).
{
  const { el } = Aspen
  Aspen.matWords = {
    // stopAt is where the caret stands before a UTF-16 unit of the words.
    stopAt(unit) {
      return this.stops.find((s) => s.i >= unit) ?? this.stops[this.stops.length - 1]
    },
    drawCaret() {
      if (this.close && this.active?.field) this.selectionMoved()
      for (const old of document.querySelectorAll('.words-moved')) old.remove()
      const a = this.active
      if (!a || !a.field || document.activeElement !== this.field || !this.stops.length) return
      const k = this.scale(this.info(a.piece))
      const layer = this.figure(a.piece).querySelector('[data-layer]')
      const host = el('span.words-moved', {})
      if (this.moved) {
        const [m, n, o, q, x, y] = this.moved
        host.style.transform = `matrix(${m},${n},${o},${q},${x * k},${y * k})`
      }
      layer.append(host)
      const at = (i) => this.stopAt(i)
      const [from, to] = [this.field.selectionStart, this.field.selectionEnd]
      const s = at(from)
      if (from === to) {
        const caret = el('span.caret', { 'data-at': from })
        Object.assign(caret.style, { left: s.x * k - 1 + 'px', top: s.t * k + 'px', height: (s.b - s.t) * k + 'px' })
        host.append(caret)
        return
      }
      for (let i = from; i < to; i++) {
        const [u, v] = [at(i), at(i + 1)]
        if (u.t !== v.t) continue
        const range = el('span.range', {})
        Object.assign(range.style, {
          left: Math.min(u.x, v.x) * k + 'px',
          top: u.t * k + 'px',
          width: Math.abs(v.x - u.x) * k + 'px',
          height: (u.b - u.t) * k + 'px',
        })
        host.append(range)
      }
    },
    // typing: words of this field are on their way
    typing() {
      const a = this.active
      return !!a && this.box.waiting(this.tagOf(a))
    },
    // clashOf is the question that stands about a field of a card
    clashOf(field, card = '') {
      return this.clashes.find((c) => c.write.field === field && (c.write.card ?? '') === (card ?? ''))
    },
    // what was asked stands again when the page is opened anew, with the words as typed last
    openClash() {
      try {
        this.clashes = JSON.parse(localStorage.getItem('aspenridge-clash-' + this.id)) ?? []
      } catch {
        return // storage is off
      }
      this.showClash()
    },
    keepClashes() {
      try {
        if (this.clashes.length) localStorage.setItem('aspenridge-clash-' + this.id, JSON.stringify(this.clashes))
        else localStorage.removeItem('aspenridge-clash-' + this.id)
      } catch {
        /* storage is off or full: the questions stand as long as the page */
      }
    },
    // showClash offers both texts, one question after the other; nothing is sent for these
    // words until one is taken.
    showClash() {
      this.keepClashes()
      const [c] = this.clashes
      const host = document.querySelector('[data-clash]')
      host.hidden = !c
      if (!c) return
      const choose = (text, mine) => {
        this.clashes = this.clashes.filter((other) => other !== c)
        this.showClash()
        if (this.active?.field === c.write.field) {
          this.field.value = text
          this.unecho()
        }
        this.known = c.seq
        if (mine) this.send({ ...c.write, text }, c.seq)
        else this.sync({})
      }
      const say = (title, text, label, mine) =>
        el(
          'div',
          {},
          el('b', {}, title),
          el('p', {}, text || '(empty)'),
          Object.assign(el('button.tiny', {}, label), {
            onclick: () => choose(mine ? c.write.text : text, mine),
          }),
        )
      host.replaceChildren(
        el('h2', {}, 'These words were changed in another tab as well'),
        say('There', c.theirs, 'take these', false),
        say('Here', c.write.text, 'keep mine', true),
      )
    },
    send(write, base = this.known) {
      const a = this.active
      const caret = a?.field === write.field ? { placement: a.piece, slot: a.slot, text: write.text } : undefined
      return this.box.put(
        { write, ...(caret ? { caret } : {}) },
        { tag: `write ${write.reach} ${write.card} ${write.field}`, base },
      )
    },
    tagOf(a) {
      return `write ${this.reachOf(a)} ${this.info(a.piece)?.card} ${a.field}`
    },
    // --- typing --------------------------------------------------------------
    word() {
      const a = this.active
      return a && this.info(a.piece)?.words.find((w) => w.slot === a.slot)
    },
    typed() {
      if (!this.active || this.composing) return
      const a = this.active
      a.text = this.field.value
      this.echoTyped()
      this.foldSlip(true)
      if (a.field.startsWith('added-') && !a.text.trim()) return // what is added says something, or is deleted
      const write = { card: this.info(a.piece)?.card ?? '', field: a.field, reach: this.reachOf(a), text: a.text }
      const clash = this.clashOf(write.field, write.card)
      if (clash) {
        clash.write.text = a.text
        this.showClash()
        return
      }
      this.send(write)
    },
    // --- letters at once ------------------------------------------------------
    // Typed letters are drawn in the moment, from glyphs the server sent with the
    // caret, beside the real letters where those stood; the answer puts the real
    // line in their place. Words whose letters join wait for the server.
    echoTyped() {
      const a = this.active
      const e = this.echo
      const was = this.drawn ?? ''
      const now = this.field.value
      if (!a?.field || !e || !this.glyphs || !this.stops.length || this.composing) return
      // what follows the caret is as it was; what stands before it, as far as it is
      const after = now.length - this.field.selectionEnd
      let end = 0
      while (end < after && end < was.length && was[was.length - 1 - end] === now[now.length - 1 - end]) end++
      let from = 0
      while (from < was.length - end && from < now.length - end && was[from] === now[from]) from++
      const put = now.slice(from, now.length - end)
      const at = new Map(this.stops.map((s) => [s.i, s]))
      const [s, t] = [at.get(from), at.get(was.length - end)]
      if (!s || !t || s.t !== t.t) return // over several lines: the server sets them
      const advance = (c) => {
        const g = this.glyphs[this.letter(c, '')]
        return g && (g.a + e.tracking) * e.size
      }
      let x = s.x
      const fresh = []
      for (let i = 0; i < put.length; i++) {
        const w = advance(put[i])
        if (w === undefined) return // a letter nobody sent
        fresh.push({ i: from + i, x, t: s.t, b: s.b })
        x += w
      }
      const by = x - t.x
      const grow = put.length - (was.length - end - from)
      // what stands before moves too where lines are centred or end at the right
      const shift = { middle: -by / 2, end: -by }[e.align] ?? 0
      const stops = []
      for (const p of this.stops) {
        const here = p.t === s.t
        if (p.i < from) stops.push(here ? { ...p, x: p.x + shift } : p)
        else if (p.i === was.length - end)
          stops.push(...fresh.map((f) => ({ ...f, x: f.x + shift })), { ...p, i: p.i + grow, x: p.x + by + shift })
        else if (p.i > was.length - end)
          stops.push(here ? { ...p, i: p.i + grow, x: p.x + by + shift } : { ...p, i: p.i + grow })
      }
      this.stops = stops
      this.drawn = now
      this.drawEcho()
      this.drawCaret()
    },
    // letter is a character as the line sets it
    letter(c, before) {
      if (this.echo.upper) c = c.toLocaleUpperCase()
      if (c === "'") return '’'
      if (c === '"') return !before || /\s/.test(before) ? '“' : '”'
      return c
    },
    drawEcho() {
      const a = this.active
      const e = this.echo
      const svg = this.figure(a.piece).querySelector('.art > svg')
      const group = svg?.querySelector(`:scope > [data-slot="${a.slot}"]`)
      if (!group) return
      svg.querySelector(':scope > [data-echo]')?.remove()
      const text = this.field.value
      const size = e.size
      const g = el('g', { 'data-echo': '', fill: e.fill })
      if (this.moved) g.setAttribute('transform', `matrix(${this.moved.join(' ')})`)
      const base = (s) => s.t + 0.8 * ((s.b - s.t) / 1.02)
      for (const s of this.stops) {
        const c = text[s.i]
        const glyph = c && this.glyphs[this.letter(c, text[s.i - 1])]
        if (glyph?.d)
          g.append(
            el('path', { transform: `translate(${s.x} ${base(s)}) scale(${size / glyph.u})`, d: 'M0 0' + glyph.d }),
          )
      }
      group.after(g)
      for (const words of group.querySelectorAll(':scope > g')) words.setAttribute('visibility', 'hidden')
    },
    unecho() {
      for (const g of document.querySelectorAll('[data-echo]')) g.remove()
      const a = this.active
      const group = a && this.figure(a.piece)?.querySelector(`.art > svg > [data-slot="${a.slot}"]`)
      for (const words of group?.querySelectorAll(':scope > g') ?? []) words.removeAttribute('visibility')
    },
    // selectWith takes in the words up to the mouse, a word, or all of them
    selectWith(piece, e) {
      const text = this.field.value
      const i = this.nearest(piece, e)
      if (e.shiftKey) {
        const anchor =
          this.field.selectionDirection === 'backward' ? this.field.selectionEnd : this.field.selectionStart
        this.field.setSelectionRange(Math.min(anchor, i), Math.max(anchor, i), i < anchor ? 'backward' : 'forward')
      } else if (e.detail > 2) this.field.select()
      else {
        const inWord = (c) => /[\p{L}\p{N}\p{M}'’-]/u.test(c ?? '')
        let [from, to] = [i, i]
        while (from > 0 && inWord(text[from - 1])) from--
        while (to < text.length && inWord(text[to])) to++
        this.field.setSelectionRange(from, to)
      }
      this.field.focus({ preventScroll: true })
      this.drawCaret()
    },
    // asSolved is a place of the piece where it was before the words were moved by hand
    asSolved([x, y]) {
      if (!this.moved) return [x, y]
      const [a, b, c, d, e, f] = this.moved
      const size = a * d - b * c
      return [(d * (x - e) - c * (y - f)) / size, (a * (y - f) - b * (x - e)) / size]
    },
    nearest(piece, e) {
      const r = this.figure(piece).querySelector('.art > svg').getBoundingClientRect()
      const k = this.scale(this.info(piece))
      const [x, y] = this.asSolved([(e.clientX - r.left) / k, (e.clientY - r.top) / k])
      let best = 0,
        least = Infinity
      this.stops.forEach((s) => {
        const dy = y < s.t ? s.t - y : y > s.b ? y - s.b : 0
        const d = dy * 50 + Math.abs(s.x - x)
        if (d < least) {
          least = d
          best = s.i
        }
      })
      return best
    },
    // moveByLine makes up, down, home and end follow the lines as they are
    // drawn: the hidden field knows only one.
    moveByLine(e) {
      if (!['ArrowUp', 'ArrowDown', 'Home', 'End'].includes(e.key) || e.ctrlKey || e.metaKey || !this.stops.length)
        return
      const back = this.field.selectionDirection === 'backward'
      const [at, anchor] = back
        ? [this.field.selectionStart, this.field.selectionEnd]
        : [this.field.selectionEnd, this.field.selectionStart]
      const here = this.stopAt(at)
      const lines = [...new Set(this.stops.map((s) => s.t))].sort((a, b) => a - b)
      const line = lines[lines.indexOf(here.t) + ({ ArrowUp: -1, ArrowDown: 1 }[e.key] || 0)]
      let to = e.key === 'ArrowUp' ? 0 : this.field.value.length
      const on = this.stops.filter((s) => s.t === line)
      if (e.key === 'Home') to = on[0].i
      else if (e.key === 'End') to = on[on.length - 1].i
      else if (on.length) to = on.reduce((best, s) => (Math.abs(s.x - here.x) < Math.abs(best.x - here.x) ? s : best)).i
      e.preventDefault()
      if (e.shiftKey)
        this.field.setSelectionRange(Math.min(anchor, to), Math.max(anchor, to), to < anchor ? 'backward' : 'forward')
      else this.field.setSelectionRange(to, to)
      this.drawCaret()
    },
    // moveAsSeen makes left and right go where they point, in words that run from
    // right to left.
    moveAsSeen(e) {
      if (
        !['ArrowLeft', 'ArrowRight'].includes(e.key) ||
        e.ctrlKey ||
        e.metaKey ||
        e.altKey ||
        !/[\u0590-\u08FF\uFB1D-\uFEFC]/.test(this.field.value) ||
        !this.stops.length
      )
        return
      const back = this.field.selectionDirection === 'backward'
      const [at, anchor] = back
        ? [this.field.selectionStart, this.field.selectionEnd]
        : [this.field.selectionEnd, this.field.selectionStart]
      const here = this.stopAt(at)
      const on = this.stops.filter((s) => s.t === here.t).sort((u, v) => u.x - v.x || u.i - v.i)
      const next = on[on.indexOf(here) + (e.key === 'ArrowRight' ? 1 : -1)]
      // off the end of a line: on to the one after, or before
      const lines = [...new Set(this.stops.map((s) => s.t))].sort((u, v) => u - v)
      const line = lines[lines.indexOf(here.t) + (e.key === 'ArrowLeft' ? 1 : -1)]
      const to =
        next?.i ??
        this.stops.filter((s) => s.t === line).sort((u, v) => (e.key === 'ArrowLeft' ? v.x - u.x : u.x - v.x))[0]?.i
      e.preventDefault()
      if (to === undefined) return
      if (e.shiftKey)
        this.field.setSelectionRange(Math.min(anchor, to), Math.max(anchor, to), to < anchor ? 'backward' : 'forward')
      else this.field.setSelectionRange(to, to)
      this.drawCaret()
    },
    nextWords(by) {
      const p = this.info(this.active.piece)
      const i = p.words.findIndex((w) => w.slot === this.active.slot)
      const w = p.words[(i + by + p.words.length) % p.words.length]
      this.choose(p.id, w.slot)
    },
  }
}
