// Pieces that move, on the Mat: each shows for how long, and moves where it stands until it
// is told to stop or is changed. These are methods of the Mat's component (mat.js).
{
  const { el, get, notice } = Aspen

  Aspen.matMove = {
    playing: new Map(), // piece -> how to stop it
    // markMoves shows which pieces move, and stops those that are no longer as they were
    markMoves(before = []) {
      for (const p of this.state.pieces) {
        const button = this.figure(p.id)?.querySelector('[data-play]')
        if (!button) continue
        button.hidden = !p.moves || p.moved // it would move as it looks now, not as it was finished
        button.textContent = p.moves ? `${p.moves.seconds} s` : ''
        const hashes = (q) => JSON.stringify([q?.moves, q?.groups.map((g) => g.h)])
        if (this.playing.has(p.id) && hashes(before.find((q) => q.id === p.id)) !== hashes(p)) this.stop(p.id)
      }
    },
    async play(piece) {
      this.stop(piece)
      const fig = this.figure(piece)
      const button = fig.querySelector('[data-play]')
      let ended = false
      this.playing.set(piece, () => (ended = true))
      button.setAttribute('aria-pressed', 'true')
      button.setAttribute('aria-busy', 'true')
      let film
      try {
        film = await get(`/briefs/${this.id}/pieces/${encodeURIComponent(piece)}/moves`)
      } catch (e) {
        if (ended) return // it was told otherwise meanwhile
        this.stop(piece)
        notice(e.message, { bad: true })
        return
      } finally {
        button.removeAttribute('aria-busy')
      }
      if (ended) return
      const shown = Aspen.film.screen(film, `moves-${piece}`)
      const over = el('span.moving', {}, shown.svg)
      fig.querySelector('.art').append(over)
      this.playing.set(piece, () => {
        ended = true
        shown.show(0)
        over.remove()
      })
      const began = performance.now()
      const tick = (at) => {
        if (ended) return
        const t = Math.max(0, at - began) / 1000
        shown.show(t % film.seconds, 1)
        fig.dataset.at = (t % film.seconds).toFixed(2)
        requestAnimationFrame(tick)
      }
      tick(began)
    },
    stop(piece) {
      this.playing.get(piece)?.()
      this.playing.delete(piece)
      const fig = this.figure(piece)
      fig.querySelector('[data-play]').setAttribute('aria-pressed', 'false')
      delete fig.dataset.at
    },
    turnPlay(piece) {
      if (this.playing.has(piece)) this.stop(piece)
      else this.play(piece)
    },
  }
}
