// Chooses light or dark before anything is painted.
;(() => {
  let theme = null
  try {
    theme = localStorage.getItem('aspenridge-theme')
  } catch {
    /* storage is off: follow the system */
  }
  if (!theme) theme = matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light'
  document.documentElement.dataset.theme = theme
})()
