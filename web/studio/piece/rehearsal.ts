import { useEffect, useState } from 'react'
import type { Piece } from '../../kinds/piece'
import type { ReachDraft } from '../../kinds/studio'
import { rooted } from '../rule/rules'
import { useRehearsal } from '../server/queries'
import { useDraft } from './draft'
import { sitsAs } from './drawing'

const soon = 120 // ms from the last change to asking

/** The reach of a piece as one of its variants has it. */
export const reachDraft = (id: string, doc: Piece, variant = 0, { tab } = doc.split.variants[variant].design.frame): ReachDraft => ({
  piece: id,
  format: sitsAs(doc, doc.split.variants[variant].design).format,
  place: doc.split.variants[variant].design.frame.place,
  folded: !!tab?.words && !tab.after,
  rule: rooted(doc.rule),
  moments: doc.split.variants[variant].moments,
  caps: doc.caps,
  schedule: doc.schedule,
})

/** The rehearsal of the draft at hand, asked anew a moment after each change. */
export function useDraftRehearsal(days: number, variant = 0) {
  const key = useDraft(({ doc, id }) => (doc ? JSON.stringify(reachDraft(id, doc, variant)) : ''))
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
