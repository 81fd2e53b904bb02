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

/** Checks the design in view, or those of all variants, a moment after it was changed. */
export function useLooking(all = false) {
  const doc = useDraft(s => s.doc)
  const variant = useView(s => s.variant)
  const { kit } = useSite()
  useEffect(() => {
    if (!doc) return
    let over = false
    const timer = setTimeout(async () => {
      const { v } = now()
      const notes: Note[] = []
      for (const [i, { design }] of doc.split.variants.entries())
        if (all || i === v) notes.push(...(await lookOver(drawingOf(doc, design, kit), `split.variants[${i}].design`, () => over)))
      if (!over) useSeen.setState({ notes })
    }, waits)
    return () => {
      over = true
      clearTimeout(timer)
    }
  }, [doc, variant, kit, all])
  useEffect(() => () => useSeen.setState({ notes: [] }), [])
}
