import { useEffect, useState } from 'react'
import type { Piece } from '../../kinds/piece'
import type { ReachDraft } from '../../kinds/studio'
import { useDraft } from '../piece/draft'
import { useRehearsal } from '../queries'
import { rooted } from './rules'

const soon = 120 // ms from the last change to asking

export const reachDraft = (id: string, doc: Piece): ReachDraft => ({
  piece: id,
  format: doc.format,
  place: doc.split.variants[0].design.frame.place,
  rule: rooted(doc.rule),
  caps: doc.caps,
  schedule: doc.schedule,
})

/** The rehearsal of the draft at hand, asked anew a moment after each change. */
export function useDraftRehearsal(days: number) {
  const key = useDraft(({ doc, id }) => (doc ? JSON.stringify(reachDraft(id, doc)) : ''))
  const [asked, setAsked] = useState(key)
  useEffect(() => {
    const timer = setTimeout(() => setAsked(key), soon)
    return () => clearTimeout(timer)
  }, [key])
  return useRehearsal(asked ? JSON.parse(asked) : null, days)
}

/** What there is to settle: in the document, and as its rehearsal has it. */
export function useChecks() {
  const notes = useDraft(s => s.notes)
  const rehearsed = useDraftRehearsal(28).data?.notes
  return rehearsed?.length ? [...notes, ...rehearsed] : notes
}
