// Films that come in: their bytes go up with how far they are, then a job makes a clip of
// them, which comes to the page like any change.
;(() => {
  const { client, el, notice } = Aspen
  const most = 500e6 // bytes
  const films = /\.(mp4|m4v|mov|webm|mkv)$/i

  // isFilm tells a film from a picture; a GIF is one when it has more than one frame
  Aspen.isFilm = async (file) => {
    if (file.type.startsWith('video/') || films.test(file.name)) return true
    if (file.type !== 'image/gif') return false
    const bytes = new Uint8Array(await file.slice(0, 4e6).arrayBuffer())
    let frames = 0
    for (let i = 0; i + 2 < bytes.length && frames < 2; i++)
      if (bytes[i] === 0x21 && bytes[i + 1] === 0xf9 && bytes[i + 2] === 4) frames++
    return frames > 1
  }

  // send puts a file up; far hears how far it is, 0-1
  function send(url, file, far) {
    return new Promise((done, refused) => {
      const r = new XMLHttpRequest()
      r.open('POST', url)
      for (const [k, v] of Object.entries({
        Accept: 'application/json',
        'X-Client': client,
        'X-Change': crypto.randomUUID(),
      }))
        r.setRequestHeader(k, v)
      r.upload.onprogress = (e) => far(e.loaded / (e.total || 1))
      r.onload = () => {
        let answer = {}
        try {
          answer = JSON.parse(r.responseText)
        } catch {
          /* it is no JSON */
        }
        if (r.status === 200) done(answer)
        else refused(new Error(answer.error || 'The server did not take it. Try again in a moment.'))
      }
      r.onerror = () => refused(new Error('The connection broke off. Try again in a moment.'))
      r.send(file)
    })
  }

  // bringClip takes a film in as a picture of a card of a brief
  Aspen.bringClip = async (brief, card, file) => {
    const name = file.name || 'film'
    if (file.size > most) {
      notice(`${name} has ${Math.round(file.size / 1e6)} MB, at most 500 are taken. Cut out what is needed.`, {
        bad: true,
      })
      return
    }
    const bar = el('progress', { max: 1, value: 0, 'aria-label': name })
    const said = el('span', {}, `Taking in ${name} … `)
    notice('', { label: 'Hide', stays: true })
    document.querySelector('[data-notices] .notice').prepend(said, bar)
    try {
      const q = new URLSearchParams({ name, card })
      const { job } = await send(`/briefs/${brief}/clips?${q}`, file, (share) => (bar.value = share / 2))
      await new Promise((done, refused) => {
        const events = new EventSource(`/jobs/${job}/events`)
        events.onmessage = ({ data }) => {
          const j = JSON.parse(data)
          if (j.of) bar.value = 0.5 + j.steps / j.of / 2
          said.textContent = j.state === 'waiting' ? `${name}: ${Aspen.inLine(j)} ` : `Taking in ${name} … `
          if (!j.over) return
          events.close()
          if (j.state === 'done') done()
          else refused(new Error(j.said || `${name} could not be taken in.`))
        }
      })
      notice(`${name} is here. It runs wherever the picture is shown in the video.`)
    } catch (err) {
      notice(err.message, { bad: true })
    }
  }
})()
