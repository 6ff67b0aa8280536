// Channels: every field is saved when it is left; what is not right is said and
// the field goes back.
;(() => {
  const { outbox, notice, fill } = Aspen
  const host = document.querySelector('[data-own]')
  const box = outbox('channels', () => '/channels', {
    done(d, item, waiting) {
      const header = document.querySelector('[data-undoes]')
      if (!header.dataset.undoes) location.reload()
      window.dispatchEvent(new CustomEvent('aspen:steps', { detail: d }))
      if (!waiting) redraw(d.html) // what waits still is newer than this answer
    },
    refused(e, { body }) {
      notice(e.message, { bad: true })
      const f = body.path && fieldOf(body.path)
      if (f && f.dataset.typed === JSON.stringify(body.value)) f.value = f.defaultValue
    },
  })
  const change = (body) => box.put(body)
  const fieldOf = (path) => [...host.querySelectorAll('[data-edit]')].find((f) => f.dataset.edit === path)
  // redraw shows what the server has; the field the hand is in stays as it is
  const own = (f) => f.dataset.edit ?? [f.name, f.closest('[data-channel]')?.dataset.channel].join()
  const fields = () => [...host.querySelectorAll('input, select')]
  function redraw(html) {
    const at = host.contains(document.activeElement) ? document.activeElement : null
    const typed = fields().filter((f) => (!f.dataset.edit || f === at) && f.type !== 'file' && f.value !== f.defaultValue)
    const words = new Map(typed.map((f) => [own(f), f.value]))
    const caret = at?.type === 'text' ? [at.selectionStart, at.selectionEnd] : null
    const key = at?.matches('input, select') && own(at)
    fill(host, html)
    for (const f of fields()) {
      if (words.has(own(f)) && f.tagName === 'INPUT') f.value = words.get(own(f))
      if (key !== own(f)) continue
      f.focus({ preventScroll: true })
      if (caret) f.setSelectionRange(...caret)
    }
  }
  const numbers = (s) =>
    s
      .trim()
      .split(/[\s,]+/)
      .filter(Boolean)
      .map(Number)
  const read = {
    number: (s) => Number(s),
    numbers,
    words: (s) =>
      s
        .trim()
        .split(/[\s,]+/)
        .filter(Boolean),
    boxes: (s) =>
      s
        .split(';')
        .map(numbers)
        .filter((b) => b.length),
    kB: (s) => Math.round(Number(s || 0) * 1000),
    needs: (s) => (s ? [s] : []),
  }
  document.addEventListener('change', async (e) => {
    const d = e.target.dataset
    if (d.edit) {
      const value = (read[d.as] || ((s) => s))(e.target.value)
      d.typed = JSON.stringify(value)
      change({ action: 'edit', path: d.edit, value })
    } else if ('bring' in d && e.target.files[0]) {
      if (await change({ action: 'bring', file: await e.target.files[0].text() })) notice('The channels are in.')
      e.target.value = ''
    }
  })
  document.addEventListener('click', (e) => {
    const b = e.target.closest('[data-remove]')
    if (b) change({ action: 'edit', path: b.dataset.remove, value: null })
  })
  // a name that is there already is asked about as it is typed
  const same = (a, b) => a.trim().toLowerCase() === b.trim().toLowerCase()
  const names = (f) =>
    'newChannel' in f.dataset
      ? [...document.querySelectorAll('.ch-name')]
          .map((el) => el.value)
          .concat([...document.querySelectorAll('.catalogue summary')].map((el) => el.firstChild.data))
      : [...f.closest('[data-channel]').querySelectorAll('[data-edit$="/name"]:not(.ch-name)')].map((el) => el.value)
  document.addEventListener('input', (e) => {
    const f = e.target.form
    if (e.target.name !== 'name' || !f || !('newChannel' in f.dataset || 'newPlace' in f.dataset)) return
    const twice = e.target.value.trim() && names(f).some((n) => same(n, e.target.value))
    f.querySelector('.twice')?.remove()
    f.querySelector('button').textContent = twice
      ? 'Add another of that name'
      : 'newChannel' in f.dataset
        ? 'Add a channel'
        : 'add the place'
    if (twice)
      f.append(
        Object.assign(document.createElement('span'), {
          className: 'twice heed',
          role: 'status',
          textContent: `There is one called “${e.target.value.trim()}” already.`,
        }),
      )
  })
  document.addEventListener('submit', async (e) => {
    const f = e.target
    if ('newChannel' in f.dataset) {
      e.preventDefault()
      if (await change({ action: 'channel', name: f.elements.name.value })) f.reset()
    }
    if ('newPlace' in f.dataset) {
      e.preventDefault()
      change({
        action: 'place',
        channel: f.closest('[data-channel]').dataset.channel,
        name: f.elements.name.value,
        size: f.elements.size.value,
      })
    }
  })
  addEventListener('aspen:reverted', () => location.reload())
  box.recover()
})()
