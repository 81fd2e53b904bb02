import { useEffect } from 'react'
import { create } from 'zustand'
import type { Note } from '../../kinds/settle'
import { useDraft } from '../bench/draft'
import { useSite } from '../queries'
import { useNotes } from '../reach/useDraftRehearsal'
import { lookOver } from './looks'
import { drawingOf, now, useView } from './view'

// What there is to settle, as the server says and as can only be seen where the
// design is drawn: what is really behind words, and what fits on a phone.

const useSeen = create<{ notes: Note[] }>(() => ({ notes: [] }))

/** Every note on the draft. */
export function useAllNotes(): Note[] {
  const told = useNotes()
  const seen = useSeen(s => s.notes)
  return [...told, ...seen]
}

const waits = 700 // ms after the last change

/** Looks the design in view over, a while after it was changed. */
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
