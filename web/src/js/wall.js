// Several briefs side by side: each gets a look that differs from its neighbours,
// another one by a key, and all their files come as one download.
;(() => {
  const { post, fill, notice } = Aspen
  const wall = document.querySelector('[data-wall]')
  const changes = wall.dataset.wallChanges === 'true'
  const posts = () => [...wall.querySelectorAll('[data-post]')]
  const ids = () => posts().map((p) => p.dataset.post)
  const as = document.querySelector('[data-wall-as]')
  const busy = document.querySelector('[data-wall-busy]')
  const undo = document.querySelector('[data-wall-undo]')
  const here = () => document.activeElement?.closest?.('[data-post]')

  as?.addEventListener('change', () => {
    const q = new URLSearchParams(location.search)
    q.set('as', as.value)
    location.search = q
  })

  // one after the other: each look is chosen by those that stand there
  let line = Promise.resolve()
  const inTurn = (f) => (line = line.then(f, f))
  async function ask(id, body) {
    const held = here()?.dataset.post === id
    const shown = wall.querySelector(`[data-post="${id}"]`)
    const left = !shown.querySelector('[data-post-take]').checked
    const was = JSON.parse(shown.dataset.look)
    const d = await post('/wall/look', { wall: ids(), brief: id, as: as?.value ?? '', ...body })
    const host = wall.querySelector(`[data-post="${id}"]`).parentElement
    fill(host, d.html)
    if (left) host.querySelector('[data-post-take]').checked = false
    if (held) host.querySelector('[data-post]').focus()
    return { id, was, given: JSON.parse(host.querySelector('[data-post]').dataset.look) }
  }
  // steps that can be undone: the look each brief showed before, and the one it was given
  const past = []
  const counted = () => undo && (undo.disabled = past.length === 0)
  function step(list, by) {
    return inTurn(async () => {
      const before = []
      try {
        for (const [i, id] of list.entries()) {
          busy.textContent = list.length > 1 ? `a look for ${i + 1} of ${list.length} …` : 'another look …'
          const done = await ask(id, { by })
          if (done.was) before.push(done)
        }
      } catch (e) {
        notice(e.message, { bad: true })
      }
      busy.textContent = ''
      if (before.length) past.push(before)
      counted()
    })
  }
  function back() {
    inTurn(async () => {
      const last = past.pop()
      counted()
      for (const { id, was, given } of last ?? []) {
        try {
          await ask(id, { look: was, instead: given })
        } catch (e) {
          notice(e.message, { bad: true }) // the others go back all the same
        }
      }
    })
  }
  if (changes) {
    const bare = posts().filter((p) => !p.dataset.chosen)
    if (bare.length) step(bare.map((p) => p.dataset.post), 0)
    document.querySelector('[data-wall-all]').addEventListener('click', () => step(ids(), 1))
    undo.addEventListener('click', back)
  }

  wall.addEventListener('click', (e) => {
    const p = e.target.closest('[data-post]')
    if (changes && e.target.closest('[data-post-next]')) step([p.dataset.post], 1)
  })
  const taken = () => posts().filter((p) => p.querySelector('[data-post-take]').checked)
  function count() {
    const n = taken().reduce((sum, p) => sum + Number(p.dataset.pieces), 0)
    document.querySelector('[data-wall-files]').textContent = n
    document.querySelector('[data-wall-take]').disabled = n === 0
  }
  wall.addEventListener('change', count)

  addEventListener('keydown', (e) => {
    if (e.target.matches('input:not([type=checkbox]), textarea, select') || e.altKey) return
    const k = e.key.toLowerCase()
    if ((e.ctrlKey || e.metaKey) && k === 'z' && changes) {
      e.preventDefault()
      return back()
    }
    if (e.ctrlKey || e.metaKey) return
    const list = posts()
    const p = here()
    const across = list.filter((o) => o.offsetTop === list[0].offsetTop).length
    const move = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: across, ArrowUp: -across }[e.key]
    if (move) {
      e.preventDefault()
      const to = list[p ? list.indexOf(p) + move : 0]
      to?.focus()
      return to?.scrollIntoView({ block: 'nearest' })
    }
    if (changes && k === 'n' && e.shiftKey) return step(ids(), 1)
    if (!p) return
    if (changes && (k === 'n' || k === 'b')) step([p.dataset.post], k === 'n' ? 1 : -1)
    else if (k === 'x') {
      const box = p.querySelector('[data-post-take]')
      box.checked = !box.checked
      count()
    } else if (e.key === 'Enter' && e.target === p) location.href = p.querySelector('a').href
  })

  // all their files in one
  const take = document.querySelector('[data-wall-take]')
  const parcel = Aspen.parcel(
    document.querySelector('[data-wall-progress]'),
    document.querySelector('[data-wall-ready]'),
    { began: count, over: count },
  )
  take.addEventListener('click', () =>
    inTurn(async () => {
      take.disabled = true
      try {
        const q = new URLSearchParams([['videos', '1'], ...taken().map((p) => ['b', p.dataset.post])])
        parcel.follow((await post(`/wall/parcel?${q}`, {})).job, true)
      } catch (e) {
        notice(e.message, { bad: true })
        count()
      }
    }),
  )
})()
