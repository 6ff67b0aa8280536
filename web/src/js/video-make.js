// Making files of a brief's video, and of pieces that move: each is a job, followed until it
// can be fetched; made are those there are when the page comes.
Aspen.videoMake = (places, made) => {
  const { el, post, notice } = Aspen
  const id = document.body.dataset.brief
  const find = (name) => document.querySelector(`[data-${name}]`)

  find('make').addEventListener('click', async (e) => {
    const format = e.target.closest('[data-format]')?.dataset.format
    if (!format) return
    await Aspen.settled()
    for (const p of places()) await make({ place: p.id, name: p.name, format })
  })
  // make asks for a file and follows it
  async function make({ name, ...wanted }) {
    try {
      const { job } = await post(`/briefs/${id}/video/make`, wanted)
      follow(job, { name, ...wanted })
      return true
    } catch (err) {
      notice(err.message, { bad: true })
      return false
    }
  }
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
    const loop = find('moving-loop').checked
    if (await make({ place: piece.value, name: piece.selectedOptions[0].textContent, format, moving, loop }))
      find('made').scrollIntoView({ block: 'nearest' })
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
    const said = parts.filter(Boolean).join(', ')
    return said && ` · ${said}`
  }
  // rowOf is a file on the list, before it is known how far it is
  function rowOf(id, wanted, mine) {
    const { name, format } = wanted
    const bar = el('progress', { max: 1, value: 0, 'aria-label': name })
    const said = el('span.mono', {}, 'waiting')
    const stop = mine && el('button.tiny.soft', {}, 'stop')
    const row = el('li', {}, el('b', {}, `${name}, ${format.toUpperCase()}`), bar, said, stop)
    if (stop)
      stop.addEventListener('click', () =>
        post(`/jobs/${id}/stop`, {}).catch((err) => notice(err.message, { bad: true })),
      )
    const from = performance.now()
    const show = (j) => {
      if (j.of) {
        bar.value = j.steps / j.of
        const left = ((performance.now() - from) / 1000) * (j.of / Math.max(1, j.steps) - 1)
        said.textContent = `${j.steps} of ${j.of} frames` + (j.steps > 20 ? `, ${Math.ceil(left)} s left` : '')
      }
      if (j.state === 'waiting') said.textContent = Aspen.inLine(j)
      if (!j.over) return
      if (stop) stop.remove()
      if (j.state === 'done') {
        const size = j.got.bytes < 1e6 ? Math.ceil(j.got.bytes / 1e3) + ' kB' : (j.got.bytes / 1e6).toFixed(1) + ' MB'
        bar.remove()
        said.replaceChildren(
          el('a', { href: `/parcels/${id}`, download: j.got.name }, `download, ${size}`),
          givenUp(j.got.given),
          j.stale ? ' · made before the last change' : '',
        )
      } else {
        bar.remove()
        said.textContent = j.state === 'stopped' ? 'stopped' : j.said || 'it could not be made'
        const again = el('button.tiny.soft', { 'data-make-again': true }, 'make it again')
        again.addEventListener('click', async () => {
          again.disabled = true
          if (await make(wanted)) row.remove()
          else again.disabled = false
        })
        row.append(again)
      }
    }
    return { row, show }
  }
  // wantedOf is what was asked for of a file that was made
  const wantedOf = ({ place, name, format, moving, loop }) => ({ place, name, format, moving, loop })
  function follow(id, wanted, mine = true) {
    const { row, show } = rowOf(id, wanted, mine)
    find('made').prepend(row)
    const events = new EventSource(`/jobs/${id}/events`)
    events.onmessage = ({ data }) => {
      const j = JSON.parse(data)
      if (j.over) events.close()
      show(j)
    }
  }
  // what was made before, and what is being made, is here again when one comes back
  for (const j of [...made].reverse())
    if (!j.over) follow(j.id, wantedOf(j), j.mine)
    else {
      const { row, show } = rowOf(j.id, wantedOf(j), false)
      show(j)
      find('made').prepend(row)
    }
}
