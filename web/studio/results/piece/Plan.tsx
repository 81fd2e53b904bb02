import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Slider from '@mui/material/Slider'
import Typography from '@mui/material/Typography'
import { useDeferredValue, useState } from 'react'
import type { SplitPlan, SplitResult } from '../../../kinds/studio'
import { Loaded } from '../../parts/look/Loaded'
import { ink, paper, plum } from '../../parts/look/theme'
import { count, counted, percent } from '../../parts/words/say'
import { change, useDraft } from '../../piece/draft'
import { usePlan } from '../../server/queries'

const lifts = [5, 7.5, 10, 15, 20, 25, 30, 40, 50, 75, 100, 150, 200]
const nearest = (lift: number) => lifts.reduce((best, l, i) => (Math.abs(l - lift * 100) < Math.abs(lifts[best] - lift * 100) ? i : best), 0)

/** How many visitors it takes to find a lift that is worth having, and how far a plan has come. */
export function Plan({ piece, result }: { piece: string; result: SplitResult }) {
  const plan = useDraft(s => s.doc?.split.plan)
  const goal = useDraft(s => s.doc?.split.goal)
  const [at, setAt] = useState(() => nearest(plan?.lift ?? 0.2))
  const lift = useDeferredValue(lifts[at]) / 100
  const query = usePlan(piece, lift, goal ?? '')
  const planned = plan && Math.abs(plan.lift - lift) < 1e-9
  return (
    <>
      <Typography variant="h3" component="h2" sx={{ mb: '2px' }}>
        Plan
      </Typography>
      {result.plan && result.plan.size > 0 && <Progress have={result.plan.have} size={result.plan.size} />}
      <Box sx={{ display: 'flex', alignItems: 'baseline', mt: '8px' }}>
        <span id="smallest-lift">Smallest lift worth finding</span>
        <b style={{ marginLeft: 'auto' }}>{lifts[at]} %</b>
      </Box>
      <Box sx={{ px: '8px' }}>
        <Slider
          size="small"
          aria-labelledby="smallest-lift"
          value={at}
          min={0}
          max={lifts.length - 1}
          step={1}
          onChange={(_, v) => setAt(v as number)}
          getAriaValueText={v => `${lifts[v]} %`}
        />
      </Box>
      <Loaded query={query} what="the plan">
        {p => (
          <>
            <Curve p={p} lift={lift} />
            <Typography variant="body2" sx={{ mt: '6px' }}>
              {p.plan.say}
            </Typography>
            <Typography variant="body2" color="textSecondary" sx={{ mt: '4px' }}>
              From a rate of {percent(p.baseline)}
              {p.from === 'piece'
                ? ` (${counted(p.visitors, 'visitor')} of this piece)`
                : p.from === 'site'
                  ? ' (all pieces of the site)'
                  : ', a guess: nothing is measured yet'}
              {p.paced === 'rehearsal' ? '; visitors a day from the rehearsal' : ''}. With 95 % confidence and a chance of 80 % to find the lift, looking as
              often as you like.
            </Typography>
            <Button
              size="small"
              variant="outlined"
              sx={{ mt: '8px' }}
              disabled={!!planned && plan?.size === p.plan.safe_visitors_per_variant}
              onClick={() => change(d => void (d.split.plan = { lift, power: 0.8, size: p.plan.safe_visitors_per_variant }))}
            >
              {planned ? 'Planned' : 'Plan for this lift'}
            </Button>
          </>
        )}
      </Loaded>
    </>
  )
}

function Progress({ have, size }: { have: number; size: number }) {
  const share = Math.min(1, have / size)
  return (
    <Box>
      <Box aria-hidden sx={{ height: 8, borderRadius: '4px', background: paper.line, overflow: 'hidden', mt: '6px' }}>
        <Box data-hue sx={{ width: `${100 * share}%`, height: '100%', background: plum.main }} />
      </Box>
      <Typography variant="body2" color="textSecondary" sx={{ mt: '3px' }}>
        {count(have)} of {count(size)} planned visitors per variant
      </Typography>
    </Box>
  )
}

/** Days over lifts, on scales that make both readable; the chosen lift is marked. */
function Curve({ p, lift }: { p: SplitPlan; lift: number }) {
  const dots = p.plan.curve.filter(c => c.days !== null)
  if (dots.length < 2) return null
  const [w, h, left, bottom] = [300, 120, 40, 20]
  const most = Math.log(Math.max(28, Math.min(1500, dots[0].days!)))
  const least = Math.log(Math.max(1, Math.min(7, dots.at(-1)!.days!)))
  const x = (l: number) => left + ((Math.log(l) - Math.log(0.05)) / (Math.log(2) - Math.log(0.05))) * (w - left - 18)
  const y = (days: number) => 6 + ((most - Math.min(most, Math.max(least, Math.log(days)))) / (most - least)) * (h - bottom - 10)
  const chosen = dots.find(d => Math.abs(d.lift - lift) < 1e-9)
  return (
    <Box
      component="svg"
      role="img"
      viewBox={`0 0 ${w} ${h}`}
      aria-label={`Days until a lift is found: ${dots.map(d => `${Math.round(d.lift * 1000) / 10} % in ${count(d.days!)} days`).join(', ')}`}
      sx={{ width: '100%', fontSize: 10.5, fill: ink[2], display: 'block' }}
    >
      {[7, 28, 90, 365]
        .filter(d => Math.log(d) >= least && Math.log(d) <= most)
        .map(d => (
          <g key={d}>
            <line x1={left} x2={w - 18} y1={y(d)} y2={y(d)} stroke={paper.line} />
            <text x={left - 5} y={y(d) + 3} textAnchor="end">
              {d < 365 ? `${d} d` : '1 year'}
            </text>
          </g>
        ))}
      {[0.05, 0.1, 0.2, 0.5, 1, 2].map(l => (
        <text key={l} x={x(l)} y={h - 5} textAnchor="middle">
          {Math.round(l * 100)} %
        </text>
      ))}
      <polyline fill="none" stroke={plum.main} strokeWidth="2" points={dots.map(d => `${x(d.lift)},${y(d.days!)}`).join(' ')} />
      {chosen && <circle cx={x(chosen.lift)} cy={y(chosen.days!)} r="4.5" fill={plum.main} />}
    </Box>
  )
}
