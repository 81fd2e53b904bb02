import type { VariantResult } from '../../kinds/studio'
import { day, percent } from '../parts/say'
import { ink, paper, variantColors } from '../theme'

const box = { width: 770, height: 190, left: 46, right: 766, top: 12, bottom: 160 }

/** Each version's rate from the first day on, within its bounds, which narrow as visitors come. */
export function BuildUp({ variants }: { variants: VariantResult[] }) {
  const days = [...new Set(variants.flatMap(v => v.built.map(b => b.day)))].sort()
  if (days.length < 2) return <p style={{ color: ink[2], margin: 0 }}>A line can be drawn from the second day on.</p>
  // The first day or two are mere noise; the axis is for what came after.
  const settled = variants.flatMap(v => v.built.slice(Math.min(3, v.built.length - 1)).map(b => b.measure.interval[1]))
  const top = Math.min(1, Math.max(0.04, ...settled) * 1.08)
  const first = Date.parse(days[0])
  const last = Date.parse(days[days.length - 1])
  const x = (d: string) => box.left + ((Date.parse(d) - first) / (last - first)) * (box.right - box.left)
  const y = (rate: number) => Math.max(box.top - 8, box.bottom - (rate / top) * (box.bottom - box.top))
  const step = niceStep(top)
  const marks = Array.from({ length: Math.floor(top / step) + 1 }, (_, i) => i * step)
  return (
    <svg width="100%" viewBox={`0 0 ${box.width} ${box.height}`} role="img" aria-label={`Rates from ${day(days[0])} to ${day(days[days.length - 1])}`}>
      {marks.map(m => (
        <g key={m}>
          <line x1={box.left} x2={box.right} y1={y(m)} y2={y(m)} stroke={paper.line} />
          <text x={box.left - 8} y={y(m) + 4} textAnchor="end" fontSize="11.5" fill={ink[2]}>
            {Math.round(m * 1000) / 10} %
          </text>
        </g>
      ))}
      {variants.map((v, i) => {
        const color = v.gone ? paper.strong : variantColors[i % variantColors.length]
        const up = v.built.map(b => `${x(b.day)},${y(b.measure.interval[1])}`)
        const down = v.built.map(b => `${x(b.day)},${y(b.measure.interval[0])}`).reverse()
        return <polygon key={v.id} points={[...up, ...down].join(' ')} fill={color} opacity=".14" />
      })}
      {variants.map((v, i) => (
        <polyline
          key={v.id}
          points={v.built.map(b => `${x(b.day)},${y(b.measure.rate ?? 0)}`).join(' ')}
          fill="none"
          stroke={v.gone ? paper.strong : variantColors[i % variantColors.length]}
          strokeWidth="2.5"
          strokeLinejoin="round"
        >
          <title>{`${v.name}: ${v.measure.rate === null ? 'nobody yet' : percent(v.measure.rate)}`}</title>
        </polyline>
      ))}
      {[0, Math.floor(days.length / 2), days.length - 1].map((at, n) => (
        <text key={at} x={x(days[at])} y={box.height - 10} textAnchor={['start', 'middle', 'end'][n] as 'start'} fontSize="11.5" fill={ink[2]}>
          {day(days[at])}
        </text>
      ))}
    </svg>
  )
}

function niceStep(top: number): number {
  return [0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.25].find(s => top / s <= 5) ?? 0.5
}
