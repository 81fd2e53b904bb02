import { create } from 'zustand'
import { turnedOff } from './singleKeys'

// What can be done in the studio is declared once: with its name, its keys and
// when it applies. Menus, toolbars, keys and the list of shortcuts draw from
// that.

export interface Action<T = void> {
  /** A verb, as menus and buttons show it. */
  name: string | ((on: T) => string)
  /** The name in the list of shortcuts, where it differs. */
  says?: string
  /** Such as Mod+D, Alt+ArrowUp, Delete or ?; Mod is Ctrl, or Command on a Mac. */
  keys?: string
  /** Whether it applies now; left out: always. */
  applies?(on: T): boolean
  run(on: T): void
}

/** Actions that belong together, under their heading. */
export interface ActionGroup<T = void> {
  name: string
  actions: readonly Action<T>[]
  /** Gestures and keys that are handled where they happen, listed with the others: keys, and what they do. */
  gestures?: readonly (readonly [string, string])[]
}

export const nameOf = <T>(a: Action<T>, on: T): string => (typeof a.name === 'string' ? a.name : a.name(on))

export const applies = <T>(a: Action<T>, on: T): boolean => a.applies?.(on) ?? true

const mac = /Mac|iPhone|iPad/.test(navigator.platform)
const shownAs: Record<string, string> = { Mod: mac ? '⌘' : 'Ctrl', Alt: mac ? '⌥' : 'Alt', ArrowUp: '↑', ArrowDown: '↓', ArrowLeft: '←', ArrowRight: '→' }

/** Keys as people read them: Ctrl D. */
export const shownKeys = (keys: string): string =>
  keys
    .split('+')
    .map(k => shownAs[k] ?? k)
    .join(' ')

/** Whether an event is the press of some keys. */
export function pressed(e: KeyboardEvent, keys: string): boolean {
  const parts = keys.split('+')
  const key = parts.pop()!
  const has = (m: string) => parts.includes(m)
  if (key === '?') return e.key === '?' && !e.ctrlKey && !e.metaKey && !e.altKey
  return e.key.toLowerCase() === key.toLowerCase() && (e.ctrlKey || e.metaKey) === has('Mod') && e.altKey === has('Alt') && e.shiftKey === has('Shift')
}

/** Runs the action that an event's keys are for, if one applies; says whether it did. */
export function runKeys<T>(e: KeyboardEvent, groups: readonly ActionGroup<T>[], on: T): boolean {
  if (turnedOff(e)) return false
  for (const g of groups)
    for (const a of g.actions)
      if (a.keys && pressed(e, a.keys) && applies(a, on)) {
        e.preventDefault()
        a.run(on)
        return true
      }
  return false
}

/** The groups of the screen in view, for the list of shortcuts. */
export const useShortcuts = create<{ groups: readonly ActionGroup<never>[]; open: boolean }>(() => ({ groups: [], open: false }))

export const openShortcuts = () => useShortcuts.setState({ open: true })

/** Whether keys are typed into something. */
export const typing = (e: Event) => e.composedPath().some(t => t instanceof HTMLElement && (t.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(t.tagName)))
