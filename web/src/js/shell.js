// What every page shares: talking to the server so that nothing typed is lost,
// notices, undo and redo, the theme, and colours that only the data knows.
;(() => {
  const json = { Accept: 'application/json', 'Content-Type': 'application/json' }
  const client = Math.random().toString(36).slice(2, 10)
  const wait = (ms) => new Promise((done) => setTimeout(done, ms))

  // joined makes one component of several parts. What one part calls something no other
  // may call something else.
  function joined(parts) {
    const all = {}
    for (const part of parts) {
      for (const name of Object.keys(part))
        if (Object.hasOwn(all, name)) throw new Error(`two parts of a page have a ${name}`)
      Object.defineProperties(all, Object.getOwnPropertyDescriptors(part))
    }
    return all
  }

  // saved tells the header how things stand: saved, saving or late.
  const saved = (state) => window.dispatchEvent(new CustomEvent('aspen:saved', { detail: state }))

  function notice(text, { bad = false, action, label, link, stays } = {}) {
    const host = document.querySelector('[data-notices]')
    const el = document.createElement('div')
    el.className = bad ? 'notice bad' : 'notice'
    el.append(text)
    const button = document.createElement('button')
    button.textContent = label || 'OK'
    button.onclick = () => {
      el.remove()
      action?.()
    }
    if (link) el.append(Object.assign(document.createElement('a'), { href: link.href, textContent: link.label }))
    el.append(button)
    // what waits for an answer is not pushed away by what passes
    if (stays) el.dataset.stays = ''
    host.replaceChildren(...(stays ? [] : [...host.children].filter((n) => 'stays' in n.dataset)), el)
    if (!bad && !stays) setTimeout(() => el.remove(), 6000)
  }

  let lastKey = 0
  addEventListener(
    'keydown',
    () => {
      lastKey = performance.now()
    },
    true,
  )
  const pause = async () => {
    while (performance.now() - lastKey < 700) await wait(100)
  }

  // signInAgain opens the dialog and resolves when the session lives again. It
  // waits for a pause in typing, so that no word ends up in its fields.
  let again = null
  function signInAgain() {
    again ??= pause().then(
      () =>
        new Promise((done) => {
          const dialog = document.querySelector('[data-again]')
          const form = dialog.querySelector('[data-again-form]')
          const wrong = dialog.querySelector('[data-again-wrong]')
          dialog.addEventListener('cancel', (e) => e.preventDefault())
          form.onsubmit = async (e) => {
            e.preventDefault()
            const r = await fetch('/sign-in', {
              method: 'POST',
              headers: { Accept: 'application/json' },
              body: new URLSearchParams(new FormData(form)),
            })
            if (r.ok) {
              dialog.close()
              again = null
              done()
              return
            }
            wrong.hidden = false
            wrong.textContent = (await r.json().catch(() => ({}))).error || 'That did not work; try again.'
          }
          dialog.showModal()
        }),
    )
    return again
  }

  // request keeps trying while the server is away, or says that it cannot just
  // now, and asks for a new sign-in when the session has ended; it throws an Error
  // with status and data for everything the server refuses. left tells a caller
  // who gives up.
  async function request(url, init, left = () => false) {
    for (let tries = 0; !left(); tries++) {
      let r
      try {
        r = await fetch(url, init)
      } catch {
        saved('late')
        await backOff(tries)
        continue
      }
      if (r.status === 401) {
        await signInAgain()
        continue
      }
      if (r.status === 429 || r.status >= 500) {
        saved('late')
        const asked = Number(r.headers.get('Retry-After')) * 1000
        if (r.status === 500 && tries === 5) stuck(url)
        await (asked > 0 && tries === 0 ? wait(Math.min(asked, 60000)) : backOff(tries))
        continue
      }
      const data = await r.json().catch(() => ({}))
      if (!r.ok) throw Object.assign(new Error(data.error || 'something went wrong'), { status: r.status, data })
      return data
    }
    throw Object.assign(new Error('left out'), { status: 0, data: {} })
  }
  // longer from try to try, and never in step with other pages
  const backOff = (tries) => wait(Math.min(5000, 250 * 2 ** Math.min(tries, 5)) * (0.7 + 0.6 * Math.random()))
  const stuck = (url) => window.dispatchEvent(new CustomEvent('aspen:stuck', { detail: url }))

  // every change has an id of its own: one that arrives twice is made once
  const changeID = () => crypto.randomUUID()
  const send = (url, body, id, left) =>
    request(
      url,
      { method: 'POST', headers: { ...json, 'X-Change': id }, body: JSON.stringify({ client, ...body }) },
      left,
    ).catch((e) => {
      if (e.data?.rail && e.data.ask) setTimeout(() => offerToAsk(e, url, body)) // after what is said of it
      throw e
    })
  // what a rail refuses can be asked for: the same change, with a reason
  function offerToAsk(e, url, body) {
    const said = e.message.charAt(0).toUpperCase() + e.message.slice(1)
    notice(`${said}.`, {
      bad: true,
      label: 'Ask for it',
      action: async () => {
        const why = el('textarea', { rows: 2, maxlength: 500, 'aria-label': 'Why' })
        const buttons = el(
          'p.buttons',
          {},
          el('button.act', { value: 'yes' }, 'Ask an owner'),
          el('button.ghost', { value: '' }, 'Leave it'),
        )
        const form = el('form', { method: 'dialog' }, el('p', {}, `${said}. Why do you need it?`), why, buttons)
        const dialog = el('dialog.again', { 'aria-label': 'Ask an owner' }, form)
        document.body.append(dialog)
        dialog.showModal()
        await new Promise((done) => dialog.addEventListener('close', done, { once: true }))
        dialog.remove()
        if (dialog.returnValue !== 'yes') return
        const at = url + (url.includes('?') ? '&' : '?') + 'ask=' + encodeURIComponent(why.value)
        try {
          const d = await send(at, body, changeID())
          notice(d.asked ? 'An owner is asked; the answer comes to your Desk.' : 'It is done.')
        } catch (err) {
          notice(err.message, { bad: true })
        }
      },
    })
  }
  const post = (url, body) => send(url, body, changeID())
  const get = (url) => request(url, { headers: json })

  // report tells of a fault of a page where faults are told of, and lets it go on.
  const report = (fault) => setTimeout(() => {
    throw fault
  })

  // --- what is not yet saved ---------------------------------------------------
  // An outbox sends changes one after the other, in the order they were made.
  // What is in it outlives the tab; whichever page is opened next sends it (carry).
  // A change with a tag replaces one of the same tag that waits right before it:
  // of typing only the newest words count. keeps is what a change needs to know of
  // the page as it was made, add what the answer is to be for.
  const outboxes = 'aspenridge-out-'
  const boxes = []
  let unkept = false // the browser could not store what waits
  function outbox(key, url, { add = () => ({}), keeps = () => ({}), done = () => {}, refused }) {
    const name = `${outboxes}${key}-`
    const mine = name + client
    let items = []
    let busy = false
    const keep = () => {
      const rest = items.filter((i) => !i.reads).map(({ id, tag, by, at, body }) => ({ id, tag, by, at, body }))
      try {
        if (rest.length) localStorage.setItem(mine, JSON.stringify(rest))
        else localStorage.removeItem(mine)
        unkept = false
      } catch {
        unkept = rest.length > 0
      }
    }
    function put(body, { tag = '', reads = false, base = 0 } = {}) {
      const last = items[items.length - 1]
      let item
      if (last && !last.sent && (reads ? last.reads : tag && last.tag === tag)) {
        item = last
        const { base, was } = item.body // it still starts from there
        item.body = { ...keeps(), ...body, base, ...(was ? { was } : {}) }
      } else {
        item = { id: changeID(), tag, reads, by: client, body: { base, ...keeps(), ...body } }
        item.at = url(item)
        item.settled = new Promise((settle) => {
          item.settle = settle
        })
        items.push(item)
      }
      keep()
      pump()
      return item.settled
    }
    async function pump() {
      if (busy) return
      busy = true
      while (items.length) {
        const item = items[0]
        item.sent = true
        if (!item.reads) saved('saving')
        let answer = null
        let fault = null
        try {
          answer = await send(
            url(item),
            { ...item.body, client: item.by, ...add(item) },
            item.reads ? '' : item.id,
            () => item.left,
          )
        } catch (e) {
          fault = e
        }
        items.shift()
        keep()
        // a page that fails over an answer holds up none of what waits
        try {
          if (!fault) done(answer, item, items.length)
          else if (fault.status !== undefined) refused(fault, item)
          else report(fault)
        } catch (e) {
          report(e)
        }
        item.settle?.(answer)
      }
      busy = false
      saved('saved')
    }
    // what a page before this one could not send; another tab that is still open
    // sends its own, and the ids see to it that nothing is made twice
    function recover() {
      const found = []
      try {
        for (const k of Object.keys(localStorage)) {
          if (!k.startsWith(name) || k === mine) continue
          found.push(...JSON.parse(localStorage.getItem(k)))
          localStorage.removeItem(k)
        }
      } catch {
        /* storage is off, or not ours */
      }
      for (const i of found) items.push({ ...i, reads: false })
      if (found.length) {
        keep()
        pump()
      }
      return found.map((i) => i.body)
    }
    const box = {
      put,
      recover,
      name,
      // what waits for its answer, the oldest first
      bodies: () => items.filter((i) => !i.reads).map((i) => i.body),
      count: () => items.filter((i) => !i.reads).length,
      idle: () => !items.some((i) => !i.reads),
      waiting: (tag) => items.some((i) => i.tag === tag),
      leave: () => {
        if (items[0]) items[0].left = true
      },
    }
    boxes.push(box)
    return box
  }
  // carry sends what pages that are closed by now could not, in order for each of them. What
  // somebody else changed meanwhile waits for its page, which asks.
  async function carry() {
    if (!document.querySelector('[data-again]')) return // nobody is signed in
    let keys = []
    try {
      keys = Object.keys(localStorage).filter((k) => k.startsWith(outboxes) && !boxes.some((b) => k.startsWith(b.name)))
    } catch {
      return // storage is off
    }
    const read = (k) => {
      try {
        return JSON.parse(localStorage.getItem(k)) ?? []
      } catch {
        return []
      }
    }
    const write = (k, items) => {
      if (items.length) localStorage.setItem(k, JSON.stringify(items))
      else localStorage.removeItem(k)
    }
    await Promise.all(
      keys.map(async (k) => {
        for (let items = read(k); items.length && items[0].at; items = read(k)) {
          const { id, by, at, body } = items[0]
          carried++
          saved('saving')
          try {
            await send(at, { ...body, client: by }, id)
          } catch (e) {
            if (e.status === 409) return
            if (e.status !== undefined) notice(`An earlier change could not be saved: ${e.message}.`, { bad: true })
            else report(e)
          } finally {
            carried--
          }
          write(k, read(k).filter((i) => i.id !== id)) // its own page may have sent it meanwhile
        }
      }),
    )
    if (!waits()) saved('saved')
  }
  let carried = 0 // that are on their way
  addEventListener('load', carry)
  // waits is how many changes are not saved yet
  const waits = () => carried + boxes.reduce((n, b) => n + b.count(), 0)
  // leaving is asked about only where what waits would be lost with the page
  addEventListener('beforeunload', (e) => {
    if (unkept && waits()) e.preventDefault()
  })

  // settled waits until everything is out
  async function settled() {
    while (boxes.some((b) => !b.idle())) await wait(30)
  }
  addEventListener('aspen:stuck', () => {
    if (boxes.some((b) => !b.idle()))
      notice('The last change cannot be saved; it is tried again.', {
        bad: true,
        label: 'Leave it out',
        action: () => boxes.forEach((b) => b.leave()),
      })
  })

  // --- markup --------------------------------------------------------------
  // What the server has written enters a page here and nowhere else; everything
  // that is built of data is built by el, as elements and text.
  const written = window.trustedTypes
    ? trustedTypes.createPolicy('aspenridge', { createHTML: (s) => s })
    : { createHTML: (s) => s }
  function fill(host, html) {
    host.innerHTML = written.createHTML(html)
    moments(host.content ?? host)
    return host
  }
  // moments writes times as of where the reader is; the year where it is another
  const clock = { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' }
  function moments(root) {
    for (const time of root.querySelectorAll('[data-moment]')) {
      const at = new Date(time.dateTime)
      const year = at.getFullYear() === new Date().getFullYear() ? undefined : 'numeric'
      time.textContent = at.toLocaleString('en-GB', { ...clock, year })
      time.title = at.toLocaleString('en-GB', { dateStyle: 'full', timeStyle: 'long' })
    }
  }
  function parts(html) {
    return fill(document.createElement('template'), html).content
  }
  const svgNames = new Set(['svg', 'rect', 'circle', 'path', 'g'])
  function el(name, attrs = {}, ...kids) {
    const [tag, ...classes] = name.split('.')
    const e = svgNames.has(tag)
      ? document.createElementNS('http://www.w3.org/2000/svg', tag)
      : document.createElement(tag)
    if (classes.length) e.setAttribute('class', classes.join(' '))
    for (const [k, v] of Object.entries(attrs)) if (v !== false && v != null) e.setAttribute(k, v === true ? '' : v)
    e.append(...kids.flat().filter((k) => k != null && k !== false))
    return e
  }
  const swatch = (c) => el('svg', { 'aria-hidden': 'true' }, el('rect', { width: '100%', height: '100%', fill: c }))

  async function upload(url, file) {
    const form = new FormData()
    form.append('file', file, file.name || 'pasted.png')
    notice('Taking in ' + (file.name || 'the pasted picture') + ' …', { label: 'Hide' })
    try {
      const data = await request(url, {
        method: 'POST',
        headers: { Accept: 'application/json', 'X-Client': client, 'X-Change': changeID() },
        body: form,
      })
      document.querySelector('[data-notices]').replaceChildren()
      return data
    } catch (e) {
      notice(e.message, { bad: true })
      return null
    }
  }

  // paint sets what style sheets cannot know: inks that follow a swatch.
  function paint(root = document) {
    for (const el of root.querySelectorAll('[data-ink]')) el.style.color = el.dataset.ink
    for (const el of root.querySelectorAll('[data-weight]')) el.style.fontWeight = el.dataset.weight
    for (const el of root.querySelectorAll('[data-tracking]')) el.style.letterSpacing = el.dataset.tracking + 'em'
  }

  // whenSeen does something with each element once, shortly before it scrolls into
  // view.
  function whenSeen(elements, act) {
    const seen = new IntersectionObserver(
      (list) => {
        for (const { isIntersecting, target } of list)
          if (isIntersecting) {
            seen.unobserve(target)
            act(target)
          }
      },
      { rootMargin: '500px' },
    )
    for (const e of elements) seen.observe(e)
  }

  // swap puts new markup in and leaves the focus and caret where they were.
  function swap(host, html) {
    const at = document.activeElement
    const id = host.contains(at) ? at.id : ''
    const range = id && 'selectionStart' in at ? [at.selectionStart, at.selectionEnd] : null
    const typed = id && at.dataset.dirty ? at.value : null // not yet sent: it stays
    const open = [...host.querySelectorAll('details[open]')].map((d) => d.dataset.picker)
    fill(host, html)
    for (const d of host.querySelectorAll('details')) if (open.includes(d.dataset.picker)) d.open = true
    paint(host)
    const el = id && document.getElementById(id)
    if (el && typed !== null) {
      el.value = typed
      el.dataset.dirty = '1'
      el.dispatchEvent(new Event('input', { bubbles: true }))
    }
    if (el) {
      el.focus()
      if (range)
        try {
          el.setSelectionRange(...range)
        } catch {
          /* not a text field */
        }
    }
  }

  // onChange calls back when one of the page's documents changed.
  function onChange(f) {
    let timer
    watched()?.addEventListener('message', () => {
      clearTimeout(timer)
      timer = setTimeout(f, 30)
    })
  }
  // onHere calls back with whoever says that they are on the page's brief
  const onHere = (f) => watched()?.addEventListener('here', (e) => f(JSON.parse(e.data)))
  let source
  function watched() {
    const ids = document.querySelector('.top')?.dataset.watch
    if (!source && ids) {
      source = new EventSource('/events?watch=' + ids)
      addEventListener('pagehide', () => source.close())
    }
    return source
  }

  // files hands dropped, pasted and picked files to take(kind, file).
  function files(take) {
    document.addEventListener('change', (e) => {
      const kind = e.target.dataset?.upload
      if (kind) {
        for (const f of e.target.files) take(kind, f)
        e.target.value = ''
      }
    })
    document.addEventListener('dragover', (e) => {
      if (e.dataTransfer.types.includes('Files')) {
        e.preventDefault()
        document.body.classList.add('dragging')
      }
    })
    document.addEventListener('dragleave', (e) => {
      if (!e.relatedTarget) document.body.classList.remove('dragging')
    })
    document.addEventListener('drop', (e) => {
      document.body.classList.remove('dragging')
      if (!e.dataTransfer.files.length) return
      e.preventDefault()
      for (const f of e.dataTransfer.files) take(null, f, e.target)
    })
    document.addEventListener('paste', (e) => {
      const got = [...(e.clipboardData?.files || [])]
      if (got.length) {
        e.preventDefault()
        for (const f of got) take(null, f)
      }
    })
  }

  // a form that is sent twice, by two clicks or a connection that broke, makes one thing; shown anew
  // the page makes another
  document.addEventListener('submit', (e) => {
    const form = e.target
    if (form.method !== 'post' || e.defaultPrevented) return
    if (!form.elements.change) form.append(el('input', { type: 'hidden', name: 'change' }))
    form.elements.change.value ||= changeID()
  })
  addEventListener('pageshow', () => {
    for (const i of document.querySelectorAll('input[name=change]')) i.value = ''
  })

  // toKit takes what only a kit can hold (a font) from a file dropped on a job;
  // true when it did.
  async function toKit(kit, f) {
    if (!/\.(ttf|otf|woff2?|ttc)$/i.test(f.name)) return false
    if (await upload(`/kits/${kit}/fonts`, f)) notice(`${f.name} is in the kit now; choose it there for a level.`)
    return true
  }

  // ask says where something is used before it goes; true when it may go. What
  // nothing uses goes without a question.
  async function ask(kit, path, verb) {
    const u = await get(`/kits/${kit}/uses?of=${encodeURIComponent(path)}`)
    if (!u.briefs.length && !u.kit.length) return u
    const some = (list) => list.slice(0, 6).join(', ') + (list.length > 6 ? ` and ${list.length - 6} more` : '')
    const dialog = el(
      'dialog.again.ask',
      { 'aria-label': `${u.name} is used` },
      el(
        'form',
        { method: 'dialog' },
        el('h2', {}, `${u.name} is used`),
        u.briefs.length
          ? el('p', {}, `in ${u.briefs.length === 1 ? 'a brief' : u.briefs.length + ' briefs'}: ${some(u.briefs)}`)
          : null,
        u.kit.length ? el('p', {}, `in the kit: ${some(u.kit)}`) : null,
        u.then ? el('p.soft', {}, u.then) : null,
        el(
          'p.buttons',
          {},
          el('button.act', { value: 'yes' }, verb),
          el('button.ghost', { value: '', autofocus: true }, 'Keep it'),
        ),
      ),
    )
    document.body.append(dialog)
    dialog.showModal()
    await new Promise((done) => dialog.addEventListener('close', done, { once: true }))
    dialog.remove()
    return dialog.returnValue === 'yes' ? u : null
  }

  window.Aspen = {
    ask,
    toKit,
    client,
    request,
    post,
    get,
    outbox,
    settled,
    upload,
    notice,
    saved,
    paint,
    swap,
    fill,
    // kB is a weight in words
    kB: (n) => (n < 1e6 ? Math.ceil(n / 1000) + ' kB' : (n / 1e6).toFixed(1) + ' MB'),
    // inLine says how far a job is that waits
    inLine: (job) => (job.ahead ? `waiting, ${job.ahead} in line before it` : 'waiting for its turn'),
    parts,
    el,
    whenSeen,
    swatch,
    onChange,
    onHere,
    files,
    joined,
    wait,
    report,
  }

  // The header: undo, redo, how saving stands, the theme.
  document.addEventListener('alpine:init', () => {
    Alpine.data('shell', () => ({
      label: 'saved',
      late: false,
      canUndo: false,
      canRedo: false,
      spent: { undo: false, redo: false }, // nothing of one's own was found
      undoes: '',
      init() {
        this.undoes = this.$root.dataset.undoes
        this.canUndo = 'undo' in this.$root.dataset
        this.canRedo = 'redo' in this.$root.dataset
        addEventListener('aspen:saved', (e) => {
          this.late = e.detail === 'late'
          const n = waits()
          const count = n > 1 ? `${n} changes ` : ''
          this.label = {
            saved: 'saved',
            saving: `saving ${count}…`,
            late: `${count}not saved yet, trying again`,
          }[e.detail]
        })
        addEventListener('aspen:steps', (e) => {
          // others' steps are not one's own to take back: a button that found nothing rests until
          // something is done here
          this.canUndo = e.detail.undo && !this.spent.undo
          this.canRedo = e.detail.redo && !this.spent.redo
        })
        addEventListener('aspen:nothing', (e) => {
          this.spent[e.detail] = true
          this[e.detail === 'undo' ? 'canUndo' : 'canRedo'] = false
          notice(e.detail === 'redo' ? 'Nothing of yours to redo.' : 'Nothing of yours to undo.')
        })
        addEventListener('aspen:saved', (e) => {
          if (e.detail === 'saving') this.spent = { undo: false, redo: this.spent.redo }
        })
        addEventListener('keydown', (e) => {
          if (!(e.ctrlKey || e.metaKey) || e.key.toLowerCase() !== 'z' || !this.undoes) return
          if (e.target.matches('input, textarea:not([data-typing])') && e.target.dataset.dirty) return
          e.preventDefault()
          this.revert(e.shiftKey)
        })
      },
      undo() {
        this.revert(false)
      },
      redo() {
        this.revert(true)
      },
      async revert(redo) {
        // a page that has an outbox puts it in there
        if (!window.dispatchEvent(new CustomEvent('aspen:revert', { detail: { redo }, cancelable: true }))) return
        await settled() // what was done before it goes out before it
        saved('saving')
        const d = await post('/documents/' + this.undoes + '/undo', { redo })
        saved('saved')
        if (d.nothing) window.dispatchEvent(new CustomEvent('aspen:nothing', { detail: redo ? 'redo' : 'undo' }))
        else window.dispatchEvent(new CustomEvent('aspen:reverted', { detail: d }))
      },
      theme() {
        const next = document.documentElement.dataset.theme === 'dark' ? 'light' : 'dark'
        document.documentElement.dataset.theme = next
        try {
          localStorage.setItem('aspenridge-theme', next)
        } catch {
          /* storage is off */
        }
      },
    }))
  })
  document.addEventListener('DOMContentLoaded', () => (paint(), moments(document)))
  // the workspaces one may go to, in the menu of one's account
  document.querySelector('details.me')?.addEventListener(
    'toggle',
    async (e) => {
      const list = document.querySelector('[data-spaces]')
      if (!e.target.open || list.children.length) return
      const all = (await get('/workspaces').catch(() => [])).filter((w) => !w.here)
      list.hidden = all.length === 0
      list.append(
        ...all.map((w) =>
          el(
            'form',
            { method: 'post', action: '/workspaces/open' },
            el('input', { type: 'hidden', name: 'workspace', value: w.id }),
            el('button', { dir: 'auto' }, w.name),
          ),
        ),
      )
    },
    true,
  )
  // menus close when one looks elsewhere
  document.addEventListener('click', (e) => {
    for (const m of document.querySelectorAll('[data-menu][open]')) if (!m.contains(e.target)) m.open = false
  })
  addEventListener('keydown', (e) => {
    if (e.key !== 'Escape') return
    for (const m of document.querySelectorAll('[data-menu][open]')) {
      m.open = false
      m.querySelector('summary').focus()
    }
  })
  // a field that takes no more says so, once until it is shorter again
  const full = new WeakSet()
  document.addEventListener('input', (e) => {
    const f = e.target
    if (!(f.maxLength > 0)) return
    if (f.value.length < f.maxLength) full.delete(f)
    else if (!full.has(f)) {
      full.add(f)
      Aspen.notice(`This takes ${f.maxLength.toLocaleString()} letters at most; what is more is left out.`)
    }
  })
  document.addEventListener('click', (e) => {
    const link = e.target.closest('[data-handover]')
    if (link) notice('Drawing every piece at full size; the download starts by itself.', { label: 'Hide' })
  })
})()
