// The Desk: finding things as one types.
(() => {
  const { request, get, notice, paint, fill, whenSeen } = Aspen
  const find = document.querySelector('[data-find], .kits [name=find]')
  const list = document.querySelector('[data-list]')
  const cards = [...document.querySelectorAll('[data-findable]')]
  const nothing = document.querySelector('[data-nothing]')
  find?.addEventListener('input', () => {
    if (list) return
    const words = find.value.toLowerCase().split(/\s+/).filter(Boolean)
    let shown = 0
    for (const c of cards) {
      c.hidden = !words.every((w) => c.textContent.toLowerCase().includes(w))
      if (!c.hidden) shown++
    }
    nothing.hidden = shown > 0
  })
  find?.addEventListener('keydown', (e) => {
    if (e.key === 'Escape') { find.value = ''; find.dispatchEvent(new Event('input')); find.blur() }
    if (e.key === 'Enter') cards.find((c) => !c.hidden)?.querySelector('a')?.click()
  })
  addEventListener('keydown', (e) => {
    if (e.key === '/' && !e.target.matches('input, textarea') && find) { e.preventDefault(); find.focus() }
  })
  whenSeen(document.querySelectorAll('[data-minis]'), async (host) => fill(host, (await get(host.dataset.minis)).html))
  addEventListener('aspen:given', () => location.reload())

  // the page of all kits: found and ordered on the server
  const form = list && find.form
  let timer
  async function look() {
    const q = new URLSearchParams(new FormData(form))
    history.replaceState(null, '', '/kits?' + q)
    const d = await get('/kits?' + q)
    fill(list, d.html)
    paint(list)
  }
  form?.addEventListener('input', () => { clearTimeout(timer); timer = setTimeout(look, 150) })
  form?.addEventListener('submit', (e) => { e.preventDefault(); look() })

  // put away and deleted at once, and taken back as quickly
  document.addEventListener('submit', async (e) => {
    const what = e.target.dataset.away
    if (!what) return
    e.preventDefault()
    const card = e.target.closest('[data-card]')
    const name = card.querySelector('b, span')?.textContent || 'It'
    const send = (back) => request(e.target.action, { method: 'POST', headers: { Accept: 'application/json' }, body: new URLSearchParams(back ? { back: '1' } : {}) })
    await send(false)
    card.hidden = true
    notice(`${name} is ${what}. Briefs that use it keep it.`, { label: 'Undo', action: async () => { await send(true); card.hidden = false } })
  })
})()
