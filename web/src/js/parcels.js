// Parcels: files that are drawn and packed beside the page, followed with how far they
// are. The page may be left and come back to.
Aspen.parcel = (bar, ready, { began = () => {}, over = () => {} }) => {
  const { post, notice } = Aspen
  const [meter, said] = [bar.querySelector('progress'), bar.querySelector('span')]
  let following = null
  let wanted = false // fetched as soon as it is packed
  function packed(address, got) {
    const link = ready.querySelector('a')
    link.href = address
    link.textContent = got.name
    ready.querySelector('span').textContent =
      `${got.files} ${got.files === 1 ? 'file' : 'files'}, ${Aspen.kB(got.bytes)}`
    ready.hidden = false
    if (wanted) link.click()
  }
  bar.querySelector('button').addEventListener('click', async () => {
    try {
      await post(`/jobs/${bar.dataset.job}/stop`, {})
    } catch (err) {
      notice(err.message, { bad: true })
    }
  })
  function end() {
    following.close()
    following = null
    bar.hidden = true
    over()
  }
  return {
    busy: () => !!following,
    // follow shows how far a job is, and then the link to what was packed
    follow(job, now) {
      wanted = now
      ready.hidden = true
      bar.hidden = false
      bar.dataset.job = job
      said.textContent = ''
      meter.removeAttribute('value')
      following = new EventSource(`/jobs/${job}/events`)
      began()
      following.onmessage = (e) => {
        const d = JSON.parse(e.data)
        if (d.of) meter.value = d.steps / d.of
        said.textContent = d.of ? `${d.steps} of ${d.of}` : d.state === 'waiting' ? Aspen.inLine(d) : ''
        if (!d.over) return
        end()
        if (d.state === 'failed') notice(d.said, { bad: true })
        else if (d.state !== 'stopped') packed(`/parcels/${job}`, d.got)
      }
      following.onerror = () => {
        if (following && following.readyState === EventSource.CLOSED) end() // not here any more
      }
    },
  }
}
