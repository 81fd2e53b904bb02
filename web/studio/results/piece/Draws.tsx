import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import type { PlayedDraw, PlayedPart, RefusedGoes } from '../../../kinds/studio'
import { apricot, brick, ink, moss, paper } from '../../parts/look/theme'
import { between, count, counted, percent } from '../../parts/words/say'

const reasons: Record<RefusedGoes['why'], string> = {
  all_gone: 'all prizes were gone',
  had_go: 'the email address had already played',
  too_many: 'too many goes from one network',
  over: 'the piece was paused or had ended',
}

const few = 7 // days

/** Whether the odds are outside the bounds of the share. */
const outside = (p: PlayedPart) => p.share !== null && (p.odds < p.interval[0] || p.odds > p.interval[1])

/** What was won compared with the odds, what is left, and which goes were refused. */
export function Draw({ draw: d, color, confidence, csv }: { draw: PlayedDraw; color: string; confidence: number; csv: string }) {
  const top = Math.max(0.02, ...d.parts.map(p => Math.max(p.odds, p.share === null ? 0 : p.interval[1])))
  const at = (share: number) => `${(100 * share) / top}%`
  const row = {
    display: 'grid',
    gridTemplateColumns: 'minmax(90px, 1.1fr) minmax(110px, 1.6fr) 52px 172px 74px 190px',
    gap: '12px',
    alignItems: 'center',
    fontSize: 13.5,
    py: '4px',
  }
  const refused = d.refused.filter(r => r.goes > 0)
  return (
    <Box data-draw={d.key} sx={{ mt: '22px' }}>
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1 }}>
        <Typography variant="h4" component="h3">
          {d.label}
        </Typography>
        <Typography variant="body2" color="textSecondary">
          {counted(d.goes, 'go', 'goes')}
          {d.goes > 0 && ` · ${Math.round(confidence * 100)} % bounds`}
        </Typography>
        <Button size="small" variant="outlined" component="a" href={csv} download sx={{ ml: 'auto' }}>
          Export goes as CSV
        </Button>
      </Box>
      <Box sx={{ ...row, color: ink[2], pb: 0 }}>
        <span>Prize</span>
        <span>Drawn, and odds (│)</span>
        <span style={{ textAlign: 'end' }}>Drawn</span>
        <span>Share of goes</span>
        <span>Odds</span>
        <span>Left</span>
      </Box>
      {d.parts.map(p => (
        <Box key={p.id} sx={row} data-part={p.id}>
          <Box sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }} title={p.label}>
            {p.label}
          </Box>
          <Box aria-hidden data-hue sx={{ position: 'relative', height: 12, borderRadius: '4px', background: paper.line }}>
            {p.share !== null && (
              <>
                <Box
                  sx={{ position: 'absolute', inset: 0, right: 'auto', width: at(p.share), borderRadius: '4px', background: p.nothing ? paper.strong : color }}
                />
                <Box
                  sx={{
                    position: 'absolute',
                    top: 5,
                    height: 2,
                    left: at(p.interval[0]),
                    width: at(p.interval[1] - p.interval[0]),
                    background: ink[1],
                    opacity: 0.75,
                  }}
                />
              </>
            )}
            <Box sx={{ position: 'absolute', top: -3, bottom: -3, left: at(p.odds), width: '2px', ml: '-1px', background: ink[1] }} />
          </Box>
          <Box sx={{ textAlign: 'end', fontWeight: 650 }}>{count(p.drawn)}</Box>
          <Box sx={{ color: outside(p) ? apricot.ink : ink[2], whiteSpace: 'nowrap' }}>
            {p.share === null ? '' : `${percent(p.share)} (${between(p.interval)})`}
          </Box>
          <Box sx={{ color: ink[2] }}>{percent(p.odds)}</Box>
          <Box sx={{ color: p.left === 0 ? brick.main : p.days !== null && p.days < few ? apricot.ink : ink[2] }}>{leftOf(p)}</Box>
        </Box>
      ))}
      {d.goes > 0 && (
        <Typography variant="body2" sx={{ mt: '6px', color: d.parts.some(outside) ? apricot.ink : moss.ink }}>
          {d.parts.some(outside)
            ? 'Some shares differ from the current odds: weights changed in this period, a prize ran out, or it is chance.'
            : 'All shares match the current odds within their bounds.'}
        </Typography>
      )}
      {d.uncounted > 0 && (
        <Typography variant="body2" color="textSecondary" sx={{ mt: '4px' }}>
          {counted(d.uncounted, 'more go', 'more goes')} by visitors who are not counted:{' '}
          {d.parts
            .filter(p => p.uncounted > 0)
            .map(p => `${p.label} ${count(p.uncounted)}`)
            .join(', ')}
          . They take prizes and codes like all others, and are in no share above.
        </Typography>
      )}
      {refused.length > 0 && (
        <Typography variant="body2" color="textSecondary" sx={{ mt: '4px' }}>
          Refused: {refused.map(r => `${counted(r.goes, 'go', 'goes')} because ${reasons[r.why]}`).join('; ')}.
        </Typography>
      )}
    </Box>
  )
}

function leftOf(p: PlayedPart): string {
  if (p.left === null) return p.nothing ? '' : 'unlimited'
  if (p.left === 0) return 'none left'
  if (p.days === null) return count(p.left)
  return `${count(p.left)}, for ${p.days < 1 ? 'less than a day' : counted(Math.floor(p.days), 'day')} at this pace`
}

/** The same as rows of a CSV file. */
export const drawRows = (d: PlayedDraw): (string | number | null)[][] => [
  ...d.parts.map(p => ['drawn', d.label, p.label, p.drawn, d.goes, p.share, ...p.interval, null, p.odds, p.left]),
  ...d.parts.filter(p => p.uncounted > 0).map(p => ['not counted', d.label, p.label, p.uncounted, d.uncounted, null, null, null, null, null, null]),
  ...d.refused.map(r => ['refused', d.label, reasons[r.why], r.goes, null, null, null, null, null, null, null]),
]
