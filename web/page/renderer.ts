import { h, render } from 'preact'
import type { Drawing } from '../kinds/piece'
import { parts } from './blocks'
import type { Place, Surroundings } from './frames'
import type { Host } from './host'
import { formatOn, letters, type PageLook, placeOf } from './paint'
import type { PieceParts } from './parts'
import { DrawnPiece } from './piece'
import { dress, install, installWalk } from './shadow'

// Draws pieces on visitors' pages.

/**
 * Shows a piece on the page until the visitor is done with it. Gives false
 * where it has nowhere to stand, or the page it was for is gone. Where the page
 * may yet get the place it stands in, that is waited for.
 */
export async function show(host: Host, around?: Surroundings): Promise<boolean> {
  const { drawing } = host
  const format = formatOn(!!host.phone, drawing)
  await ready(drawing, host)
  if (!host.resumed && parts.extras?.isOver(drawing, host.since?.(true))) return false
  const { frames } = parts
  const inline = format === 'inline'
  const spot = inline
    ? await frames?.place(host, around, {
        letters: letters(drawing, host.base),
        draw(element, page) {
          const root = dress(element)
          const { id, base, language, words } = host
          const still: Host = { id, drawing, base, language, words, converted() {}, ended() {} }
          render(h(DrawnPiece, { host: still, drawing, still: drawing.scenes[0].id, phone: !!host.phone, page }), root)
          return () => render(null, root)
        },
      })
    : undefined
  if (around?.over() || (inline && !spot) || (format === 'bar' && !frames)) return false
  if (host.held) return true
  letters(drawing, host.base)
  const element = document.createElement('gobbet-piece')
  const root = dress(element)
  let page: PageLook | undefined
  let flows = false
  if (spot) {
    element.style.cssText = 'display:block'
    spot.put(element)
    page = frames!.lookOf(spot.around)
  } else if (format === 'bar') flows = frames!.stand(element, drawing, placeOf(format, drawing.frame.place))
  else document.body.append(element)
  let here = true
  const gone = () => {
    here = false
    render(null, root)
    element.remove()
  }
  // A page that swaps what the piece stands in gets its keyboard and its place back.
  const stay = () =>
    leaves(element, () => {
      if (!here || spot?.returns(back)) return
      gone()
      host.lost?.()
    })
  const back = (at: Place) => {
    if (!here) return
    at.put(element)
    stay()
  }
  stay()
  let open: (() => void) | undefined
  let failed = false
  const own: Host = {
    ...host,
    gone,
    failed(why) {
      failed = true
      host.failed?.(why)
      // Not before Preact has done with it.
      setTimeout(() => {
        gone()
        host.lost?.()
      })
    },
    opens: does => {
      open = does
    },
    flows,
    top: !flows && !inline,
  }
  try {
    render(h(DrawnPiece, { host: own, drawing, phone: !!host.phone, page }), root)
  } catch (e) {
    host.failed?.(e)
    here = false
    element.remove()
    throw e
  }
  if (failed) return false
  if (open) {
    await new Promise(done => setTimeout(done))
    if (here) open()
  }
  return here
}

const all: (keyof PieceParts)[] = ['extras', 'play', 'draw', 'chat', 'frames']

/** Fetches the parts of the script that a drawing needs beside this one; all, where an earlier Gobbet did not say. What does not come is left out. */
async function ready(drawing: Drawing, { load, resumed }: Host) {
  if (!load) return
  const needs = drawing.needs ?? all
  const get = <P extends keyof PieceParts>(part: P) => parts[part] ?? load(part).then(made => install(part, made))
  const walk = () => parts.walk ?? load('walk').then(installWalk)
  // What is more than a form is walked at once, and so is what is gone on with.
  const walks = resumed || needs.some(part => part !== 'extras' && part !== 'frames')
  await Promise.allSettled([...needs.map(get), ...(walks ? [walk()] : [])])
}

/** Calls back once an element is not in the page any more, without anyone of ours having removed it. */
function leaves(element: HTMLElement, then: () => void) {
  const watching = new MutationObserver(() => {
    if (element.isConnected) return
    watching.disconnect()
    then()
  })
  watching.observe(document.documentElement, { childList: true, subtree: true })
  watching.observe(document, { childList: true })
}
