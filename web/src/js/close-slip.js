// The slip of the Close-up: what can be changed by hand of the part that is taken hold of,
// its first line the reach; and what can be added. These are methods of the Mat's
// component (mat.js).
{
  const { el, swatch, measure, notice, get } = Aspen
  const row = (...kids) => el('div.row', {}, ...kids)
  const levels = ['headline', 'subheading', 'body', 'caption', 'button']
  const shapes = {
    band: 'M2 9h20v6H2z',
    panel: 'M3 4h18v16H3z',
    circle: 'M12 3a9 9 0 1 0 .01 0z',
    line: 'M2 11.5h20v1H2z',
    arrow: 'M2 9h11V4l9 8-9 8v-5H2z',
    burst: 'M12 2l2 4 4-2v4l4 2-3 3 2 4-5 1-1 4-4-2-4 2-1-4-5-1 2-4-3-3 4-2V4l4 2z',
    wave: 'M2 10q5-6 10 0t10 0v10H2z',
    corner: 'M3 3h18L3 21z',
    frame: 'M3 3h18v18H3zM6 6v12h12V6z',
  }
  const frames = {
    rectangle: 'M3 4h18v16H3z',
    rounded: 'M8 4h8a5 5 0 0 1 5 5v6a5 5 0 0 1-5 5H8a5 5 0 0 1-5-5V9a5 5 0 0 1 5-5z',
    circle: 'M12 3a9 9 0 1 0 .01 0z',
    arch: 'M4 21V11a8 8 0 0 1 16 0v10z',
    leaf: 'M3 21V12a9 9 0 0 1 9-9h9v9a9 9 0 0 1-9 9z',
    ticket: 'M2 5h20v4a3 3 0 0 0 0 6v4H2v-4a3 3 0 0 0 0-6z',
  }
  const dropper =
    'M20 4a3 3 0 0 0-4 0l-3 3-1-1-1.5 1.5 1 1L4 16v4h4l7.500-7.500 1 1L18 12l-1-1 3-3a3 3 0 0 0 0-4zM7 18H6v-1l6.500-6.500 1 1z'
  const sign = (d) =>
    el(
      'svg',
      { viewBox: '0 0 24 24', width: 20, height: 20, 'aria-hidden': 'true' },
      el('path', { d, fill: 'currentColor', 'fill-rule': 'evenodd' }),
    )
  const press = (on, attrs, ...kids) => el('button.press', { 'aria-pressed': on ? 'true' : 'false', ...attrs }, ...kids)
  // light is the relative luminance of a colour (WCAG 2.2)
  const light = (hex) =>
    [1, 3, 5]
      .map((i) => parseInt(hex.slice(i, i + 2), 16) / 255)
      .map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4))
      .reduce((n, c, i) => n + c * [0.2126, 0.7152, 0.0722][i], 0)
  const ratio = (a, b) => (Math.max(light(a), light(b)) + 0.05) / (Math.min(light(a), light(b)) + 0.05)

  Aspen.closeSlip = {
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
    slipOfPart(q) {
      const title = row(
        el('b', {}, q.label),
        q.size && el('span.mono', {}, `${Math.round(q.size)} px`),
        q.contrast > 0 && el('span.mono' + (q.contrast < 4.5 ? '.low' : ''), {}, `${q.contrast.toFixed(1)} : 1`),
        q.hand.length > 0 && el('button.back', { 'data-lift-unit': q.unit }, 'back to the rule'),
      )
      const words = q.kind === 'text' || q.kind === 'button'
      return [
        title,
        words && this.rowOfSelection(q),
        words && this.rowOfType(q),
        words && this.rowOfSetting(q),
        q.crop && this.rowOfFrame(q),
        q.crop && this.rowOfDials(q),
        q.fill && this.rowOfColours(q, 'fill', 'Colour'),
        words && this.rowOfColours(q, 'highlight', 'Behind'),
        words && this.rowOfLetters(q),
        q.moves && this.rowOfPlace(q),
        this.rowOfDoing(q),
      ]
    },
    value(q, property) {
      return q.hand.find((h) => h.property === property)?.value
    },
    choice(label, property, options, now) {
      return el(
        'label.pick',
        {},
        el('span', {}, label),
        el(
          'select',
          { 'data-hand': property, 'aria-label': label },
          options.map(([v, t]) => el('option', { value: v, ...(v === now ? { selected: '' } : {}) }, t)),
        ),
      )
    },
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
      const range = this.selectedWords()
      if (!range) return
      const styles = this.wordStyles(q)
      const chosen = styles.slice(range.from, range.to)
      const on = !chosen.every((s) => s[name])
      const next = (s) => {
        const t = { ...s }
        if (name === 'larger' || name === 'smaller') {
          const k = (t.scale ?? 1) * (name === 'larger' ? 1.15 : 1 / 1.15)
          t.scale = Math.abs(k - 1) < 0.03 ? undefined : Math.round(Math.min(4, Math.max(0.3, k)) * 1e3) / 1e3
        } else if (name === 'fill') t.fill = value
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
      const value2 = runs.map((r) => ({
        from: r.from,
        to: r.to,
        words: words.slice(r.from, r.to).join(' '),
        ...r.style,
      }))
      if (value2.length) this.sendHand([this.edit(q.unit, 'runs', value2)])
      else this.liftProperty(q, 'runs')
      this.field.focus({ preventScroll: true })
    },
    rowOfType(q) {
      const level = this.value(q, 'level') ?? ''
      const faces = this.state.close.faces
      return row(
        this.choice('Level', 'level', [['', 'as planned'], ...levels.map((l) => [l, l])], level),
        this.choice(
          'Face',
          'family',
          [['', q.family], ...faces.filter((f) => f !== q.family).map((f) => [f, f])],
          this.value(q, 'family') ?? '',
        ),
        this.choice(
          'Weight',
          'weight',
          [['', String(q.weight)], ...[300, 400, 500, 600, 700, 800, 900].map((w) => [String(w), String(w)])],
          String(this.value(q, 'weight') ?? ''),
        ),
      )
    },
    rowOfSetting(q) {
      const align = this.value(q, 'align')
      const upper = this.value(q, 'case') === 'upper'
      return row(
        [
          ['start', 'left', 'M3 5h18v2H3zM3 11h11v2H3zM3 17h15v2H3z'],
          ['middle', 'centre', 'M3 5h18v2H3zM6 11h12v2H6zM4 17h16v2H4z'],
          ['end', 'right', 'M3 5h18v2H3zM10 11h11v2H10zM6 17h15v2H6z'],
        ].map(([v, t, d]) =>
          press(
            align === v,
            { 'data-toggle': 'align', 'data-value': v, 'aria-label': 'Lines to the ' + t, title: 'Lines to the ' + t },
            sign(d),
          ),
        ),
        press(
          upper,
          { 'data-toggle': 'case', 'data-value': 'upper', title: 'All in capitals', 'aria-label': 'All in capitals' },
          'AA',
        ),
        this.field2('Tracking', 'tracking', this.value(q, 'tracking') ?? '', 'em'),
        this.field2('Leading', 'leading', this.value(q, 'leading') ?? '', '×'),
      )
    },
    // field2 is a number as people type it
    field2(label, property, value, unit) {
      return el(
        'label.num',
        { title: label },
        el('span', {}, label),
        el('input', {
          'data-amount': property,
          value: String(value),
          size: 5,
          inputmode: 'text',
          'aria-label': `${label}, ${unit}`,
          placeholder: '–',
        }),
        el('i', {}, unit),
      )
    },
    rowOfColours(q, property, label) {
      const now = this.value(q, property)
      const ground = property === 'fill' ? q.ground : undefined
      const dots = this.state.close.colours.map((c) => {
        const against = property === 'highlight' ? ratio(c.hex, q.fill) : ground ? ratio(c.hex, ground) : 0
        const on = now ? now === c.token : property === 'fill' && q.fill === c.hex
        const reads = against === 0 || against >= 4.5
        return el(
          'button.ink' + (reads ? '' : '.faint') + (on ? '.on' : ''),
          {
            'data-paint': property,
            'data-value': c.token,
            title: against ? `${c.name}, ${against.toFixed(1)} : 1` : c.name,
            'aria-label': against ? `${c.name}, ${against.toFixed(1)} : 1` : c.name,
            'aria-pressed': on ? 'true' : 'false',
          },
          swatch(c.hex),
          !reads && el('small', {}, against.toFixed(1)),
        )
      })
      return el(
        'div.row.dots',
        {},
        el('span.m', {}, label),
        dots,
        el('input', {
          type: 'color',
          'data-free': property,
          value: q.fill || '#000000',
          'aria-label': `${label}: any colour`,
          title: 'Any colour',
        }),
        window.EyeDropper &&
          el(
            'button.press',
            {
              'data-drop': property,
              title: 'Take a colour from the screen',
              'aria-label': 'Take a colour from the screen',
            },
            sign(dropper),
          ),
        now?.startsWith('#') &&
          !this.state.close.colours.some((c) => c.hex === now) &&
          el('button.tiny', { 'data-into-kit': now }, 'use in the kit'),
        now && el('button.back', { 'data-clear': property }, 'rule'),
      )
    },
    rowOfLetters(q) {
      const outline = this.value(q, 'outline')
      const shadow = this.value(q, 'shadow')
      const ink =
        this.state.close.colours.map((c) => [ratio(c.hex, q.fill), c.token]).sort((a, b) => b[0] - a[0])[0]?.[1] ??
        '#000000'
      return row(
        press(
          !!outline,
          { 'data-toggle': 'outline', 'data-value': JSON.stringify({ fill: ink, width: 0.04 }) },
          'Outline',
        ),
        press(
          !!shadow,
          { 'data-toggle': 'shadow', 'data-value': JSON.stringify({ fill: ink, x: 0.05, y: 0.06 }) },
          'Cast shadow',
        ),
        q.field && el('small.soft', {}, 'Enter ends a line'),
      )
    },
    rowOfFrame(q) {
      const now = this.value(q, 'frame')
      const flip = this.value(q, 'flip')
      const border = this.value(q, 'border')
      const lead = this.state.close.colours[0]?.token ?? '#000000'
      return el(
        'div.row.frames-row',
        {},
        Object.entries(frames).map(([name, d]) =>
          press(
            now === name,
            { 'data-toggle': 'frame', 'data-value': name, title: name, 'aria-label': `Frame: ${name}` },
            sign(d),
          ),
        ),
        press(
          !!border,
          {
            'data-toggle': 'border',
            'data-value': JSON.stringify({ fill: lead, width: 0.02 }),
            title: 'A line around it',
          },
          'Border',
        ),
        press(flip === 'across', { 'data-toggle': 'flip', 'data-value': 'across', title: 'Mirrored' }, 'Mirror'),
        el(
          'div.pics',
          {},
          this.state.pics.map((c) =>
            el(
              'button',
              { 'data-pic': c.file, title: c.alt || 'use it' },
              el('img', { src: c.src, alt: '', width: 52, height: 40 }),
            ),
          ),
        ),
      )
    },
    rowOfDials(q) {
      const now = this.value(q, 'dials') ?? {}
      const two = this.value(q, 'duotone')
      const byLight = [...this.state.close.colours].sort((a, b) => light(a.hex) - light(b.hex))
      const ends = { dark: byLight[0]?.token ?? '#000000', light: byLight[byLight.length - 1]?.token ?? '#FFFFFF' }
      const dial = (name, label) =>
        el(
          'label.dial',
          {},
          el('span', {}, label),
          el('input', {
            type: 'range',
            min: -100,
            max: 100,
            value: Math.round((now[name] ?? 0) * 100),
            'data-dial-of': name,
            'aria-label': label,
          }),
        )
      return el(
        'div.row.dials-row',
        {},
        dial('brightness', 'Light'),
        dial('contrast', 'Contrast'),
        dial('saturation', 'Colour'),
        dial('warmth', 'Warmth'),
        press(!!two, { 'data-toggle': 'duotone', 'data-value': JSON.stringify(ends) }, 'Two colours'),
        (two || this.value(q, 'dials')) &&
          el('button.tiny', { 'data-before': true, title: 'Hold to see it as it was' }, 'before'),
      )
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
    rowOfPlace(q) {
      const b = q.box.map(Math.round)
      return row(
        this.field2('x', 'x', b[0], 'px'),
        this.field2('y', 'y', b[1], 'px'),
        q.size ? this.field2('Size', 'type', Math.round(q.size), 'px') : this.field2('w', 'w', b[2], 'px'),
        this.field2('Turn', 'rotate', q.rotate, '°'),
        this.field2('Opacity', 'opacity', Math.round(q.opacity * 100), '%'),
      )
    },
    rowOfDoing(q) {
      return (
        q.moves &&
        row(
          el('button.tiny', { 'data-order': 1, title: 'Further to the front (])' }, 'front'),
          el('button.tiny', { 'data-order': -1, title: 'Further to the back ([)' }, 'back'),
          q.added && el('button.tiny', { 'data-twice': true, title: 'Ctrl+D' }, 'twice'),
          el(
            'button.tiny',
            { 'data-lock': true, title: 'It stays where it is' },
            this.value(q, 'locked') ? 'unlock' : 'lock',
          ),
          el('button.tiny', { 'data-gone': true, title: 'Delete' }, q.added ? 'delete' : 'leave out'),
        )
      )
    },
    slipOfSeveral(list) {
      const group = this.value(list[0], 'group')
      const one = group && list.every((q) => this.value(q, 'group') === group)
      const together = one
        ? el('button.tiny', { 'data-apart': true }, 'take apart')
        : el('button.tiny', { 'data-together': true, title: 'Taken hold of as one from now on' }, 'hold together')
      const ways = [
        ['left', 'left edges'],
        ['centre', 'middles across'],
        ['right', 'right edges'],
        ['top', 'top edges'],
        ['middle', 'middles down'],
        ['bottom', 'bottom edges'],
      ]
      return [
        row(el('b', {}, `${list.length} parts`), together),
        el(
          'div.row.ways-row',
          {},
          ways.map(([how, t]) => el('button.tiny', { 'data-align': how, title: `In line by their ${t}` }, how)),
          list.length > 2 && [
            el('button.tiny', { 'data-align': 'across', title: 'Equal gaps across' }, 'even across'),
            el('button.tiny', { 'data-align': 'down', title: 'Equal gaps down' }, 'even down'),
          ],
        ),
      ]
    },
    // the slip stands to the right of the piece, beside the part
    placeCloseSlip(q) {
      const art = this.figure(this.close).querySelector('.art').getBoundingClientRect()
      const room = this.$refs.room.getBoundingClientRect()
      const k = this.scale(this.info(this.close))
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
      } else if (d.further) this.box.put({ further: { piece: this.close, slot: q.unit, from: d.further, to: d.to } })
      else if (d.liftUnit) this.liftUnit(d.liftUnit)
      else if (d.run) this.setRun(q, d.run, d.value)
      else if (d.paint) this.sendHand(this.picked.map((u) => this.edit(u, d.paint, d.value)))
      else if (d.clear) this.liftProperty(q, d.clear)
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
      } else if ('apart' in d) this.picked.forEach((u) => this.liftProperty(this.part(u), 'group'))
      else if ('drop' in d) this.pickColour(d.drop)
      else if (d.intoKit) this.box.put({ intoKit: d.intoKit }).then(() => notice('The kit has this colour now.'))
      else if (d.align) this.alignPicked(d.align)
      else if (d.order) this.orderPicked(Number(d.order))
      else if ('gone' in d) this.removePicked()
      else if ('twice' in d) this.twice()
      else if (d.pic)
        this.sync({
          picture: {
            reach: this.closeReach === 'class' ? 'class:' + this.state.close.class : this.handReach('file'),
            file: d.pic,
          },
        })
      else return false
      return true
    },
    async pickColour(property) {
      const units = this.picked
      try {
        const { sRGBHex } = await new window.EyeDropper().open()
        this.sendHand(units.map((u) => this.edit(u, property, sRGBHex.toUpperCase())))
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
      if (d.dialOf) {
        const dials = { ...this.value(q, 'dials'), [d.dialOf]: Number(e.target.value) / 100 }
        for (const k of Object.keys(dials)) if (!dials[k]) delete dials[k]
        if (Object.keys(dials).length) this.sendHand([this.edit(q.unit, 'dials', dials)])
        else this.liftProperty(q, 'dials')
      } else if (d.hand) {
        const v = e.target.value
        e.target.blur()
        if (v === '') this.liftProperty(q, d.hand)
        else this.sendHand([this.edit(q.unit, d.hand, d.hand === 'weight' ? Number(v) : v)])
      } else if (d.free) this.sendHand(this.picked.map((u) => this.edit(u, d.free, e.target.value.toUpperCase())))
      else if (d.amount) this.amountTyped(q, d.amount, e.target)
    },
    // amountTyped takes a number: where a part stands, how large, how far turned
    amountTyped(q, what, input) {
      const p = this.info(this.close)
      const now = {
        x: q.box[0],
        y: q.box[1],
        w: q.box[2],
        type: q.size,
        rotate: q.rotate,
        opacity: q.opacity * 100,
        tracking: this.value(q, 'tracking') ?? 0,
        leading: this.value(q, 'leading') ?? 1.1,
      }[what]
      const v = measure.amount(input.value, now)
      input.blur()
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
        this.place3([q.unit], new Map([[q.unit, { ...m, ...moved }]]))
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
      this.picked = []
      this.sendHand(edits).then(() => this.closeSlip())
    },
    // deletion takes an added part away with all that was changed of it
    deletion(q) {
      return [
        ...q.hand.map((h) => ({ reach: h.reach, slot: q.unit, property: h.property })),
        { reach: q.partReach, slot: q.unit, property: 'part' },
      ]
    },
    twice() {
      const q = this.part(this.picked[0])
      if (!q?.added) return
      const part = { ...q.part, at: [q.part.at[0] + 0.04, q.part.at[1] + 0.04] }
      this.addPart(part)
    },
    // --- adding ------------------------------------------------------------------------
    async openAdd() {
      const items = (title, kids) => el('section', {}, el('h3', {}, title), el('div.adds', {}, kids))
      const add = (label, part, ...kids) =>
        el(
          'button.add-one',
          { 'data-add': JSON.stringify(part), title: label, 'aria-label': label },
          ...(kids.length ? kids : [label]),
        )
      const words = {
        headline: 'A second headline',
        subheading: 'A line beside it',
        body: 'A few words',
        caption: 'A note',
      }
      this.adds = el(
        'div.adds-sheet',
        { role: 'dialog', 'aria-label': 'Add a part', 'data-slip': '' },
        el(
          'header',
          {},
          el('b', {}, 'Add a part'),
          el('button.quiet', { 'data-adds-close': true, 'aria-label': 'Close' }, '×'),
        ),
        items(
          'Words',
          Object.entries(words).map(([level, text]) =>
            add(level, { kind: 'words', level, text, size: [0.5, level === 'headline' ? 0.16 : 0.07] }),
          ),
        ),
        items(
          'Shapes',
          Object.entries(shapes).map(([name, d]) =>
            add(
              name,
              {
                kind: 'shape',
                name,
                size: {
                  band: [0.9, 0.14],
                  line: [0.5, 0.006],
                  wave: [0.9, 0.2],
                  frame: [0.6, 0.6],
                  arrow: [0.24, 0.14],
                }[name] ?? [0.24, 0.24],
                ...(name === 'frame' ? { width: 0.012 } : {}),
              },
              sign(d),
            ),
          ),
        ),
        el(
          'section',
          {},
          el('h3', {}, 'Icons'),
          el('input', {
            type: 'search',
            'data-icon-search': true,
            placeholder: 'Find an icon: boat, heart, clock',
            'aria-label': 'Find an icon',
          }),
          el('div.adds.icons', { 'data-icons': true }),
        ),
        this.state.pics.length > 0 &&
          items(
            'Pictures',
            this.state.pics.map((c) =>
              add(
                c.alt || 'picture',
                { kind: 'picture', file: c.file, size: [0.36, 0.28] },
                el('img', { src: c.src, alt: '', width: 52, height: 40 }),
              ),
            ),
          ),
        this.state.logos.length > 0 &&
          items(
            'Logos',
            this.state.logos.map((l) => add(l.name, { kind: 'logo', file: l.file, size: [0.24, 0.12] })),
          ),
      )
      this.adds.addEventListener('click', (e) => {
        const b = e.target.closest('button')
        if (!b) return
        if ('addsClose' in b.dataset) this.closeAdd()
        else if (b.dataset.add) this.addPart(this.roomFor(JSON.parse(b.dataset.add)))
      })
      this.adds.addEventListener('keydown', (e) => {
        if (e.key === 'Escape') this.closeAdd()
        e.stopPropagation()
      })
      const search = this.adds.querySelector('[data-icon-search]')
      const show = async () => {
        const { icons } = await get(`/icons?q=${encodeURIComponent(search.value)}`)
        const host = this.adds.querySelector('[data-icons]')
        host.replaceChildren(
          ...icons.map(({ name, inside }) => {
            const b = add(name, { kind: 'icon', name, size: [0.14, 0.14] }, '')
            Aspen.fill(
              b,
              `<svg viewBox="0 0 24 24" width="22" height="22" fill="none" stroke="currentColor" stroke-width="2" stroke-linecap="round" stroke-linejoin="round">${inside}</svg>`,
            )
            return b
          }),
        )
      }
      search.addEventListener('input', show)
      this.$refs.close.append(this.adds)
      this.adds.querySelector('button[data-add]').focus()
      await show()
    },
    closeAdd() {
      this.adds?.remove()
      this.adds = null
      this.$refs.close.focus({ preventScroll: true })
    },
    // roomFor finds a place for a part: within the margins, over as little as can be
    roomFor(part) {
      const p = this.info(this.close)
      const short = Math.min(p.w, p.h)
      const [w, h] = part.size.map((v) => v * short)
      const [sx, sy, sw, sh] = p.safe
      const solid = this.parts().filter((q) => q.text || q.kind === 'logo' || q.added)
      const over = ([x, y]) =>
        solid.reduce(
          (n, q) =>
            n +
            Math.max(0, Math.min(x + w, q.box[0] + q.box[2]) - Math.max(x, q.box[0])) *
              Math.max(0, Math.min(y + h, q.box[1] + q.box[3]) - Math.max(y, q.box[1])),
          0,
        )
      let best = null
      for (let i = 0; i <= 8; i++)
        for (let j = 0; j <= 12; j++) {
          const at = [sx + (Math.max(0, sw - w) * i) / 8, sy + (Math.max(0, sh - h) * j) / 12]
          // the middle of the piece first, where it is as free
          const cost = over(at) + 0.001 * Math.hypot(at[0] + w / 2 - p.w / 2, at[1] + h / 2 - p.h / 2)
          if (!best || cost < best.cost) best = { cost, at }
        }
      return {
        ...part,
        at: [(best.at[0] + w / 2) / p.w, (best.at[1] + h / 2) / p.h].map((v) => Math.round(v * 1e4) / 1e4),
      }
    },
    addPart(part) {
      const slot = 'added-' + Math.random().toString(36).slice(2, 8)
      this.closeAdd()
      return this.sendHand([this.edit(slot, 'part', part)]).then(() => this.pick(slot))
    },
  }
}
