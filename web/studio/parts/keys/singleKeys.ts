import { create } from 'zustand'

// Keys alone, without Ctrl or Alt, do things: who dictates, or presses them by
// chance, may turn that off (WCAG 2.2, 2.1.4).

const key = 'gobbet-single-keys'

function read(): boolean {
  try {
    return localStorage.getItem(key) !== 'off'
  } catch {
    return true
  }
}

export const useSingleKeys = create<{ on: boolean }>(() => ({ on: read() }))

export function setSingleKeys(on: boolean) {
  useSingleKeys.setState({ on })
  try {
    localStorage.setItem(key, on ? 'on' : 'off')
  } catch {
    // It holds as long as this window.
  }
}

/** Whether an event is a single key that is turned off: a letter, a sign, or Delete. */
export const turnedOff = (e: KeyboardEvent) =>
  !useSingleKeys.getState().on && !e.ctrlKey && !e.metaKey && !e.altKey && (e.key.length === 1 || e.key === 'Delete' || e.key === 'Backspace')
