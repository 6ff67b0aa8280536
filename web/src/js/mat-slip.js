// The slip of the Mat: what can be changed of the part that is chosen, and within which
// reach. These are methods of the Mat's component (mat.js).
{
  const { el, swatch } = Aspen
  const row = (...kids) => el('div.row', {}, ...kids)
  const back = (reach, attrs = {}) => reach && el('button.back', { 'data-lift': reach, ...attrs }, 'back to the rule')

  Aspen.matSlip = {
    openSlip() {
      this.slip.hidden = false
      this.foldSlip(false)
      this.slipRefresh()
    },
    // while one types the slip is one line; a touch of the mouse opens it again
    foldSlip(on) {
      this.slip.classList.toggle('folded', on)
      if (on)
        this.slip.onmousemove = () => {
          this.foldSlip(false)
          this.slip.onmousemove = null
          this.slipRefresh()
        }
    },
    slipRefresh() {
      if (this.close) {
        this.closeSlip()
        return
      }
      if (this.foundOn) {
        this.drawFindings()
        return
      }
      const a = this.active
      if (!a || this.slip.hidden) return
      const p = this.info(a.piece)
      const channel = this.channelOf(a.piece)
      const reach = [
        ...(a.slot === 'piece' ? [] : [['set', 'whole set']]),
        ['channel', channel.toLowerCase()],
        ['piece', 'this piece'],
      ].map(([r, t]) => el('button', { 'data-reach': r, 'aria-pressed': a.reach === r ? 'true' : 'false' }, t))
      const rows = this.slipRows(a, p)
      if (!rows) {
        this.slip.hidden = true
        return
      }
      const closer = row(
        el('button.tiny', { 'data-close-here': true, title: 'Enter, or a double click' }, 'shape it by hand'),
      )
      const added = a.field?.startsWith('added-') // says the same wherever it is
      this.slip.replaceChildren(
        added ? '' : el('div.reach', {}, el('span', {}, 'Change in'), reach),
        ...rows.filter(Boolean),
        closer,
      )
      this.placeSlip(this.figure(a.piece), this.boxOf(p, a.slot) || [0, 0, p.w, p.h], this.scale(p))
    },
    // slipRows is what the slip says of a part, row by row; null for nothing.
    slipRows(a, p) {
      if (a.slot === 'piece') return this.slipOfPiece(p)
      if (a.slot.startsWith('picture')) return this.slipOfPicture(a, p)
      const said = p.said.find((w) => w.slot === a.slot)
      if (said) return this.slipOfSaid(said)
      if (a.slot === 'logo') return this.slipOfLogo(a, p)
      return this.slipOfWords(a, p)
    },
    // railHint says what a rail of the kit holds, where one does
    railHint(rail) {
      const words = this.state.rails?.[rail]
      return words && el('div.row.held', {}, el('span', {}, words))
    },
    slipOfPiece(p) {
      const step = (what, title, property, shown) => {
        const turn = (by, sign, label) =>
          el('button.quiet', { 'data-turn-here': what, 'data-by': by, 'aria-label': label }, sign)
        return row(
          el('b', {}, title),
          turn(-1, '‹', `${what} before`),
          shown,
          turn(1, '›', `next ${what}`),
          back(p.adjusted[property], { 'data-property': property }),
        )
      }
      const file = (ext) =>
        el('a', { href: `/briefs/${this.id}/pieces/${p.id}.${ext}`, download: true }, ext.toUpperCase())
      const colours = p.seats.map((c) => el('span.sw', {}, swatch(c)))
      const out = el('button.back', { 'data-out': true }, 'take it out of the set')
      return [
        step('layout', 'Layout', 'layout', el('span', {}, p.layout)),
        step('colourway', 'Colours', 'seats', colours),
        this.movementRow(p),
        p.edge &&
          row(
            el('b', {}, 'Edge frame'),
            el('button.tiny', { 'data-edge': p.edge }, p.edge === 'on' ? 'leave it out' : 'with it again'),
          ),
        el(
          'div.row.links',
          {},
          this.$refs.wall.dataset.formats.split(' ').map(file),
          el('a', { href: `/briefs/${this.id}/video?moving=${encodeURIComponent(p.id)}` }, 'moving …'),
          out,
        ),
      ]
    },
    // movementRow says whether a piece moves besides standing still, and how
    movementRow(p) {
      const now = p.moves ? `${p.moves.seconds}${p.moves.loop ? ' loop' : ''}` : ''
      const ways = ['', '4', '6', '10', '15', '4 loop', '6 loop', '8 loop']
      if (!ways.includes(now)) ways.push(now)
      const said = (w) => {
        if (!w) return 'stands still'
        const [seconds, loop] = w.split(' ')
        return loop ? `${seconds} s, ends as it began` : `${seconds} s`
      }
      const option = (w) => el('option', { value: w, ...(w === now ? { selected: '' } : {}) }, said(w))
      return row(
        el('b', {}, 'Movement'),
        el('select', { 'data-movement': true, 'aria-label': 'How it moves' }, ways.map(option)),
        back(p.adjusted.moving, { 'data-property': 'moving' }),
      )
    },
    movementChosen(e) {
      if (!e.target.matches('[data-movement]')) return
      const [seconds, loop] = e.target.value.split(' ')
      const value = { seconds: Number(seconds || 0), ...(loop ? { loop: true } : {}) }
      const edit = { reach: this.reachOf(this.active), slot: 'piece', property: 'moving', value }
      const { piece } = this.active
      this.sync({ hand: { placement: piece, edits: [edit] } }).then(() => {
        this.slipRefresh()
        if (this.box.idle() && this.info(piece)?.moves) this.play(piece) // nothing else was chosen since
      })
    },
    slipOfPicture(a, p) {
      const accept = '.png,.jpg,.jpeg,.webp,.gif,.svg'
      const chooser = el('input', { type: 'file', hidden: true, accept, 'data-upload': 'here' })
      const small = (c) => el('img', { src: c.src, alt: '', width: 52, height: 40 })
      const pick = (c) => el('button', { 'data-pic': c.file, title: c.alt || 'use it' }, small(c))
      return [
        row(
          el('b', {}, 'Picture'),
          el('label.tiny', {}, 'another file', chooser),
          back(p.adjusted.picture, { 'data-property': 'file', 'data-of': 'picture' }),
        ),
        row(
          el('span.soft', {}, 'Drag it in its frame, or use the arrow keys'),
          back(p.adjusted[a.slot + ' crop'], { 'data-property': 'crop' }),
        ),
        el('div.row.pics', {}, this.state.pics.map(pick)),
      ]
    },
    // slipOfSaid is for what is said on Start and shown as something else here: a date, an
    // offer, a list.
    slipOfSaid(said) {
      const fields = {
        when: 'date',
        offer: 'percent',
        quote: 'quote',
        rating: 'stars',
        person: 'person',
        lines: 'lines',
        facts: 'lines',
      }
      const href = `/briefs/${this.id}/start#f-${fields[said.slot] || 'headline'}`
      return [
        row(el('b', {}, said.label), el('a.back', { href }, 'change it on Start')),
        el('p.said', {}, said.text.replace(/\n/g, ' · ')),
      ]
    },
    slipOfLogo(a, p) {
      const mine = p.adjusted.logo || this.state.logo ? p.logoFile || '' : ''
      const chips = document.querySelector('[data-logo-chips]').content
      const chip = (file) => chips.querySelector(`[data-chip="${CSS.escape(file)}"]`)?.cloneNode(true)
      const pick = (file, name) => {
        const on = file === mine ? 'true' : 'false'
        return el('li', {}, el('button', { 'data-logo': file, 'aria-pressed': on }, file && chip(file), name))
      }
      const byRule = a.reach === 'set' && pick('', 'picked by the rule, for each ground')
      return [
        row(el('b', {}, 'Logo'), back(p.adjusted.logo)),
        this.railHint('logo'),
        el(
          'ul',
          {},
          byRule,
          this.state.logos.map((l) => pick(l.file, l.name)),
        ),
      ]
    },
    slipOfWords(a, p) {
      const w = this.word()
      if (!w) return null
      const rows = [
        row(
          el('b', {}, w.label),
          el('span.mono', {}, `${Math.round(w.size)} px`),
          el('span.sw', {}, swatch(w.fill)),
          el('span.mono', {}, `${w.contrast.toFixed(1)} : 1`),
          back(p.adjusted[a.slot]),
        ),
      ]
      if (w.otherField) {
        // of the two headlines both are seen
        rows.push(
          row(
            el('span.soft', {}, w.otherLabel.toLowerCase() + ':'),
            el('span.other', {}, w.other),
            w.doubt && el('button.tiny', { 'data-follow': '' }, 'make the short one follow'),
          ),
        )
      }
      return rows
    },
    placeSlip(fig, box, k) {
      // clear of the piece: under it, over it, or beside it; on a piece larger than
      // the window, clear of the part
      const r = fig.querySelector('.art').getBoundingClientRect()
      const [x, y, w, h] = box
      const head = Math.max(44, document.querySelector('body > header').getBoundingClientRect().bottom) + 8
      this.slip.style.maxHeight = innerHeight - head - 8 + 'px' // with many logos it scrolls
      const width = this.slip.offsetWidth,
        height = this.slip.offsetHeight
      const top = 84,
        bottom = innerHeight - 122
      const part = {
        left: r.left + x * k,
        top: r.top + y * k,
        right: r.left + (x + w) * k,
        bottom: r.top + (y + h) * k,
      }
      const under = (b, gap) => [r.left + x * k - 8, b + gap]
      const places = [
        under(this.active?.slot === 'piece' ? fig.getBoundingClientRect().bottom : r.bottom, 8), // its caption is used beside it
        under(r.top, -height - 8),
        [r.right + 10, Math.max(top, Math.min(part.top, bottom - height))],
        [r.left - width - 10, Math.max(top, Math.min(part.top, bottom - height))],
        under(part.bottom, 14),
        under(part.top, -height - 14),
      ]
      const right = this.preflight.hidden ? innerWidth : this.preflight.getBoundingClientRect().left
      const fits = ([l, t]) => t >= top && t + height <= bottom && l >= -20 && l + width <= right + 40
      // of those where it fits, the one that covers least of the other pieces
      const others = [...document.querySelectorAll('.art')].map((a) => a.getBoundingClientRect())
      const covers = ([l, t]) =>
        others.reduce(
          (sum, o) =>
            sum +
            Math.max(0, Math.min(o.right, l + width) - Math.max(o.left, l)) *
              Math.max(0, Math.min(o.bottom, t + height) - Math.max(o.top, t)),
          0,
        )
      const good = places.slice(0, 4).filter(fits)
      const [left, at] = good.sort((u, v) => covers(u) - covers(v))[0] ??
        places.slice(4).find(fits) ?? [part.left, bottom - height]
      this.slip.style.left = Math.max(8, Math.min(left, right - width - 12)) + 'px'
      this.slip.style.top = Math.max(head, Math.min(at, innerHeight - height - 8)) + 'px'
    },
    slipClick(e) {
      const b = e.target.closest('button')
      const a = this.active
      if (!b) return
      const d = b.dataset
      if ('shut' in d) {
        this.stepOut()
        return
      }
      if (this.close && this.closeClick(b)) return
      if ('closeHere' in d) {
        this.openClose(a.piece, a.slot === 'piece' ? [] : [a.slot])
        return
      }
      if (d.reach && a) {
        a.reach = d.reach
        this.slipRefresh()
        if (a.field) this.field.focus({ preventScroll: true })
      } else if (d.turnHere)
        this.sync({ turn: { what: d.turnHere, by: Number(d.by), reach: this.reachOf(a), placement: a.piece } })
      else if ('follow' in d) this.sync({ fix: { code: 'short-stale', slot: 'shortHeadline' } })
      else if (d.pic) this.sync({ picture: { reach: this.reachOf(a), file: d.pic } })
      else if (d.edge) {
        const value = d.edge === 'on' ? { value: true } : {}
        const edit = { reach: this.reachOf(a), slot: 'edge', property: 'hidden', ...value }
        this.sync({ hand: { placement: a.piece, edits: [edit] } }).then(() => this.slipRefresh())
      } else if ('out' in d) {
        this.chosen = new Set([a.piece])
        this.leave()
        this.withChosen('out')
      } else if ('logo' in d) this.sync({ logo: { Reach: this.reachOf(a), File: d.logo } })
      else if (d.lift) {
        this.sync({
          lift: {
            Reach: d.lift,
            Slot:
              a.slot === 'piece'
                ? d.property === 'moving'
                  ? 'piece'
                  : 'look'
                : a.slot.startsWith('picture')
                  ? d.property === 'crop'
                    ? a.slot
                    : 'picture'
                  : a.field || a.slot,
            Property: d.property || (a.slot === 'logo' ? 'file' : 'text'),
          },
        }).then(() => {
          if (a.slot !== 'piece') a.reach = 'set'
          const w = this.word()
          if (w) this.field.value = w.text
          this.slipRefresh()
        })
      }
    },
    foundOn: '', // the piece of which the slip says what was found
    showFindings(fig) {
      this.leave()
      this.foundOn = fig.dataset.piece
      this.drawFindings()
    },
    shutFindings() {
      if (!this.foundOn) return
      this.figure(this.foundOn)?.classList.remove('sel')
      this.foundOn = ''
      this.slip.hidden = true
    },
    // drawFindings says what there is to look at of a piece, as it is now
    drawFindings() {
      const p = this.info(this.foundOn)
      if (!p?.findings.length) {
        this.leave()
        return
      }
      this.slip.replaceChildren(
        el('div.row', {}, el('b', {}, 'To look at'), el('button.tiny.soft', { 'data-shut': true }, 'close')),
        ...this.toLookAt(p).map((f) =>
          el(
            'p.found',
            {},
            el(
              'b',
              {},
              f.severity === 'note' ? 'Note' : f.severity === 'warning' ? 'Look at this' : 'Must be put right',
            ),
            el('small', {}, f.message),
          ),
        ),
      )
      this.slip.hidden = false
      this.placeSlip(this.figure(p.id), [p.w * 0.6, 0, p.w * 0.4, 20], this.scale(p))
      this.figure(p.id).classList.add('sel')
    },
  }
}
