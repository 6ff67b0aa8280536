// Drawing on the Mat: an answer is put on it group by group, at the zoom there is, with
// what is not part of the pieces laid over them. These are methods of the Mat's
// component (mat.js).
{
  const { notice, paint, fill, el } = Aspen
  const svgns = 'http://www.w3.org/2000/svg'

  Aspen.matDraw = {
    figure(piece) {
      return document.querySelector(`[data-piece="${piece}"]`)
    },
    info(piece) {
      return this.state.pieces.find((p) => p.id === piece)
    },
    // wide is how many px a piece is shown
    wide(p) {
      if (this.close) return this.closeWide(p)
      return this.small ? p.small : p.seen * this.zoom
    },
    scale(p) {
      return this.wide(p) / p.w
    },
    smallest(on) {
      this.small = on
      this.setZoom(this.zoom, true)
    },
    setZoom(z, keep) {
      if (!keep) this.small = false
      this.zoom = Math.min(1.6, Math.max(0.25, z))
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
    // --- what it was like ---------------------------------------------------------
    // What pieces looked like before changes by hand, so that undo shows it at once; any
    // other change ends it.
    pasts: [],
    futures: [],
    asDrawn() {
      const svgs = document.querySelectorAll('[data-piece]:not(.done) .art > svg')
      return new Map([...svgs].map((svg) => [svg, [...svg.children]]))
    },
    keepPast(d, body) {
      if (d.seq === this.state.seq || body.revert) return
      this.futures = []
      if (body.hand) this.pasts = [...this.pasts.slice(-30), this.asDrawn()]
      else this.pasts = []
    },
    // seenBy reports whether the piece of the Close-up was otherwise before, where it is known
    seenBy(redo) {
      const then = (redo ? this.futures : this.pasts).at(-1)
      const svg = this.figure(this.close).querySelector('.art > svg')
      const was = then?.get(svg)
      return !!was && (was.length !== svg.children.length || was.some((n, i) => n !== svg.children[i]))
    },
    showPast(redo) {
      const [from, to] = redo ? [this.futures, this.pasts] : [this.pasts, this.futures]
      const then = from.pop()
      if (!then || !this.box.idle()) {
        this.pasts = []
        this.futures = []
        return
      }
      to.push(this.asDrawn())
      for (const [svg, groups] of then) {
        if (!svg.isConnected) continue
        svg.replaceChildren(...groups)
        for (const moved of svg.querySelectorAll('[data-group][transform], image[transform]'))
          moved.removeAttribute('transform') // as the hand left it
      }
    },
    // apply puts an answer on the mat: groups the page has are kept in place.
    apply(d) {
      if (d.variant) history.replaceState(null, '', `?close=${encodeURIComponent(d.variant)}`)
      if (
        d.pieces.some((p) => !this.figure(p.id)) ||
        d.pieces.length !== this.state.pieces.length ||
        d.pieces.some((p) => p.done !== this.info(p.id).done)
      ) {
        location.reload()
        return
      }
      if (d.close?.piece !== this.close) d.close = undefined // it was of one that was open before
      d.close ??= this.close ? this.state.close : undefined
      const before = this.state.pieces
      this.state = d
      this.markMoves(before)
      for (const p of d.pieces) {
        if (p.done) {
          this.figure(p.id).querySelector('[data-moved]').classList.toggle('moved', p.moved)
          continue
        }
        const svg = this.figure(p.id).querySelector('.art > svg')
        const have = new Map([...svg.querySelectorAll(':scope > [data-group]')].map((g) => [g.dataset.group, g]))
        let moved = have.size !== p.groups.length
        const nodes = p.groups.map((g, i) => {
          if (!g.svg) {
            moved ||= svg.children[i] !== have.get(g.id)
            return have.get(g.id)
          }
          moved = true
          const fresh = fill(document.createElementNS(svgns, 'g'), g.svg).firstChild
          this.keepCrop(have.get(g.id), fresh)
          return fresh
        })
        if (moved) svg.replaceChildren(...nodes.filter(Boolean))
        svg.setAttribute('aria-label', p.alt)
        const n = this.toLookAt(p).filter((f) => f.severity !== 'note').length
        const flag = this.figure(p.id).querySelector('[data-flag]')
        flag.hidden = n === 0
        flag.textContent = n
      }
      const moved = d.pieces.filter((p) => p.moved).length
      document.querySelector('[data-forward]').hidden = !moved
      document.querySelector('[data-moved-count]').textContent = moved
      this.lookTabs()
      if (d.kept) notice(`The kit keeps this colourway as ${d.kept}.`)
      if (d.fixed?.length)
        notice(d.fixed.join('; ') + '.', {
          stays: true,
          label: 'Undo',
          action: () => document.querySelector('button[data-undo]').click(),
        })
      if (d.bench) paint(fill(this.bench, d.bench))
      window.dispatchEvent(new CustomEvent('aspen:steps', { detail: d }))
      const w = this.word()
      const begun = this.active?.field?.startsWith('added-') && !this.field.value.trim() // to say something else
      if (w && !begun && !this.typing() && !this.composing && !this.clashOf(this.active.field, this.info(this.active.piece).card)) {
        if (w.text !== this.field.value) {
          // undone, or changed elsewhere
          const at = Math.min(this.field.selectionStart, w.text.length)
          this.field.value = w.text
          this.field.setSelectionRange(at, at)
          this.unecho()
        }
        this.known = d.seq // what is in the field is what the server has
      }
      this.layers()
    },
    // toLookAt is what was found on a piece, the same of several parts once
    toLookAt(p) {
      return [...new Map(p.findings.map((f) => [`${f.code} ${f.message}`, f])).values()]
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
        const show = () => {
          delete img.dataset.coming
          img.setAttribute('href', to)
          img.setAttribute('preserveAspectRatio', 'none')
        }
        next.decode().then(show, show)
      })
    },
    // the kept looks, the one that is shown marked
    lookTabs() {
      const host = document.querySelector('[data-look-tabs]')
      if (!this.state.looks.length) {
        host.replaceChildren()
        return
      }
      host.replaceChildren(
        ...this.state.looks.map((l) =>
          el('button', { 'data-show-look': l.id, 'aria-pressed': l.shown ? 'true' : 'false', title: l.name }, l.letter),
        ),
        el(
          'a',
          { href: `/briefs/${this.id}/looks`, title: 'Keep another look', 'aria-label': 'Keep another look' },
          '+',
        ),
      )
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
          Object.assign(el.style, {
            left: x * k - pad + 'px',
            top: y * k - pad + 'px',
            width: w * k + 2 * pad + 'px',
            height: h * k + 2 * pad + 'px',
          })
          return el
        }
        const kids = p.pictures.map((w) => {
          const el = place('hit pic-hit', w.box)
          el.dataset.slot = w.slot
          return el
        })
        kids.push(
          ...p.said.map((w) => {
            const el = place('hit', w.box, 2)
            el.dataset.slot = w.slot
            return el
          }),
        )
        kids.push(
          ...p.words.map((w) => {
            const el = place('hit', w.box, 2)
            el.dataset.slot = w.slot
            return el
          }),
        )
        if (p.logo) {
          const el = place('hit logo', p.logo, 2)
          el.dataset.slot = 'logo'
          kids.push(el)
        }
        if (this.safe && p.safe) kids.push(place('safe', p.safe))
        const mine = this.active?.piece === p.id
        this.figure(p.id).classList.toggle('sel', mine)
        this.figure(p.id).classList.toggle('chosen', this.chosen.has(p.id))
        const box = mine && this.boxOf(p, this.active.slot)
        if (box) {
          const [x, y, w, h] = box.map((v) => v * k)
          for (const [c, dx, dy] of [
            ['tl', -6, -6],
            ['tr', w - 3, -6],
            ['bl', -6, h - 3],
            ['br', w - 3, h - 3],
          ]) {
            const t = document.createElement('span')
            t.className = 'tick ' + c
            Object.assign(t.style, { left: x + dx + 'px', top: y + dy + 'px' })
            kids.push(t)
          }
        }
        layer.replaceChildren(...kids)
      }
      if (this.close && this.state.close) this.drawClose()
      this.drawCaret()
    },
    // boxOf is where a part stands on a piece, in its px
    boxOf(p, slot) {
      if (slot === 'logo') return p.logo
      if (slot === 'piece') return [0, 0, p.w, p.h]
      return [...p.words, ...p.said, ...p.pictures].find((w) => w.slot === slot)?.box
    },
    fit() {
      let low = 0.25,
        high = 1.6
      for (let i = 0; i < 8; i++) {
        const mid = (low + high) / 2
        this.setZoom(mid)
        if (this.wall.scrollHeight <= this.wall.clientHeight + 1 && this.wall.scrollWidth <= this.wall.clientWidth + 1)
          low = mid
        else high = mid
      }
      this.setZoom(low)
    },
    filter() {
      const want = document.querySelector('[data-filter]').value
      for (const p of this.state.pieces) {
        const on =
          !want ||
          (want === 'found'
            ? p.findings.some((f) => f.severity !== 'note')
            : want === 'open'
              ? !p.done
              : Object.keys(p.adjusted).length > 0)
        this.figure(p.id)?.classList.toggle('off', !on)
      }
      for (const ch of document.querySelectorAll('.ch'))
        ch.classList.toggle('off', !ch.querySelector('[data-piece]:not(.off)'))
    },
  }
}
