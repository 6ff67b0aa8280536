// What a video is heard with, in the page: fetched when nothing was changed for a while, drawn
// as a wave, and the clock while it plays.
Aspen.videoSound = (wave) => {
  const rest = 2000 // ms nothing is changed before it is fetched
  const off = 0.3 // s it may be away from the pictures
  const bars = 300
  let [audio, url, from, waiting, coming] = [null, '', '', 0, null]

  function forget() {
    clearTimeout(waiting)
    audio?.pause()
    if (url) URL.revokeObjectURL(url)
    ;[audio, url, coming] = [null, '', null]
  }
  function fetchIt() {
    const of = from
    coming ??= (async () => {
      const answer = await fetch(of)
      if (!answer.ok || of !== from) return
      const bytes = await answer.arrayBuffer()
      if (of !== from) return
      url = URL.createObjectURL(new Blob([bytes], { type: 'audio/wav' }))
      audio = new Audio(url)
      draw(new Int16Array(bytes, 44))
    })()
    return coming.catch(() => {}) // then it is shown without
  }
  // draw shows how loud it is over time, from samples of two sides
  function draw(samples) {
    const each = Math.max(2, Math.floor(samples.length / bars))
    let d = ''
    for (let i = 0; i < bars; i++) {
      let most = 0
      for (let k = i * each; k < (i + 1) * each && k < samples.length; k += 7)
        most = Math.max(most, Math.abs(samples[k]))
      const h = Math.max(0.4, (most / 32768) * 10)
      d += `M${i + 0.5} ${10 - h}V${10 + h}`
    }
    const svg = Aspen.el('svg', { viewBox: `0 0 ${bars} 20`, preserveAspectRatio: 'none' }, Aspen.el('path', { d }))
    wave.replaceChildren(svg)
  }
  return {
    // of says where it comes from now, nothing for a silent video
    of(src) {
      if (src === from) return
      forget()
      from = src
      wave.replaceChildren()
      if (src) waiting = setTimeout(fetchIt, rest)
    },
    async play(at, speed, quiet, still) {
      if (!from) return
      clearTimeout(waiting)
      await fetchIt()
      if (!audio || !still()) return
      Object.assign(audio, { currentTime: at(), playbackRate: speed, muted: quiet })
      audio.play().catch(() => {})
    },
    pause: () => audio?.pause(),
    mute: (on) => audio && (audio.muted = on),
    seek: (t) => audio && (audio.currentTime = t),
    // clock is what time it is by what is heard, else the time that is given
    clock(t) {
      if (!audio || audio.paused || audio.readyState < 3 || audio.seeking) return t
      if (Math.abs(audio.currentTime - t) < off) return audio.currentTime
      audio.currentTime = t // it came late
      return t
    },
  }
}
