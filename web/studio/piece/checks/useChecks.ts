import { useEffect } from 'react'
import { create } from 'zustand'
import type { Design, Piece } from '../../../kinds/piece'
import type { Note } from '../../../kinds/settle'
import type { Kit } from '../../../kinds/style'
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

/** Checks the designs of the draft a moment after it was changed, as long as its head is on the screen. */
export function useLooking() {
  const doc = useDraft(s => s.doc)
  const { kit } = useSite()
  useEffect(() => {
    if (!doc) return
    let over = false
    const timer = setTimeout(async () => {
      const notes: Note[] = []
      for (const i of doc.split.variants.keys()) notes.push(...(await notesOf(doc, i, kit, () => over)))
      if (!over) useSeen.setState({ notes, of: doc })
    }, waits)
    return () => {
      over = true
      clearTimeout(timer)
    }
  }, [doc, kit])
  useEffect(() => () => useSeen.setState(nothing), [])
}

/** What was found in a design, drawn in a kit and as a format; its places are those within the design. */
interface Found {
  kit: Kit
  as: string
  notes: Note[]
}

// A change of one variant, or of the reach, leaves the others as they were.
const found = new WeakMap<Design, Found>()

async function notesOf(doc: Piece, i: number, kit: Kit, overtaken: () => boolean): Promise<Note[]> {
  const { design } = doc.split.variants[i]
  const drawing = drawingOf(doc, design, kit)
  const as = `${drawing.format} ${drawing.phone_format}`
  let known = found.get(design)
  if (!known || known.kit !== kit || known.as !== as) {
    known = { kit, as, notes: await lookOver(drawing, overtaken) }
    if (overtaken()) return []
    found.set(design, known)
  }
  return known.notes.map(n => ({ ...n, at: `split.variants[${i}].design.${n.at}` }))
}
