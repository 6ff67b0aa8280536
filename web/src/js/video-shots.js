// The shots of a video's running order: each with what it says, shows and how long it runs,
// dragged, split, joined. What is changed goes to the page.
;(() => {
  const { el, post, notice, whenSeen } = Aspen
  const sec = (v) => (Math.round(v * 10) / 10).toFixed(1)

  // videoShots fills a list; send keeps the order as it is in the state, change one that was
  // worked on, go shows a time of the film
  Aspen.videoShots = (list, { id, state, now, go, takeOf, roleOf, send, change, recut }) => {
    function draw() {
      list.replaceChildren(...state().shots.map(shotOf))
      // what each shot looks like when it stands, drawn when it is looked at
      whenSeen(list.querySelectorAll('[data-still]'), (host) => {
        const take = takeOf(Number(host.dataset.still))
        if (!take) return
        const still = Aspen.film.screen(
          { ...state().film, takes: [{ ...take, in: {}, leave: 0, from: 0, to: take.to - take.from }], over: [] },
          host.id,
        )
        still.show(take.to - take.from)
        host.replaceChildren(still.svg)
      })
    }
    // layouts a shot may be set in
    const layouts = (s) =>
      el(
        'select.shot-layout',
        { 'data-field': 'layout', 'aria-label': 'Layout' },
        [['', 'layout by rule'], ...state().layouts].map(([v, name]) =>
          el('option', { value: v, ...(v === (s.layout ?? '') ? { selected: '' } : {}) }, name),
        ),
      )
    // pictures to choose from for a shot, and how its own is shown
    const pictures = (s) => [
      el('button', { 'data-pic': '', 'aria-pressed': s.picture ? 'false' : 'true', title: 'No picture' }, '–'),
      ...state().pics.map((p) =>
        el(
          'button',
          {
            'data-pic': p.file,
            'aria-pressed': s.picture === p.file ? 'true' : 'false',
            title: p.alt || 'this picture',
          },
          el('img', { src: p.src, alt: '', width: 39, height: 30 }),
        ),
      ),
      s.picture &&
        el(
          'label.check',
          { title: 'Nothing of the picture is cut off: it stands on a ground of the kit' },
          el('input', { type: 'checkbox', 'data-whole': '', ...(s.whole ? { checked: '' } : {}) }),
          ' whole',
        ),
    ]
    // speaks reports whether what is said in a shot can be written and recorded
    const opened = new Set()
    const speaks = (s, i) => state().speaks !== 'none' || s.say || s.heard || opened.has(i)
    function shotOf(s, i) {
      const take = takeOf(i)
      const button = (act, text, title) => el('button.tiny.soft', { 'data-act': act, title }, text)
      return el(
        'li.shot',
        { 'data-shot': i },
        el('div.still', { 'data-still': i, id: 'still' + i, title: 'Drag to another place' }),
        el(
          'div.shot-says',
          {},
          el(
            'div.shot-head',
            {},
            el(
              'select',
              { 'data-field': 'role', 'aria-label': 'What it is for' },
              state().roles.map((r) =>
                el('option', { value: r, ...(r === s.role ? { selected: '' } : {}) }, roleOf(r)),
              ),
            ),
            el('input.seconds', {
              'data-field': 'seconds',
              inputmode: 'decimal',
              value: s.seconds ? sec(s.seconds) : '',
              placeholder: sec(s.reads),
              'aria-label': 'Seconds',
              title: `${sec(s.reads)} s to read`,
            }),
            el('span.mono.soft', {}, 's'),
            take && el('span.mono.soft', {}, `at ${sec(take.from)}`),
            !s.card && !s.whole && layouts(s),
          ),
          s.card && el('p.shot-card', {}, s.headline || 'A card without words', el('small', {}, 'as the set shows it')),
          !s.card &&
            el(
              'textarea',
              { 'data-field': 'headline', rows: 2, 'aria-label': 'Words', placeholder: 'What it says' },
              s.headline ?? '',
            ),
          !s.card &&
            (s.body || s.role === 'proof') &&
            el('input', {
              'data-field': 'body',
              value: s.body ?? '',
              'aria-label': 'Smaller words',
              placeholder: 'Smaller, under it',
            }),
          speaks(s, i) &&
            el(
              'div.shot-voice',
              {},
              el(
                'textarea',
                {
                  'data-field': 'say',
                  rows: 1,
                  'aria-label': 'What is said',
                  placeholder: s.silent ? 'Nothing is said' : `Said: ${s.said}`,
                },
                s.say ?? '',
              ),
              el('span.recording', {}, [
                s.heard && el('span', { title: s.heard }, s.heard),
                s.heard && button('unsay', 'take it out', 'Without this recording'),
                !s.heard && button('record', 'record', 'Say it yourself'),
                !s.heard && button('bring', 'a file …', 'A recording you have'),
              ]),
              el(
                'label.check',
                {},
                el('input', { type: 'checkbox', 'data-silent': '', ...(s.silent ? { checked: '' } : {}) }),
                ' silent',
              ),
            ),
          s.clip > 0 &&
            el(
              'div.shot-voice',
              {},
              el('span', {}, 'Clip from'),
              el('input.seconds', {
                'data-field': 'from',
                inputmode: 'decimal',
                value: sec(s.from ?? 0),
                'aria-label': 'Clip from, seconds',
              }),
              el('span.soft', {}, `of ${sec(s.clip)} s`),
              s.loud &&
                el(
                  'label.check',
                  {},
                  el('input', { type: 'checkbox', 'data-mute': '', ...(s.mute ? {} : { checked: '' }) }),
                  ' heard',
                ),
              s.loud &&
                !s.mute &&
                button('hush', 'without its silences', 'Leave out where nothing is heard for half a second'),
              el(
                'button.tiny.soft',
                {
                  'data-frame': s.frame,
                  title: 'The frame of the clip that is seen now stands for it in still pieces',
                },
                'this frame for stills',
              ),
            ),
          s.says.length > 0 && el('p.shot-heed', {}, s.says.join('; ')),
          el(
            'div.shot-pics',
            {},
            !s.card && pictures(s),
            el('span.shot-acts', {}, [
              !s.card && button('split', 'split', 'Two shots of this one, at the caret'),
              !s.card &&
                state().shots[i + 1]?.card === undefined &&
                i + 1 < state().shots.length &&
                button('join', 'join', 'With the next one'),
              s.icon && button('bare', 'no icon', `Without the icon beside its words (${s.icon})`),
              !speaks(s, i) && button('speak', 'speak', 'Have something said in it'),
              button('copy', 'twice', 'The same once more'),
              i > 0 && button('up', '↑', 'Earlier'),
              i + 1 < state().shots.length && button('down', '↓', 'Later'),
              button('out', 'out', 'Take it out'),
            ]),
          ),
        ),
      )
    }

    list.addEventListener('input', (e) => {
      const field = e.target.dataset.field
      if (!field) return
      const i = Number(e.target.closest('[data-shot]').dataset.shot)
      const s = state().shots[i]
      if (field === 'from') {
        const v = Number(e.target.value.replace(',', '.'))
        if (!(v >= 0 && v < s.clip)) return
        s.from = v || undefined
      } else if (field === 'seconds') {
        const v = Number(e.target.value.replace(',', '.'))
        if (e.target.value && !(v >= 0.5 && v <= 60)) return
        s.seconds = e.target.value ? v : undefined
      } else s[field] = e.target.value || undefined
      const chosen = e.target.matches('select')
      send(undefined, !chosen)
      if (chosen) e.target.blur()
    })
    list.addEventListener('change', (e) => {
      const { silent, mute, whole } = e.target.dataset
      if ([silent, mute, whole].some((d) => d !== undefined)) {
        const i = Number(e.target.closest('[data-shot]').dataset.shot)
        const on = e.target.checked
        change((all) => {
          if (silent !== undefined) all[i].silent = on || undefined
          if (mute !== undefined) all[i].mute = !on || undefined
          if (whole !== undefined) all[i].whole = on || undefined
        })
        return
      }
      if (e.target.dataset.field !== 'seconds' || !e.target.value) return
      const v = Number(e.target.value.replace(',', '.'))
      if (!(v >= 0.5 && v <= 60))
        notice('A shot runs from 0.5 to 60 seconds. Leave it empty for as long as it takes to read.', { bad: true })
    })
    list.addEventListener('focusout', () => setTimeout(() => !list.contains(document.activeElement) && draw()))
    list.addEventListener('click', (e) => {
      const b = e.target.closest('button')
      const li = e.target.closest('[data-shot]')
      if (!li) return
      const i = Number(li.dataset.shot)
      const take = takeOf(i)
      if (!b) {
        if (take && !e.target.matches('input, textarea, select')) go(take.to - take.leave - 0.001)
        return
      }
      if (b.dataset.pic !== undefined) change((all) => (all[i].picture = b.dataset.pic || undefined))
      if (b.dataset.frame !== undefined) showFrame(state().shots[i], take)
      const act = b.dataset.act
      if (act === 'out') change((all) => all.splice(i, 1))
      if (act === 'copy') change((all) => all.splice(i, 0, { ...all[i], id: undefined }))
      if (act === 'up' || act === 'down')
        change((all) => all.splice(i + (act === 'up' ? -1 : 1), 0, all.splice(i, 1)[0]))
      if (act === 'speak') {
        opened.add(i)
        draw()
        list.querySelector(`[data-shot="${i}"] [data-field=say]`).focus()
      }
      if (act === 'bare') change((all) => (all[i].icon = undefined))
      if (act === 'unsay') change((all) => (all[i].recording = undefined))
      if (act === 'bring') Aspen.chooseSound((file) => change((all) => (all[i].recording = file)))
      if (act === 'record') Aspen.record(b, (file) => change((all) => (all[i].recording = file)))
      if (act === 'hush') recut({ hush: i })
      if (act === 'split') split(i, li.querySelector('textarea'))
      if (act === 'join') join(i)
    })
    // showFrame has the frame of a clip that is seen now, or its first, stand for it
    async function showFrame(s, take) {
      const into = now() >= take.from && now() < take.to ? now() - take.from : 0
      const at = Math.min(s.clip - 0.1, (s.from ?? 0) + into)
      try {
        await post(`/briefs/${id}/clips/frame`, { picture: s.frame, at })
        notice(`The frame at ${sec(at)} s stands for it now, in every piece.`)
      } catch (err) {
        notice(err.message, { bad: true })
      }
    }
    // split makes two shots of one, at the caret, else in the middle of its words
    function split(i, field) {
      const text = state().shots[i].headline ?? ''
      if (text.trim().split(/\s+/).length < 2) {
        notice('One word cannot be split.', { bad: true })
        return
      }
      const at = [...text.slice(0, field.selectionStart)].length
      if (!state().own) send()
      recut({ split: state().shots[i].id, at: at >= [...text].length ? 0 : at })
    }
    // join makes one shot of one and the next
    function join(i) {
      if (!state().own) send()
      recut({ join: state().shots[i].id })
    }

    // a shot is dragged by what it looks like
    let lifted = null
    list.addEventListener('pointerdown', (e) => {
      const still = e.target.closest('.still')
      if (!still || e.button > 0) return
      e.preventDefault()
      lifted = { li: still.closest('[data-shot]'), y: e.clientY }
    })
    addEventListener('pointermove', (e) => {
      if (!lifted || (!lifted.moved && Math.abs(e.clientY - lifted.y) < 5)) return
      lifted.moved = true
      lifted.li.classList.add('lifted')
      lifted.li.style.translate = `0 ${e.clientY - lifted.y}px`
      const rest = [...list.children].filter((li) => li !== lifted.li)
      lifted.to = rest.filter((li) => {
        const r = li.getBoundingClientRect()
        return e.clientY > (r.top + r.bottom) / 2
      }).length
    })
    addEventListener('pointerup', () => {
      const l = lifted
      lifted = null
      if (!l?.moved) return
      l.li.classList.remove('lifted')
      l.li.style.translate = ''
      const from = Number(l.li.dataset.shot)
      if (l.to !== from) change((all) => all.splice(l.to, 0, all.splice(from, 1)[0]))
    })

    return { draw }
  }
})()
