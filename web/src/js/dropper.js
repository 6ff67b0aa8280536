// The colour dropper: takes a colour off a picture or a logo, pixel by pixel,
// with a magnifier; by mouse or by the arrow keys.
;(() => {
  const zoom = 11
  const span = 13 // px of the picture across the magnifier

  // within puts what a picture of a drawing is into the drawing: an image has no others beside it
  async function within(picture) {
    const href = picture.getAttribute('href')
    if (!href || href.startsWith('data:')) return
    const blob = await (await fetch(href)).blob()
    const read = new FileReader()
    await new Promise((done, failed) => {
      read.onload = done
      read.onerror = failed
      read.readAsDataURL(blob)
    })
    picture.setAttribute('href', read.result)
  }

  async function drawn(source) {
    let img = source
    if (source.tagName.toLowerCase() === 'svg') {
      // a drawing becomes a picture first
      const copy = source.cloneNode(true)
      copy.removeAttribute('class')
      for (const e of copy.querySelectorAll('[data-beside]')) e.remove() // what is drawn round it, not of it
      await Promise.all([...copy.querySelectorAll('image')].map(within))
      const box = source.viewBox.baseVal
      const k = 760 / Math.max(box.width, box.height)
      copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg')
      copy.setAttribute('width', box.width * k)
      copy.setAttribute('height', box.height * k)
      img = new Image()
      img.src = 'data:image/svg+xml,' + encodeURIComponent(new XMLSerializer().serializeToString(copy))
    }
    await img.decode()
    const k = Math.min(1, 760 / img.naturalWidth, 460 / img.naturalHeight)
    const canvas = document.createElement('canvas')
    canvas.width = Math.max(1, Math.round(img.naturalWidth * k))
    canvas.height = Math.max(1, Math.round(img.naturalHeight * k))
    canvas.getContext('2d', { willReadFrequently: true }).drawImage(img, 0, 0, canvas.width, canvas.height)
    return canvas
  }

  Aspen.dropper = async (source, keep) => {
    const canvas = await drawn(source)
    const read = canvas.getContext('2d')
    const dialog = document.createElement('dialog')
    dialog.className = 'dropper'
    dialog.setAttribute('aria-label', 'Take a colour')
    const glass = document.createElement('canvas')
    glass.width = glass.height = span * zoom
    glass.className = 'glass'
    const text = document.createElement('output')
    const note = document.createElement('p')
    note.append('Click, or move with the arrow keys and press Enter. ', text)
    canvas.tabIndex = 0
    dialog.append(canvas, glass, note)
    document.body.append(dialog)
    dialog.showModal()
    canvas.focus()
    let at = [canvas.width >> 1, canvas.height >> 1]
    const hex = () => {
      const [r, g, b, a] = read.getImageData(at[0], at[1], 1, 1).data
      return a < 128
        ? null
        : '#' +
            [r, g, b]
              .map((v) => v.toString(16).padStart(2, '0'))
              .join('')
              .toUpperCase()
    }
    function look() {
      const g = glass.getContext('2d')
      g.imageSmoothingEnabled = false
      for (let y = 0; y < span * 2; y++)
        for (let x = 0; x < span * 2; x++) {
          // what one sees through stands on a checker
          g.fillStyle = (x + y) % 2 ? '#fff' : '#cfd3d0'
          g.fillRect((x * zoom) / 2, (y * zoom) / 2, zoom / 2, zoom / 2)
        }
      const half = span >> 1
      g.drawImage(canvas, at[0] - half, at[1] - half, span, span, 0, 0, glass.width, glass.height)
      g.strokeStyle = '#fff'
      g.lineWidth = 3
      g.strokeRect(half * zoom, half * zoom, zoom, zoom)
      g.strokeStyle = '#000'
      g.lineWidth = 1
      g.strokeRect(half * zoom, half * zoom, zoom, zoom)
      const r = canvas.getBoundingClientRect()
      const d = dialog.getBoundingClientRect()
      glass.style.left = r.left - d.left + (at[0] * r.width) / canvas.width + 14 + 'px'
      glass.style.top = r.top - d.top + (at[1] * r.height) / canvas.height + 14 + 'px'
      text.textContent = hex() || 'nothing here: the ground shows through'
    }
    function take() {
      const v = hex()
      if (!v) return
      dialog.close()
      keep(v)
    }
    canvas.addEventListener('mousemove', (e) => {
      const r = canvas.getBoundingClientRect()
      at = [
        Math.min(canvas.width - 1, Math.max(0, Math.floor(((e.clientX - r.left) * canvas.width) / r.width))),
        Math.min(canvas.height - 1, Math.max(0, Math.floor(((e.clientY - r.top) * canvas.height) / r.height))),
      ]
      look()
    })
    canvas.addEventListener('click', take)
    dialog.addEventListener('keydown', (e) => {
      const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key]
      if (step) {
        e.preventDefault()
        at = [
          Math.min(canvas.width - 1, Math.max(0, at[0] + step[0] * (e.shiftKey ? 10 : 1))),
          Math.min(canvas.height - 1, Math.max(0, at[1] + step[1] * (e.shiftKey ? 10 : 1))),
        ]
        look()
      }
      if (e.key === 'Enter') {
        e.preventDefault()
        take()
      }
    })
    dialog.addEventListener('close', () => dialog.remove())
    look()
  }
})()
