import type { Fault } from '../kinds/fault'
import type { Drawing } from '../kinds/piece'

// What the renderer asks of whoever has it draw: the loader on a visitor's
// page, or the studio.

/** How sending answers went. Without a title or faults the server was away. */
export interface Sent {
  ok: boolean
  title?: string
  faults?: Fault[]
}

/** How a piece went away: closed by the visitor, or done with. */
export type Ended = 'closed' | 'done'

export interface Host {
  /** The piece. */
  id: string
  drawing: Drawing
  /** Origin that pictures come from. */
  base: string
  /** Fetches the blocks that few pieces hold. */
  extras?(): Promise<typeof import('./extras')>
  /** A button that counts was pressed, other than one that sends. */
  converted(): void
  /** Sends a scene's answers; counts says that doing so is the conversion. */
  send(scene: string, answers: Record<string, string>, counts: boolean): Promise<Sent>
  /** The piece was closed or done with; its tab may stay. */
  ended(how: Ended, tab?: boolean): void
  /** The piece has left and can be taken away. */
  gone?(): void
  /** The visitor asked not to see it again. */
  never?(): void
  /** Opens another piece. */
  other?(piece: string): void
  /** When this visitor first saw the piece, in ms since 1970. */
  since?(): number
  /** The visitor's own code of a pool; null where none is left. */
  code?(pool: string): Promise<string | null>
  /** What a hidden field asks for: query.NAME, data.NAME or path. */
  found?(from: string): string
  /** A bar that stands in the flow of the page. */
  flows?: boolean
}
