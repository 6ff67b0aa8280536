// Talking with the server from the Mat: one request is in flight, what comes meanwhile
// waits, and an answer that is no longer the newest is dropped. With it what is turned,
// fixed and looked up for the whole set. These are methods of the Mat's component
// (mat.js).
{
  const { get, post, outbox, notice, fill } = Aspen

  Aspen.matTalk = {
    // sync sends a change, or without one asks how things are; it resolves with
    // the answer when it has been shown.
    sync(body) {
      const reads = !Object.keys(body).some((k) => k !== 'caret')
      return this.box.put(body, { reads, base: this.state.seq })
    },
    // revert takes the last change back, or puts it back; what it was like is shown at
    // once where it is known, and the answer settles it. In the Close-up, one that would
    // change nothing of the piece says so first.
    revert(redo, sure) {
      this.settleHand()
      if (!this.close || sure || this.seenBy(redo)) this.showPast(redo)
      this.box.put({ revert: redo ? 'redo' : 'undo', sure: sure || this.sureOf === redo || undefined })
      this.sureOf = null
    },
    sureOf: null, // redo or not: what was said to lead away is asked for once more
    leadsAway(what, which) {
      const redo = which === 'redo'
      this.sureOf = redo
      notice(`${redo ? 'Redo' : 'Undo'} would not change this piece, but ${what}. Press again to do it.`, {
        stays: true,
        label: redo ? 'Redo it' : 'Undo it',
        action: () => this.revert(redo, true),
      })
    },
    openBox() {
      this.box = outbox('mat-' + this.id, () => `/briefs/${this.id}/sync`, {
        add: (item) => {
          const a = this.active
          const typing = a?.field && { placement: a.piece, slot: a.slot, text: this.field.value }
          // undo changes words under the caret: where it stands is asked for afterwards
          const asked = item.body.revert ? undefined : (item.body.caret ?? (typing || undefined))
          item.asked = asked
          return {
            have: this.have(),
            close: this.close || undefined,
            benchIs: this.state.benchIs,
            caret: asked && { ...asked, have: this.glyphsOf },
            ...(item.reads ? { base: this.state.seq } : {}),
          }
        },
        done: (d, item) => {
          if (d.seq < this.state.seq) return
          this.keepPast(d, item.body)
          this.apply(d)
          if (item.body.revert && this.active?.field) this.sync({})
          if (d.away) this.leadsAway(d.away, item.body.revert)
          else if (!item.reads) this.sureOf = null
          if (d.nothing) window.dispatchEvent(new CustomEvent('aspen:nothing', { detail: item.body.revert }))
          if (item.body.write) this.known = d.seq
          if (d.caret && this.active?.piece === d.caret.placement && this.active?.slot === d.caret.slot) {
            this.echo = d.caret.echo
            if (this.echo?.glyphs) {
              this.glyphs = this.echo.glyphs
              this.glyphsOf = this.echo.key
            }
            // the server's places, carried on to what was typed since
            this.unecho()
            this.stops = d.caret.stops
            this.moved = d.caret.moved
            this.drawn = item.asked.text
            if (this.field.value !== this.drawn) this.echoTyped()
            this.drawCaret()
          }
          if (this.close) {
            this.picked = this.picked.filter((u) => this.part(u))
            this.showWaiting()
            this.drawClose()
          }
          this.slipRefresh()
          if (!this.preflight.hidden && !item.asked) this.showPreflight()
          this.filter()
        },
        refused: (e, { body }) => {
          this.showWaiting()
          if (e.status !== 409) {
            notice(e.message, { bad: true })
            if (e.data?.rail) this.sync({}) // what was refused is not what stands
            return
          }
          if (body.hand) {
            this.handClash(e.data, body.hand)
            this.sync({})
            return
          }
          if (!body.write) {
            notice('This was changed in another tab meanwhile.', { bad: true })
            this.sync({})
            return
          }
          // both texts stand until somebody chooses; what is typed goes on being mine
          const mine = this.active?.field === body.write.field ? this.field.value : body.write.text
          const { field, card } = body.write
          this.clashes = this.clashes.filter((c) => c !== this.clashOf(field, card))
          this.clashes.push({
            write: { ...body.write, text: mine },
            theirs: typeof e.data.theirs === 'string' ? e.data.theirs : '',
            seq: e.data.seq,
          })
          this.showClash()
          this.sync({})
        },
      })
      this.openClash()
      this.box.recover()
    },
    left: null, // {piece, reach} of what was chosen last, while its piece is outlined
    reachOf(a) {
      return a.reach === 'class'
        ? 'class:' + this.state.close.class
        : a.reach === 'channel'
          ? 'channel:' + this.info(a.piece).channel
          : a.reach === 'piece'
            ? 'piece:' + a.piece
            : 'set'
    },
    // turn steps an ingredient: within the slip's reach while a part is chosen, else
    // for the whole set; at names a place in the order instead of a step.
    turn(what, by, at) {
      const held = document.activeElement?.closest('[data-piece]')?.dataset.piece // outlined still
      if (!this.close && held && this.info(held).done) {
        this.sayDone(held)
        return Promise.resolve()
      }
      const a =
        this.active ??
        (this.close && this.closeReach !== 'set' ? { piece: this.close, reach: this.closeReach } : null) ??
        (held && this.left?.piece === held ? this.left : null)
      const reach = a && this.reachOf(a) !== 'set' && what !== 'type' ? { reach: this.reachOf(a), placement: a.piece } : {}
      return this.sync({ turn: { what, by, ...(at === undefined ? {} : { at }), ...reach } })
    },
    async showWays(stay) {
      if (!stay && !this.ways.hidden) {
        this.ways.hidden = true
        return
      }
      const piece = this.active?.piece ?? this.state.pieces.find((p) => !p.done)?.id ?? this.state.pieces[0].id
      const at = this.ways.scrollTop
      fill(this.ways, (await get(`/briefs/${this.id}/colourways?placement=${encodeURIComponent(piece)}`)).html)
      const a = this.active
      const within =
        !a || this.reachOf(a) === 'set'
          ? 'the whole set'
          : a.reach === 'piece'
            ? this.info(piece).name
            : this.channelOf(piece)
      this.ways.querySelector('h2').append(' for ' + within)
      this.ways.hidden = false
      this.ways.scrollTop = at
      const on = this.ways.querySelector('[aria-pressed=true]')
      if (!stay) on?.scrollIntoView({ block: 'nearest' })
      if (!stay) on?.focus()
    },
    waysClick(e) {
      const b = e.target.closest('button')
      if (!b) return
      if ('closeWays' in b.dataset) {
        this.ways.hidden = true
        this.bench.querySelector('[data-all-ways]')?.focus()
      } else if (b.dataset.way) this.turn('colourway', 0, Number(b.dataset.way)).then(() => this.showWays(true))
    },
    benchClick(e) {
      if (e.target.closest('[data-preflight]')) this.showPreflight(true)
      if (e.target.closest('[data-all-ways]')) this.showWays()
      const b = e.target.closest('[data-turn]')
      if (b) this.turn(b.dataset.turn, Number(b.dataset.by))
      if (e.target.closest('[data-keep-colours]')) this.sync({ keep: true })
    },
    async showLook(look) {
      await post(`/briefs/${this.id}/looks`, { shown: look })
      location.reload()
    },
    async showPreflight(toggle) {
      if (toggle && !this.preflight.hidden) {
        this.closePreflight()
        return
      }
      if (toggle) this.leave() // its slip would lie over it
      const d = await get(`/briefs/${this.id}/findings`)
      fill(this.preflight, d.html)
      this.preflight.hidden = false
      document.body.classList.add('with-findings')
    },
    closePreflight() {
      this.preflight.hidden = true
      document.body.classList.remove('with-findings')
    },
    preflightClick(e) {
      const b = e.target.closest('button')
      if (!b) return
      if ('close' in b.dataset) this.closePreflight()
      if ('fixAll' in b.dataset) this.sync({ fix: { code: '', slot: '' } })
      if (b.dataset.fix) this.sync({ fix: { code: b.dataset.fix, slot: b.dataset.slot } })
      if (b.dataset.show) {
        const ids = b.dataset.show.split(' ')
        for (const el of document.querySelectorAll('.shown-now')) el.classList.remove('shown-now')
        for (const id of ids) this.figure(id)?.classList.add('shown-now')
        this.figure(ids[0])?.scrollIntoView({ block: 'center', inline: 'center' })
      }
    },
  }
}
