import type { Shown } from './shown'

// A click that would leave the page, or do something on it, does so before the
// piece it opens can show. It is held, and followed once the piece is closed, or at
// once where that cannot show. The first click alone: the next finds no piece that
// waits. The page hears of it once, when it is followed. Fetched where a piece waits
// for a click.

const patience = 4000 // ms for which a click waits for the piece it opens

export function holding() {
  let following = false
  return {
    /** A click that was held is on its way, and nobody's moment. */
    following: () => following,
    /** Holds a click while the piece that it brings comes, and until it has gone. */
    hold(e: MouseEvent, coming: Promise<boolean>, shown: Shown) {
      const target = heldOf(e, !!shown.p.overlay)
      if (!target) return
      e.preventDefault()
      e.stopImmediatePropagation()
      const follow = () => {
        following = true
        if (target.isConnected) target.click()
        else if (target instanceof HTMLAnchorElement) location.assign(target.href)
        following = false
      }
      const late = new Promise<false>(no => setTimeout(no, patience, false))
      Promise.race([coming, late]).then(async stands => {
        if (!stands || (await shown.end) !== 'lost') follow()
      }, follow)
    },
  }
}

/** What a click would do on its own, if it is to wait for a piece: a link that leads away in this window, a button that sends a form, and, for a piece that covers the page, any other button. */
function heldOf(e: MouseEvent, covers: boolean): HTMLElement | undefined {
  if (!(e.target instanceof Element) || e.defaultPrevented || e.button || e.metaKey || e.ctrlKey || e.shiftKey || e.altKey) return
  const target = e.target.closest<HTMLElement>('a[href], button, input[type=submit], input[type=image], input[type=button], [role=button]')
  if (!(target instanceof HTMLAnchorElement)) {
    const sends = target instanceof HTMLButtonElement || target instanceof HTMLInputElement ? target.form && /^(submit|image)$/.test(target.type) : false
    return target && (covers || sends) ? target : undefined
  }
  if (!/^https?:$/.test(target.protocol) || target.download || (target.target && target.target !== '_self')) return
  // Within the page; but a hash may be the address of another view of it.
  if (/^#[^!/]/.test(target.hash) && target.href.split('#')[0] === location.href.split('#')[0]) return
  return target
}
