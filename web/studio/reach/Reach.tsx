import Box from '@mui/material/Box'
import CircularProgress from '@mui/material/CircularProgress'
import Typography from '@mui/material/Typography'
import { useDeferredValue, useEffect, useMemo, useState } from 'react'
import type { Rehearsal } from '../../kinds/studio'
import { Sheet } from '../parts/Sheet'
import { TwoColumns } from '../parts/TwoColumns'
import { change, useDraft } from '../piece/draft'
import { historyKeys, UndoButtons } from '../piece/UndoButtons'
import { useFacts, useReaches } from '../queries'
import { ink, paper } from '../theme'
import { type Builder, BuilderContext } from './builder'
import { CapsLines } from './CapsLines'
import { Outcome } from './Outcome'
import { QuickStarts } from './QuickStarts'
import { RuleGroup } from './RuleGroup'
import { rooted } from './rules'
import { ScheduleLines } from './ScheduleLines'
import { TryVisitor } from './TryVisitor'
import { WordSelect } from './tokens'
import { useDraftRehearsal } from './useDraftRehearsal'

/** Undo is of the draft, but where something else is typed. */
function keys(e: KeyboardEvent) {
  if (!(e.target instanceof Element) || !e.target.closest('[data-free], [role=dialog]')) historyKeys(e)
}

/** When a piece may show: its rule as a sentence with what each line lets through, its caps and hours, and a visitor to try them on. */
export function Reach() {
  const { doc, id, phrase, faults, standing } = useDraft()
  const book = useFacts().data
  const reaches = useReaches().data
  const [days, setDays] = useState(28)
  const [dragged, drag] = useState<string | null>(null)
  const rehearsal = useDraftRehearsal(days)
  const counts = useMemo(() => new Map(rehearsal.data?.lines.map(l => [l.at, l])), [rehearsal.data])
  const unrecorded = useMemo(() => new Set(rehearsal.data?.unrecorded), [rehearsal.data])
  const ruleFaults = useMemo(() => faults.flatMap(f => (/^rule\b/.test(f.at) ? [{ ...f, at: f.at.replace(/^rule\.?/, '') }] : [])), [faults])
  const tried = useDeferredValue(doc)
  useEffect(() => {
    document.addEventListener('keydown', keys)
    return () => document.removeEventListener('keydown', keys)
  }, [])
  if (!doc || !book || !reaches || !tried) return null
  const rule = rooted(doc.rule)
  const builder: Builder = {
    rule,
    book,
    faults: ruleFaults,
    reaches,
    counts,
    total: rehearsal.data?.page_views ?? 0,
    unrecorded,
    unseen: new Set(rehearsal.data?.unseen),
    stays: rehearsal.data?.stays,
    dragged,
    drag,
    change: (next, belongsTo = '') => change(d => void (d.rule = next), belongsTo),
  }
  return (
    <TwoColumns>
      <Sheet sx={{ p: '16px 20px 16px' }}>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: '14px' }}>
          <Typography variant="h2">Show it when</Typography>
          <QuickStarts
            onPick={start =>
              change(d => {
                d.rule = structuredClone(start.rule)
                if (start.caps) d.caps = structuredClone(start.caps)
              })
            }
          />
          <UndoButtons />
          <Box sx={{ display: 'flex', alignItems: 'center', gap: '6px', width: 205, color: ink[2], fontSize: 12.5 }}>
            page views left, last
            <WordSelect
              plain
              size={12.5}
              label="How far back"
              value={String(days)}
              options={[
                ['7', '7 days'],
                ['28', '28 days'],
                ['90', '90 days'],
              ]}
              onChange={d => setDays(Number(d))}
            />
            {rehearsal.isFetching && <CircularProgress size={12} aria-label="Rehearsing" />}
          </Box>
        </Box>
        <BuilderContext value={builder}>
          <RuleGroup group={rule} at="" so={builder.total} />
        </BuilderContext>
        <Box sx={{ borderTop: `1px solid ${paper.line}`, mt: '12px', pt: '10px' }}>
          <Typography variant="h3" component="h2">
            But no more than
          </Typography>
          <CapsLines caps={doc.caps} faults={faults} onChange={how => change(d => how(d.caps), 'caps')} />
        </Box>
        <Box sx={{ borderTop: `1px solid ${paper.line}`, mt: '10px', pt: '10px' }}>
          <Typography variant="h3" component="h2">
            And only
          </Typography>
          <ScheduleLines
            schedule={doc.schedule ?? {}}
            faults={faults}
            onChange={next => change(d => void (d.schedule = Object.keys(next).length ? next : undefined), 'schedule')}
          />
        </Box>
        <Box sx={{ borderTop: `1px solid ${paper.line}`, mt: '10px', pt: '10px', color: 'text.secondary' }} aria-live="polite">
          {standing === 'faulty' ? 'Mend what is marked, and the rule is kept.' : `In words: show it when ${phrase}.`}
        </Box>
        <Outcome rehearsal={rehearsal.data as Rehearsal | undefined} error={rehearsal.error} format={doc.format} />
      </Sheet>
      <TryVisitor doc={tried} piece={id} book={book} />
    </TwoColumns>
  )
}
