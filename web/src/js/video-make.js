// Making files of a brief's video, and of pieces that move: each is a job, followed until it
// can be fetched.
Aspen.videoMake = (places) => {
  const { el, post, notice } = Aspen
  const id = document.body.dataset.brief
  const find = (name) => document.querySelector(`[data-${name}]`)

  find('make').addEventListener('click', async (e) => {
    const format = e.target.closest('[data-format]')?.dataset.format
    if (!format) return
    await Aspen.settled()
    for (const p of places()) {
      try {
        const { job } = await post(`/briefs/${id}/video/make`, { place: p.id, format })
        follow(job, p, format)
      } catch (err) {
        notice(err.message, { bad: true })
      }
    }
  })
  // a piece of the set that moves
  find('moving').addEventListener('click', async (e) => {
    const format = e.target.closest('[data-move-as]')?.dataset.moveAs
    if (!format) return
    const piece = find('moving-piece')
    if (!piece.value) {
      notice('Choose the piece that is to move.', { bad: true })
      return
    }
    const moving = Number(find('moving-seconds').value)
    try {
      const { job } = await post(`/briefs/${id}/video/make`, { place: piece.value, format, moving })
      follow(job, { name: piece.selectedOptions[0].textContent }, format)
      find('made').scrollIntoView({ block: 'nearest' })
    } catch (err) {
      notice(err.message, { bad: true })
    }
  })
  const flashing = (at) =>
    at &&
    `it flashes more than three times a second at ${at.map((t) => t.toFixed(1)).join(', ')} s: that can make people ill`
  // givenUp says what a file was given to be so small
  const givenUp = (g) => {
    if (!g) return ''
    const parts = [
      g.fps && `${g.fps} frames a second`,
      g.colours && `${g.colours} colours`,
      g.scale && `${Math.round(100 * g.scale)} % of the size`,
      g.quality && `quality ${g.quality}`,
      g.crf > 18 && `rate factor ${g.crf}`,
      g.over && 'over what the place takes',
      flashing(g.flashes),
    ]
    return ' · ' + parts.filter(Boolean).join(', ')
  }
  function follow(job, place, format) {
    const bar = el('progress', { max: 1, value: 0, 'aria-label': place.name })
    const said = el('span.mono', {}, 'waiting')
    const stop = el('button.tiny.soft', {}, 'stop')
    const row = el('li', {}, el('b', {}, `${place.name}, ${format.toUpperCase()}`), bar, said, stop)
    find('made').prepend(row)
    stop.addEventListener('click', () =>
      post(`/jobs/${job}/stop`, {}).catch((err) => notice(err.message, { bad: true })),
    )
    const from = performance.now()
    const events = new EventSource(`/jobs/${job}/events`)
    events.onmessage = ({ data }) => {
      const j = JSON.parse(data)
      if (j.of) {
        bar.value = j.steps / j.of
        const left = ((performance.now() - from) / 1000) * (j.of / Math.max(1, j.steps) - 1)
        said.textContent = `${j.steps} of ${j.of} frames` + (j.steps > 20 ? `, ${Math.ceil(left)} s left` : '')
      }
      if (j.state === 'waiting') said.textContent = Aspen.inLine(j)
      if (!j.over) return
      events.close()
      stop.remove()
      if (j.state === 'done') {
        const size = j.got.bytes < 1e6 ? Math.ceil(j.got.bytes / 1e3) + ' kB' : (j.got.bytes / 1e6).toFixed(1) + ' MB'
        bar.remove()
        said.replaceChildren(
          el('a', { href: `/parcels/${job}`, download: j.got.name }, `download, ${size}`),
          givenUp(j.got.given),
        )
      } else said.textContent = j.state === 'stopped' ? 'stopped' : j.said || 'it could not be made'
    }
  }
}
