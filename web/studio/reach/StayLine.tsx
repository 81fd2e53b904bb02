import Box from '@mui/material/Box'
import type { Stay } from '../../kinds/studio'
import { apricot, ink, paper, plum } from '../parts/look/theme'
import { clock } from '../parts/words/say'

const width = 350
const top = 4
const base = 40

/** How the visitor stays: how far they scroll by when, where they idle and leave, and when the piece shows. */
export function StayLine({ stay, typical, at }: { stay: Stay; typical: boolean; at: number | null }) {
  const end = Math.max(1, stay.seconds)
  const x = (second: number) => 6 + (Math.min(second, end) / end) * (width - 12)
  const y = (tenths: number) => base - (tenths / 10) * (base - top)
  const points = [`${x(0)},${y(0)}`]
  stay.marks.forEach((mark, i) => {
    if (mark !== null) points.push(`${x(mark)},${y(i)}`, `${x(mark)},${y(i + 1)}`)
  })
  points.push(`${x(end)},${y(stay.marks.length)}`)
  return (
    <Box sx={{ borderTop: `1px solid ${paper.line}`, pt: '8px', mt: '8px' }}>
      <Box sx={{ fontSize: 12.5, display: 'flex', gap: 1 }}>
        <b>On this page</b>
        <Box component="span" sx={{ color: ink[2] }}>
          {typical ? 'a typical stay' : 'as recorded'}, {clock(stay.seconds)}, scrolled to {stay.marks.length * 10} %
        </Box>
      </Box>
      <Box
        component="svg"
        viewBox={`0 0 ${width} 58`}
        role="img"
        aria-label={at === null ? 'It does not show in this stay' : `It shows at ${clock(at)}`}
        sx={{ width: '100%', display: 'block' }}
      >
        <line x1={6} x2={width - 6} y1={base} y2={base} stroke={paper.strong} strokeWidth={2} />
        {stay.idles.map(([from, length]) => (
          <rect key={from} x={x(from)} y={base - 4} width={Math.max(2, x(from + length) - x(from))} height={8} rx={2} fill="#d9cbb6">
            <title>idle for {length} s</title>
          </rect>
        ))}
        <polyline fill="none" stroke={plum.main} strokeWidth={2} points={points.join(' ')} strokeLinejoin="round" />
        {stay.exit !== null && (
          <path d={`M${x(stay.exit)} ${base + 1}v-14l-4 5m4-5l4 5`} stroke={ink[2]} strokeWidth={1.6} fill="none">
            <title>exit intent at {clock(stay.exit)}</title>
          </path>
        )}
        {at !== null && (
          <>
            <line x1={x(at)} x2={x(at)} y1={top} y2={base} stroke={apricot.main} strokeDasharray="2 3" />
            <circle cx={x(at)} cy={base} r={6} fill={apricot.main} />
            <text x={Math.max(34, Math.min(width - 34, x(at)))} y={55} fontSize={11.5} fill={ink[2]} textAnchor="middle">
              {clock(at)} shows
            </text>
          </>
        )}
        {(at === null || x(at) > 70) && (
          <text x={6} y={55} fontSize={11.5} fill={ink[2]}>
            0:00
          </text>
        )}
        {(at === null || x(at) < width - 76) && (
          <text x={width - 6} y={55} fontSize={11.5} fill={ink[2]} textAnchor="end">
            {clock(stay.seconds)}
          </text>
        )}
      </Box>
    </Box>
  )
}
