// What this browser keeps of work until the server has it. Each window keeps
// copies of its own, so that none removes or overwrites another's; a copy whose
// window is gone goes to the window that opens the same thing next.

/** Work that the server does not have. */
export interface Copy<T> {
  key: string
  /** The version it was changed from. */
  version: number | string
  doc: T
  /** When it was kept, in milliseconds since 1970. */
  at: number
  /** What was sent from that version and not answered. */
  sent?: T
}

export interface Copies<T> {
  /** Keeps what this window has; false: there is no room, or no storage. */
  keep(copy: Omit<Copy<T>, 'key'>): boolean
  /** Removes what this window keeps. */
  forget(): void
  /** Removes what another window left. */
  remove(key: string): void
}

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

/** The copies of one thing; its name is unique among all that is kept, such as draft:1:ab12. */
export function copiesOf<T>(name: string): Copies<T> {
  const mine = `gobbet-${name}:${own}`
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

/** What windows that are gone left of something, the newest first; isOne tells whether it can be used. */
export async function leftCopies<T>(name: string, isOne: (doc: T) => boolean): Promise<Copy<T>[]> {
  const found: Copy<T>[] = []
  const start = `gobbet-${name}`
  for (const key of keysOf(start)) {
    const window = key.slice(start.length + 1)
    if (window === own || !(await isGone(window))) continue
    const copy = read(key, isOne)
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

function read<T>(key: string, isOne: (doc: T) => boolean): Copy<T> | null {
  try {
    const copy = JSON.parse(localStorage.getItem(key) ?? 'null')
    return copy?.version !== undefined && copy.doc && isOne(copy.doc) ? { at: 0, ...copy, key } : null
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
