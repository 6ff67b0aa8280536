// Several briefs: a list is read as it is typed, and begun at once.
;(() => {
  const { get, post, fill, notice } = Aspen
  const form = document.querySelector('[data-several]')
  const text = form.elements.text
  const kit = () => form.elements.kit?.value ?? document.body.dataset.kit
  const rows = form.querySelector('[data-several-rows]')
  const wrong = form.querySelector('[data-several-wrong]')
  const begin = form.querySelector('[data-several-begin]')
  const memory = 'aspenridge-several'
  let kept = {}
  try {
    kept = JSON.parse(localStorage.getItem(memory)) ?? {}
  } catch {
    /* storage is off, or not ours */
  }
  const purposes = kept.purposes ?? {} // chosen by hand, by the row they are of
  let places = kept.places ?? null // null for the last ones of the kit
  let count = 0
  let sending = false
  function keep() {
    try {
      localStorage.setItem(memory, JSON.stringify({ text: text.value, purposes, places }))
    } catch {
      /* storage is off */
    }
  }

  const where = Aspen.where({
    address: (q) =>
      `/several/places?${new URLSearchParams([['kit', kit()], ['q', q], ...(places ?? []).map((p) => ['on', p])])}`,
    changed(list) {
      places = list
      keep()
      form.querySelector('[data-several-places]').textContent = list.length
    },
  })
  form.querySelector('[data-several-where]').addEventListener('click', () => where.open())

  const what = () => ({ kit: kit(), text: text.value, purposes, places: places ?? where.chosen() })
  function say(words) {
    wrong.textContent = words
    text.toggleAttribute('aria-invalid', !!words)
  }
  let asked = 0
  async function read() {
    keep()
    const mine = ++asked
    try {
      const d = await post('/several/read', what())
      if (mine !== asked) return
      fill(rows, d.html)
      count = d.count
      say('')
    } catch (e) {
      if (mine !== asked) return
      count = 0
      say(e.message)
    }
    form.querySelector('[data-several-count]').textContent = count || ''
    begin.disabled = count === 0 || sending
  }
  let timer
  text.addEventListener('input', () => {
    clearTimeout(timer)
    timer = setTimeout(read, 150)
  })
  text.addEventListener('keydown', (e) => {
    if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) form.requestSubmit()
  })
  rows.addEventListener('change', (e) => {
    const row = e.target.dataset.purposeOf
    if (row === undefined) return
    purposes[row] = e.target.value
    keep()
    e.target.classList.remove('guessed')
  })
  form.elements.kit?.addEventListener('change', async () => {
    if (places) return
    const d = await get(`/several/places?kit=${kit()}&q=`)
    fill(document.querySelector('[data-where-sheet] [data-places]'), d.html)
    where.forget()
    form.querySelector('[data-several-places]').textContent = d.chosen
  })
  form.addEventListener('submit', async (e) => {
    e.preventDefault()
    if (!text.value.trim() || sending) return
    sending = begin.disabled = true
    try {
      const d = await post('/several', what())
      localStorage.removeItem(memory)
      location.href = d.wall
    } catch (err) {
      say(err.message)
      sending = begin.disabled = false
      if (err.status === undefined) notice(err.message, { bad: true })
    }
  })

  // a list that was being written
  text.value ||= kept.text ?? ''
  if (text.value) read()
  if (places) where.choose(places)
})()
