// The switcher in the header: to another kit from anywhere. On a brief it can
// also put the brief into that kit.
;(() => {
  const { get, request, notice, el, swatch } = Aspen
  const box = document.querySelector('[data-switch]')
  if (!box) return
  const field = box.querySelector('input')
  const list = box.querySelector('ul')
  const { brief, now } = box.dataset
  let kits = null

  async function use(kit) {
    const before = now
    const put = (id) =>
      request(`/briefs/${brief}/kit`, {
        method: 'POST',
        headers: { Accept: 'application/json' },
        body: new URLSearchParams({ kit: id }),
      })
    try {
      await put(kit.id)
      try {
        sessionStorage.setItem(
          'aspen:notice',
          JSON.stringify({ text: `The brief is in ${kit.name || 'the new kit'} now.`, brief, before }),
        )
      } catch {
        /* storage is off */
      }
      location.reload()
    } catch (e) {
      notice(e.message, { bad: true })
    }
  }
  function draw() {
    const words = field.value.toLowerCase().split(/\s+/).filter(Boolean)
    list.replaceChildren(
      ...kits
        .filter((k) => words.every((w) => k.name.toLowerCase().includes(w)))
        .slice(0, 40)
        .map((k) => {
          const li = document.createElement('li')
          const a = document.createElement('a')
          a.href = '/kits/' + k.id
          a.textContent = k.name || 'New kit'
          if (k.id === now) a.setAttribute('aria-current', 'true')
          if (k.colours.length) a.append(el('span.kit-mini', { 'aria-hidden': 'true' }, k.colours.map(swatch)))
          li.append(a)
          if (brief && k.id !== now) {
            const b = document.createElement('button')
            b.className = 'tiny'
            b.textContent = 'use here'
            b.title = 'Put this brief into this kit'
            b.onclick = () => use(k)
            li.append(b)
          }
          return li
        }),
    )
  }
  box.addEventListener('toggle', async () => {
    if (!box.open) return
    field.value = ''
    field.focus()
    kits ??= (await get('/kits/names')).kits
    draw()
  })
  field.addEventListener('input', () => kits && draw())
  box.addEventListener('keydown', (e) => {
    const items = [...list.querySelectorAll('a, button')]
    const at = items.indexOf(document.activeElement)
    if (e.key === 'Escape') {
      box.open = false
      box.querySelector('summary').focus()
    } else if (e.key === 'ArrowDown') {
      e.preventDefault()
      items[Math.min(at + 1, items.length - 1)]?.focus()
    } else if (e.key === 'ArrowUp') {
      e.preventDefault()
      ;(at <= 0 ? field : items[at - 1]).focus()
    } else if (e.key === 'Enter' && document.activeElement === field) items[0]?.click()
  })
  document.addEventListener('click', (e) => {
    if (!box.contains(e.target)) box.open = false
  })
  addEventListener('keydown', (e) => {
    if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'k') {
      e.preventDefault()
      box.open = !box.open
    }
  })

  document.addEventListener('DOMContentLoaded', () => {
    let told
    try {
      told = JSON.parse(sessionStorage.getItem('aspen:notice'))
      sessionStorage.removeItem('aspen:notice')
    } catch {
      /* storage is off */
    }
    if (told && told.brief === brief)
      notice(told.text, { label: 'Back to the kit before', action: () => use({ id: told.before, name: '' }) })
  })
})()
