// What has colours and measures of its own in the slip of the Close-up: the outline and the
// cast shadow of words, the border of a picture, its two colours; and how a picture is
// mirrored. These are methods of the Mat's component (mat.js).
{
  const { el, press, swatch, notice, measure } = Aspen
  // measures in hundredths of what they are a share of, with how far they go
  const measures = {
    outline: [['width', 'Wide', 0.1, 30]],
    shadow: [
      ['x', 'Right', -100, 100],
      ['y', 'Down', -100, 100],
    ],
    border: [['width', 'Wide', 0.1, 20]],
    duotone: [],
  }
  const inks = {
    outline: [['fill', 'Outline']],
    shadow: [['fill', 'Shadow']],
    border: [['fill', 'Border']],
    duotone: [
      ['dark', 'Dark parts'],
      ['light', 'Light parts'],
    ],
  }

  Aspen.closeEdges = {
    // rowsOfEdge are the colours and the measures of something that is on
    rowsOfEdge(q, property) {
      const now = this.value(q, property)
      if (!now) return []
      return inks[property].map(([key, label], i) =>
        el(
          'div.row.dots',
          {},
          el('span.m', {}, label),
          this.state.close.colours.map((c) =>
            el(
              'button.ink' + (now[key] === c.token ? '.on' : ''),
              {
                'data-edge': property,
                'data-key': key,
                'data-value': c.token,
                title: c.name,
                'aria-label': `${label}: ${c.name}`,
                'aria-pressed': now[key] === c.token ? 'true' : 'false',
              },
              swatch(c.hex),
            ),
          ),
          el('input', {
            type: 'color',
            'data-edge-free': property,
            'data-key': key,
            value: now[key].startsWith('#') ? now[key] : '#000000',
            'aria-label': `${label}: any colour`,
            title: 'Any colour',
          }),
          i === 0 &&
            measures[property].map(([name, text]) =>
              this.numberField(text, `${property}.${name}`, Math.round((now[name] ?? 0) * 1000) / 10, '%'),
            ),
        ),
      )
    },
    // edgeSet changes one thing of it
    edgeSet(q, property, key, value) {
      this.sendHand([this.edit(q.unit, property, { ...this.value(q, property), [key]: value })])
    },
    // edgeTyped takes a measure as people type it, in hundredths
    edgeTyped(q, what, input) {
      const [property, key] = what.split('.')
      const [, , least, most] = measures[property].find(([name]) => name === key)
      const v = measure.amount(input.value, (this.value(q, property)?.[key] ?? 0) * 100)
      const typed = input.value
      input.blur()
      if (v >= least && v <= most) this.edgeSet(q, property, key, Math.round(v * 10) / 1000)
      else {
        if (typed.trim()) notice(`“${typed.slice(0, 40)}” does not go here: want ${least} to ${most} %.`, { bad: true })
        this.closeSlip()
      }
    },
    // mirrors turn a picture over, across and down, each by itself
    mirrors(q) {
      const now = this.value(q, 'flip')
      const on = { across: now === 'across' || now === 'both', down: now === 'down' || now === 'both' }
      return Object.entries({ across: 'Mirror', down: 'Upside down' }).map(([way, label]) => {
        const next = { ...on, [way]: !on[way] }
        const value = next.across && next.down ? 'both' : next.across ? 'across' : next.down ? 'down' : ''
        return press(on[way], { 'data-mirror': value, title: `Turned over ${way}` }, label)
      })
    },
    mirror(q, value) {
      if (value) this.sendHand([this.edit(q.unit, 'flip', value)])
      else this.liftProperty(q, 'flip')
    },
  }
}
