// On a piece's own page: what comes after it, and what to do where it did not come.

const longest = 12_000 // ms until it is said that the piece did not come

const show = (id: string, shown = true) => {
  const element = document.getElementById(id)
  if (element) element.hidden = !shown
}
let came = false
const comes = () => {
  came = true
  show('late', false)
}
addEventListener('gobbet:shown', comes)
for (const end of ['closed', 'done'])
  addEventListener('gobbet:' + end, () => {
    comes()
    show('after')
    document.querySelector<HTMLElement>('#after a')?.focus()
  })
setTimeout(() => came || show('late'), longest)
