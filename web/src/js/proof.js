// A set shown to be judged: the sheet of its pieces with what was decided about each, for
// whoever came by a link and for those who made it. One piece alone is in proof-one.js.
;(() => {
  const first = document.querySelector('[data-state]')
  if (!first) return
  const { el, post, get, notice } = Aspen
  const find = (name) => document.querySelector(`[data-${name}]`)
  let state = JSON.parse(first.textContent)
  const page = 50 // threads at a time
  let wanted = page
  const asking = () => (wanted > page ? `?threads=${wanted}` : '')
  const heard = [] // what is drawn anew when something changes

  const words = { approved: 'approved', changes: 'changes asked', changed: 'changed since' }
  const open = () => state.threads.filter((t) => !t.resolved)
  const plural = (n, one, many) => `${n} ${n === 1 ? one : many}`

  // --- who says it: a guest is asked once -------------------------------------------
  const name = () => state.me || localStorage.getItem('proof-name') || ''
  const asked = find('ask-name')
  function whoAreYou() {
    if (name()) return Promise.resolve(true)
    const field = find('ask-who')
    field.value = ''
    asked.showModal()
    return new Promise((done) =>
      asked.addEventListener(
        'close',
        () => {
          const said = asked.returnValue === 'ok' ? field.value.trim() : ''
          if (said) localStorage.setItem('proof-name', said)
          done(!!said)
        },
        { once: true },
      ),
    )
  }

  // tell sends what somebody says, and takes how things stand then; false when it was not taken
  async function tell(what, body) {
    if (!(await whoAreYou())) return false
    try {
      take(await post(`${state.base}/${what}${asking()}`, { name: name(), ...body }))
      return true
    } catch (err) {
      notice(err.message, { bad: true })
      return false
    }
  }

  // earlier fetches the threads before those that are shown
  async function earlier() {
    wanted += page
    take(await get(`${state.base}/state${asking()}`))
  }

  function take(d) {
    state = d
    draw()
    for (const f of heard) f()
  }

  // --- the sheet --------------------------------------------------------------------
  function sum() {
    const w = state.waiting
    const parts = []
    if (w.approved) parts.push(`${w.approved} of ${plural(w.pieces, 'piece', 'pieces')} approved`)
    else parts.push(plural(w.pieces, 'piece', 'pieces'))
    if (w.asked) parts.push(`${w.asked} with changes asked for`)
    if (w.changed) parts.push(`${w.changed} changed since`)
    if (w.open) parts.push(plural(w.open, 'open comment', 'open comments'))
    return parts.join(', ') + '.'
  }
  function draw() {
    find('sum').textContent = sum()
    for (const p of state.pieces) {
      const li = document.querySelector(`[data-piece="${CSS.escape(p.key)}"]`)
      if (!li) {
        location.reload() // the set has other pieces now
        return
      }
      li.dataset.verdict = p.state
      li.querySelector('[data-stamp]').textContent = p.unsigned ? 'approved, not signed off' : words[p.state] ?? ''
      li.querySelector('[data-stamp]').title = p.unsigned ?? ''
      li.querySelector('[data-count]').textContent = p.open ? plural(p.open, 'comment', 'comments') : ''
      const img = li.querySelector('img')
      if (img.getAttribute('src') !== p.src) img.src = p.src
    }
    if (document.querySelectorAll('[data-piece]').length !== state.pieces.length) location.reload()
    const all = find('approve-all')
    if (all) all.hidden = state.waiting.approved === state.waiting.pieces
    const none = find('changes-all')
    if (none) none.hidden = state.waiting.asked === state.waiting.pieces || !state.maySay
    drawToDo()
  }
  // what is waiting: threads, and pieces somebody wants changed
  function drawToDo() {
    const list = find('to-do')
    if (!list) return
    const nameOf = (key) => state.pieces.find((p) => p.key === key)?.name ?? key
    const asks = state.pieces.filter((p) => p.state === 'changes' && !open().some((t) => t.piece === p.key))
    const lost = state.pieces.filter((p) => p.state === 'changed' || p.unsigned)
    const ofPiece = (p, says) =>
      el('li', {}, el('a', { href: '#' + p.key }, el('b', {}, p.name), el('small.soft', {}, says)))
    list.replaceChildren(
      ...open().map((t) =>
        el(
          'li',
          {},
          el(
            'a',
            { href: '#' + t.piece },
            el('b', { dir: 'auto' }, t.words),
            el('small.soft', {}, `${t.name}, ${nameOf(t.piece)}`),
          ),
          state.maySay && el('button.tiny.soft', { 'data-settle': t.id }, 'done'),
        ),
      ),
      ...asks.map((p) =>
        ofPiece(p, `${p.by.findLast((v) => v.verdict === 'changes')?.name ?? 'Someone'} asks for changes`),
      ),
      ...lost.map((p) =>
        ofPiece(p, p.state === 'changed' ? 'changed since it was reviewed' : 'approved, not signed off'),
      ),
    )
    find('nothing').hidden = list.children.length > 0
  }
  document.addEventListener('click', (e) => {
    const b = e.target.closest('[data-settle]')
    if (b) tell('settle', { thread: b.dataset.settle, done: !('again' in b.dataset) })
  })
  for (const [button, verdict] of [['approve-all', 'approved'], ['changes-all', 'changes']])
    find(button)?.addEventListener('click', () =>
      tell('decide', { verdict, seen: Object.fromEntries(state.pieces.map((p) => [p.key, p.hash])) }),
    )

  // --- links ------------------------------------------------------------------------
  const links = async (way, body) => {
    try {
      const d = await post(`${state.base}/${way}`, body)
      Aspen.fill(find('links'), d.html)
      return d.address
    } catch (err) {
      notice(err.message, { bad: true })
    }
  }
  find('new-link')?.addEventListener('submit', async (e) => {
    e.preventDefault()
    const f = e.target.elements
    const address = await links('links', {
      for: f.for.value,
      password: f.password.value,
      days: Number(f.days.value),
      closed: f.closed.checked,
      approves: !!f.approves?.checked,
    })
    if (!address) return
    e.target.reset()
    find('fresh').hidden = false
    find('address').value = address
    find('address').select()
  })
  find('copy')?.addEventListener('click', async (e) => {
    await navigator.clipboard.writeText(find('address').value).catch(() => find('address').select())
    e.target.textContent = 'copied'
  })
  find('links')?.addEventListener('click', (e) => {
    const b = e.target.closest('[data-end-link]')
    if (b) links('links/end', { link: b.dataset.endLink })
    const c = e.target.closest('[data-close-link]')
    if (c) links('links/close', { link: c.dataset.closeLink, closed: c.dataset.closed !== 'true' })
  })

  // --- what others do ---------------------------------------------------------------
  const source = new EventSource(state.base + '/events')
  let timer
  source.onmessage = () => {
    clearTimeout(timer)
    timer = setTimeout(() => get(state.base + '/state' + asking()).then(take, () => {}), 60)
  }
  addEventListener('pagehide', () => source.close())

  Aspen.proof = { state: () => state, tell, heard, earlier, name }
  draw()
})()
