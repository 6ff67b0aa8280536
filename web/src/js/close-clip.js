// What comes into the Close-up and goes out of it by the clipboard and by dropping files:
// parts from piece to piece, pictures into frames, drawings for other programs. These are
// methods of the Mat's component (mat.js).
{
  const { notice, upload } = Aspen

  // what is copied begins with it, so that it is told from words
  const mark = 'aspenridge-parts:'
  const fresh = () => 'added-' + Math.random().toString(36).slice(2, 8)
  const dataOf = (blob) =>
    new Promise((done, failed) => {
      const r = new FileReader()
      r.onload = () => done(r.result)
      r.onerror = failed
      r.readAsDataURL(blob)
    })

  Aspen.closeClip = {
    hit: null, // where a file that is held over the piece would go

    openClip() {
      document.addEventListener('copy', (e) => this.copied(e))
      document.addEventListener('paste', (e) => this.pasted(e), true)
      const stage = this.$refs.stage
      // where a file that is held over the piece would go stays outlined, whatever comes
      const over = (hit) => {
        this.hit = hit
        if (this.close) this.drawClose()
      }
      stage.addEventListener('dragover', (e) => {
        if (this.close && e.dataTransfer.types.includes('Files')) over(this.placeFor(this.at(e)))
      })
      stage.addEventListener('dragleave', () => over(null))
      stage.addEventListener('drop', () => over(null))
    },
    // copied puts what was changed of the parts that are held on the clipboard
    copied(e) {
      if (!this.close || !this.picked.length || this.active || e.target.matches?.('input, select')) return
      const parts = this.picked.map((u) => this.part(u)).filter(Boolean)
      const items = parts.map((q) => ({ slot: q.unit, part: q.part, hand: q.hand.map((h) => [h.property, h.value]) }))
      e.clipboardData.setData('text/plain', mark + JSON.stringify(items))
      e.preventDefault()
      this.say(`Copied ${parts.map((q) => q.label).join(', ')}`)
    },
    // pasted puts parts on this piece at the places that match: added ones anew, others as
    // they were changed; a picture, or a drawing as text, becomes a part or fills the frame
    // that is held
    async pasted(e) {
      if (!this.close || e.target.matches?.('input, select, textarea')) return
      const text = e.clipboardData.getData('text/plain')
      const drawing = /^\s*(<\?xml[^>]*>\s*)?<svg[\s>]/i.test(text)
      const file =
        [...e.clipboardData.files].find((f) => f.type.startsWith('image/')) ??
        (drawing && new File([text], 'pasted.svg', { type: 'image/svg+xml' }))
      if (file || text.startsWith(mark)) {
        e.preventDefault()
        e.stopImmediatePropagation()
      }
      if (file) await this.takeFile(file, this.framed(this.part(this.picked[0])))
      else if (text.startsWith(mark)) await this.pasteParts(text.slice(mark.length))
    },
    async pasteParts(text) {
      let items
      try {
        items = JSON.parse(text)
      } catch {
        notice('What was copied is damaged; copy it again.', { bad: true })
        return
      }
      const edits = []
      const slots = []
      for (const it of items) {
        const slot = it.part ? fresh() : it.slot
        if (it.part) edits.push(this.edit(slot, 'part', it.part))
        for (const [property, value] of it.hand ?? []) edits.push(this.edit(slot, property, value))
        slots.push(slot)
      }
      if (!edits.length) {
        notice('What was copied is as the rule has it: there is nothing to put here.')
        return
      }
      await this.sendHand(edits)
      this.picked = slots.filter((u) => this.part(u))
      this.layers()
      this.closeSlip()
    },
    // --- pictures that come in ------------------------------------------------------
    // framed is a part a picture can fill, else nothing
    framed(q) {
      return q?.crop && (q.added || q.unit.startsWith('picture')) ? q : null
    },
    // placeFor is where a file that is dropped would go: the frame under it, or a place of
    // its own
    placeFor([x, y]) {
      const p = this.info(this.close)
      const inside = ([bx, by, w, h]) => x >= bx && y >= by && x <= bx + w && y <= by + h
      const frame = this.framed([...this.parts()].reverse().find((q) => q.crop && inside(q.box)))
      if (frame) return { frame, box: frame.box, says: frame.label }
      const side = 0.36 * Math.min(p.w, p.h)
      return { box: [x - side / 2, y - side / 2, side, side], says: 'a new picture' }
    },
    // dropped takes a file that was dropped on the large piece
    dropped(file, e) {
      const place = this.placeFor(this.at(e))
      return this.takeFile(file, place.frame, place.box)
    },
    // takeFile puts a picture into a frame, else on the piece as a part of its own
    async takeFile(file, frame, box) {
      const kept = await upload(`/briefs/${this.id}/pictures/kept`, file)
      if (!kept) return
      if (frame) {
        this.fillFrame(frame, kept.file)
        return
      }
      const k = 0.36 / Math.max(kept.w, kept.h)
      const part = { kind: 'picture', file: kept.file, size: [kept.w * k, kept.h * k].map((v) => Math.max(0.01, v)) }
      const p = this.info(this.close)
      if (box) part.at = [(box[0] + box[2] / 2) / p.w, (box[1] + box[3] / 2) / p.h]
      await this.addPart(box ? part : this.roomFor(part))
    },
    // fillFrame shows another picture in a frame; a locked one says why it does not
    fillFrame(q, file, anyway) {
      if (!anyway && this.value(q, 'locked')) {
        notice(`${q.label} is locked, so that it stays as it is.`, {
          stays: true,
          label: 'Replace it anyway',
          action: () => this.fillFrame(q, file, true),
        })
        return
      }
      if (q.added) this.changePart(q, { file })
      else if (q.unit === 'picture')
        this.sync({
          picture: {
            reach: this.closeReach === 'class' ? 'class:' + this.state.close.class : this.handReach('file'),
            file,
          },
        })
      else this.sendHand([this.edit(q.unit, 'file', file)])
    },
    // --- drawings for other programs ------------------------------------------------
    // drawing is what is held as an SVG document of its own, pictures within it
    async drawing() {
      const parts = this.picked.map((u) => this.part(u)).filter(Boolean)
      const [x, y, w, h] = Aspen.measure.union(parts.map((q) => q.box))
      const at = { x: Math.floor(x), y: Math.floor(y), w: Math.ceil(w) + 1, h: Math.ceil(h) + 1 }
      const units = new Set(this.picked)
      const own = this.figure(this.close).querySelectorAll('.art > svg > [data-group]')
      const groups = [...own].filter((g) => units.has(g.dataset.unit ?? this.unitOf(g.dataset)))
      const host = document.createElement('div')
      host.append(...groups.map((g) => g.cloneNode(true)))
      for (const img of host.querySelectorAll('image')) {
        const data = await (await fetch(img.getAttribute('href'))).blob()
        img.setAttribute('href', await dataOf(data))
      }
      for (const e of host.querySelectorAll('*'))
        for (const a of [...e.attributes]) if (a.name.startsWith('data-')) e.removeAttribute(a.name)
      const size = `width="${at.w}" height="${at.h}" viewBox="${at.x} ${at.y} ${at.w} ${at.h}"`
      return { ...at, text: `<svg xmlns="http://www.w3.org/2000/svg" ${size}>${host.innerHTML}</svg>` }
    },
    // copyAs puts what is held on the clipboard for other programs
    async copyAs(kind) {
      try {
        const item = kind === 'svg' ? { 'text/plain': this.asSVG() } : { 'image/png': this.asPNG() }
        await navigator.clipboard.write([new ClipboardItem(item)])
        notice(`It is on the clipboard as ${kind.toUpperCase()}.`)
      } catch {
        notice('This browser does not let pages put that on the clipboard. Download the piece instead.', { bad: true })
      }
    },
    async asSVG() {
      return new Blob([(await this.drawing()).text], { type: 'text/plain' })
    },
    async asPNG() {
      const d = await this.drawing()
      const img = new Image()
      img.src = 'data:image/svg+xml;charset=utf-8,' + encodeURIComponent(d.text)
      await img.decode()
      const canvas = Object.assign(document.createElement('canvas'), { width: d.w, height: d.h })
      canvas.getContext('2d').drawImage(img, 0, 0)
      return new Promise((done) => canvas.toBlob(done, 'image/png'))
    },
  }
}
