// Looks: strips of whole alternatives. Keeping, comparing and leaving out work
// from the strip under the hand or the focus; more strips come as one scrolls.
;(() => {
  const { post, get, notice, fill, parts } = Aspen
  const id = document.body.dataset.brief
  const main = document.querySelector('[data-looks]')
  const host = document.querySelector('[data-strips]')
  const tray = document.querySelector('[data-tray]')
  const bar = document.querySelector('[data-compare-bar]')
  const dialog = document.querySelector('[data-compared]')
  const strips = () => [...host.querySelectorAll('.lookstrip')]
  const lookOf = (el) => JSON.parse(el.dataset.look)
  const plain = (look) => JSON.stringify({ ...look, id: undefined })

  const large = document.querySelector('[data-large-look]')

  // what undo brought back: the tray and the letters are drawn anew
  addEventListener('aspen:reverted', () => change({}).catch(said))

  async function change(body) {
    const d = await post(`/briefs/${id}/looks`, body)
    fill(tray, d.tray)
    const kept = new Map(Object.entries(d.kept).map(([k, v]) => [plain(JSON.parse(k)), v]))
    for (const el of document.querySelectorAll('.lookstrip')) {
      const k = kept.get(plain(lookOf(el)))
      const b = el.querySelector('[data-keep]')
      b.classList.toggle('on', !!k)
      b.dataset.keep = k?.id ?? ''
      b.textContent = k ? 'kept as ' + k.letter : 'keep'
    }
    window.dispatchEvent(new CustomEvent('aspen:steps', { detail: d }))
    return d
  }
  const said = (e) => notice(e.message, { bad: true })
  const open = (el) =>
    change({ keep: lookOf(el), show: true })
      .then(() => {
        location.href = `/briefs/${id}/mat`
      })
      .catch(said)
  function keep(el) {
    const id = el.querySelector('[data-keep]').dataset.keep
    return change(id ? { go: id } : { keep: lookOf(el) }).catch(said)
  }
  function wish(key, value, many) {
    const q = new URLSearchParams(main.dataset.query)
    if (many) q.append(key, value)
    else q.set(key, value)
    location.search = q
  }

  document.addEventListener('click', (e) => {
    const b = e.target.closest('button')
    if (!b) return
    const el = b.closest('.lookstrip')
    const d = b.dataset
    if (el && 'open' in d) open(el)
    else if (el && 'large' in d) showLarge(el)
    else if (d.step) stepLarge(Number(d.step))
    else if (el && 'keep' in d) keep(el)
    else if (el && d.hold) wish(d.hold, el.dataset[d.hold])
    else if (el && d.out) wish(d.out, d.out === 'not' ? el.dataset.layout : el.dataset.ground, true)
    else if ('openKept' in d)
      change({ shown: d.openKept })
        .then(() => {
          location.href = `/briefs/${id}/mat`
        })
        .catch(said)
    else if ('letGo' in d) change({ go: d.letGo }).catch(said)
    else if ('compareNone' in d) {
      for (const t of ticked()) t.checked = false
      count()
    } else if ('compare' in d) compare()
  })
  document.addEventListener('change', (e) => {
    if ('tick' in e.target.dataset) count()
  })
  // one look large, and from there to the ones beside it
  let shownLarge = null
  async function showLarge(el) {
    try {
      fill(large, (await post(`/briefs/${id}/looks/large`, { look: lookOf(el) })).html)
      shownLarge = el
      if (!large.open) large.showModal()
      large.querySelector('[data-open]').focus()
    } catch (e) {
      said(e)
    }
  }
  function stepLarge(by) {
    const list = strips()
    const to = list[list.indexOf(shownLarge) + by]
    if (to) {
      to.scrollIntoView({ block: 'nearest' })
      showLarge(to)
    }
  }
  large.addEventListener('close', () => {
    shownLarge?.focus()
  })
  large.addEventListener('click', (e) => {
    if (e.target === large) large.close()
  })
  large.addEventListener('keydown', (e) => {
    const by = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[e.key]
    if (by) {
      e.preventDefault()
      stepLarge(by)
    }
  })
  // one menu at a time; it opens to where there is room
  document.addEventListener(
    'toggle',
    (e) => {
      if (e.target.open && e.target.matches('.hold'))
        e.target.classList.toggle(
          'up',
          e.target.getBoundingClientRect().bottom + e.target.querySelector('.menu').offsetHeight + 12 > innerHeight,
        )
    },
    true,
  )
  document.addEventListener(
    'toggle',
    (e) => {
      if (e.target.open) for (const o of document.querySelectorAll('.hold[open]')) if (o !== e.target) o.open = false
    },
    true,
  )

  const ticked = () => [...host.querySelectorAll('[data-tick]:checked')]
  function count() {
    const n = ticked().length
    bar.hidden = n === 0
    document.querySelector('[data-compare-count]').textContent = n === 1 ? 'One chosen, choose another' : n + ' chosen'
    document.querySelector('[data-compare]').disabled = n < 2
  }
  async function compare() {
    try {
      const d = await post(`/briefs/${id}/looks/compare`, {
        looks: ticked()
          .slice(0, 4)
          .map((t) => lookOf(t.closest('.lookstrip'))),
      })
      fill(dialog, d.html)
      dialog.showModal()
    } catch (e) {
      said(e)
    }
  }

  addEventListener('keydown', (e) => {
    if (e.target.matches('input, textarea') || e.ctrlKey || e.metaKey || e.altKey) return
    const el = document.activeElement?.closest?.('.lookstrip')
    const list = strips()
    const move = { ArrowDown: 2, ArrowUp: -2, ArrowRight: 1, ArrowLeft: -1 }[e.key]
    if (large.open) return
    if (move && !dialog.open) {
      const at = el ? Math.max(0, Math.min(list.length - 1, list.indexOf(el) + move)) : 0
      e.preventDefault()
      list[at]?.focus()
      list[at]?.scrollIntoView({ block: 'nearest' })
      return
    }
    if (!el) return
    const k = e.key.toLowerCase()
    if (k === 'k') keep(el)
    else if (k === 'l') showLarge(el)
    else if (k === 'x') wish('not', el.dataset.layout, true)
    else if (k === 'v') {
      const t = el.querySelector('[data-tick]')
      t.checked = !t.checked
      count()
    } else if (e.key === 'Enter' && document.activeElement === el) open(el)
  })

  // more strips as their place comes near
  let next = Number(main.dataset.next)
  const end = document.querySelector('[data-more]')
  if (end) {
    let busy = false
    const seen = new IntersectionObserver(
      async (list) => {
        if (!list.some((x) => x.isIntersecting) || busy || !next) return
        busy = true
        try {
          const d = await get(`/briefs/${id}/looks/more?${main.dataset.query}&from=${next}`)
          end.before(parts(d.html))
          next = d.next
          if (!next) {
            end.remove()
            seen.disconnect()
          }
        } catch (e) {
          said(e)
        }
        busy = false
        if (next) {
          seen.unobserve(end)
          seen.observe(end)
        }
      },
      { root: host, rootMargin: '600px' },
    )
    seen.observe(end)
  }
})()
