import type { Asked } from '../kinds/asked'
import type { DecideAnswer, DecideRequest } from '../kinds/visitor'
import type { id, keep, Memory, openMemory, seconds } from './memory'
import type { Parts } from './parts'
import type { openSending } from './sending'

// What the page view shares with the scripts it fetches.

/** What a visit's scripts share: of the browser, of the site, and of the page view that is under way. */
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
  /** Fetches a part of the script, as the last answer has it. */
  load<P extends keyof Parts>(part: P): Promise<Parts[P]>
  /** Asks the server, or tells it something; until says when nobody waits for it any more. What has no such end is sent on when the page is left. */
  post<P extends keyof Asked>(path: P, body: Asked[P]['body'], until?: AbortSignal): Promise<Response>
  /** Nothing is counted or recorded. */
  unwatched: boolean
  /** Answers are not sent either: someone is inspecting, by the token of the inspector's link. */
  silent: boolean
  token?: string
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
  /** Pieces that wait until they can come without moving the page. */
  roomless?: Set<string>
  /** What sends events and steps; fetched when there is something to send. */
  sending(): Promise<ReturnType<typeof openSending>>
  /** Called after each answer. */
  look(): void
}
