// The rows of the slip of the Close-up: what can be changed by hand of a part. These are
// methods of the Mat's component (mat.js).
{
  const { el, press, sign } = Aspen
  const row = (...kids) => el('div.row', {}, ...kids)
  const factsAs = ['', 'list', 'row', 'figures'].map((as) => [as, as || 'as planned'])
  const levels = ['headline', 'subheading', 'body', 'caption', 'button']
  const frames = {
    rectangle: 'M3 4h18v16H3z',
    rounded: 'M8 4h8a5 5 0 0 1 5 5v6a5 5 0 0 1-5 5H8a5 5 0 0 1-5-5V9a5 5 0 0 1 5-5z',
    circle: 'M12 3a9 9 0 1 0 .01 0z',
    arch: 'M4 21V11a8 8 0 0 1 16 0v10z',
    leaf: 'M3 21V12a9 9 0 0 1 9-9h9v9a9 9 0 0 1-9 9z',
    ticket: 'M2 5h20v4a3 3 0 0 0 0 6v4H2v-4a3 3 0 0 0 0-6z',
  }
  const { light, ratio } = Aspen.measure

  Aspen.closeRows = {
    slipOfPart(q) {
      const title = row(
        el('b', {}, q.label),
        q.size && el('span.mono', {}, `${Math.round(q.size)} px`),
        q.contrast > 0 && el('span.mono' + (q.contrast < 4.5 ? '.low' : ''), {}, `${q.contrast.toFixed(1)} : 1`),
        q.hand.length > 0 && el('button.back', { 'data-lift-unit': q.unit }, 'back to the rule'),
      )
      const words = q.kind === 'text' || q.kind === 'button'
      const part = q.part && this.rowOfAdded(q)
      return [
        title,
        part,
        words && this.rowOfSelection(q),
        words && this.rowOfType(q),
        words && this.railHint('faces'),
        words && this.rowOfSetting(q),
        q.crop && this.rowOfFrame(q),
        ...(q.crop ? this.rowsOfEdge(q, 'border') : []),
        q.crop && this.rowOfDials(q),
        ...(q.crop ? this.rowsOfEdge(q, 'duotone') : []),
        q.fill && this.rowOfColours(q, 'fill', 'Colour'),
        q.fill && this.rowOfPictureColours(q),
        q.fill && this.railHint('colours'),
        q.unit === 'logo' && this.railHint('logo'),
        words && this.rowOfBehind(q),
        words && this.rowOfLetters(q),
        ...(words ? ['outline', 'shadow'].flatMap((p) => this.rowsOfEdge(q, p)) : []),
        q.moves && this.rowOfPlace(q),
        q.moves && this.rowOfFit(q),
        this.rowOfDoing(q),
        this.rowOfLifts(q),
      ]
    },
    // rowOfLifts gives each thing that was changed by hand back to the rule by itself
    rowOfLifts(q) {
      const names = [...new Map(q.hand.filter((h) => h.property !== 'part').map((h) => [h.property, h.label]))]
      if (names.length < 2) return null
      return el(
        'div.row.lifts',
        {},
        el('span.soft', {}, 'By the rule again:'),
        names.map(([property, label]) => el('button.tiny', { 'data-clear': property }, label)),
      )
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
    // rowOfAdded is what an added part says, or how many icons it has
    rowOfAdded(q) {
      const icons = ['icon', 'row', 'facts'].includes(q.part.kind) && q.part.name !== undefined
      const other = icons && el('button.tiny', { 'data-icon-of': true, title: 'Another icon' }, q.part.name + ' …')
      if (q.part.kind === 'facts')
        return row(
          el(
            'textarea.says',
            { 'data-part': 'text', 'aria-label': 'Facts, a line each', rows: 3, maxlength: 300 },
            q.part.text,
          ),
          other,
        )
      if (q.part.name === 'frame') return row(this.numberField('Line', 'width', this.lineOf(q), 'px'))
      if (q.part.text !== undefined)
        return row(
          el('input.says', { 'data-part': 'text', value: q.part.text, 'aria-label': 'What it says', maxlength: 300 }),
        )
      return (other || q.part.count > 0) && row(q.part.count > 0 && this.numberField('Icons', 'count', q.part.count, 'px'), other)
    },
    // lineOf is how wide the line of a frame is, px
    lineOf(q) {
      const p = this.info(this.close)
      return Math.max(1, Math.round((q.part.width ?? 0) * Math.min(p.w, p.h)))
    },
    rowOfType(q) {
      const level = this.value(q, 'level') ?? ''
      return row(
        this.choice('Level', 'level', [['', 'as planned'], ...levels.map((l) => [l, l])], level),
        q.unit === 'facts' && this.choice('Facts', 'arrange', factsAs, this.value(q, 'arrange') ?? ''),
        this.faces(q),
        this.choice(
          'Weight',
          'weight',
          [['', String(q.weight)], ...[300, 400, 500, 600, 700, 800, 900].map((w) => [String(w), String(w)])],
          String(this.value(q, 'weight') ?? ''),
        ),
        this.value(q, 'family') && this.everywhere('family'),
        this.value(q, 'family') &&
          q.level &&
          this.state.kits &&
          el(
            'button.tiny',
            { 'data-face-into-kit': this.value(q, 'family'), title: `The kit’s ${q.level} is set in it everywhere` },
            'use in the kit',
          ),
      )
    },
    // faces are those of the kit, and apart from them those that ship
    faces(q) {
      const own = this.value(q, 'family')
      const { faces, others } = this.state.close
      const option = (f) => el('option', { value: f, ...(f === own ? { selected: '' } : {}) }, f)
      return el(
        'label.pick',
        {},
        el('span', {}, others.includes(own) ? 'Face, not in the kit' : 'Face'),
        el(
          'select',
          { 'data-hand': 'family', 'aria-label': 'Face' },
          el('option', { value: '' }, own ? 'as planned' : q.family),
          el('optgroup', { label: 'Of the kit' }, faces.filter((f) => f !== q.family || own).map(option)),
          el('optgroup', { label: 'Not in the kit' }, others.map(option)),
        ),
      )
    },
    // everywhere gives all words of the set what was chosen by hand here
    everywhere(property) {
      return el(
        'button.tiny',
        { 'data-everywhere': property, title: 'The same for all words on all pieces, as one step' },
        'for all words',
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
        (q.capitals || this.value(q, 'case') === 'typed') &&
          press(
            this.value(q, 'case') === 'typed',
            { 'data-toggle': 'case', 'data-value': 'typed', title: 'As typed, not in the capitals of the kit' },
            'Aa',
          ),
        this.numberField('Tracking', 'tracking', this.value(q, 'tracking') ?? '', 'em'),
        this.numberField('Leading', 'leading', this.value(q, 'leading') ?? '', '×'),
      )
    },
    // numberField is a number as people type it
    numberField(label, property, value, unit) {
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
        unit !== 'px' && el('i', {}, unit),
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
        this.mirrors(q),
        press(
          now?.startsWith('icon:'),
          { 'data-frame-icon': true, title: 'Cut it to the outline of an icon' },
          now?.startsWith('icon:') ? now.slice(5) : 'Icon …',
        ),
        q.file &&
          q.unit.startsWith('picture') &&
          press(
            this.marking === q.unit,
            { 'data-mark-whole': true, title: 'Draw a box around what must stay whole in every shape' },
            'Keep whole …',
          ),
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
      const tint = two?.light === '#FFFFFF'
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
        press(two && !tint, { 'data-toggle': 'duotone', 'data-value': JSON.stringify(ends) }, 'Two colours'),
        press(
          tint,
          {
            'data-toggle': 'duotone',
            'data-value': JSON.stringify({ ...ends, light: '#FFFFFF' }),
            title: 'From one colour to white',
          },
          'One colour',
        ),
        (two || this.value(q, 'dials')) &&
          el('button.tiny', { 'data-before': true, title: 'Hold to see it as it was' }, 'before'),
      )
    },
    rowOfPlace(q) {
      const b = q.box.map(Math.round)
      const apart = q.sides && !q.rotate
      return el(
        'div.row.place-row',
        {},
        this.numberField('x', 'x', b[0], 'px'),
        this.numberField('y', 'y', b[1], 'px'),
        apart && this.numberField('Width', 'wide', b[2], 'px'),
        apart && q.sides === 'both' && this.numberField('Height', 'high', b[3], 'px'),
        q.size
          ? this.numberField('Size', 'type', Math.round(q.size), 'px')
          : !apart && this.numberField('w', 'w', b[2], 'px'),
        this.numberField('Turn', 'rotate', q.rotate, '°'),
        this.numberField('Opacity', 'opacity', Math.round(q.opacity * 100), '%'),
      )
    },
    // rowOfFit binds a picture or a shape to edges of the piece, or puts it behind words
    rowOfFit(q) {
      if (q.sides !== 'both' || q.kind === 'button') return null
      const now = q.part?.fit ?? this.value(q, 'fit')
      const ways = [
        ['whole', 'whole piece'],
        ['wide', 'as wide as the piece'],
        ['high', 'as high'],
        ['behind', 'behind these words'],
      ]
      return row(ways.map(([fit, label]) => press(now === fit, { 'data-fit': fit }, label)))
    },
    rowOfDoing(q) {
      return (
        q.moves &&
        row(
          el('button.tiny', { 'data-order': 1, title: 'Further to the front (])' }, 'front'),
          el('button.tiny', { 'data-order': -1, title: 'Further to the back ([)' }, 'back'),
          el('button.tiny', { 'data-twice': true, title: 'Ctrl+D' }, 'twice'),
          el(
            'button.tiny',
            { 'data-lock': true, title: 'It stays where it is' },
            this.value(q, 'locked') ? 'unlock' : 'lock',
          ),
          el('button.tiny', { 'data-gone': true, title: 'Delete' }, q.added ? 'delete' : 'leave out'),
          this.copies(),
        )
      )
    },
    // copies put what is held on the clipboard for other programs
    copies() {
      return [
        el('button.tiny.soft', { 'data-copy-as': 'png', title: 'To the clipboard as a picture' }, 'copy PNG'),
        el('button.tiny.soft', { 'data-copy-as': 'svg', title: 'To the clipboard as a drawing' }, 'SVG'),
      ]
    },
    slipOfSeveral(list) {
      const levels = list.length === 2 && list.every((q) => q.level && !q.added) && list[0].level !== list[1].level
      const swap =
        levels && el('button.tiny', { 'data-swap': true, title: 'Each is set as the other was' }, 'swap levels')
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
        row(el('b', {}, `${list.length} parts`), together, swap, this.copies()),
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
  }
}
