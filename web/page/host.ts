import type { Fault } from '../kinds/fault'
import type { Drawing, Scene } from '../kinds/piece'

// What the renderer asks of whoever has it draw: the watcher on a visitor's
// page, or the studio.

/** How sending answers went. Without a title or faults the server was away. */
export interface Sent {
  ok: boolean
  title?: string
  faults?: Fault[]
  /** The scenes that sending has opened. */
  scenes?: Scene[]
}

/** How a piece went away: closed by the visitor, or done with. */
export type Ended = 'closed' | 'done'

export interface Host {
  /** The piece. */
  id: string
  drawing: Drawing
  /** Origin that pictures come from. */
  base: string
  /** The device is a phone. */
  phone?: boolean
  /** Fetches the blocks that few pieces hold. */
  extras?(): Promise<typeof import('./extras')>
  /** A button that counts was pressed, other than one that sends. */
  converted(): void
  /** Sends a scene's answers; counts says that doing so is the conversion. */
  send(scene: string, answers: Record<string, string>, counts: boolean): Promise<Sent>
  /** The piece was closed or done with; its tab may stay. */
  ended(how: Ended, tab?: boolean): void
  /** A dialog is drawn. Opening it costs the page a look at all its elements, and is best done in a task of its own. */
  opens?(open: () => void): void
  /** The piece has left and can be taken away. */
  gone?(): void
  /** The page took the piece away, with what it stood in. */
  lost?(): void
  /** Fetches a scene that was withheld until now. */
  scene?(scene: string): Promise<Scene>
  /** The visitor asked not to see it again. */
  never?(): void
  /** Opens another piece. */
  other?(piece: string): void
  /** When this visitor first saw the piece, in ms since 1970. */
  since?(): number
  /** The visitor's own code of a pool that a scene gives; null where none is left. It throws where none could be fetched, with words if there are any. */
  code?(scene: string, pool: string): Promise<string | null>
  /** What a hidden field asks for: query.NAME, data.NAME or path. */
  found?(from: string): string
  /** On a visitor's page, over which it lies in the top layer. */
  top?: boolean
  /** A bar that stands in the flow of the page. */
  flows?: boolean
}
