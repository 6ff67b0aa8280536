// Adding parts in the Close-up: words, shapes, icons, pictures and logos, in a free place.
// These are methods of the Mat's component (mat.js).
{
  const { el, get, sign } = Aspen
  const strokes =
    '<svg viewBox="0 0 24 24" width="22" height="22" fill="none" stroke="currentColor" stroke-width="2" ' +
    'stroke-linecap="round" stroke-linejoin="round">'
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

  Aspen.closeAdding = {
    // twice adds a part like the one that is held, a little beside it
    twice() {
      const q = this.part(this.picked[0])
      if (!q) return
      const part = q.added ? q.part : this.likeOf(q)
      if (part) this.addPart({ ...part, at: [part.at[0] + 0.04, part.at[1] + 0.04] })
      else Aspen.notice(`${q.label} belongs to the layout and cannot be there twice; words, pictures, logos and panels can.`)
    },
    // likeOf is a part of the layout as one that is added, null for one that cannot be
    likeOf(q) {
      const p = this.info(this.close)
      const short = Math.min(p.w, p.h)
      const [x, y, w, h] = q.box
      const place = { at: [(x + w / 2) / p.w, (y + h / 2) / p.h], size: [w / short, h / short] }
      const logo = q.kind === 'logo' && this.state.logos[0]
      if (q.text)
        return { kind: q.kind === 'button' ? 'button' : 'words', level: q.level || 'body', text: q.text, ...place }
      if (q.crop && q.file) return { kind: 'picture', file: q.file, ...place }
      if (logo) return { kind: 'logo', file: q.file ?? logo.file, ...place }
      if (q.kind === 'shape' && q.fill && q.moves) return { kind: 'shape', name: 'panel', fill: q.fill, ...place }
      return null
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
        items('Said with a shape', [
          add('button', { kind: 'button', text: 'Find out more', level: 'button', size: [0.34, 0.09] }),
          add('badge', { kind: 'badge', text: 'New', level: 'headline', size: [0.24, 0.24] }),
          add('row of stars', { kind: 'row', name: 'star', count: 5, size: [0.4, 0.06] }),
          add('row of facts', {
            kind: 'facts',
            name: 'circle-check',
            level: 'body',
            text: (this.state.close.facts.length ? this.state.close.facts : ['One thing', 'Another', 'A third'])
              .slice(0, 4)
              .join('\n'),
            size: [0.86, 0.16],
          }),
        ]),
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
        items(
          'Patterns',
          ['dots', 'basket', 'bars'].map((name) => add(name, { kind: 'pattern', name, size: [0.5, 0.5] })),
        ),
        el('section', {}, el('h3', {}, 'Icons'), this.iconFinder()),
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
      this.$refs.close.append(this.adds)
      this.adds.querySelector('button[data-add]').focus()
      await this.findIcons('', (name) => add(name, { kind: 'icon', name, size: [0.14, 0.14] }, ''))
    },
    // iconFinder is a field to find an icon by word, and those it finds
    iconFinder() {
      return [
        el('input', {
          type: 'search',
          'data-icon-search': true,
          placeholder: 'Find an icon: boat, heart, clock',
          'aria-label': 'Find an icon',
        }),
        el('div.adds.icons', { 'data-icons': true }),
      ]
    },
    // findIcons lists icons as one types, each as a button
    async findIcons(more, button) {
      const search = this.adds.querySelector('[data-icon-search]')
      const host = this.adds.querySelector('[data-icons]')
      const show = async () => {
        const { icons } = await get(`/icons?q=${encodeURIComponent(search.value)}${more}`)
        host.replaceChildren(...icons.map(({ name, inside }) => Aspen.fill(button(name), `${strokes}${inside}</svg>`)))
        if (!icons.length) host.append(el('p.soft', {}, 'No icon is called that. Try another word.'))
      }
      search.addEventListener('input', show)
      await show()
    },
    // openFrames lets a picture be cut to the outline of an icon
    openFrames(q) {
      return this.chooseIcon('Cut it to the outline of an icon', '&frames', (name) =>
        this.sendHand([this.edit(q.unit, 'frame', 'icon:' + name)]),
      )
    },
    // openIcons gives an added icon, or a row of them, another one
    openIcons(q) {
      return this.chooseIcon('Another icon', '', (name) => this.changePart(q, { name }))
    },
    async chooseIcon(title, more, take) {
      if (this.adds) this.closeAdd()
      this.adds = el(
        'div.adds-sheet',
        { role: 'dialog', 'aria-label': title, 'data-slip': '' },
        el(
          'header',
          {},
          el('b', {}, title),
          el('button.quiet', { 'data-adds-close': true, 'aria-label': 'Close' }, '×'),
        ),
        this.iconFinder(),
      )
      this.adds.addEventListener('click', (e) => {
        const b = e.target.closest('button')
        if (b && 'addsClose' in b.dataset) this.closeAdd()
        if (!b?.dataset.frame) return
        this.closeAdd()
        take(b.dataset.frame)
      })
      this.adds.addEventListener('keydown', (e) => {
        if (e.key === 'Escape') this.closeAdd()
        e.stopPropagation()
      })
      this.$refs.close.append(this.adds)
      await this.findIcons(more, (name) =>
        el('button.add-one', { 'data-frame': name, title: name, 'aria-label': name }),
      )
      this.adds?.querySelector('input').focus()
    },
    closeAdd() {
      this.adds?.remove()
      this.adds = null
      this.$refs.close.focus({ preventScroll: true })
    },
    // roomFor finds a place for a part: within the margins, smaller where that makes it free,
    // and over as little as can be; lies tells that it is over something
    roomFor(part) {
      let found
      for (const k of [1, 0.8, 0.64, 0.5]) {
        found = this.freePlace({ ...part, size: part.size.map((v) => Math.round(v * k * 1e4) / 1e4) })
        if (!found.lies) return found.part
      }
      const name = part.text ?? part.name ?? part.kind
      Aspen.notice(`There is no free room for “${name}” on this piece: it lies over something. Move it, or make room.`)
      return this.freePlace(part).part
    },
    freePlace(part) {
      const p = this.info(this.close)
      const short = Math.min(p.w, p.h)
      const [w, h] = part.size.map((v) => v * short)
      const [sx, sy, sw, sh] = p.safe
      const subjects = this.parts().flatMap((q) => (q.subjects ?? []).map((box) => ({ box })))
      const solid = [...this.parts().filter((q) => q.text || q.kind === 'logo' || q.added), ...subjects]
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
      const at = [(best.at[0] + w / 2) / p.w, (best.at[1] + h / 2) / p.h].map((v) => Math.round(v * 1e4) / 1e4)
      return { part: { ...part, at }, lies: over(best.at) > 0.01 * w * h }
    },
    addPart(part) {
      const slot = 'added-' + Math.random().toString(36).slice(2, 8)
      this.closeAdd()
      return this.sendHand([this.edit(slot, 'part', part)]).then(() => this.pick(slot))
    },
  }
}
