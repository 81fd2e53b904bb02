import type { Stays } from '../../kinds/studio'
import { clock, outOfTen } from '../parts/words/say'

/** What a counted moment's value means here: those who come so far, by how far. */
export interface Curve {
  /** Share of page views that come at least so far, by step. */
  shares: number[]
  step: number
  /** The value as people say it. */
  says(value: number): string
}

export function curveOf(fact: string, stays?: Stays): Curve | null {
  if (!stays?.page_views) return null
  if (fact === 'moment.seconds_on_page') return { shares: tail(stays.stayed_for), step: 1, says: clock }
  if (fact === 'moment.idle_seconds') return { shares: tail(stays.idled_for), step: 1, says: clock }
  if (fact === 'moment.scroll_percent') return { shares: stays.scrolled_to, step: 10, says: v => `${v} %` }
  return null
}

/** The curve as far as anyone much goes. */
function tail(shares: number[]): number[] {
  const end = shares.findIndex((s, i) => i > 20 && s < 0.04)
  return shares.slice(0, end < 0 ? shares.length : end + 1)
}

/** The share that comes as far as a value. */
export const shareAt = (c: Curve, value: number) => c.shares[Math.min(c.shares.length, Math.ceil(value / c.step))] ?? 0

/** The value that half of the visitors reach. */
export const middle = (c: Curve) =>
  Math.max(
    0,
    c.shares.findLastIndex(s => s >= 0.5),
  ) * c.step

/** A few words beside the value. */
export function hint(fact: string, value: number, c: Curve): string {
  if (fact === 'moment.seconds_on_page') return `typical stay here: ${clock(middle(c))}`
  return `${outOfTen(shareAt(c, value))} ${fact === 'moment.scroll_percent' ? 'get there' : 'idle so long'}`
}
