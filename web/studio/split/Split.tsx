import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import Typography from '@mui/material/Typography'
import { useOutletContext, useParams } from 'react-router'
import type { PieceInfo, SplitResult, VariantResult } from '../../kinds/studio'
import { useDraft } from '../bench/draft'
import { Desk } from '../parts/Desk'
import { Sheet } from '../parts/Sheet'
import { between, count, counted, percent, points } from '../parts/say'
import { useSplit } from '../queries'
import { apricot, brick, display, moss, paper, variantColors } from '../theme'
import { BuildUp } from './BuildUp'
import { Played } from './Played'
import { addVariant, Shares } from './Shares'

export const letter = (i: number) => 'ABCDEFGHIJ'[i]

/** The variants against the first: what to make of it, then the numbers, then the split itself. */
export function Split() {
  const { piece = '' } = useParams()
  const info = useOutletContext<PieceInfo>()
  const result = useSplit(piece).data
  const doc = useDraft(s => s.doc)
  if (!result || !doc) return null
  const { head, why } = verdict(result, info.state)
  const seen = result.variants.some(v => v.measure.visitors > 0)
  return (
    <Desk>
      <Sheet bitten sx={{ gridColumn: '1 / -1', display: 'flex', alignItems: 'center', gap: 3, pr: '44px' }}>
        <Box>
          <Typography variant="h2" sx={{ fontSize: 21 }}>
            {head}
          </Typography>
          <Typography color="textSecondary">{why}</Typography>
        </Box>
        {doc.split.variants.length === 1 && (
          <Button variant="contained" onClick={addVariant} sx={{ ml: 'auto', flex: 'none' }}>
            Make a second version
          </Button>
        )}
      </Sheet>
      <Sheet>
        <Box sx={{ display: 'flex', alignItems: 'baseline', mb: '10px' }}>
          <Typography variant="h3" component="h2">
            Visitors who converted
          </Typography>
          <Typography variant="body2" color="textSecondary" sx={{ ml: 'auto' }}>
            {seen ? `${counted(result.days, 'day')} · one visitor counted once · ${Math.round(result.confidence * 100)} % bounds` : 'nobody saw it yet'}
          </Typography>
        </Box>
        <Results result={result} />
        {seen && (
          <>
            <Typography variant="h3" sx={{ mt: '18px', mb: '6px' }}>
              As it built up
            </Typography>
            <BuildUp variants={result.variants} />
          </>
        )}
      </Sheet>
      <Box sx={{ display: 'grid', gap: '18px' }}>
        <Sheet>
          <Shares piece={piece} live={info.state === 'live' && doc !== info.live} />
        </Sheet>
        {result.variants.filter(v => !v.gone).length > 1 && (
          <Sheet>
            <Typography variant="h3" component="h2" sx={{ mb: '8px' }}>
              Is the test sound?
            </Typography>
            <Check good={result.saw_several === 0}>
              {result.saw_several === 0
                ? 'Nobody saw two versions'
                : `${counted(result.saw_several, 'visitor')} saw two versions, as happens when shares or versions change`}
            </Check>
            <Check good={result.days >= 7}>
              {result.days >= 7
                ? `Ran over ${counted(Math.floor(result.days / 7), 'full week')}`
                : `Ran ${counted(result.days, 'day')}; a full week shows every kind of day`}
            </Check>
            <Typography variant="body2" color="textSecondary" sx={{ mt: '8px' }}>
              The bounds are for one look at the end. Look often and stop at the first good day, and they promise too much.
            </Typography>
          </Sheet>
        )}
      </Box>
      <Played piece={piece} />
    </Desk>
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
      head: state === 'live' ? 'Live, and waiting for its first visitor.' : 'Nobody has seen this yet.',
      why: rest.length ? 'Once it is live, the versions are held against each other here.' : 'With a second version you learn what works better.',
    }
  if (!rest.length)
    return {
      head: `${percent(a.measure.rate ?? 0)} of those who saw it converted.`,
      why: `${counted(a.measure.visitors, 'visitor')}, so the true rate is likely ${between(a.measure.interval)}. With a second version you learn what works better.`,
    }
  const told = rest
    .map((v, i) => ({ v, name: letter(i + 1) }))
    .filter(({ v }) => v.difference !== null)
    .sort((x, y) => y.v.difference! - x.v.difference!)
  if (!told.length) return { head: 'Not every version has been seen yet.', why: 'Keep it live until each has visitors.' }
  const { v, name } = told[0]
  const [low, high] = v.difference_interval
  const span = `${name} against A: ${points(v.difference!)} points, and the truth is likely between ${points(low)} and ${points(high)}.`
  if (low > 0) return { head: `${name} is ahead of A, by more than chance explains in one look.`, why: span }
  if (high < 0) return { head: `A is ahead of ${rest.length > 1 ? 'the others' : name}, by more than chance explains in one look.`, why: span }
  return {
    head: `Keep collecting. ${v.difference! > 0 ? `${name} looks better, but not yet surely.` : v.difference! < 0 ? `A looks better, but not yet surely.` : 'A and B do the same so far.'}`,
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
          <TableCell>Version</TableCell>
          <TableCell align="right">Saw it</TableCell>
          <TableCell align="right">Converted</TableCell>
          <TableCell align="right">Rate</TableCell>
          <TableCell sx={{ width: 210, pl: '14px' }}>
            <Box sx={{ display: 'flex', justifyContent: 'space-between' }}>
              <span>0 %</span>
              <span>{percent(top / 2)}</span>
              <span>{percent(top)}</span>
            </Box>
          </TableCell>
          <TableCell align="right">Against A, points</TableCell>
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
        <Box component="b" sx={{ font: `620 17px ${display}` }}>
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
            the yardstick
          </Box>
        ) : v.difference === null ? (
          '–'
        ) : (
          <>
            <Box component="b" sx={{ color: surely }}>
              {points(v.difference)}
            </Box>
            <Typography variant="body2" color="textSecondary">
              {points(v.difference_interval[0])} to {points(v.difference_interval[1])}
            </Typography>
          </>
        )}
      </TableCell>
    </TableRow>
  )
}
