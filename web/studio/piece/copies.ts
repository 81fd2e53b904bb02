import type { Piece } from '../../kinds/piece'

// What of a piece this browser keeps until the server has it. Each window keeps
// a copy of its own, so that none removes or overwrites another's; a copy whose
// window is gone goes to the window that opens the piece next.

/** Work on a piece that the server does not have. */
export interface Copy {
  key: string
  /** The version it was changed from. */
  version: number
  doc: Piece
  /** When it was kept, in milliseconds since 1970. */
  at: number
  /** What was sent from that version and not answered. */
  sent?: Piece
}

export interface Copies {
  /** Keeps what this window has; false: there is no room, or no storage. */
  keep(copy: Omit<Copy, 'key'>): boolean
  /** Removes what this window keeps. */
  forget(): void
  /** Removes what another window left. */
  remove(key: string): void
}

const prefix = 'gobbet-draft:'
const lockOf = (window: string) => 'gobbet-window:' + window
const patience = 1500 // ms that the window before a reload is given to end

const own = Math.random().toString(36).slice(2, 10)
let before = ''
try {
  before = sessionStorage.getItem(lockOf('')) ?? ''
  sessionStorage.setItem(lockOf(''), own)
} catch {
  // Without storage nothing is kept, and nothing was.
}
// Held as long as the window lives: that is how others know.
globalThis.navigator?.locks?.request(lockOf(own), () => new Promise(() => {})).catch(() => {})

/** The copies of one piece. */
export function copiesOf(site: number, id: string): Copies {
  const mine = `${prefix}${site}:${id}:${own}`
  return {
    keep(copy) {
      try {
        localStorage.setItem(mine, JSON.stringify(copy))
        return true
      } catch {
        return false
      }
    },
    forget: () => remove(mine),
    remove,
  }
}

function remove(key: string) {
  try {
    localStorage.removeItem(key)
  } catch {
    // Without storage there is nothing to remove.
  }
}

/** What windows that are gone left of a piece, the newest first. */
export async function leftCopies(site: number, id: string): Promise<Copy[]> {
  const found: Copy[] = []
  for (const key of keysOf(`${prefix}${site}:${id}`)) {
    const window = key.split(':')[3] ?? ''
    if (window === own || !(await isGone(window))) continue
    const copy = read(key)
    if (copy) found.push(copy)
  }
  return found.sort((a, b) => b.at - a.at)
}

function keysOf(start: string): string[] {
  try {
    return Object.keys(localStorage).filter(key => key === start || key.startsWith(start + ':'))
  } catch {
    return []
  }
}

function read(key: string): Copy | null {
  try {
    const copy = JSON.parse(localStorage.getItem(key) ?? 'null')
    return copy?.doc?.split?.variants && typeof copy.version === 'number' ? { ...copy, key } : null
  } catch {
    return null
  }
}

/** Whether a window is gone; the one that this one was reloaded from may take a moment. */
async function isGone(window: string): Promise<boolean> {
  const { locks } = navigator
  if (!window || !locks) return true
  const options: LockOptions = window === before ? { signal: AbortSignal.timeout(patience) } : { ifAvailable: true }
  try {
    return await locks.request(lockOf(window), options, lock => !!lock)
  } catch {
    return false
  }
}
