import Box from '@mui/material/Box'
import CircularProgress from '@mui/material/CircularProgress'
import Typography from '@mui/material/Typography'
import { useDeferredValue, useEffect, useMemo, useState } from 'react'
import type { Rehearsal } from '../../kinds/studio'
import { LoadError } from '../parts/look/Loaded'
import { Loading } from '../parts/look/Loading'
import { Sheet } from '../parts/look/Sheet'
import { TextButton } from '../parts/look/TextButton'
import { TwoColumns } from '../parts/look/TwoColumns'
import { ink, paper } from '../parts/look/theme'
import { letters } from '../parts/words/say'
import { change, useDraft } from '../piece/draft'
import { reachDraft, useDraftRehearsal } from '../piece/rehearsal'
import { historyKeys, UndoButtons } from '../piece/UndoButtons'
import { type Builder, BuilderContext } from '../rule/builder'
import { RuleBuilder } from '../rule/RuleBuilder'
import { partsOf, rooted } from '../rule/rules'
import { NameReach } from '../rule/SavedReaches'
import { WordSelect } from '../rule/tokens'
import { useFacts, useReaches } from '../server/queries'
import { CapsLines } from './CapsLines'
import { Outcome, OutcomeNotes } from './Outcome'
import { QuickStarts } from './QuickStarts'
import { usualCaps } from './quickStarts'
import { ScheduleLines } from './ScheduleLines'
import { TryVisitor } from './TryVisitor'

/** Undo is of the draft, but where something else is typed. */
function keys(e: KeyboardEvent) {
  if (!(e.target instanceof Element) || !e.target.closest('[data-free], [role=dialog]')) historyKeys(e)
}

/** When a piece may show: its rule as a sentence with what each line lets through, its caps and hours, and a visitor to try them on. */
export function Reach() {
  const { doc, id, phrase, faults, standing } = useDraft()
  const facts = useFacts()
  const book = facts.data
  const saved = useReaches()
  const reaches = saved.data
  const [days, setDays] = useState(28)
  const [naming, setNaming] = useState(false)
  const [chosen, setChosen] = useState(0)
  const variants = doc?.split.variants ?? []
  const own = variants.length > 1 && variants.some(v => v.format || v.moments)
  const variant = own ? Math.min(chosen, variants.length - 1) : 0
  const rehearsal = useDraftRehearsal(days, variant)
  const counts = useMemo(() => new Map(rehearsal.data?.lines.map(l => [l.at, l])), [rehearsal.data])
  const unrecorded = useMemo(() => new Set(rehearsal.data?.unrecorded), [rehearsal.data])
  const ruleFaults = useMemo(() => faults.flatMap(f => (/^rule\b/.test(f.at) ? [{ ...f, at: f.at.replace(/^rule\.?/, '') }] : [])), [faults])
  const tried = useDeferredValue(doc)
  useEffect(() => {
    document.addEventListener('keydown', keys)
    return () => document.removeEventListener('keydown', keys)
  }, [])
  const failed = [facts, saved].find(q => q.isError && q.data === undefined)
  if (failed) return <LoadError what="the conditions" error={failed.error} retry={failed.refetch} />
  if (!doc || !book || !reaches || !tried) return <Loading />
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
    change: (next, belongsTo = '') => change(d => void (d.rule = next), belongsTo),
  }
  return (
    <TwoColumns>
      <Sheet
        sx={{
          p: '16px 20px 10px',
          display: 'flex',
          flexDirection: 'column',
          // What it comes to stays in view below the conditions, which scroll above it.
          height: { md: 'calc(100vh - 172px)' },
          minHeight: 520,
        }}
      >
        <Box sx={{ flex: 1, minHeight: 0, overflowY: { md: 'auto' }, mx: '-20px', px: '20px', scrollPaddingBlock: '12px' }} tabIndex={-1}>
          <Box sx={{ display: 'flex', flexWrap: 'wrap', alignItems: 'center', gap: '4px 14px' }}>
            <Typography variant="h2">Show it when</Typography>
            <QuickStarts
              onPick={start =>
                change(d => {
                  d.rule = structuredClone(start.rule)
                  if (start.caps) d.caps = { ...structuredClone(start.caps), ...(d.caps.total && { total: d.caps.total }) }
                  else if (!d.caps.per_visitor?.length || !d.caps.after_close) d.caps = { ...usualCaps(), ...d.caps }
                })
              }
            />
            <UndoButtons />
            <Box sx={{ display: 'flex', alignItems: 'center', gap: '6px', whiteSpace: 'nowrap', color: ink[2], fontSize: 12.5 }}>
              page views matched, last
              <WordSelect
                plain
                size={12.5}
                label="Period"
                value={String(days)}
                options={[
                  ['7', '7 days'],
                  ['28', '28 days'],
                  ['90', '90 days'],
                ]}
                onChange={d => setDays(Number(d))}
              />
              {own && (
                <>
                  as variant
                  <WordSelect
                    plain
                    size={12.5}
                    label="Variant"
                    value={String(variant)}
                    options={variants.map((_, i) => [String(i), letters[i]] as const)}
                    onChange={i => setChosen(Number(i))}
                  />
                </>
              )}
              {rehearsal.isFetching && <CircularProgress size={12} aria-label="Rehearsing" />}
            </Box>
          </Box>
          <BuilderContext value={builder}>
            <RuleBuilder />
            {partsOf(rule).length > 1 && (
              <Box sx={{ pl: '20px' }}>
                <TextButton onClick={() => setNaming(true)}>Save the whole rule as a reach…</TextButton>
              </Box>
            )}
            {naming && <NameReach rule={rule} onClose={() => setNaming(false)} onSaved={id => builder.change({ all: [{ saved: id }] })} />}
          </BuilderContext>
          <Box sx={{ borderTop: `1px solid ${paper.line}`, mt: '12px', pt: '10px' }}>
            <Typography variant="h3" component="h2">
              Frequency
            </Typography>
            <CapsLines caps={doc.caps} faults={faults} onChange={how => change(d => how(d.caps), 'caps')} />
          </Box>
          <Box sx={{ borderTop: `1px solid ${paper.line}`, mt: '10px', pt: '10px' }}>
            <Typography variant="h3" component="h2">
              Schedule
            </Typography>
            <ScheduleLines
              schedule={doc.schedule ?? {}}
              faults={faults}
              onChange={next => change(d => void (d.schedule = Object.keys(next).length ? next : undefined), 'schedule')}
            />
          </Box>
          <Box sx={{ borderTop: `1px solid ${paper.line}`, mt: '10px', pt: '10px', color: 'text.secondary' }} aria-live="polite">
            {standing === 'faulty' ? 'Not saved: fix what is marked first.' : `In words: show it when ${phrase}.`}
          </Box>
          <OutcomeNotes rehearsal={rehearsal.data as Rehearsal | undefined} format={reachDraft(id, doc, variant).format} />
        </Box>
        <Outcome rehearsal={rehearsal.data as Rehearsal | undefined} error={rehearsal.error} />
      </Sheet>
      <TryVisitor doc={tried} piece={id} book={book} variant={Math.min(variant, tried.split.variants.length - 1)} />
    </TwoColumns>
  )
}
