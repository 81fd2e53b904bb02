// Cleans markup that is worked on and has not been at the server yet. It is the
// studio's: visitors get what the server cleaned, as elements.

const tags =
  'a b i u s em strong p br h1 h2 h3 h4 h5 h6 ul ol li blockquote hr img table thead tbody tr td th div span small sub sup code pre figure figcaption dl dt dd'.split(
    ' ',
  )
const attributes = 'href src alt title width height colspan rowspan target'.split(' ')
const looks = ['color', 'background-color', 'font-weight', 'font-style', 'text-align', 'text-decoration', 'padding', 'margin', 'border-radius']

/** Gives an element what of a style says how it looks, as the browser reads it: escapes and all. */
function look(e: Element, given: string | null) {
  if (!given) return
  const read = document.createElement('i').style
  read.cssText = given
  for (const name of looks) {
    const value = read.getPropertyValue(name)
    if (value && !/[(]/.test(value.replace(/\b(rgba?|hsla?)\(/g, ''))) (e as HTMLElement).style.setProperty(name, value)
  }
}

/** Markup without anything that runs. */
export function clean(html: string): Node[] {
  const body = new DOMParser().parseFromString(html, 'text/html').body
  const walk = (e: Element) => {
    for (const child of [...e.children]) {
      walk(child)
      if (!tags.includes(child.localName)) {
        child.remove()
        continue
      }
      const given = child.getAttribute('style')
      for (const { name, value } of [...child.attributes])
        if (!attributes.includes(name) || (/^(href|src)$/.test(name) && !/^(https?:|mailto:|tel:|\/|#)/i.test(value.trim())) || name === 'style')
          child.removeAttribute(name)
        else if (name === 'target') child.setAttribute(name, '_blank')
      look(child, given)
    }
  }
  walk(body)
  return [...body.childNodes].map(n => document.importNode(n, true))
}
