// The Kit: every field saves as it changes, and the sheet and the shelf come
// back as they are then.
;(() => {
  const { get, outbox, upload, notice, swap, fill, onChange, files } = Aspen
  const id = document.body.dataset.kit
  const sheet = document.querySelector('[data-sheet]')
  const shelf = document.querySelector('[data-shelf]')
  let seq = Number(document.body.dataset.seq)
  let version = Number(document.body.dataset.version) // of the kit and all it follows

  function show(d) {
    if (d.seq < seq) return
    seq = d.seq
    version = d.version
    let stale = false
    for (const host of parts()) {
      const part = d.parts[host.dataset.part]
      if (!part || !host.isConnected) continue // the row it stood in came anew
      if (part.html !== undefined) {
        swap(host, part.html)
        host.dataset.tag = part.tag
      } else if (host.dataset.tag && part.tag !== host.dataset.tag) {
        stale = true // drawn anew by another answer since this was asked for
      }
    }
    if (stale) refresh()
    showUnread()
    fold()
    document.querySelector('[data-title]').textContent = d.name || 'New kit'
    window.dispatchEvent(new CustomEvent('aspen:steps', { detail: d }))
    if (slipOf && !document.activeElement?.dataset?.dial) openSlip(slipOf, true)
  }
  // which type set the sheet shows; the server is told with every request
  let typeSet = ''
  // and which drawing of each part the page shows: it answers with those that differ
  const parts = () => document.querySelectorAll('[data-part]')
  // a part something was typed or chosen in shows what the server has not drawn
  const touched = (e) => delete e.target.closest('[data-part]')?.dataset.tag
  document.addEventListener('input', touched, true)
  document.addEventListener('change', touched, true)
  const have = () => [...parts()].map((p) => `${p.dataset.part}.${p.dataset.tag}`).join()
  const here = (path) => `/kits/${id}/${path}?set=${encodeURIComponent(typeSet)}&have=${have()}`
  async function refresh() {
    show(await get(here('sheet')))
  }

  // lines no colour was found in stay in the field, with the reason
  let unread = null
  function showUnread() {
    if (!unread) return
    const field = document.getElementById('add-colours')
    // before what was typed since, once
    const lines = unread.map((u) => u.line)
    const typed = field.value.split('\n').filter((l) => l.trim() && !lines.includes(l))
    field.value = [...lines, ...typed].join('\n')
    field.setAttribute('aria-invalid', 'true')
    sheet
      .querySelector('[data-unread]')
      .replaceChildren(...unread.map((u) => Aspen.el('li', {}, Aspen.el('b', {}, u.line), ' ' + u.why)))
  }
  async function newPalette(text) {
    const dialog = Aspen.el(
      'dialog.again',
      { 'aria-label': 'A new palette' },
      Aspen.el(
        'form',
        { method: 'dialog' },
        Aspen.el('h2', {}, 'A new palette'),
        Aspen.el(
          'label',
          {},
          'What it is called',
          Aspen.el('input', { name: 'name', required: true, maxlength: 60, placeholder: 'Night' }),
        ),
        Aspen.el('button.act', { value: 'yes' }, 'Make it'),
      ),
    )
    document.body.append(dialog)
    dialog.showModal()
    await new Promise((done) => dialog.addEventListener('close', done, { once: true }))
    const name = dialog.querySelector('input').value
    dialog.remove()
    const field = document.getElementById('add-colours')
    if (dialog.returnValue === 'yes') change({ action: 'paste', text, token: 'new:' + name })
    else if (!field.value) field.value = text
  }

  // one change at a time, in the order they were made
  const box = outbox('kit-' + id, () => here('edit'), {
    keeps: () => ({ set: typeSet }), // as it is when the change is made
    done: (d, item) => {
      if (item.body.action === 'paste') {
        unread = d.unread?.length ? d.unread : null
      }
      if (!item.tag || !box.waiting(item.tag)) show(d)
    },
    refused: (e) => {
      if (e.status === 409)
        notice('Someone else changed this meanwhile. It now says ' + JSON.stringify(e.data.theirs), { bad: true })
      else if (e.data?.unread) {
        unread = e.data.unread
        showUnread()
        return
      } else notice(e.message, { bad: true })
      for (const host of parts()) delete host.dataset.tag // every field goes back to what is stored
      refresh()
    },
  })
  const change = (body) => box.put(body, { base: seq, tag: body.typing ? body.action + body.token : '' })

  async function takeOut(path) {
    const u = await Aspen.ask(id, path, 'Take it out')
    if (!u) return
    change({ action: 'leave-out', token: path })
    notice(`${u.name} is out of the kit.`, {
      label: 'Undo',
      action: () => document.querySelector('button[data-undo]').click(),
    })
  }
  // commit sends what a field says. Leaving a field counts too: the sheet may
  // have been drawn anew under the hand, and then no change event comes.
  function commit(el) {
    const d = el.dataset
    delete d.dirty
    if (d.set)
      change({ action: 'set', path: d.set, value: el.value === '' && !d.set.endsWith('/name') ? null : el.value })
    else if (d.setList)
      change({
        action: 'set',
        path: d.setList,
        value: el.value
          .split(',')
          .map((s) => s.trim())
          .filter(Boolean),
      })
    else if (d.flagSet) change({ action: 'set', path: d.flagSet, value: el.checked || null })
    else if (el.closest('[data-signers]')) {
      const list = el.closest('[data-signers]')
      const names = [...list.querySelectorAll('input:checked:not(:disabled)')].map((c) => c.value)
      change({ action: 'set', path: list.dataset.signers, value: names.length ? names : null })
    } else if (d.numSet) change({ action: 'set', path: d.numSet, value: el.value === '' ? null : Number(el.value) })
    else if (d.colour) change({ action: 'colour', token: d.colour, text: el.value })
  }
  // an action named on a field or a button: what it is about and what is said
  const said = (el) => (el.type === 'checkbox' ? (el.checked ? 'yes' : '') : el.value)
  async function copyTo(el) {
    const [to, name] = [el.value, el.selectedOptions[0].textContent]
    el.value = ''
    if (!to) return
    await change({ action: 'copy', token: el.dataset.token, text: to })
    notice(`Copied to ${name}.`, {
      label: 'Open it',
      action: () => {
        location.href = '/kits/' + to
      },
    })
  }
  const act = (el) => {
    if (el.dataset.do === 'copy') return copyTo(el)
    delete el.dataset.dirty
    return change({
      action: el.dataset.do,
      token: el.dataset.token,
      text: el.matches('button') ? el.dataset.text : said(el),
    })
  }
  sheet.addEventListener('change', (e) => {
    if (e.target.dataset.do) act(e.target)
    else commit(e.target)
  })
  sheet.addEventListener('focusout', (e) => {
    if (e.target.dataset.dirty) commit(e.target)
  })
  sheet.addEventListener('input', (e) => {
    e.target.dataset.dirty = '1'
  })
  sheet.addEventListener('keydown', (e) => {
    if (e.key === 'Enter' && e.target.matches('input')) e.target.blur()
    if (e.key === 'Enter' && !e.shiftKey && e.target.matches('[data-paste] textarea')) {
      e.preventDefault()
      e.target.form.requestSubmit()
    }
    if (e.key === 'Escape') for (const p of sheet.querySelectorAll('details[open]')) p.open = false
  })
  sheet.addEventListener('submit', (e) => {
    if (!e.target.matches('[data-paste]')) return
    e.preventDefault()
    const { text, into } = e.target.elements
    if (!text.value.trim()) return
    unread = null
    const given = text.value
    text.value = '' // the next ones are not among these
    delete text.dataset.dirty
    if (into?.value === 'new') newPalette(given)
    else change({ action: 'paste', text: given, token: into?.value ?? '' })
  })
  sheet.addEventListener('click', (e) => {
    const b = e.target.closest('button')
    if (!b) return
    const d = b.dataset
    if (d.do) {
      const open = b.closest('details')
      if (open) open.open = false
      act(b)
    } else if (d.showSet !== undefined) {
      typeSet = d.showSet
      refresh()
    } else if (d.hear) hear(b)
    else if ('ownSong' in d) Aspen.chooseSound((file) => change({ action: 'song', text: file }))
    else if (d.remove) takeOut(d.remove)
  })
  // what the kit sounds like, until it is pressed again
  let heard = null
  async function hear(b) {
    if (heard) {
      heard.pause()
      heard = null
      b.textContent = 'hear it'
      return
    }
    const sound = (heard = new Audio(b.dataset.hear))
    b.textContent = 'it comes …'
    const over = () => {
      if (heard !== sound) return
      heard = null
      const now = sheet.querySelector('[data-hear]') // the sheet may have been drawn anew
      if (now) now.textContent = 'hear it'
    }
    sound.addEventListener('ended', over)
    try {
      await sound.play()
      if (heard === sound) b.textContent = 'stop'
    } catch {
      over()
      if (sound.error) Aspen.notice('It cannot be heard just now; try again in a moment.', { bad: true })
    }
  }
  let trying
  sheet.addEventListener('input', (e) => {
    // copy is checked while it is typed
    if (!('try' in e.target.dataset)) return
    clearTimeout(trying)
    trying = setTimeout(async () => {
      const d = await get(`/kits/${id}/try?text=${encodeURIComponent(e.target.value.slice(0, 4000))}`)
      const list = sheet.querySelector('[data-tried]')
      list.replaceChildren(...d.findings.map((f) => Object.assign(document.createElement('li'), { textContent: f })))
    }, 150)
  })
  // the shelf is drawn down to a strip, and remembers it
  const folded = 'aspenridge-shelf'
  function fold(toggle) {
    let down = false
    try {
      down = localStorage.getItem(folded) === 'down'
      if (toggle) {
        down = !down
        localStorage.setItem(folded, down ? 'down' : 'up')
      }
    } catch {
      down = toggle ? !document.body.classList.contains('shelf-down') : down
    }
    document.body.classList.toggle('shelf-down', down)
    shelf.querySelector('[data-shelf-fold]').setAttribute('aria-expanded', !down)
  }
  fold()
  shelf.addEventListener('click', (e) => {
    if (e.target.closest('[data-shelf-fold]')) fold(true)
  })
  sheet.addEventListener('click', (e) => {
    // to a part of the sheet by its name
    const a = e.target.closest('.spec-names a')
    if (!a) return
    e.preventDefault()
    const to = document.getElementById(a.hash.slice(1))
    to.scrollIntoView({ block: 'start' })
    to.tabIndex = -1
    to.focus({ preventScroll: true })
  })
  shelf.addEventListener('click', (e) => {
    // what is missing leads to its place
    const a = e.target.closest('.rdy a')
    if (!a) return
    e.preventDefault()
    const el = document.getElementById(a.hash.slice(1))
    el.scrollIntoView({ block: 'center' })
    el.focus?.()
  })

  // --- the slip beside what is chosen ---
  const slip = document.querySelector('[data-slip]')
  let slipOf = null // "kind/key" of what it is about
  const opener = (of) => document.querySelector(`[data-slip-of="${CSS.escape(of)}"]`)
  async function openSlip(of, keepFocus) {
    slipOf = of
    let d
    try {
      d = await get(here('slip/' + of.split('/').map(encodeURIComponent).join('/')))
    } catch (e) {
      closeSlip()
      if (e.status !== 404) notice(e.message, { bad: true })
      return
    }
    if (slipOf !== of) return
    const dragging = document.activeElement?.dataset?.dial
    if (dragging && !slip.hidden) {
      // what moves under the hand stays; what follows from it is new
      const fresh = fill(document.createElement('div'), d.html)
      for (const el of slip.querySelectorAll('[data-track], [data-dial-text], [data-slip-hex]')) {
        const key = el.dataset.track
          ? `[data-track="${el.dataset.track}"]`
          : el.dataset.dialText
            ? `[data-dial-text="${el.dataset.dialText}"]`
            : '[data-slip-hex]'
        el.replaceChildren(...fresh.querySelector(key).childNodes)
      }
    } else {
      const top = slip.scrollTop
      const within = slip.contains(document.activeElement)
      swap(slip, d.html)
      if (within && !slip.contains(document.activeElement)) slip.querySelector('[data-slip-close]').focus() // what had the focus is gone
      slip.hidden = false
      slip.scrollTop = top
      if (!keepFocus) slip.querySelector('[data-dial], select, input, button:not([data-slip-close])')?.focus()
    }
    const from = opener(of)
    if (!from) {
      closeSlip()
      return
    }
    const menu = from.closest('[data-menu]') // which lies over everything: it makes room
    if (menu) menu.open = false
    const beside = menu ? menu.querySelector('summary') : from.closest('.swatch, .logo-tile, .brand-pic')
    const r = (beside || from).getBoundingClientRect()
    slip.style.left = Math.max(8, Math.min(r.left, innerWidth - slip.offsetWidth - 12)) + 'px'
    // below what it is about; above it where there is more room; beside it else
    const bars = [...document.querySelectorAll('.top, .spec-names')]
    const roof = Math.max(54, ...bars.map((bar) => bar.getBoundingClientRect().bottom + 8))
    const h = slip.offsetHeight
    const top =
      r.bottom + 8 + h <= innerHeight - 10
        ? r.bottom + 8
        : r.top - 8 - h >= roof
          ? r.top - 8 - h
          : Math.max(roof, innerHeight - h - 10)
    slip.style.top = top + 'px'
  }
  function closeSlip() {
    const back = slipOf && opener(slipOf)
    slipOf = null
    slip.hidden = true
    ;(back?.closest('[data-menu]')?.querySelector('summary') ?? back)?.focus()
  }
  let tuning = null // the newest place of the dials; one request at a time
  let busy = false
  async function tune() {
    if (busy) return
    busy = true
    while (tuning) {
      const text = tuning
      tuning = null
      await change({ action: 'colour', token: slipOf.split('/')[1], text, typing: true })
    }
    busy = false
    if (slipOf) await openSlip(slipOf, true)
  }
  slip.addEventListener('input', (e) => {
    if (!e.target.dataset.dial) return
    const v = Object.fromEntries([...slip.querySelectorAll('[data-dial]')].map((el) => [el.dataset.dial, el.value]))
    tuning = `oklch(${v.l} ${v.c} ${v.h})`
    tune()
  })
  // the plane of lightness and colourfulness moves both dials
  function onPlane(e) {
    const plane = e.target.closest?.('[data-plane]')
    if (!plane || !(e.buttons & 1)) return
    e.preventDefault()
    const r = plane.getBoundingClientRect()
    const dial = (d) => slip.querySelector(`[data-dial=${d}]`)
    const at = (v) => Math.min(1, Math.max(0, v))
    dial('c').value = at((e.clientX - r.left) / r.width) * dial('c').max
    dial('l').value = 1 - at((e.clientY - r.top) / r.height)
    dial('l').focus()
    dial('l').dispatchEvent(new Event('input', { bubbles: true }))
  }
  // what matters most in a picture of the kit
  const placeDots = () => {
    for (const d of slip.querySelectorAll('.focus-dot'))
      Object.assign(d.style, { left: d.dataset.x * 100 + '%', top: d.dataset.y * 100 + '%' })
  }
  new MutationObserver(placeDots).observe(slip, { childList: true })
  function setFocus(host, x, y) {
    const at = [x, y].map((v) => Math.round(Math.min(1, Math.max(0, v)) * 1000) / 1000)
    Object.assign(host.querySelector('.focus-dot').dataset, { x: at[0], y: at[1] })
    placeDots()
    change({ action: 'set', path: host.dataset.kitFocus, value: at, typing: true, token: host.dataset.kitFocus })
  }
  const onFocus = (e) => {
    const host = e.target.closest?.('[data-kit-focus]')
    if (!host || !(e.buttons & 1)) return
    e.preventDefault()
    host.focus()
    const r = host.querySelector('img').getBoundingClientRect()
    setFocus(host, (e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height)
  }
  slip.addEventListener('pointerdown', onFocus)
  slip.addEventListener('pointermove', onFocus)
  slip.addEventListener('keydown', (e) => {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key]
    const host = by && e.target.closest('[data-kit-focus]')
    if (!host) return
    e.preventDefault()
    const dot = host.querySelector('.focus-dot').dataset
    setFocus(host, Number(dot.x) + by[0] * 0.03, Number(dot.y) + by[1] * 0.03)
  })
  slip.addEventListener('pointerdown', onPlane)
  slip.addEventListener('pointermove', onPlane)
  slip.addEventListener('change', (e) => {
    const d = e.target.dataset
    if (d.do) act(e.target)
    else if (d.flagSet) change({ action: 'set', path: d.flagSet, value: e.target.checked || null })
    else commit(e.target)
  })
  slip.addEventListener('click', async (e) => {
    const b = e.target.closest('button')
    if (!b) return
    const d = b.dataset
    if ('dropper' in d) Aspen.dropper(slip.querySelector(d.dropper), (hex) => change({ action: 'keep', text: hex }))
    else if ('slipClose' in d) closeSlip()
    else if (d.do) act(b)
    else if (d.copy) {
      await navigator.clipboard.writeText(d.copy).then(
        () => notice(d.copy + ' is copied.'),
        () => notice(d.copy),
      )
    } else if (d.order) {
      await change({ action: 'set', path: d.orderOf, order: d.order.split(' ') })
    } else if (d.remove) {
      takeOut(d.remove)
      closeSlip()
    }
  })
  addEventListener('keydown', (e) => {
    if (e.key === 'Escape' && !slip.hidden && !document.querySelector('dialog[open]')) closeSlip()
  })
  document.addEventListener('mousedown', (e) => {
    if (
      !slip.hidden &&
      !e.composedPath().some((el) => el.matches?.('[data-slip], [data-slip-of], [data-notices], dialog'))
    )
      closeSlip()
  })
  document.addEventListener('click', (e) => {
    const b = e.target.closest('[data-slip-of]')
    if (b) {
      if (slipOf === b.dataset.slipOf) closeSlip()
      else openSlip(b.dataset.slipOf)
    }
  })
  sheet.addEventListener('click', (e) => {
    // where the corner mark goes
    const stage = e.target.closest('[data-mark-stage]')
    if (!stage) return
    const r = stage.getBoundingClientRect()
    change({
      action: 'mark',
      text: `${((e.clientX - r.left) / r.width).toFixed(3)} ${((e.clientY - r.top) / r.height).toFixed(3)}`,
    })
  })
  // a list is searched as one types
  sheet.addEventListener('input', (e) => {
    if (!('filter' in e.target.dataset)) return
    const words = e.target.value.toLowerCase().split(/\s+/)
    for (const o of e.target.parentElement.querySelectorAll('[role=option]'))
      o.hidden = !words.every((w) => o.textContent.toLowerCase().includes(w))
  })

  // --- order by drag ---
  let dragged = null
  const movable = (el) => el.closest?.('.swatch, .logo-tile')
  sheet.addEventListener('dragstart', (e) => {
    dragged = movable(e.target)
    e.dataTransfer.effectAllowed = 'move'
  })
  sheet.addEventListener('dragover', (e) => {
    if (dragged && movable(e.target)) e.preventDefault()
  })
  sheet.addEventListener('drop', (e) => {
    const onto = movable(e.target)
    if (!dragged || !onto || onto === dragged || dragged.parentElement !== onto.parentElement) return
    e.preventDefault()
    if (onto.dataset.id) {
      const tiles = [...onto.parentElement.querySelectorAll('.logo-tile')]
      const rest = tiles.filter((el) => el !== dragged)
      change({ action: 'logo-move', token: dragged.dataset.id, text: rest[tiles.indexOf(onto)]?.dataset.id ?? '' })
      return
    }
    const row = onto.closest('[data-palette]')
    const list = [...row.querySelectorAll('.swatch')]
    const to = list.indexOf(onto)
    const rest = list.filter((el) => el !== dragged)
    rest.splice(to, 0, dragged)
    change({
      action: 'set',
      path: row.dataset.palette,
      order: rest.map((el) => el.dataset.token.split('.').slice(1).join('.')),
    })
  })
  sheet.addEventListener('dragend', () => {
    dragged = null
  })

  // what is dropped on the pictures is one of them
  let over = ''
  document.addEventListener(
    'drop',
    (e) => {
      over = e.target.closest('[data-drop]')?.dataset.drop || ''
    },
    true,
  )
  document.addEventListener(
    'paste',
    () => {
      over = ''
    },
    true,
  )

  // what is picked for a section or dropped on the pictures goes there; anything
  // else finds its place
  const isFont = (f) => /\.(ttf|otf|woff2?|ttc)$/i.test(f.name)
  function fontsShown(d) {
    const sheet = document.querySelector('[data-own-fonts]')
    sheet.href = sheet.href.replace(/\?.*/, '?' + d.seq)
  }
  files(async (kind, f) => {
    const to = kind?.includes('/')
      ? kind
      : kind === 'logo'
        ? 'logos'
        : kind === 'font'
          ? 'fonts'
          : kind === 'brand' || (over === 'pictures' && !isFont(f))
            ? 'pictures'
            : ''
    if (!to) {
      Aspen.give({ file: f, name: f.name || 'the pasted picture', only: true })
      return
    }
    const d = await upload(`/kits/${id}/${to}`, f)
    if (d) show(d)
    if (d && to.startsWith('fonts')) fontsShown(d) // its letters are shown from now on
  })
  addEventListener('aspen:given', async () => {
    const d = await get(here('sheet'))
    show(d)
    fontsShown(d)
  })
  onChange(async () => {
    const d = await get(here('sheet'))
    if (d.version !== version && d.seq >= seq) show(d)
  })
  addEventListener('aspen:reverted', refresh)
  box.recover()
})()
