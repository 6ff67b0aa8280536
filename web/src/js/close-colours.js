// The rows of colours in the slip of the Close-up: the kit's with how they read, those of
// the pictures, any other. These are methods of the Mat's component (mat.js).
{
  const { el, get, swatch, press, sign } = Aspen
  const { ratio } = Aspen.measure
  const dropper =
    'M20 4a3 3 0 0 0-4 0l-3 3-1-1-1.5 1.5 1 1L4 16v4h4l7.500-7.500 1 1L18 12l-1-1 3-3a3 3 0 0 0 0-4zM7 18H6v-1l6.500-6.500 1 1z'

  Aspen.closeColours = {
    pictureColours: {}, // by hash
    behindAs: '', // what a colour behind words is of: highlight or band

    // rowOfBehind is the colour behind words: behind their lines, or a band from edge to edge
    rowOfBehind(q) {
      const set = ['highlight', 'band'].find((p) => this.value(q, p))
      const as = set ?? (this.behindAs || 'highlight')
      const row = this.rowOfColours(q, as, 'Behind')
      const way = (p, text) => press(as === p, { 'data-behind': p, title: `A colour behind ${text}` }, text)
      row.append(way('highlight', 'lines'), way('band', 'a band'))
      return row
    },
    rowOfColours(q, property, label) {
      const now = this.value(q, property)
      const ground = property === 'fill' ? q.ground : undefined
      const dots = this.state.close.colours.map((c) => {
        const against = property !== 'fill' ? ratio(c.hex, q.fill) : ground ? ratio(c.hex, ground) : 0
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
        el(
          'button.press',
          {
            'data-drop': property,
            title: window.EyeDropper ? 'Take a colour from the screen' : 'Take a colour from the piece',
            'aria-label': window.EyeDropper ? 'Take a colour from the screen' : 'Take a colour from the piece',
          },
          sign(dropper),
        ),
        now?.startsWith('#') &&
          this.state.kits &&
          !this.state.close.colours.some((c) => c.hex === now) &&
          el('button.tiny', { 'data-into-kit': now }, 'use in the kit'),
        property === 'fill' && now && (q.kind === 'text' || q.kind === 'button') && this.everywhere('fill'),
        now && el('button.back', { 'data-clear': property }, 'rule'),
      )
    },
    // rowOfPictureColours are the colours of the pictures on the piece
    rowOfPictureColours(q) {
      const hexes = this.parts()
        .filter((o) => o.hash)
        .flatMap((o) => this.coloursOf(o.hash))
      if (!hexes.length) return null
      return el(
        'div.row.dots',
        {},
        el('span.m', {}, 'Picture'),
        [...new Set(hexes)].slice(0, 9).map((hex) => {
          const against = q.ground ? ratio(hex, q.ground) : 0
          const title = against ? `${hex}, ${against.toFixed(1)} : 1` : hex
          const reads = against === 0 || against >= 4.5
          return el(
            'button.ink' + (reads ? '' : '.faint'),
            { 'data-paint': 'fill', 'data-value': hex, title, 'aria-label': `From the picture: ${title}` },
            swatch(hex),
            !reads && el('small', {}, against.toFixed(1)),
          )
        }),
      )
    },
    // coloursOf are the colours of a picture, once they are known
    coloursOf(hash) {
      const known = this.pictureColours[hash]
      if (known === undefined) {
        this.pictureColours[hash] = []
        get(`/pictures/${hash}/colours`).then(
          ({ colours }) => {
            this.pictureColours[hash] = colours
            this.closeSlip()
          },
          () => {}, // then there are none to choose
        )
      }
      return known ?? []
    },
  }
}
