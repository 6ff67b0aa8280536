// Sounds of one's own: a file that is chosen, or what is recorded here.
;(() => {
  const { client, el, notice } = Aspen
  async function put(file, name) {
    notice(`Taking in ${name} …`, { label: 'Hide' })
    try {
      const { file: ref } = await Aspen.request('/sounds?' + new URLSearchParams({ name }), {
        method: 'POST',
        headers: { Accept: 'application/json', 'X-Client': client, 'X-Change': crypto.randomUUID() },
        body: file,
      })
      document.querySelector('[data-notices]').replaceChildren()
      return ref
    } catch (err) {
      notice(err.message, { bad: true })
      return ''
    }
  }

  Aspen.chooseSound = (use) => {
    const field = el('input', {
      type: 'file',
      accept: 'audio/*,.wav,.mp3,.m4a,.ogg,.flac,.webm',
      'data-sound-file': '',
      hidden: '',
    })
    field.addEventListener('change', async () => {
      const f = field.files[0]
      field.remove()
      const ref = f && (await put(f, f.name))
      if (ref) use(ref)
    })
    field.addEventListener('cancel', () => field.remove())
    document.body.append(field)
    field.click()
  }

  // record records until its button is pressed again, five minutes at most
  const longest = 300e3 // ms
  let recorder = null
  Aspen.record = async (button, use) => {
    if (recorder) {
      recorder.stop()
      return
    }
    let stream
    try {
      stream = await navigator.mediaDevices.getUserMedia({ audio: true })
    } catch {
      notice('The browser lets no microphone be heard. Allow it for this page, or bring a file.', { bad: true })
      return
    }
    const parts = []
    recorder = new MediaRecorder(stream)
    const begun = performance.now()
    const count = () => {
      const s = Math.floor((performance.now() - begun) / 1000)
      button.textContent = `stop ${Math.floor(s / 60)}:${String(s % 60).padStart(2, '0')}`
    }
    count()
    const counting = setInterval(count, 250)
    button.classList.add('rec')
    const end = setTimeout(() => recorder?.stop(), longest)
    recorder.ondataavailable = (e) => parts.push(e.data)
    recorder.onstop = async () => {
      clearTimeout(end)
      clearInterval(counting)
      const kind = recorder.mimeType
      recorder = null
      button.textContent = 'record'
      button.classList.remove('rec')
      for (const t of stream.getTracks()) t.stop()
      const ref = await put(new Blob(parts, { type: kind }), 'recording')
      if (ref) use(ref)
    }
    recorder.start()
  }
})()
