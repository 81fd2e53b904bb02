import Box from '@mui/material/Box'
import { useRef } from 'react'
import type { Stays } from '../../kinds/studio'
import { clock, outOfTen, percent } from '../parts/say'
import { apricot, ink, paper, plum } from '../theme'

/** What a counted moment's value means here: those who come so far, by how far. */
export interface Curve {
  /** Share of page views that come at least so far, by step. */
  shares: number[]
  step: number
  /** The value as people say it. */
  says(value: number): string
}

export function curveOf(fact: string, stays?: Stays): Curve | null {
  if (!stays?.page_views) return null
  if (fact === 'moment.seconds_on_page') return { shares: tail(stays.stayed_for), step: 1, says: clock }
  if (fact === 'moment.idle_seconds') return { shares: tail(stays.idled_for), step: 1, says: clock }
  if (fact === 'moment.scroll_percent') return { shares: stays.scrolled_to, step: 10, says: v => `${v} %` }
  return null
}

/** The curve as far as anyone much goes. */
function tail(shares: number[]): number[] {
  const end = shares.findIndex((s, i) => i > 20 && s < 0.04)
  return shares.slice(0, end < 0 ? shares.length : end + 1)
}

/** The share that comes as far as a value. */
export const shareAt = (c: Curve, value: number) => c.shares[Math.min(c.shares.length, Math.ceil(value / c.step))] ?? 0

/** The value that half of the visitors reach. */
export const middle = (c: Curve) =>
  Math.max(
    0,
    c.shares.findLastIndex(s => s >= 0.5),
  ) * c.step

/** A few words beside the value. */
export function hint(fact: string, value: number, c: Curve): string {
  if (fact === 'moment.seconds_on_page') return `typical stay here: ${clock(middle(c))}`
  return `${outOfTen(shareAt(c, value))} ${fact === 'moment.scroll_percent' ? 'get there' : 'idle so long'}`
}

/** Where the axis is marked: five steps at most, of lengths people count in. */
function ticks(most: number): number[] {
  const step = [5, 10, 15, 20, 25, 30, 60, 120, 300].find(s => most / s <= 5.2) ?? most
  return Array.from({ length: Math.floor(most / step) + 1 }, (_, i) => i * step)
}

const width = 460
const height = 74

/** The curve, with the value as a mark that can be moved. */
export function Distribution({ curve, value, label, onChange }: { curve: Curve; value: number; label: string; onChange(value: number): void }) {
  const box = useRef<SVGSVGElement>(null)
  const most = (curve.shares.length - 1) * curve.step
  const x = (v: number) => (Math.min(v, most) / most) * width
  const y = (share: number) => height - share * (height - 4)
  const take = (clientX: number) => {
    const r = box.current!.getBoundingClientRect()
    const at = (Math.max(0, Math.min(1, (clientX - r.left) / r.width)) * most) / curve.step
    onChange(Math.round(at) * curve.step)
  }
  const share = shareAt(curve, value)
  const points = curve.shares.map((s, i) => `${x(i * curve.step)},${y(s)}`)
  return (
    <Box sx={{ ml: '14px', mt: '2px', mb: '8px', maxWidth: 480 }}>
      <Box
        component="svg"
        ref={box}
        viewBox={`-8 0 ${width + 16} ${height + 20}`}
        role="slider"
        tabIndex={0}
        aria-label={`${label}: move the value`}
        aria-valuemin={0}
        aria-valuemax={most}
        aria-valuenow={value}
        aria-valuetext={`${curve.says(value)}, ${percent(share)} come so far`}
        onPointerDown={e => {
          e.currentTarget.setPointerCapture(e.pointerId)
          take(e.clientX)
        }}
        onPointerMove={e => e.currentTarget.hasPointerCapture(e.pointerId) && take(e.clientX)}
        onKeyDown={e => {
          const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 5, PageDown: -5 }[e.key]
          if (!by) return
          e.preventDefault()
          onChange(Math.max(0, Math.min(most, value + by * curve.step)))
        }}
        sx={{
          display: 'block',
          width: '100%',
          cursor: 'ew-resize',
          touchAction: 'none',
          borderRadius: '6px',
          '&:focus-visible': { outline: `2px solid ${plum.main}` },
        }}
      >
        <polygon points={`0,${height} ${points.join(' ')} ${width},${height}`} fill="#ead9e4" />
        <clipPath id="reached">
          <rect x={x(value)} y={0} width={width} height={height} />
        </clipPath>
        <polygon points={`0,${height} ${points.join(' ')} ${width},${height}`} fill={apricot.main} opacity={0.55} clipPath="url(#reached)" />
        <polyline points={points.join(' ')} fill="none" stroke={plum.main} strokeWidth={1.8} />
        <line x1={0} x2={width} y1={height} y2={height} stroke={paper.strong} />
        <line x1={x(value)} x2={x(value)} y1={2} y2={height} stroke={ink[1]} strokeWidth={1.5} />
        <circle cx={x(value)} cy={y(share)} r={6} fill={apricot.main} stroke="#fff" strokeWidth={1.5} />
        {ticks(most).map(v => (
          <text key={v} x={x(v)} y={height + 15} fontSize={11} fill={ink[2]} textAnchor={v === 0 ? 'start' : 'middle'}>
            {curve.says(v)}
          </text>
        ))}
      </Box>
      <Box sx={{ fontSize: 12.5, color: ink[2] }}>
        {percent(share)} of the page views that this rule selects come to {curve.says(value)}; half come to {curve.says(middle(curve))}.
      </Box>
    </Box>
  )
}
