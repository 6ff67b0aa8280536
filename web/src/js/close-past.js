// What was done, in the Close-up: a list in words, the piece beside each step as it was
// then. One goes back to any of it, or takes the part that is held from there. These are
// methods of the Mat's component (mat.js).
{
  const { el, get, post, fill, whenSeen, notice } = Aspen

  Aspen.closePast = {
    async openPast(most = 0) {
      if (this.adds) this.closeAdd()
      const { html, seq } = await get(`/briefs/${this.id}/past?most=${most}`)
      this.pastOf = seq // what the list is of: nobody's change that came since is gone back over
      this.adds = fill(
        el('div.adds-sheet.past-sheet', { role: 'dialog', 'aria-label': 'What was done', 'data-slip': '' }),
        html,
      )
      this.adds.addEventListener('click', (e) => this.pastClick(e))
      this.adds.addEventListener('keydown', (e) => {
        if (e.key === 'Escape') this.closeAdd()
        e.stopPropagation()
      })
      this.$refs.close.append(this.adds)
      const piece = this.close
      whenSeen(this.adds.querySelectorAll('[data-then]'), async (host) => {
        if (!host.isConnected) return
        const at = `/briefs/${this.id}/past/${host.dataset.then}?placement=${encodeURIComponent(piece)}`
        fill(host, (await get(at)).html)
      })
      const held = this.picked.length === 1 && this.part(this.picked[0])
      for (const b of this.adds.querySelectorAll('[data-take]')) {
        b.hidden = !held || held.added
        b.textContent = held ? `only the ${held.label.toLowerCase()} from here` : ''
      }
      ;(this.adds.querySelector('[aria-current]') ?? this.adds.querySelector('button')).focus()
    },
    async pastClick(e) {
      const b = e.target.closest('button')
      if (!b) return
      if ('addsClose' in b.dataset) {
        this.closeAdd()
        return
      }
      if (b.dataset.more) {
        const at = this.adds.scrollTop
        await this.openPast(b.dataset.more)
        this.adds.scrollTop = at
        return
      }
      if (b.dataset.take) {
        const take = { placement: this.close, slot: this.picked[0], seq: Number(b.dataset.take) }
        await this.box.put({ take })
      } else {
        try {
          await post(`/briefs/${this.id}/go-to`, { seq: Number(b.dataset.goTo), base: this.pastOf })
        } catch (err) {
          const moved = 'Someone else changed this meanwhile, so nothing was undone. The list shows their change now.'
          notice(err.status === 409 ? moved : err.message, { bad: true })
        }
        await this.sync({})
      }
      await this.openPast()
    },
    // tryBeside puts another try at the piece beside it, and opens that
    tryBeside() {
      return this.box.put({ variant: this.close })
    },
  }
}
