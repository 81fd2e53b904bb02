import Box from '@mui/material/Box'
import { LineChart } from '@mui/x-charts/LineChart'
import type { VariantResult } from '../../kinds/studio'
import { between, day, percent } from '../parts/say'
import { ink, paper, variantColors } from '../theme'

/** The first days are noise: the axis fits what came after. */
const noise = 3

/** Each variant's rate from the first day on, within its bounds, which narrow as visitors come. */
export default function RateOverTime({ variants }: { variants: VariantResult[] }) {
  const days = [...new Set(variants.flatMap(v => v.built.map(b => b.day)))].sort()
  if (days.length < 2) return <p style={{ color: ink[2], margin: 0 }}>The chart starts on the second day.</p>
  const settled = variants.flatMap(v => v.built.slice(Math.min(noise, v.built.length - 1)).map(b => b.measure.interval[1]))
  const top = Math.min(1, Math.max(0.04, ...settled) * 1.08)
  const colorOf = (v: VariantResult, i: number) => (v.gone ? paper.strong : variantColors[i % variantColors.length])
  /** What a variant had reached by each day; null before its first. */
  const upTo = (v: VariantResult) => {
    const byDay = new Map(v.built.map(b => [b.day, b.measure]))
    let last: VariantResult['measure'] | null = null
    return days.map(d => {
      last = byDay.get(d) ?? last
      return last
    })
  }
  const lines = variants.map(upTo)
  const series = variants.flatMap((v, i) => {
    const color = colorOf(v, i)
    const measures = lines[i]
    // Bounds are a band: what lies below it is drawn without a colour.
    return [
      {
        id: `low ${v.id}`,
        data: measures.map(m => m && Math.min(m.interval[0], top)),
        stack: v.id,
        area: true,
        color: 'transparent',
        showMark: false,
        curve: 'linear' as const,
      },
      {
        id: `band ${v.id}`,
        data: measures.map(m => m && Math.min(m.interval[1], top) - Math.min(m.interval[0], top)),
        stack: v.id,
        area: true,
        color,
        showMark: false,
        curve: 'linear' as const,
      },
      {
        id: `rate ${v.id}`,
        label: v.name,
        data: measures.map(m => m && Math.min(m.rate ?? 0, top)),
        color,
        showMark: false,
        curve: 'linear' as const,
        valueFormatter: (_: number | null, { dataIndex }: { dataIndex: number }) => {
          const m = measures[dataIndex]
          return m ? `${percent(m.rate ?? 0)} (${between(m.interval)})` : null
        },
      },
    ]
  })
  return (
    <Box role="img" aria-label={`Rates from ${day(days[0])} to ${day(days.at(-1)!)}`} sx={bands}>
      <LineChart
        height={210}
        hideLegend
        skipAnimation
        margin={{ left: 4, right: 26, top: 10, bottom: 0 }}
        xAxis={[
          {
            data: days,
            scaleType: 'point',
            valueFormatter: (d: string) => day(d),
            tickLabelInterval: (_, i) => i === 0 || i === days.length - 1 || i === Math.floor(days.length / 2),
          },
        ]}
        yAxis={[{ min: 0, max: top, valueFormatter: (rate: number) => `${Math.round(rate * 1000) / 10} %`, tickNumber: 4, width: 52 }]}
        grid={{ horizontal: true }}
        series={series}
        slotProps={{ tooltip: { trigger: 'axis' } }}
      />
    </Box>
  )
}

// A band is an area without its edges.
const bands = {
  '& .MuiLineChart-area': { opacity: 0.16 },
  '& .MuiLineChart-line': { strokeWidth: 2.5 },
  '& .MuiLineChart-line:not([data-series^="rate"])': { display: 'none' },
}
