import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useDeferredValue, useMemo, useState } from 'react'
import type { Piece } from '../../kinds/piece'
import type { FactBook, RecordedVisitor, TryAnswer } from '../../kinds/studio'
import { Sheet } from '../parts/look/Sheet'
import { apricot, brick, ink, moss, paper } from '../parts/look/theme'
import { reachDraft } from '../piece/rehearsal'
import type { Verdict } from '../rule/kinds'
import { pathOf, rooted, writtenOut } from '../rule/rules'
import { api, Trouble } from '../server/api'
import { useReaches, useSite } from '../server/queries'
import { AskVisitor, factsOf, type MadeUp, madeUp, nextTime } from './AskVisitor'
import { Month } from './Month'
import { RealVisitor, RealVisitors } from './RealVisitors'
import { StayLine } from './StayLine'

const marks: Record<Verdict, [string, string]> = { yes: ['✓', moss.ink], no: ['✗', brick.main], waits: ['◔', apricot.ink] }

/** A visitor arrives, made up or from the log; says what the reach makes of them, when it shows, and how the next month goes. */
export function TryVisitor({ doc, piece, book, variant }: { doc: Piece; piece: string; book: FactBook; variant: number }) {
  const site = useSite()
  const reaches = useReaches().data ?? []
  const rule = useMemo(() => writtenOut(rooted(doc.rule), reaches), [doc.rule, reaches])
  const [visitor, setVisitor] = useState<MadeUp>(() => madeUp(pathOf(rule)))
  const [real, setReal] = useState<RecordedVisitor | null>(null)
  const [every, setEvery] = useState(2)
  const ask = {
    ...reachDraft(piece, doc, variant),
    facts: real ? real.facts : factsOf(visitor, site.origins[0] ?? '', rule),
    now: real ? real.at : nextTime(visitor.when),
    stay: real?.stay ?? null,
    shown_days: visitor.saw === '' || real ? null : Number(visitor.saw),
    closed_days: visitor.saw === '' || visitor.did !== 'closed' || real ? null : Number(visitor.saw),
    converted_days: visitor.saw === '' || visitor.did !== 'converted' || real ? null : Number(visitor.saw),
    every,
  }
  const asked = useDeferredValue(JSON.stringify(ask))
  const { data, error } = useQuery({
    queryKey: ['try', site.id, asked],
    queryFn: ({ signal }) => api('POST /sites/:site/try', { site: site.id }, { body: JSON.parse(asked), signal }),
    placeholderData: keepPreviousData,
    retry: (n, e) => n < 20 && e instanceof Trouble && e.status === 503,
  })
  const [trouble, setTrouble] = useState('')
  const look = async () => {
    const tab = window.open('', '_blank')
    try {
      const path = real ? String(real.facts['page.path'] ?? '/') : visitor.page || '/'
      const link = await api('POST /sites/:site/pieces/:piece/inspect', { site: site.id, piece }, { body: { path } })
      setTrouble('')
      if (tab) tab.location.href = link.url
    } catch (e) {
      tab?.close()
      setTrouble((e as Trouble).faults?.[0]?.message ?? (e as Error).message)
    }
  }
  return (
    <Sheet bitten data-free sx={{ p: '16px 18px 18px', position: 'sticky', top: 18, maxHeight: 'calc(100vh - 36px)', overflowY: 'auto' }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: '10px', pr: '26px' }}>
        <Typography variant="h2" sx={{ fontSize: 17, flex: 1 }}>
          Try a visitor
        </Typography>
        <RealVisitors rule={doc.rule} onPick={setReal} />
      </Box>
      {real ? <RealVisitor visitor={real} onBack={() => setReal(null)} /> : <AskVisitor visitor={visitor} rule={rule} book={book} onChange={setVisitor} />}
      {error ? (
        <Box sx={{ p: '10px 12px', borderRadius: '8px', background: paper.bench, color: ink[2] }}>
          {error instanceof Trouble && error.status === 422 ? 'Fix the errors in the reach first.' : error.message}
        </Box>
      ) : (
        data && <Judged answer={data} every={every} onEvery={setEvery} />
      )}
      <Box sx={{ borderTop: `1px solid ${paper.line}`, pt: '11px', mt: '12px', display: 'flex', alignItems: 'center', gap: '10px' }}>
        <Button variant="outlined" size="small" onClick={look} sx={{ flex: 'none' }}>
          Open the site
        </Button>
        <Typography variant="body2" color="textSecondary">
          {trouble || 'with all pieces, and what each waits for'}
        </Typography>
      </Box>
    </Sheet>
  )
}

const most = 60

function Judged({ answer, every, onEvery }: { answer: TryAnswer; every: number; onEvery(days: number): void }) {
  const look = answer.shows ? (answer.verdict === 'waits' ? 'waits' : 'yes') : answer.verdict === 'waits' && !answer.held ? 'waits' : 'no'
  return (
    <>
      <Box
        data-verdict={answer.verdict}
        data-shows={answer.shows}
        sx={{
          p: '10px 12px',
          borderRadius: '8px',
          fontWeight: 600,
          mb: '8px',
          ...{
            yes: { background: moss.wash, color: moss.ink },
            no: { background: brick.wash, color: '#8a3122' },
            waits: { background: apricot.wash, color: '#7a3b12' },
          }[look],
        }}
      >
        {answer.say}
      </Box>
      {answer.lines.slice(0, most).map((line, i) => (
        <Box key={i} sx={{ display: 'flex', gap: '9px', fontSize: 13, py: '3px', alignItems: 'baseline' }} style={{ paddingLeft: line.depth * 18 }}>
          <Box component="b" role="img" aria-label={line.verdict} sx={{ width: 16, flex: 'none', color: marks[line.verdict][1] }}>
            {marks[line.verdict][0]}
          </Box>
          <span>
            <Box component="span" sx={line.group ? { fontStyle: 'italic', color: ink[2] } : undefined}>
              {line.phrase}
            </Box>{' '}
            {!line.group && !line.waiting && line.actual !== null && typeof line.actual !== 'boolean' && (
              <Box component="span" sx={{ color: ink[2] }}>
                (it is {said(line.actual)})
              </Box>
            )}
            {!line.group && line.verdict === 'no' && line.actual === null && (
              <Box component="span" sx={{ color: ink[2] }}>
                (not known)
              </Box>
            )}
          </span>
        </Box>
      ))}
      {answer.lines.length > most && <Typography color="textSecondary">and {answer.lines.length - most} more</Typography>}
      {!answer.lines.length && <Typography color="textSecondary">No conditions.</Typography>}
      {(answer.held || answer.slot) && (
        <Box sx={{ display: 'flex', gap: '9px', fontSize: 13, py: '3px', alignItems: 'baseline' }}>
          <Box component="b" sx={{ width: 16, flex: 'none', color: answer.shows ? moss.ink : brick.main }}>
            {answer.shows ? '✓' : '✗'}
          </Box>
          <span>{answer.held || answer.slot}</span>
        </Box>
      )}
      <StayLine stay={answer.stay} typical={answer.typical} at={answer.shows ? answer.at : null} />
      <Month days={answer.month} say={answer.month_say} every={every} onEvery={onEvery} />
    </>
  )
}

const said = (actual: unknown) => (Array.isArray(actual) ? actual.join(', ') : String(actual))
