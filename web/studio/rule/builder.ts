import { createContext, useContext } from 'react'
import type { Fault } from '../../kinds/fault'
import type { FactBook, RehearsedLine, SavedReach, Stays } from '../../kinds/studio'
import type { Rule } from './kinds'

/** What every line of the builder shares. Places are from the rule's root. */
export interface Builder {
  rule: Rule
  book: FactBook
  faults: Fault[]
  reaches: SavedReach[]
  /** Counts by place, once rehearsed; total is all page views. */
  counts: Map<string, RehearsedLine>
  total: number
  unrecorded: Set<string>
  /** Places of happenings that were never recorded. */
  unseen: Set<string>
  stays?: Stays
  /** Said where there is no condition, if not the usual. */
  empty?: string
  /** Replaces the whole rule; belongsTo gathers a run of changes into one step of undo. */
  change(rule: Rule, belongsTo?: string): void
}

export const BuilderContext = createContext<Builder | null>(null)

export function useBuilder(): Builder {
  const b = useContext(BuilderContext)
  if (!b) throw new Error('outside a builder')
  return b
}

// What was copied, for pasting into other pieces and windows.
const clip = 'gobbet-copied-rule'

export function copyRule(rule: Rule) {
  const text = JSON.stringify(rule)
  localStorage.setItem(clip, text)
  navigator.clipboard?.writeText(text).catch(() => {})
}

export const copiedRule = () => localStorage.getItem(clip)
