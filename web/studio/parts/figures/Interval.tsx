import Box from '@mui/material/Box'
import { between, percent } from '../words/say'

/** Where an axis ends that has room for these bounds. */
export const intervalTop = (intervals: readonly (readonly [number, number])[]) => Math.min(1, Math.max(0.02, ...intervals.map(i => i[1])) * 1.06)

/** The marks of that axis, for the head of a table. */
export const AxisHead = ({ top }: { top: number }) => (
  <Box sx={{ display: 'flex', justifyContent: 'space-between' }}>
    <span>0 %</span>
    <span>{percent(top / 2)}</span>
    <span>{percent(top)}</span>
  </Box>
)

/** A rate within its bounds, on an axis from 0 to top. */
export function Interval({
  value,
  interval,
  top,
  color,
  width = 170,
}: {
  value: number
  interval: readonly [number, number]
  top: number
  color: string
  width?: number
}) {
  const x = (share: number) => 6 + (Math.min(share, top) / top) * (width - 12)
  return (
    <svg width={width} height="16" viewBox={`0 0 ${width} 16`} role="img" aria-label={`Bounds ${between(interval)}`}>
      <line x1={x(interval[0])} x2={x(interval[1])} y1="8" y2="8" stroke={color} strokeWidth="3" strokeLinecap="round" />
      <circle cx={x(value)} cy="8" r="5.5" fill={color} />
    </svg>
  )
}
