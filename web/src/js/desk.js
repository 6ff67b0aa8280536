// The Desk: finding things as one types, and bringing a kit in from a file.
(() => {
  const { upload } = Aspen
  const find = document.querySelector('[data-find]')
  const cards = [...document.querySelectorAll('[data-findable]')]
  const nothing = document.querySelector('[data-nothing]')
  find?.addEventListener('input', () => {
    const words = find.value.toLowerCase().split(/\s+/).filter(Boolean)
    let shown = 0
    for (const c of cards) {
      c.hidden = !words.every((w) => c.textContent.toLowerCase().includes(w))
      if (!c.hidden) shown++
    }
    nothing.hidden = shown > 0
  })
  find?.addEventListener('keydown', (e) => {
    if (e.key === 'Escape') { find.value = ''; find.dispatchEvent(new Event('input')); find.blur() }
    if (e.key === 'Enter') cards.find((c) => !c.hidden)?.querySelector('a')?.click()
  })
  addEventListener('keydown', (e) => {
    if (e.key === '/' && !e.target.matches('input, textarea') && find) { e.preventDefault(); find.focus() }
  })
  async function bring(file) {
    const d = await upload('/kits/import', file)
    if (d) location.href = '/kits/' + d.kit
  }
  document.querySelector('[data-import]').addEventListener('change', (e) => { if (e.target.files[0]) bring(e.target.files[0]); e.target.value = '' })
  Aspen.files((_, f) => bring(f))
})()
