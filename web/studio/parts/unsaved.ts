import { useState } from 'react'

// What is changed and saved as a whole, such as the style kit: until it is
// saved it is kept in this browser, so that neither another screen nor a reload
// loses it. The version it was changed from goes along with it.

interface Held<T> {
  version: number
  value: T
}

export function useUnsaved<T>(what: string, saved: T, version: number) {
  const key = 'gobbet-unsaved:' + what
  const [held, setHeld] = useState<Held<T> | null>(() => read<T>(key))
  const hold = (next: Held<T> | null) => {
    try {
      if (next) localStorage.setItem(key, JSON.stringify(next))
      else localStorage.removeItem(key)
    } catch {
      // No room or no storage: it lives as long as this screen.
    }
    return next
  }
  const changed = !!held && JSON.stringify(held.value) !== JSON.stringify(saved)
  return {
    value: changed ? held.value : saved,
    changed,
    /** Another window saved since this was changed. */
    stale: changed && held.version !== version,
    /** The version to send along. */
    version: changed ? held.version : version,
    set: (next: T | ((before: T) => T)) =>
      setHeld(now => {
        const mine = now && JSON.stringify(now.value) !== JSON.stringify(saved) ? now : null
        const before = mine ? mine.value : saved
        return hold({ version: mine?.version ?? version, value: typeof next === 'function' ? (next as (before: T) => T)(before) : next })
      }),
    discard: () => setHeld(hold(null)),
    /** Goes on with what is here, over what the other window saved. */
    keepMine: () => setHeld(now => hold(now && { ...now, version })),
  }
}

function read<T>(key: string): Held<T> | null {
  try {
    const held = JSON.parse(localStorage.getItem(key) ?? 'null')
    return typeof held?.version === 'number' && held.value !== undefined ? held : null
  } catch {
    return null
  }
}
