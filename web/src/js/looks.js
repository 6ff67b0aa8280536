// Looks: what was undone or redone shows at once.
addEventListener('aspen:reverted', () => location.reload())
