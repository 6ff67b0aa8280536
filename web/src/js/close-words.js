// Words in the Close-up: typed in place, their lines ended by hand; those that are selected
// get a style of their own. These are methods of the Mat's component (mat.js).
{
  const { el, swatch, press } = Aspen
  const runLevels = ['headline', 'subheading', 'body', 'caption']

  Aspen.closeWords = {
    // rowOfSelection is for the words that are selected while one types
    rowOfSelection(q) {
      const range = this.selectedWords()
      if (!range) return null
      const styles = this.wordStyles(q).slice(range.from, range.to)
      const all = (name) => styles.length > 0 && styles.every((s) => s[name])
      const set = (name, label, text) =>
        press(all(name), { 'data-run': name, 'aria-label': label, title: label }, el('span.' + name, {}, text))
      return el(
        'div.row.of-words',
        {},
        set('bold', 'Bold', 'B'),
        set('italic', 'Italic', 'I'),
        set('underline', 'Underlined', 'U'),
        set('strike', 'Struck through', 'S'),
        press(false, { 'data-run': 'larger', 'aria-label': 'Larger', title: 'Larger' }, 'A+'),
        press(false, { 'data-run': 'smaller', 'aria-label': 'Smaller', title: 'Smaller' }, 'A−'),
        el(
          'span.levels',
          {},
          runLevels.map((level) =>
            press(
              styles.length > 0 && styles.every((s) => s.level === level),
              { 'data-run': 'level', 'data-value': level, title: `As the kit sets its ${level}` },
              level,
            ),
          ),
        ),
        this.state.close.colours.map((c) =>
          el(
            'button.ink',
            { 'data-run': 'fill', 'data-value': c.token, title: c.name, 'aria-label': c.name },
            swatch(c.hex),
          ),
        ),
      )
    },
    // selectionMoved opens what can be done with selected words, and closes it
    selectionMoved() {
      const now = JSON.stringify(this.selectedWords())
      if (now === this.selectedLast) return
      this.selectedLast = now
      this.closeSlip()
    },
    // selectedWords are the words the selection touches, by their order
    selectedWords() {
      const f = this.field
      if (!this.active?.field || f.selectionStart === f.selectionEnd) return null
      const count = (s) => s.split(/\s+/).filter(Boolean).length
      const before = f.value.slice(0, f.selectionStart)
      const from = count(before) - (/\S$/.test(before) && /^\S/.test(f.value.slice(f.selectionStart)) ? 1 : 0)
      const to = count(f.value.slice(0, f.selectionEnd))
      return to > from ? { from, to } : null
    },
    // wordStyles is the style by hand of every word
    wordStyles(q) {
      const words = (q.text ?? '').split(/\s+/).filter(Boolean)
      const out = words.map(() => ({}))
      for (const r of this.value(q, 'runs') ?? []) {
        const { from, to, words: own, ...style } = r
        let at = from
        if (own && words.slice(from, to).join(' ').toLowerCase() !== own.toLowerCase()) {
          at = words.findIndex(
            (_, i) =>
              words
                .slice(i, i + to - from)
                .join(' ')
                .toLowerCase() === own.toLowerCase(),
          )
          if (at < 0) continue
        }
        for (let i = at; i < at + to - from && i < out.length; i++) out[i] = style
      }
      return out
    },
    // setRun changes the style of the words that are selected
    setRun(q, name, value) {
      const styles = this.wordStyles(q)
      const range = this.selectedWords() ?? { from: 0, to: styles.length }
      const chosen = styles.slice(range.from, range.to)
      const on = !chosen.every((s) => s[name])
      const next = (s) => {
        const t = { ...s }
        if (name === 'larger' || name === 'smaller') {
          const k = (t.scale ?? 1) * (name === 'larger' ? 1.15 : 1 / 1.15)
          t.scale = Math.abs(k - 1) < 0.03 ? undefined : Math.round(Math.min(4, Math.max(0.3, k)) * 1e3) / 1e3
        } else if (name === 'fill') t.fill = value
        else if (name === 'level') t.level = chosen.every((s) => s.level === value) ? undefined : value
        else t[name] = on || undefined
        return t
      }
      for (let i = range.from; i < Math.min(range.to, styles.length); i++) styles[i] = next(styles[i])
      const words = q.text.split(/\s+/).filter(Boolean)
      const runs = []
      styles.forEach((s, i) => {
        const clean = JSON.parse(JSON.stringify(s))
        if (!Object.keys(clean).length) return
        const last = runs[runs.length - 1]
        const key = JSON.stringify(clean)
        if (last && last.to === i && last.key === key) last.to = i + 1
        else runs.push({ from: i, to: i + 1, key, style: clean })
      })
      const listed = runs.map((r) => ({
        from: r.from,
        to: r.to,
        words: words.slice(r.from, r.to).join(' '),
        ...r.style,
      }))
      if (listed.length) this.sendHand([this.edit(q.unit, 'runs', listed)])
      else this.liftProperty(q, 'runs')
      if (this.active?.field) this.field.focus({ preventScroll: true })
    },
    // typeIn puts the caret into the words of a part
    typeIn(unit, e) {
      const q = this.part(unit)
      if (!q?.field) {
        if (q) this.say(`${q.label}: nothing to type here`)
        return
      }
      this.picked = [unit]
      this.choose(this.close, unit, e)
    },
    typeAt(e) {
      e.preventDefault()
      if (e.shiftKey || e.detail > 1) this.selectWith(this.close, e)
      else {
        const i = this.nearest(this.close, e)
        this.field.setSelectionRange(i, i)
        this.field.focus({ preventScroll: true })
        this.drawCaret()
      }
    },
    // endLine ends the line after the word the caret is in or behind; where one ends
    // already, it runs on
    endLine() {
      const q = this.part(this.active.slot)
      const words = this.field.value.trim().split(/\s+/)
      const n = this.field.value.slice(0, this.field.selectionStart).trim().split(/\s+/).filter(Boolean).length
      if (!q || n < 1 || n >= words.length) return
      const set = new Set(q.hand.some((h) => h.property === 'breaks') ? q.lines : [])
      if (!set.size) for (const l of q.lines ?? []) if (l < n) set.add(l)
      if (!set.delete(n)) set.add(n)
      const breaks = [...set].sort((a, b) => a - b).map((after) => ({ after, word: words[after - 1] }))
      this.sendHand([this.edit(q.unit, 'breaks', breaks.length ? breaks : undefined)])
    },
  }
}
