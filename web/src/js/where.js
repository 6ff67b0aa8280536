// Where a brief goes: a sheet of places, searched as one types, by their names,
// ratios and sizes, with combinations kept under a name.
Aspen.where = ({ address, changed }) => {
  const { get, post, settled, notice, fill } = Aspen
  const sheet = document.querySelector('[data-where-sheet]')
  const host = sheet.querySelector('[data-places]')
  const field = sheet.querySelector('[data-find-place]')
  let chosen = null
  // what is chosen, in the order it was; places a search hides stay chosen
  function now() {
    const shown = new Map([...host.querySelectorAll('[data-place]')].map((el) => [el.value, el.checked]))
    chosen ??= [...shown].filter(([, on]) => on).map(([v]) => v)
    const kept = chosen.filter((v) => !shown.has(v) || shown.get(v))
    return (chosen = [...kept, ...[...shown].filter(([v, on]) => on && !kept.includes(v)).map(([v]) => v)])
  }
  function set(list) {
    chosen = list
    changed(list)
  }
  let before = null // the places there were before none was chosen
  const tick = () => {
    for (const el of host.querySelectorAll('[data-place]')) el.checked = chosen.includes(el.value)
  }
  async function find() {
    now()
    fill(host, (await get(address(field.value))).html)
    tick()
  }
  let timer
  field.addEventListener('input', () => {
    clearTimeout(timer)
    timer = setTimeout(find, 120)
  })
  sheet.addEventListener('change', (e) => {
    if ('place' in e.target.dataset) set(now())
  })
  sheet.addEventListener('click', async (e) => {
    const d = e.target.closest('button')?.dataset
    if (!d) return
    if (d.custom) {
      set([...now().filter((v) => v !== d.custom), d.custom])
      field.value = ''
      await settled()
      find()
    }
    if (d.combo || d.usual) {
      set(JSON.parse(d.combo ?? d.usual))
      tick()
    }
    if (d.alone) {
      set([d.alone])
      tick()
    }
    if ('noPlace' in d) {
      if (now().length) before = now()
      chosen = [] // it counts with the next one
      tick()
    }
    if (d.comboGo) {
      await post('/channels', { action: 'combine', name: d.comboGo, placements: [] })
      find()
    }
  })
  // kept combinations by Alt and their number
  sheet.addEventListener('keydown', (e) => {
    const n = e.altKey && Number(/^Digit([1-9])$/.exec(e.code)?.[1])
    if (!n) return
    e.preventDefault()
    host.querySelectorAll('[data-combo]')[n - 1]?.click()
  })
  sheet.addEventListener('close', () => {
    if (now().length || !before) return
    notice('A brief goes to one place at least: it stays with those it had.')
    set(before)
    tick()
  })
  sheet.addEventListener('submit', async (e) => {
    if (!('combine' in e.target.dataset)) return
    e.preventDefault()
    try {
      await post('/channels', { action: 'combine', name: e.target.elements.name.value, placements: now() })
      find()
    } catch (err) {
      notice(err.message, { bad: true })
    }
  })
  return {
    // open shows the sheet, with the places that fit some words
    open(words = '') {
      now()
      sheet.showModal()
      if (words !== field.value) {
        field.value = words
        find()
      }
      field.focus()
    },
    add(id) {
      set([...now().filter((v) => v !== id), id])
      tick()
    },
    chosen: () => now(),
    // usual is where the last brief for the same purpose went, [] where that is no other place
    async usual() {
      await find()
      return JSON.parse(host.querySelector('[data-usual]')?.dataset.usual ?? '[]')
    },
    choose(list) {
      set(list)
      tick()
    },
    // forget takes the places the page shows now for the chosen ones
    forget() {
      chosen = null
    },
    closed: (f) => sheet.addEventListener('close', f),
  }
}
