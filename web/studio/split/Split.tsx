import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Skeleton from '@mui/material/Skeleton'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import Typography from '@mui/material/Typography'
import { lazy, Suspense, useState } from 'react'
import { useOutletContext } from 'react-router'
import type { PieceInfo, SplitResult, VariantResult } from '../../kinds/studio'
import { Loaded } from '../parts/Loaded'
import { Sheet } from '../parts/Sheet'
import { between, count, counted, letters, percent, points } from '../parts/say'
import { TwoColumns } from '../parts/TwoColumns'
import { useDraft } from '../piece/draft'
import { usePieceID, useSplit } from '../queries'
import { apricot, brick, display, moss, paper, variantColors } from '../theme'
import { Played } from './Played'
import { addVariant, Shares } from './Shares'
import { Winner } from './Winner'

// It brings the charts: the verdict and the numbers do not wait for them.
const RateOverTime = lazy(() => import('./RateOverTime'))

export const letter = (i: number) => letters[i]

/** The variants against the first: the verdict, then the numbers, then the split itself. */
export function Split() {
  const piece = usePieceID()
  const split = useSplit(piece)
  return (
    <Box sx={split.data ? undefined : { p: '18px 24px', maxWidth: 1500, width: '100%', mx: 'auto' }}>
      <Loaded query={split} what="the results" placeholder={<Skeleton variant="rounded" height={340} />}>
        {result => <Compared piece={piece} result={result} />}
      </Loaded>
    </Box>
  )
}

function Compared({ piece, result }: { piece: string; result: SplitResult }) {
  const info = useOutletContext<PieceInfo>()
  const doc = useDraft(s => s.doc)
  const [winner, setWinner] = useState<number | null>(null)
  if (!doc) return null
  const { head, why } = verdict(result, info.state)
  const seen = result.variants.some(v => v.measure.visitors > 0)
  return (
    <TwoColumns>
      <Sheet bitten sx={{ gridColumn: '1 / -1', display: 'flex', alignItems: 'center', gap: 3, pr: '44px' }}>
        <Box>
          <Typography variant="h2" sx={{ fontSize: 21 }}>
            {head}
          </Typography>
          <Typography color="textSecondary">{why}</Typography>
        </Box>
        {doc.split.variants.length === 1 && (
          <Button variant="contained" onClick={addVariant} sx={{ ml: 'auto', flex: 'none' }}>
            Add a variant
          </Button>
        )}
      </Sheet>
      <Sheet>
        <Box sx={{ display: 'flex', alignItems: 'baseline', mb: '10px' }}>
          <Typography variant="h3" component="h2">
            Conversion rate
          </Typography>
          <Typography variant="body2" color="textSecondary" sx={{ ml: 'auto' }}>
            {seen ? `${counted(result.days, 'day')} · each visitor counted once · ${Math.round(result.confidence * 100)} % bounds` : 'no visitors yet'}
          </Typography>
        </Box>
        <Results result={result} />
        {seen && (
          <>
            <Typography variant="h3" sx={{ mt: '18px', mb: '6px' }}>
              Rate over time
            </Typography>
            <Suspense fallback={<Skeleton variant="rounded" height={210} />}>
              <RateOverTime variants={result.variants} />
            </Suspense>
          </>
        )}
      </Sheet>
      <Box sx={{ display: 'grid', gap: '18px' }}>
        <Sheet>
          <Shares piece={piece} live={info.state === 'live' && doc !== info.live} onWinner={setWinner} />
        </Sheet>
        {result.variants.filter(v => !v.gone).length > 1 && (
          <Sheet>
            <Typography variant="h3" component="h2" sx={{ mb: '8px' }}>
              Is the test reliable?
            </Typography>
            <Check good={result.saw_several === 0}>
              {result.saw_several === 0
                ? 'No visitor saw two variants'
                : `${counted(result.saw_several, 'visitor')} saw two variants, as happens when shares or variants change`}
            </Check>
            <Check good={result.days >= 7}>
              {result.days >= 7
                ? `Ran over ${counted(Math.floor(result.days / 7), 'full week')}`
                : `Ran ${counted(result.days, 'day')}; run a full week to cover every weekday`}
            </Check>
            <Typography variant="body2" color="textSecondary" sx={{ mt: '8px' }}>
              The bounds are for a single look at the end. Checking often and stopping on a good day makes them unreliable.
            </Typography>
          </Sheet>
        )}
      </Box>
      <Played piece={piece} />
      {winner !== null && <Winner info={info} i={winner} onClose={() => setWinner(null)} />}
    </TwoColumns>
  )
}

const Check = ({ good, children }: { good: boolean; children: React.ReactNode }) => (
  <Typography sx={{ fontSize: 13.5, py: '3px' }}>
    <Box component="b" sx={{ color: good ? moss.main : apricot.ink }}>
      {good ? '✓' : '◔'}
    </Box>{' '}
    {children}
  </Typography>
)

/** What to make of the differences, in words that claim no more than the bounds do. */
export function verdict(result: SplitResult, state: string): { head: string; why: string } {
  const [a, ...rest] = result.variants.filter(v => !v.gone)
  if (a.measure.visitors === 0 && rest.every(v => v.measure.visitors === 0))
    return {
      head: state === 'live' ? 'Live, no visitors yet.' : 'No visitors yet.',
      why: rest.length ? 'Once it is live, the variants are compared here.' : 'Add a second variant to learn what works better.',
    }
  if (!rest.length)
    return {
      head: `${percent(a.measure.rate ?? 0)} of visitors converted.`,
      why: `${counted(a.measure.visitors, 'visitor')}, so the true rate is likely ${between(a.measure.interval)}. Add a second variant to learn what works better.`,
    }
  const told = rest
    .map((v, i) => ({ v, name: letter(i + 1) }))
    .filter(({ v }) => v.difference !== null)
    .sort((x, y) => y.v.difference! - x.v.difference!)
  if (!told.length) return { head: 'Not every variant has visitors yet.', why: 'Keep it live until each has some.' }
  const { v, name } = told[0]
  const [low, high] = v.difference_interval
  const span = `${name} compared with A: ${points(v.difference!)} percentage points; the true difference is likely between ${points(low)} and ${points(high)}.`
  if (low > 0) return { head: `${name} is ahead of A, by more than chance explains in one look.`, why: span }
  if (high < 0) return { head: `A is ahead of ${rest.length > 1 ? 'the others' : name}, by more than chance explains in one look.`, why: span }
  return {
    head: `Keep collecting. ${v.difference! > 0 ? `${name} looks better, but that is not certain yet.` : v.difference! < 0 ? `A looks better, but that is not certain yet.` : 'A and B do the same so far.'}`,
    why: span,
  }
}

function Results({ result }: { result: SplitResult }) {
  const spans = result.variants.filter(v => v.measure.visitors > 0).map(v => v.measure.interval)
  const top = Math.min(1, Math.max(0.02, ...spans.map(s => s[1])) * 1.06)
  return (
    <Table>
      <TableHead>
        <TableRow>
          <TableCell>Variant</TableCell>
          <TableCell align="right">Visitors</TableCell>
          <TableCell align="right">Conversions</TableCell>
          <TableCell align="right">Rate</TableCell>
          <TableCell sx={{ width: 210, pl: '14px' }}>
            <Box sx={{ display: 'flex', justifyContent: 'space-between' }}>
              <span>0 %</span>
              <span>{percent(top / 2)}</span>
              <span>{percent(top)}</span>
            </Box>
          </TableCell>
          <TableCell align="right">Difference to A (pp)</TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {result.variants.map((v, i) => (
          <Line key={v.id} v={v} i={i} top={top} />
        ))}
      </TableBody>
    </Table>
  )
}

function Line({ v, i, top }: { v: VariantResult; i: number; top: number }) {
  const { measure: m } = v
  const color = v.gone ? paper.strong : variantColors[i % variantColors.length]
  const x = (share: number) => 4 + (share / top) * 192
  const surely = v.difference_interval[0] > 0 ? moss.ink : v.difference_interval[1] < 0 ? brick.main : 'inherit'
  return (
    <TableRow>
      <TableCell>
        <Box component="span" sx={{ display: 'inline-block', width: 11, height: 11, borderRadius: '3px', mr: '7px', background: color }} />
        <b>{v.gone ? '' : letter(i)}</b> {v.name}
      </TableCell>
      <TableCell align="right">{count(m.visitors)}</TableCell>
      <TableCell align="right">{count(m.conversions)}</TableCell>
      <TableCell align="right">
        <Box component="b" sx={{ font: `620 17px ${display}`, whiteSpace: 'nowrap' }}>
          {m.rate === null ? '–' : percent(m.rate)}
        </Box>
      </TableCell>
      <TableCell sx={{ pl: '14px' }}>
        {m.rate !== null && (
          <>
            <svg width="200" height="16" viewBox="0 0 200 16" role="img" aria-label={`Bounds ${between(m.interval)}`}>
              <line x1={x(m.interval[0])} x2={x(m.interval[1])} y1="8" y2="8" stroke={color} strokeWidth="3" strokeLinecap="round" />
              <circle cx={x(m.rate)} cy="8" r="5.5" fill={color} />
            </svg>
            <Typography variant="body2" color="textSecondary" sx={{ lineHeight: 1.2 }}>
              {between(m.interval)}
            </Typography>
          </>
        )}
      </TableCell>
      <TableCell align="right">
        {i === 0 ? (
          <Box component="span" sx={{ color: 'text.secondary' }}>
            Baseline
          </Box>
        ) : v.difference === null ? (
          '–'
        ) : (
          <>
            <Box component="b" sx={{ color: surely }}>
              {points(v.difference)}
            </Box>
            <Typography variant="body2" color="textSecondary" sx={{ whiteSpace: 'nowrap' }}>
              {points(v.difference_interval[0])} to {points(v.difference_interval[1])}
            </Typography>
          </>
        )}
      </TableCell>
    </TableRow>
  )
}
