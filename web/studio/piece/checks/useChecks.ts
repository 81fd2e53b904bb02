import { useEffect } from 'react'
import { create } from 'zustand'
import type { Piece } from '../../../kinds/piece'
import type { Note } from '../../../kinds/settle'
import { useSite } from '../../server/queries'
import { useDraft } from '../draft'
import { drawingOf } from '../drawing'
import { useChecks } from '../rehearsal'
import { lookOver } from './drawn'

// The checks of the draft: those the server makes, and those that need the
// design drawn, such as what is behind a text and what fits on a phone.

const nothing: { notes: Note[]; of: Piece | null } = { notes: [], of: null }
const useSeen = create(() => nothing)

/** All checks of the draft. */
export function useAllChecks(): Note[] {
  const told = useChecks()
  const seen = useSeen(s => s.notes)
  return [...told, ...seen]
}

/** Whether the checks that need a drawing have been made of the draft as it is. */
export function useLooked(): boolean {
  const doc = useDraft(s => s.doc)
  return useSeen(s => s.of) === doc
}

const waits = 700 // ms after the last change

/** Checks the design of one variant, or of all, a moment after it was changed. */
export function useLooking(only?: number) {
  const doc = useDraft(s => s.doc)
  const { kit } = useSite()
  useEffect(() => {
    if (!doc) return
    let over = false
    const timer = setTimeout(async () => {
      const notes: Note[] = []
      for (const [i, { design }] of doc.split.variants.entries())
        if (only === undefined || i === only) notes.push(...(await lookOver(drawingOf(doc, design, kit), `split.variants[${i}].design`, () => over)))
      if (!over) useSeen.setState({ notes, of: doc })
    }, waits)
    return () => {
      over = true
      clearTimeout(timer)
    }
  }, [doc, only, kit])
  useEffect(() => () => useSeen.setState(nothing), [])
}
