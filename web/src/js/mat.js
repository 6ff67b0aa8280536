// The Mat: the whole set as live drawings. Words are typed on any piece: a hidden field
// takes the keys, the caret is drawn from places the server sends, and only groups that
// changed come back. This is its component: what is known, what the page calls, the keys.
// What it does is in mat-draw, mat-talk, mat-choose, mat-slip and mat-words.
document.addEventListener('alpine:init', () => {
  const { upload, onChange, files, toKit } = Aspen

  const page = () => ({
    id: '',
    state: null,
    zoom: 0.6,
    small: false,
    safe: false,
    active: null, // {piece, slot, field, reach}: what is being typed or chosen
    chosen: new Set(), // pieces chosen together
    stops: [],
    moved: undefined, // where words went by hand, as SVG's matrix has it
    composing: false,
    echo: null,
    glyphs: null,
    glyphsOf: '',
    drawn: '', // letters drawn before the server's
    known: 0, // how far the document had come when what is in the field was the server's
    clashes: [], // two texts each, of which one is to be chosen
    dragged: null,

    init() {
      this.id = document.body.dataset.brief
      this.state = JSON.parse(document.querySelector('[data-state]').textContent)
      for (const part of ['wall', 'field', 'slip', 'bench', 'ways', 'preflight', 'bar']) this[part] = this.$refs[part]
      this.markMoves()
      this.openField()
      this.openMouse()
      this.openFiles()
      this.openPlaces()
      this.openHand()
      this.openCloseSlip()
      this.openCloseKeys()
      this.openLayers()
      this.openClip()
      addEventListener('keydown', (e) => this.key(e))
      addEventListener('aspen:revert', (e) => {
        e.preventDefault()
        this.revert(e.detail.redo)
      })
      onChange(() => {
        if (this.box.idle()) this.sync({})
        if (this.close) this.hearSaid()
      })
      // where one is, for the others on the brief
      Aspen.at = () => ({
        piece: this.active?.piece || this.close || '',
        field: (this.active?.field && this.word()?.label) || '',
      })
      this.lookTabs()
      this.setZoom(this.zoom)
      this.openBox()
      const asked = new URLSearchParams(location.search)
      if (asked.has('preflight')) this.showPreflight()
      if (asked.has('close')) this.openClose(asked.get('close'))
    },
    get percent() {
      return Math.round(this.zoom * 100) + ' %'
    },
    openField() {
      const f = this.field
      f.addEventListener('input', () => this.typed())
      f.addEventListener('compositionstart', () => {
        this.composing = true
      })
      f.addEventListener('compositionend', () => {
        this.composing = false
        this.typed()
      })
      // also from a keyboard on the screen, which sends no key
      f.addEventListener('beforeinput', (e) => {
        if (!this.close || !['insertLineBreak', 'insertParagraph'].includes(e.inputType)) return
        e.preventDefault()
        this.endLine()
      })
      for (const on of ['keyup', 'select', 'mouseup']) f.addEventListener(on, () => this.drawCaret())
      document.addEventListener('selectionchange', () => this.drawCaret())
      f.addEventListener('keydown', (e) => {
        if (e.key === 'Escape') {
          e.preventDefault()
          this.stepOut()
        }
        if (e.key === 'Tab') {
          e.preventDefault()
          this.nextWords(e.shiftKey ? -1 : 1)
        }
        const run = (e.ctrlKey || e.metaKey) && { b: 'bold', i: 'italic', u: 'underline' }[e.key.toLowerCase()]
        if (run && this.close) {
          e.preventDefault()
          this.setRun(this.part(this.active.slot), run)
        }
        this.moveByLine(e)
        this.moveAsSeen(e)
      })
    },
    openMouse() {
      const stays = '[data-piece], [data-slip], [data-bench], [data-ways], [data-clash], [data-notices], .top'
      // a double click on what is no words opens the Close-up; in words it takes a word
      this.wall.addEventListener('dblclick', (e) => {
        const fig = e.target.closest('[data-piece]')
        if (fig && !this.close && e.target.closest('.art') && !this.active?.field && !e.target.closest('a, button')) {
          const slot = this.active?.slot
          this.openClose(fig.dataset.piece, slot && slot !== 'piece' ? [slot] : [])
        }
      })
      document.addEventListener('mousemove', (e) => this.drag(e))
      document.addEventListener('mouseup', () => this.drop())
      // the path, not the target: choosing a part draws its place anew
      document.addEventListener('mousedown', (e) => {
        if (!e.composedPath().some((el) => el.matches?.(stays))) this.leave()
      })
    },
    // a file over one piece is for that piece: its place is outlined, not the Mat
    openFiles() {
      let over = null
      const onto = (fig) => {
        if (fig === over) return
        over?.classList.remove('taking')
        over = fig
        fig?.classList.add('taking')
        document.body.classList.toggle('onto-piece', !!fig)
      }
      document.addEventListener('dragover', (e) => onto(e.target.closest?.('[data-piece]') ?? null))
      for (const end of ['drop', 'dragend']) document.addEventListener(end, () => onto(null))
      document.addEventListener('dragleave', (e) => {
        if (!e.relatedTarget) onto(null)
      })
      let at = null // where the last file was dropped
      document.addEventListener('drop', (e) => (at = e), true)
      files(async (kind, f, on) => {
        if (this.close && !kind && on && this.$refs.stage.contains(on) && !/\.(ttf|otf|woff2?|ttc)$/i.test(f.name)) {
          await this.dropped(f, at)
          return
        }
        const fig = kind ? null : on?.closest?.('[data-piece]')
        const reach = kind === 'here' ? this.reachOf(this.active) : fig ? 'piece:' + fig.dataset.piece : 'set'
        if (await toKit(document.body.dataset.kit, f)) this.sync({})
        else if (await upload(`/briefs/${this.id}/pictures/first?reach=${encodeURIComponent(reach)}`, f)) this.sync({})
      })
    },
    // where it goes: the set is drawn anew when the sheet closes
    openPlaces() {
      let places = null
      this.where = Aspen.where({
        address: (q) => `/briefs/${this.id}/places?q=${encodeURIComponent(q)}`,
        changed: (list) => {
          places = list
        },
      })
      this.go = () => {
        if (places?.length) this.sync({ places })
        places = null
      }
      this.where.closed(this.go)
    },
    // clicked is a click on the wall: on a flag, a name, a button of a channel.
    clicked(e) {
      const beside = this.close && e.target.closest('[data-piece]')
      if (beside) {
        this.openClose(beside.dataset.piece)
        return
      }
      const on = (what) => e.target.closest(`[data-${what}]`)
      const fig = e.target.closest('[data-piece]')
      if (on('play')) this.turnPlay(fig.dataset.piece)
      if (on('flag')) this.showFindings(fig)
      if (on('close-up')) this.openClose(fig.dataset.piece)
      if (on('name')) this.choosePiece(fig.dataset.piece, e)
      if (on('show-look')) this.showLook(on('show-look').dataset.showLook)
      if (on('places-of')) this.where.open(on('places-of').dataset.placesOf)
      if (on('swipe')) {
        this.where.add(on('swipe').dataset.swipe)
        this.go()
      }
    },
    seeSafe(e) {
      this.safe = e.target.checked
      this.layers()
    },
    key(e) {
      if (this.close && this.closeKey(e)) return
      if (e.target.matches('input, textarea, select') || e.ctrlKey || e.metaKey || e.altKey) return
      const turn = { l: 'layout', c: 'colourway', o: 'logo', t: 'type', p: 'picture' }[e.key.toLowerCase()]
      const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key]
      if (by && this.active?.slot.startsWith('picture')) {
        // the picture moves under its frame
        e.preventDefault()
        const pic = this.pictureOf(this.active.piece, this.active.slot)
        const step = e.shiftKey ? 0.1 : 0.02
        if (pic) this.cropTo(pic.slot, pic.crop, -by[0] * step * pic.crop[2], -by[1] * step * pic.crop[3])
        return
      }
      if (turn) {
        e.preventDefault()
        this.turn(turn, e.shiftKey ? -1 : 1)
      }
      if (e.key.toLowerCase() === 'f') this.fit()
      if (e.key === '1') this.setZoom(1)
      if (e.key === '0') this.smallest(!this.small)
      if (e.key.toLowerCase() === 'v') this.showPreflight(true)
      if (e.key === '+' || e.key === '=') this.setZoom(this.zoom * 1.2)
      if (e.key === '-') this.setZoom(this.zoom / 1.2)
      if (e.key === 'Escape') {
        if (!this.ways.hidden) this.ways.hidden = true
        else this.stepOut()
      }
      const fig = document.activeElement?.closest?.('[data-piece]')
      if (fig && e.key === 'Enter' && document.activeElement === fig) {
        e.preventDefault()
        this.openClose(fig.dataset.piece)
      }
    },
  })

  Alpine.data('mat', () =>
    Aspen.joined([
      Aspen.matDraw,
      Aspen.matTalk,
      Aspen.matChoose,
      Aspen.matSlip,
      Aspen.matMove,
      Aspen.matWords,
      Aspen.closeUp,
      Aspen.closeHand,
      Aspen.closeSize,
      Aspen.closeWaiting,
      Aspen.closeUpSlip,
      Aspen.closeRows,
      Aspen.closeColours,
      Aspen.closeEdges,
      Aspen.closePicture,
      Aspen.closeWords,
      Aspen.closeAdding,
      Aspen.closeKeys,
      Aspen.closePast,
      Aspen.closeLayers,
      Aspen.closeClip,
      Aspen.closeTouch,
      page(),
    ]),
  )
})
