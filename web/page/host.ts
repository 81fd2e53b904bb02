import type { Fault } from '../kinds/fault'
import type { Drawing } from '../kinds/piece'
import type { AdvanceAnswer } from '../kinds/visitor'
import type { Parts, PieceParts } from './parts'
import type { Step } from './walkState'
import type { Words } from './words'

// What the renderer asks of whoever has it draw: the watcher on a visitor's
// page, or the studio.

/** How going on went. Without a title or faults the server was away. */
export interface Went {
  ok: boolean
  title?: string
  faults?: Fault[]
  answer?: AdvanceAnswer
}

/** What a server answered that the visitor was not told, and the scene that they were on. */
export interface Told {
  answer: AdvanceAnswer
  scene: string
}

/** How a piece went away: closed by the visitor, or done with. */
export type Ended = 'closed' | 'done'

export interface Host {
  /** The piece. */
  id: string
  drawing: Drawing
  /** Origin that pictures come from. */
  base: string
  /** The visitor closed it before: only its tab shows. */
  folded?: boolean
  /** Whether the visitor has just asked for it. */
  asked?(): boolean
  /** It waits until it can come without moving the page; now has it come at once. Without that it waits no more. */
  waits?(now?: () => void): void
  /** The visitor is held back: it is only found out whether it could be drawn. */
  held?: boolean
  /** Cleans markup, where a draft is drawn. */
  clean?(html: string): Node[]
  /** The language that it is worded in, and its words where those are not the script's own. */
  language?: string
  words?: Words
  /** The device is a phone. */
  phone?: boolean
  /** Fetches a part of the script that only some pieces need, or the one that takes walks on. */
  load?<P extends keyof PieceParts | 'walk'>(part: P): Promise<Parts[P]>
  /** A button that counts was pressed; counted says that the server knows. */
  converted(counted?: boolean): void
  /** Goes on with the walk by these steps, of which the first is the walk's step `from`. Without it the page goes by what it has. */
  advance?(steps: Step[], from: number): Promise<Went>
  /** Whether steps that are not sent yet outlive the page. */
  lasts?(): boolean
  /** Where an earlier page left the walk, and what it was not told any more of the scene that it was on. */
  resumed?: { answer: AdvanceAnswer; told?: Told }
  /** Its tab was pressed. */
  opened?(): void
  /** The piece was closed or done with; its tab may stay. */
  ended(how: Ended, tab?: boolean): void
  /** A dialog is drawn. Opening it costs the page a look at all its elements, and is best done in a task of its own. */
  opens?(open: () => void): void
  /** The piece has left and can be taken away. */
  gone?(): void
  /** It could not be drawn. */
  failed?(why: unknown): void
  /** The page took the piece away, with what it stood in. */
  lost?(): void
  /** The visitor asked not to see it again. */
  never?(): void
  /** Opens another piece. */
  other?(piece: string): void
  /** When this visitor first saw the piece, in ms since 1970: now, if they never did; kept asks for that alone, and is given nothing then. */
  since?(kept?: boolean): number | undefined
  /** The visitor's own code of a pool that a scene gives, or of what they drew; null where none is left. It is refused where none could be fetched: with our words, or with whatever a browser says. */
  code?(scene: string, pool?: string, draw?: string): Promise<string | null>
  /** What the page told of itself, which hidden fields may ask for. */
  data?: Record<string, unknown>
  /** On a visitor's page, over which it lies in the top layer. */
  top?: boolean
  /** A bar that stands in the flow of the page. */
  flows?: boolean
}
