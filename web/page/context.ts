import type { DecideAnswer, DecideRequest } from '../kinds/visitor'
import type { id, keep, Memory, openMemory, seconds } from './memory'
import type { openOutbox } from './outbox'

// What the page view shares with the scripts it fetches.

/** What the site tells of itself: gobbet.push({ … }). */
export interface Told {
  /** Kind of page, such as product. */
  kind?: string
  /** Texts, numbers and flags by name; null takes one back. */
  data?: Record<string, string | number | boolean>
  /** Tags of the visitor, remembered by their browser. */
  tags?: string[]
  /** Something happened that a rule may wait for, or that reaches a goal. */
  event?: string
  /** What the event was worth, in the site's currency. */
  value?: number
  /** A piece to show now, if this visitor may see it at all. */
  show?: string
}

export interface Context {
  /** Gobbet's origin, and the site's part of its API. */
  base: string
  api: string
  site: string
  memory: ReturnType<typeof openMemory>
  /** What is the memory's own, for the scripts that come after it. */
  id: typeof id
  keep: typeof keep
  seconds: typeof seconds
  /** Nothing is counted or recorded. */
  unwatched: boolean
  /** Answers are not sent either: someone is inspecting. */
  silent: boolean
  /** Memory as the page view began with it. */
  arrival: Memory
  /** What was last asked and answered. */
  request: DecideRequest
  answer?: DecideAnswer
  /** By how many ms the server's clock is ahead of this browser's, where that goes wrong. */
  skew?: number
  /** The site's own events so far, and what each was worth. */
  events: { name: string; value?: number }[]
  /** The page is a piece's own, and whether the visitor asked to begin anew there. */
  own?: boolean
  anew?: boolean
  /** When the page view began, in ms of the page's clock. */
  began: number
  /** When pieces were shown, by the same clock. */
  shown?: Map<string, number>
  /** Sends events, once the watcher is there. */
  outbox?: ReturnType<typeof openOutbox>
  /** That of the inspector's link. */
  token?: string
  /** Called after each answer. */
  look(): void
}
