// Hand over: the list follows the choices, each file is weighed as it will be
// written, the archive streams with its progress.
(() => {
  document.addEventListener('click', async (e) => {
    const b = e.target.closest('[data-copy-caption]')
    if (!b) return
    e.preventDefault()
    const pre = document.querySelector('[data-caption]')
    try { await navigator.clipboard.writeText(pre.textContent) } catch { getSelection().selectAllChildren(pre); return }
    b.textContent = 'copied'
  })
  const form = document.querySelector('[data-choice]')
  if (!form) return
  const { get, post, notice, fill } = Aspen
  const id = document.body.dataset.brief
  const body = document.querySelector('[data-files]')
  const rows = () => [...body.querySelectorAll('tr')]
  const kB = (n) => (n < 1e6 ? Math.ceil(n / 1000) + ' kB' : (n / 1e6).toFixed(1) + ' MB')

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
    let ms = 0, drawn = 0
    const takes = form.querySelector('[data-takes]')
    takes.textContent = ''
    for (const r of rows()) {
      if (mine !== round) return
      const cell = r.querySelector('[data-weight]')
      try {
        const since = performance.now()
        const d = await get(`/briefs/${id}/handover/weigh?${r.dataset.weigh}&names=${encodeURIComponent(form.names.value)}`)
        if (mine !== round) return
        // how long the chosen files take, by how long those drawn so far took
        ms += performance.now() - since
        drawn++
        const s = ((ms / drawn) * rows().length) / 1000
        takes.textContent = s < 5 ? '' : `Drawing all of them takes about ${s < 90 ? Math.ceil(s / 5) * 5 + ' s' : Math.ceil(s / 60) + ' minutes'}${form.scale.value === '4k' ? ' at 4k' : ''}.`
        cell.textContent = kB(d.bytes)
        r.querySelector('[data-name]').textContent = d.name
        const small = document.createElement('small')
        small.textContent = d.heavy ? `over the ${kB(d.limit)} this place takes` : d.how || (d.limit ? `of ${kB(d.limit)}` : '')
        cell.append(small)
        r.classList.toggle('heavy', d.heavy)
      } catch (e) { cell.textContent = '–'; notice(e.message, { bad: true }); return }
    }
  }
  function count() {
    const n = rows().filter((r) => r.querySelector('[data-pick]').checked).length
    form.querySelector('[data-count]').textContent = n
    form.querySelector('[data-download]').disabled = n === 0
    document.querySelector('[data-all]').checked = n === rows().length
  }
  function wrongNames(words) {
    form.querySelector('[data-names-wrong]').textContent = words
    form.names.toggleAttribute('aria-invalid', !!words)
    form.querySelector('[data-download]').disabled = !!words
  }
  let timer
  async function relist() {
    const left = new Set(rows().filter((r) => !r.querySelector('[data-pick]').checked).map((r) => r.dataset.key))
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
    } catch (e) { if (e.status === 422 && form.names.value) wrongNames(e.message); else notice(e.message, { bad: true }) }
  }
  form.addEventListener('change', (e) => { if (e.target.name !== 'finish' && e.target.name !== 'names') relist() })
  form.names.addEventListener('input', () => { clearTimeout(timer); timer = setTimeout(relist, 300) })
  body.addEventListener('change', count)
  document.querySelector('[data-all]').addEventListener('change', (e) => { for (const b of body.querySelectorAll('[data-pick]')) b.checked = e.target.checked; count() })

  // the archive is read as it comes: every file in it begins with the same four
  // bytes, which are counted
  form.addEventListener('submit', async (e) => {
    e.preventDefault()
    const bar = form.querySelector('[data-progress]')
    const [meter, said] = [bar.querySelector('progress'), bar.querySelector('span')]
    const button = form.querySelector('[data-download]')
    button.disabled = true
    bar.hidden = false
    try {
      const q = query()
      q.delete('finish')
      if (form.finish.checked) {
        const picked = rows().filter((r) => r.querySelector('[data-pick]').checked)
        await post(`/briefs/${id}/finish?${new URLSearchParams(picked.map((r) => ['piece', r.dataset.key]))}`, {})
      }
      const r = await fetch(`/briefs/${id}/set.zip?${q}`)
      if (!r.ok) throw new Error((await r.json().catch(() => ({}))).error || 'The files could not be drawn; try again.')
      const of = Number(r.headers.get('X-Files'))
      const name = decodeURIComponent(/filename\*=UTF-8''([^;]+)/.exec(r.headers.get('Content-Disposition'))[1])
      const parts = []
      let begun = 0, seen = 0
      const reader = r.body.getReader()
      for (;;) {
        const { done, value } = await reader.read()
        if (done) break
        parts.push(value)
        for (const b of value) {
          seen = b === [0x50, 0x4b, 0x03, 0x04][seen] ? seen + 1 : b === 0x50 ? 1 : 0
          if (seen === 4) { begun++; seen = 0 }
        }
        const n = Math.min(of, begun)
        meter.value = n / of
        said.textContent = `${n} of ${of}`
      }
      const a = document.createElement('a')
      a.href = URL.createObjectURL(new Blob(parts, { type: 'application/zip' }))
      a.download = name
      a.click()
      setTimeout(() => URL.revokeObjectURL(a.href), 60000)
      if (form.finish.checked) { form.finish.checked = false; relist() }
    } catch (err) { notice(err.message, { bad: true }) }
    bar.hidden = true
    button.disabled = false
  })

  form.querySelector('[data-phone]').addEventListener('click', async () => {
    const box = form.querySelector('[data-phone-code]')
    try {
      const d = await post(`/briefs/${id}/phone?${query()}`, {})
      fill(box, d.code)
      const p = document.createElement('p')
      const a = document.createElement('a')
      a.href = a.textContent = d.address
      p.append(a, document.createElement('br'), `Opens on any phone that reaches this server, for ${d.minutes} minutes.` + (d.local ? ' It is served on this machine alone just now, so only its own browser does.' : ''))
      box.append(p)
      box.hidden = false
    } catch (e) { notice(e.message, { bad: true }) }
  })
  count()
  weigh()
})()
