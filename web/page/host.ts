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
  drawing: Drawing
  /** Origin that pictures come from. */
  base: string
  /** A button that counts was pressed, other than one that sends. */
  converted(): void
  /** Sends a scene's answers; counts says that doing so is the conversion. */
  send(scene: string, answers: Record<string, string>, counts: boolean): Promise<Sent>
  ended(how: Ended): void
}
