// The Desk: finding things as one types.
;(() => {
  const { request, get, notice, paint, fill, whenSeen } = Aspen
  const find = document.querySelector('[data-find], .kits [name=find]')
  const list = document.querySelector('[data-list]')
  const briefs = document.querySelector('[data-briefs]')
  const cards = () => [...document.querySelectorAll('[data-findable]')]
  const nothing = document.querySelector('[data-nothing]')
  // pieces of briefs that were not drawn with the page
  const draw = (root) =>
    whenSeen(root.querySelectorAll('[data-minis]'), async (host) => fill(host, (await get(host.dataset.minis)).html))
  // kits are found here, briefs on the server: by what they say, their kit, their
  // places
  let asked = 0
  async function look() {
    const words = find.value.toLowerCase().split(/\s+/).filter(Boolean)
    let shown = 0
    for (const c of cards()) {
      c.hidden = !words.every((w) => c.textContent.toLowerCase().includes(w))
      if (!c.hidden) shown++
    }
    const mine = ++asked
    const d = await get('/desk/briefs?find=' + encodeURIComponent(find.value))
    if (mine !== asked) return
    fill(briefs, d.html)
    draw(briefs)
    gathered()
    nothing.hidden = shown + d.found > 0
  }
  let pause
  find?.addEventListener('input', () => {
    if (!list) {
      clearTimeout(pause)
      pause = setTimeout(look, 120)
    }
  })
  briefs?.addEventListener('click', async (e) => {
    const from = e.target.dataset.more
    if (!from) return
    const d = await get(`/desk/briefs?from=${from}&find=${encodeURIComponent(find.value)}`)
    const more = fill(document.createElement('div'), d.html)
    e.target.parentElement.replaceWith(...more.childNodes)
    draw(briefs)
  })
  find?.addEventListener('keydown', (e) => {
    if (e.key === 'Escape') {
      find.value = ''
      find.dispatchEvent(new Event('input'))
      find.blur()
    }
    if (e.key === 'Enter')
      (
        briefs?.querySelector('a') ??
        cards()
          .find((c) => !c.hidden)
          ?.querySelector('a')
      )?.click()
  })
  addEventListener('keydown', (e) => {
    if (e.key === '/' && !e.target.matches('input, textarea') && find) {
      e.preventDefault()
      find.focus()
    }
  })
  draw(document)
  // what needs who looks comes after the page: it looks at pieces
  const today = document.querySelector('[data-today]')
  if (today) get('/desk/today').then((d) => fill(today, d.html))
  // what was given shows at once: the lists are drawn anew
  addEventListener('aspen:given', async () => {
    if (!briefs) return
    const page = Aspen.parts(await (await fetch('/desk')).text())
    for (const sel of ['[data-briefs]', '.desk-kits'])
      document.querySelector(sel).replaceChildren(...(page.querySelector(sel)?.childNodes ?? []))
    paint()
    draw(document)
  })

  // several briefs side by side: those ticked, in the order they were
  const together = []
  const bar = document.querySelector('[data-together-bar]')
  function gathered() {
    bar.hidden = together.length === 0
    bar.querySelector('[data-together-count]').textContent = together.length === 1 ? 'One, tick another' : `${together.length} briefs`
    bar.querySelector('[data-together-go]').href = '/wall?' + new URLSearchParams(together.map((b) => ['b', b]))
    for (const t of briefs.querySelectorAll('[data-together]')) t.checked = together.includes(t.dataset.together)
  }
  briefs?.addEventListener('change', (e) => {
    const brief = e.target.dataset.together
    if (!brief) return
    const at = together.indexOf(brief)
    if (e.target.checked) together.push(brief)
    else if (at >= 0) together.splice(at, 1)
    gathered()
  })
  bar?.querySelector('[data-together-none]').addEventListener('click', () => {
    together.length = 0
    gathered()
  })

  // the page of all kits: found and ordered on the server
  const form = list && find.form
  let timer
  async function lookKits() {
    const q = new URLSearchParams(new FormData(form))
    history.replaceState(null, '', '/kits?' + q)
    const d = await get('/kits?' + q)
    fill(list, d.html)
    paint(list)
  }
  form?.addEventListener('input', () => {
    clearTimeout(timer)
    timer = setTimeout(lookKits, 150)
  })
  form?.addEventListener('submit', (e) => {
    e.preventDefault()
    lookKits()
  })

  // put away and deleted at once, and taken back as quickly
  document.addEventListener('submit', async (e) => {
    const what = e.target.dataset.away
    if (!what) return
    e.preventDefault()
    const card = e.target.closest('[data-card]')
    const name = card.querySelector('b, span')?.textContent || 'It'
    if (
      what === 'deleted' &&
      card.querySelector('.kit-link') &&
      !(await Aspen.ask(card.querySelector('.kit-link').getAttribute('href').split('/')[2], '', 'Delete it'))
    )
      return
    const send = (back) =>
      request(e.target.action, {
        method: 'POST',
        headers: { Accept: 'application/json' },
        body: new URLSearchParams(back ? { back: '1' } : {}),
      })
    await send(false)
    card.hidden = true
    notice(`${name} was ${what}. Briefs that use it keep it.`, {
      label: 'Undo',
      action: async () => {
        await send(true)
        card.hidden = false
      },
    })
  })
})()
