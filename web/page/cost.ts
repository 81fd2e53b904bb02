import type { CostSeen } from '../kinds/visitor'

// Fetched on a sample of page views, to tell what the script costs them: what it
// fetched, for how long it held the page, how much the layout shifted, and when
// the largest paint was. A browser that cannot tell one of them says 0.

interface Shift extends PerformanceEntry {
  value: number
  hadRecentInput: boolean
}
interface LongFrame extends PerformanceEntry {
  scripts: { sourceURL: string; duration: number }[]
}

/** Begins to measure, and gives what can be asked for how it stands. */
export function measure(base: string): () => CostSeen {
  let busy = 0
  let shift = 0
  let paint = 0
  const on = <E extends PerformanceEntry>(type: string, each: (e: E) => void) => {
    try {
      new PerformanceObserver(list => (list.getEntries() as E[]).forEach(each)).observe({ type, buffered: true })
    } catch {}
  }
  on<LongFrame>('long-animation-frame', e => {
    for (const s of e.scripts) if (s.sourceURL.startsWith(base)) busy += s.duration
  })
  on<Shift>('layout-shift', e => {
    if (!e.hadRecentInput) shift += e.value
  })
  on('largest-contentful-paint', e => {
    paint = e.startTime
  })
  return () => {
    const fetched = performance.getEntriesByType('resource') as PerformanceResourceTiming[]
    const bytes = fetched.filter(r => r.name.startsWith(base)).reduce((n, r) => n + (r.encodedBodySize || 0), 0)
    return { bytes, busy: Math.round(busy), shift: Math.round(shift * 1e4) / 1e4, paint: Math.round(paint) }
  }
}
