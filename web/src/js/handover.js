// Hand over: the list follows the choices, each file is weighed as it will be
// written, the archive streams with its progress.
;(() => {
  document.addEventListener('change', (e) => {
    if (e.target.name === 'caption') document.querySelector('[data-caption]').textContent = e.target.value
  })
  document.addEventListener('click', async (e) => {
    const b = e.target.closest('[data-copy-caption]')
    if (!b) return
    e.preventDefault()
    const pre = document.querySelector('[data-caption]')
    try {
      await navigator.clipboard.writeText(pre.textContent)
    } catch {
      getSelection().selectAllChildren(pre)
      return
    }
    b.textContent = 'copied'
    setTimeout(() => (b.textContent = 'copy'), 2000)
  })
  const form = document.querySelector('[data-choice]')
  if (!form) return
  const { get, post, notice, fill, kB } = Aspen
  const id = document.body.dataset.brief
  const body = document.querySelector('[data-files]')
  const rows = () => [...body.querySelectorAll('tr')]

  document.querySelector('[data-moving-pieces]')?.addEventListener('click', async (e) => {
    const b = e.target.closest('[data-move-as]')
    if (!b) return
    const row = b.closest('li')
    const { place, seconds, endsAsBegun } = row.dataset
    b.disabled = true
    try {
      const wanted = { place, format: b.dataset.moveAs, moving: Number(seconds), loop: endsAsBegun === 'true' }
      const { job } = await post(`/briefs/${id}/video/make`, wanted)
      const events = new EventSource(`/jobs/${job}/events`)
      events.onmessage = (e) => {
        const d = JSON.parse(e.data)
        row.querySelector('[data-far]').textContent = d.of ? `${d.steps} of ${d.of} frames` : Aspen.inLine(d)
        if (!d.over) return
        events.close()
        if (d.state !== 'failed') return location.reload()
        b.disabled = false
        row.querySelector('[data-far]').textContent = ''
        notice(d.said, { bad: true })
      }
    } catch (err) {
      b.disabled = false
      notice(err.message, { bad: true })
    }
  })
  const roughly = (s) => (s < 90 ? Math.ceil(s / 5) * 5 + ' s' : Math.ceil(s / 60) + ' minutes')

  function query(all) {
    const q = new URLSearchParams()
    for (const [k, v] of new FormData(form)) if (v) q.append(k, v)
    if (!all) for (const r of rows()) if (!r.querySelector('[data-pick]').checked) q.append('skip', r.dataset.key)
    return q
  }

  // each row is weighed in turn; another choice begins anew
  let round = 0
  async function weigh() {
    const mine = ++round
    let ms = 0,
      drawn = 0
    const takes = form.querySelector('[data-takes]')
    takes.textContent = ''
    for (const r of rows()) {
      if (mine !== round) return
      const cell = r.querySelector('[data-weight]')
      try {
        const since = performance.now()
        const d = await get(
          `/briefs/${id}/handover/weigh?${r.dataset.weigh}&names=${encodeURIComponent(form.names.value)}`,
        )
        if (mine !== round) return
        // how long the chosen files take, by how long those drawn so far took
        ms += performance.now() - since
        drawn++
        const s = ((ms / drawn) * rows().length) / 1000
        takes.textContent =
          s < 5
            ? ''
            : `Drawing all of them takes about ${roughly(s)}${form.scale.value === '4k' ? ' at 4k' : ''}.`
        cell.textContent = kB(d.bytes)
        r.querySelector('[data-name]').textContent = d.name
        const small = document.createElement('small')
        small.textContent = d.heavy
          ? `over the ${kB(d.limit)} this place takes`
          : d.how || (d.limit ? `of ${kB(d.limit)}` : '')
        cell.append(small)
        r.classList.toggle('heavy', d.heavy)
      } catch (e) {
        cell.textContent = '–'
        notice(e.message, { bad: true })
        return
      }
    }
  }
  function count() {
    const n = rows().filter((r) => r.querySelector('[data-pick]').checked).length
    form.querySelector('[data-count]').textContent = n
    form.querySelector('[data-download]').disabled = n === 0 || parcel.busy()
    document.querySelector('[data-all]').checked = n === rows().length
  }
  function wrongNames(words) {
    form.querySelector('[data-names-wrong]').textContent = words
    form.names.toggleAttribute('aria-invalid', !!words)
    form.querySelector('[data-download]').disabled = !!words
  }
  let timer
  async function relist() {
    const left = new Set(
      rows()
        .filter((r) => !r.querySelector('[data-pick]').checked)
        .map((r) => r.dataset.key),
    )
    try {
      const q = query(true)
      const d = await get(`/briefs/${id}/handover/files?${q}`)
      fill(body, d.html)
      for (const r of rows()) if (left.has(r.dataset.key)) r.querySelector('[data-pick]').checked = false
      q.delete('finish')
      history.replaceState(null, '', q.size ? '?' + q : location.pathname)
      wrongNames('')
      count()
      weigh()
    } catch (e) {
      if (e.status === 422 && form.names.value) wrongNames(e.message)
      else notice(e.message, { bad: true })
    }
  }
  form.addEventListener('change', (e) => {
    if (!['finish', 'videos'].includes(e.target.name) && e.target.name !== 'names') relist()
  })
  form.names.addEventListener('input', () => {
    clearTimeout(timer)
    timer = setTimeout(relist, 300)
  })
  body.addEventListener('change', count)
  document.querySelector('[data-all]').addEventListener('change', (e) => {
    for (const b of body.querySelectorAll('[data-pick]')) b.checked = e.target.checked
    count()
  })

  // the files are drawn and packed beside this page: it may be left and come back to
  const parcel = Aspen.parcel(form.querySelector('[data-progress]'), form.querySelector('[data-ready]'), {
    began() {
      form.querySelector('[data-download]').disabled = true
    },
    over: count,
  })
  form.addEventListener('submit', async (e) => {
    e.preventDefault()
    const button = form.querySelector('[data-download]')
    button.disabled = true
    try {
      const q = query()
      q.delete('finish')
      if (form.finish.checked) {
        const picked = rows().filter((r) => r.querySelector('[data-pick]').checked)
        await post(`/briefs/${id}/finish?${new URLSearchParams(picked.map((r) => ['piece', r.dataset.key]))}`, {})
        form.finish.checked = false
        relist()
      }
      parcel.follow((await post(`/briefs/${id}/parcel?${q}`, {})).job, true)
    } catch (err) {
      notice(err.message, { bad: true })
      button.disabled = false
    }
  })
  if (form.dataset.parcel) parcel.follow(form.dataset.parcel, false)

  form.querySelector('[data-phone]').addEventListener('click', async () => {
    const box = form.querySelector('[data-phone-code]')
    try {
      const d = await post(`/briefs/${id}/phone?${query()}`, {})
      fill(box, d.code)
      const p = document.createElement('p')
      const a = document.createElement('a')
      a.href = a.textContent = d.address
      p.append(
        a,
        document.createElement('br'),
        `Opens on any phone that reaches this server, for ${d.minutes} minutes.` +
          (d.local ? ' It is served on this machine alone just now, so only its own browser does.' : ''),
      )
      box.append(p)
      box.hidden = false
    } catch (e) {
      notice(e.message, { bad: true })
    }
  })
  count()
  weigh()
})()
