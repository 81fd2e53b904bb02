import type { Told } from '../package/index'

// The one line on the site loads this. It is small, for the page's load waits
// for it, and does nothing of its own: what the page tells is kept in a list, and
// all else is fetched when the page is there.

declare global {
  interface Window {
    gobbet?: Told[] | { push: (told: Told) => void; event: (name: string) => void }
  }
}

const longestLoad = 3000 // ms

// The server puts the address in that the script is kept under for good.
const visit = '/v1/visit.js'

/** The page comes first: nothing is read, asked or fetched before it has loaded and been painted, or has had time enough to. */
function afterLoad(does: () => void) {
  let done = false
  const once = () => {
    if (!done) does()
    done = true
  }
  // The browser tells of the page's first paint once it is on the screen; one
  // that cannot has the longest load go by.
  const painted = () => {
    try {
      new PerformanceObserver(() => setTimeout(once)).observe({ type: 'paint', buffered: true })
    } catch {}
  }
  if (document.readyState === 'complete') painted()
  else addEventListener('load', painted)
  // A page in the background is not painted.
  setTimeout(once, longestLoad)
}

try {
  const script = document.currentScript as HTMLScriptElement | null
  const site = script?.dataset.site
  // Whatever else a page calls by our name is left alone.
  if (script && site && (!window.gobbet || Array.isArray(window.gobbet))) {
    window.gobbet ||= []
    const came = performance.now()
    const base = new URL(script.src).origin
    const fetchVisit = (): Promise<typeof import('./visit')> => import(/* @vite-ignore */ base + visit)
    afterLoad(() =>
      fetchVisit()
        .then(({ start }) => start(base, site, came, script.dataset.own))
        .catch(() => {}),
    )
  }
} catch {}
