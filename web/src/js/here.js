// Who else is on this brief: each tab says every few seconds where it is, and what its hand is
// in. Nothing of it is kept.
addEventListener('DOMContentLoaded', () => {
  const host = document.querySelector('[data-here]')
  if (!host) return
  const { el, onHere, client } = Aspen
  const EVERY = 10000 // ms between two words of a tab that rests
  const LOST = 25000 // ms after which one that says nothing is taken for gone
  const others = new Map() // by tab
  let typed = 0
  let said = ''
  const place = () => {
    const at = Aspen.at?.() ?? {}
    const hand = document.activeElement?.closest?.('input, textarea, select')
    const shot = hand?.closest('[data-shot]')
    const field = at.field ?? (hand?.matches('[data-path]') ? nameOf(hand) : shot && hand.getAttribute('aria-label')) ?? ''
    const piece = at.piece ?? (shot ? `shot ${Number(shot.dataset.shot) + 1}` : '')
    return { piece, field, typing: performance.now() - typed < 3000 && !!field }
  }
  // nameOf is what a field is called by its label
  const nameOf = (f) => f.closest('label')?.querySelector('span')?.firstChild?.textContent.trim() ?? ''
  function say(extra = {}) {
    const body = JSON.stringify({ client, ...place(), ...extra })
    said = body
    const url = `/briefs/${host.dataset.here}/here`
    if (extra.gone) navigator.sendBeacon(url, body)
    else
      fetch(url, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body, keepalive: true }).catch(
        () => {},
      )
  }
  // what has changed is said at once, at most every half second
  let due
  const soon = () => {
    due ??= setTimeout(() => {
      due = undefined
      if (JSON.stringify({ client, ...place() }) !== said) say()
    }, 500)
  }
  document.addEventListener('input', (e) => {
    if (!e.target.matches('input, textarea')) return
    typed = performance.now()
    soon()
    setTimeout(soon, 3100)
  })
  for (const on of ['focusin', 'pointerup', 'keyup']) document.addEventListener(on, soon)
  setInterval(() => document.hidden || say(), EVERY)
  setInterval(draw, 5000)
  addEventListener('pagehide', () => say({ gone: true }))
  document.addEventListener('visibilitychange', () => (document.hidden ? say({ gone: true }) : say()))

  const initials = (name) =>
    name
      .split(/\s+/)
      .map((w) => [...w][0] ?? '')
      .slice(0, 2)
      .join('')
      .toUpperCase()
  const pieceName = (id) => document.querySelector(`[data-piece="${CSS.escape(id)}"] figcaption b`)?.textContent ?? ''
  function words(p) {
    const on = p.piece?.startsWith('shot ') ? p.piece : p.piece && pieceName(p.piece)
    const doing = p.field ? `${p.typing ? 'typing in' : 'in'} ${p.field.toLowerCase()}` : ''
    return [p.name, on && `on ${on}`, doing].filter(Boolean).join(', ')
  }
  let drawn = ''
  function draw() {
    const now = performance.now()
    for (const [key, p] of others) if (now - p.heard > LOST) others.delete(key)
    const people = new Map() // a person may have several tabs: the busiest counts
    for (const p of others.values()) {
      const had = people.get(p.person)
      if (!had || p.typing || (!had.typing && p.heard > had.heard)) people.set(p.person, p)
    }
    mark(people)
    const shown = JSON.stringify([...people.values()].map(({ heard, ...p }) => p))
    if (shown === drawn) return
    drawn = shown
    host.replaceChildren(
      ...[...people.values()].map((p) =>
        el(
          'span.here-one' + (p.typing ? '.typing' : ''),
          { title: words(p) },
          initials(p.name),
          el('span.sr', {}, words(p)),
        ),
      ),
      ...[...people.values()].filter((p) => p.typing).map((p) => el('span.here-says', {}, words(p))),
    )
  }
  // mark puts their initials on the piece, the shot or the field they are in
  function mark(people) {
    const marks = new Map()
    for (const p of people.values()) {
      const shot = /^shot (\d+)$/.exec(p.piece ?? '')
      const f = shot
        ? document.querySelector(`li[data-shot="${shot[1] - 1}"]`)
        : p.piece
          ? document.querySelector(`figure[data-piece="${CSS.escape(p.piece)}"]`)
          : p.field && [...document.querySelectorAll('[data-path]')].find((o) => nameOf(o) === p.field)?.closest('label')
      if (f) marks.set(f, [marks.get(f), initials(p.name)].filter(Boolean).join(' '))
    }
    for (const f of document.querySelectorAll('[data-with]')) if (!marks.has(f)) delete f.dataset.with
    for (const [f, who] of marks) if (f.dataset.with !== who) f.dataset.with = who
  }
  onHere((p) => {
    if (p.client === client) return
    const known = others.has(p.client)
    if (p.gone) others.delete(p.client)
    else others.set(p.client, { ...p, heard: performance.now() })
    if (!known && !p.gone) setTimeout(say, Math.random() * 400) // who comes hears of who is there
    draw()
  })
  say()
})
