import type { Context } from './context'

// Links on the site to pieces' own pages open the piece where the visitor is. Fetched
// where a site has such pages.

const patience = 4000 // ms for which a link waits for the piece to open here

/** Has links open their pieces here, by bring, which gives whether the piece stands. */
export function openLinks(context: Context, bring: (piece: string) => Promise<boolean>) {
  addEventListener('click', e => {
    const pages = context.answer?.pages
    const link = e.target instanceof Element && e.target.closest<HTMLAnchorElement>('a[href],[data-gobbet-open]')
    if (!pages || !link || e.defaultPrevented || e.button || e.metaKey || e.ctrlKey || e.shiftKey || e.altKey || link.target) return
    const { href } = link
    const piece = link.dataset.gobbetOpen ?? (href.startsWith(pages) && href.slice(pages.length).split(/[?#]/)[0])
    if (!piece) return
    e.preventDefault()
    // The link leads there itself, and is followed where the piece cannot open here.
    const follow = () => href && location.assign(href)
    const late = new Promise<boolean>(done => setTimeout(done, patience, false))
    Promise.race([bring(piece), late]).then(stands => stands || follow(), follow)
  })
}
