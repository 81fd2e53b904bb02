import Box from '@mui/material/Box'
import { ChartsReferenceLine } from '@mui/x-charts/ChartsReferenceLine'
import { LineChart } from '@mui/x-charts/LineChart'
import { useRef } from 'react'
import { apricot, ink, plum } from '../parts/look/theme'
import { percent } from '../parts/words/say'
import { type Curve, middle, shareAt } from './curve'

/** Where the axis is marked: five steps at most, of lengths people count in. */
function ticks(most: number): number[] {
  const step = [5, 10, 15, 20, 25, 30, 60, 120, 300].find(s => most / s <= 5.2) ?? most
  return Array.from({ length: Math.floor(most / step) + 1 }, (_, i) => i * step)
}

const edge = 18 // px, left and right of the curve

/** The curve, with the value as a mark that can be moved. */
export default function Distribution({ curve, value, label, onChange }: { curve: Curve; value: number; label: string; onChange(value: number): void }) {
  const box = useRef<HTMLDivElement>(null)
  const values = curve.shares.map((_, i) => i * curve.step)
  const most = values.at(-1)!
  const take = (clientX: number) => {
    const r = box.current!.getBoundingClientRect()
    const at = (Math.max(0, Math.min(1, (clientX - r.left - edge) / (r.width - 2 * edge))) * most) / curve.step
    onChange(Math.round(at) * curve.step)
  }
  const share = shareAt(curve, value)
  const at = Math.min(value, most)
  const marked = Math.min(values.length - 1, Math.ceil(value / curve.step))
  const line = { area: true, curve: 'linear', showMark: false, disableHighlight: true } as const
  return (
    <Box sx={{ ml: '8px', mt: '2px', mb: '8px', maxWidth: 480 }}>
      <Box
        ref={box}
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
        sx={chart}
      >
        <LineChart
          height={98}
          hideLegend
          skipAnimation
          disableAxisListener
          margin={{ left: edge, right: edge, top: 6, bottom: 0 }}
          xAxis={[
            { data: values, scaleType: 'linear', min: 0, max: most, height: 24, valueFormatter: curve.says, tickInterval: ticks(most), disableTicks: true },
          ]}
          yAxis={[{ min: 0, max: 1, position: 'none' }]}
          series={[
            { ...line, id: 'all', data: curve.shares, color: plum.main },
            {
              ...line,
              id: 'reached',
              data: curve.shares.map((s, i) => (values[i] >= at ? s : null)),
              color: apricot.main,
              showMark: ({ index }) => index === marked,
              shape: 'circle',
            },
          ]}
          slotProps={{ tooltip: { trigger: 'none' } }}
        >
          <ChartsReferenceLine x={at} lineStyle={{ stroke: ink[1], strokeWidth: 1.5 }} />
        </LineChart>
      </Box>
      <Box sx={{ fontSize: 12.5, color: ink[2] }}>
        {percent(share)} of the page views that this rule selects come to {curve.says(value)}; half come to {curve.says(middle(curve))}.
      </Box>
    </Box>
  )
}

const chart = {
  cursor: 'ew-resize',
  touchAction: 'none',
  borderRadius: '6px',
  '&:focus-visible': { outline: `2px solid ${plum.main}` },
  '& .MuiLineChart-area': { opacity: 0.18 },
  '& .MuiLineChart-area[data-series=reached]': { opacity: 0.55 },
  '& .MuiLineChart-line': { strokeWidth: 1.8 },
  '& .MuiLineChart-line[data-series=reached]': { display: 'none' },
}
