/** How high a piece will be as it comes, at a width, both in px: found out where nobody sees it. Draws draws it there, and gives how to take it away. */
export function heightOf(width: number, draws: (element: HTMLElement) => () => void): number {
  const element = document.createElement('gobbet-piece')
  element.style.cssText = `position:absolute;visibility:hidden;width:${width}px;--at-w:100%`
  document.body.append(element)
  const erase = draws(element)
  const { height } = element.shadowRoot!.querySelector('.layer')!.getBoundingClientRect()
  erase()
  element.remove()
  return Math.ceil(height)
}
