// Looks: keeping one leads to the Mat.
(() => {
  const { post, saved, notice } = Aspen
  const id = document.body.dataset.brief
  document.addEventListener('click', async (e) => {
    const card = e.target.closest('[data-look]')
    if (!card) return
    saved('saving')
    try {
      await post(`/briefs/${id}/sync`, { look: JSON.parse(card.dataset.look) })
      location.href = `/briefs/${id}/mat`
    } catch (err) { notice(err.message, { bad: true }) }
  })
  addEventListener('aspen:reverted', () => location.reload())
})()
