import { useEffect } from 'react'
import { create } from 'zustand'
import type { Note } from '../../../kinds/settle'
import { useDraft } from '../../piece/draft'
import { drawingOf } from '../../piece/drawing'
import { useSite } from '../../queries'
import { useChecks } from '../../reach/useDraftRehearsal'
import { now, useView } from '../view'
import { lookOver } from './drawn'

// The checks of the draft: those the server makes, and those that need the
// design drawn, such as what is behind a text and what fits on a phone.

const useSeen = create<{ notes: Note[] }>(() => ({ notes: [] }))

/** All checks of the draft. */
export function useAllChecks(): Note[] {
  const told = useChecks()
  const seen = useSeen(s => s.notes)
  return [...told, ...seen]
}

const waits = 700 // ms after the last change

/** Checks the design in view, a moment after it was changed. */
export function useLooking() {
  const doc = useDraft(s => s.doc)
  const variant = useView(s => s.variant)
  const { kit } = useSite()
  useEffect(() => {
    if (!doc) return
    let over = false
    const timer = setTimeout(async () => {
      const { design, at } = now()
      const notes = await lookOver(drawingOf(doc, design, kit), at, () => over)
      if (!over) useSeen.setState({ notes })
    }, waits)
    return () => {
      over = true
      clearTimeout(timer)
    }
  }, [doc, variant, kit])
  useEffect(() => () => useSeen.setState({ notes: [] }), [])
}
