// Before the first paint, so that a dark room never flashes white.
;(() => {
  const kept = localStorage.getItem('kq-theme')
  const dark = kept ? kept === 'dark' : matchMedia('(prefers-color-scheme: dark)').matches
  document.documentElement.dataset.theme = dark ? 'dark' : 'light'
})()
