import Box from '@mui/material/Box'
import { ChartsReferenceLine } from '@mui/x-charts/ChartsReferenceLine'
import { LineChart } from '@mui/x-charts/LineChart'
import type { OverDay, SplitVariant } from '../../../kinds/studio'
import { ChartTable } from '../../parts/figures/ChartTable'
import { ink, variantColor } from '../../parts/look/theme'
import { between, percent, points } from '../../parts/words/say'
import { day } from '../../parts/words/time'

/** The first days are noise: the axis fits what came after. */
const noise = 3

interface Line {
  id: string
  name: string
  color: string
  values: { value: number | null; interval: [number, number] }[]
}

/** How rates, or the differences to the first variant, built up, within bounds that hold at every look. */
export default function RateOverTime({ variants, over, differences }: { variants: SplitVariant[]; over: OverDay[]; differences: boolean }) {
  if (over.length < 2) return <p style={{ color: ink[2], margin: 0 }}>The chart starts on the second day.</p>
  const lines: Line[] = (differences ? variants.slice(1) : variants).map((v, i) => ({
    id: v.id,
    name: `${v.letter} ${v.name}`,
    color: variantColor(v.letter),
    values: over.map(o =>
      differences ? { value: o.differences[i].difference, interval: o.differences[i].interval } : { value: o.rates[i].rate, interval: o.rates[i].interval },
    ),
  }))
  const settled = lines.flatMap(l => l.values.slice(Math.min(noise, l.values.length - 1)).map(v => v.interval))
  const reach = differences ? Math.max(0.02, ...settled.map(([low, high]) => Math.max(-low, high))) : 0
  const top = differences ? reach * 1.05 : Math.min(1, Math.max(0.04, ...settled.map(s => s[1])) * 1.05)
  const bottom = differences ? -top : 0
  const within = (x: number) => Math.max(bottom, Math.min(top, x))
  const says = differences ? (x: number) => points(x) : percent
  const days = over.map(o => o.day)
  const said = ({ value, interval }: Line['values'][number]) =>
    value === null ? '–' : differences ? `${points(value)} pp (${points(interval[0])} to ${points(interval[1])})` : `${percent(value)} (${between(interval)})`
  const series = lines.flatMap(l => {
    const line = { showMark: false, curve: 'linear' as const, color: l.color }
    return [
      // Bounds are a band: what lies below it is drawn without a colour.
      { ...line, id: `low ${l.id}`, data: l.values.map(v => within(v.interval[0]) - bottom), stack: l.id, area: true, color: 'transparent' },
      { ...line, id: `band ${l.id}`, data: l.values.map(v => within(v.interval[1]) - within(v.interval[0])), stack: l.id, area: true },
      {
        ...line,
        id: `rate ${l.id}`,
        label: l.name,
        data: l.values.map(v => (v.value === null ? null : within(v.value) - bottom)),
        valueFormatter: (_: number | null, { dataIndex }: { dataIndex: number }) => {
          const at = l.values[dataIndex]
          return at.value === null ? null : said(at)
        },
      },
    ]
  })
  return (
    <>
      <Box role="img" aria-label={`${differences ? 'Differences' : 'Rates'} from ${day(days[0])} to ${day(days.at(-1)!)}`} sx={bands}>
        <LineChart
          height={210}
          hideLegend
          skipAnimation
          margin={{ left: 4, right: 26, top: 10, bottom: 0 }}
          xAxis={[
            {
              data: days,
              scaleType: 'point',
              disableTicks: true,
              valueFormatter: (d: string) => day(d),
              tickLabelInterval: (_, i) => i === 0 || i === days.length - 1 || i === Math.floor(days.length / 2),
            },
          ]}
          // Values are counted from the bottom of the axis, so that bands can lie on nothing.
          yAxis={[{ min: 0, max: top - bottom, valueFormatter: (x: number) => says(x + bottom), tickNumber: 4, width: 58 }]}
          grid={{ horizontal: true }}
          series={series}
          slotProps={{ tooltip: { trigger: 'axis' } }}
        >
          {differences && <ChartsReferenceLine y={-bottom} lineStyle={{ stroke: ink[1], strokeWidth: 1.5 }} />}
        </LineChart>
      </Box>
      <ChartTable
        caption={differences ? 'Differences over time' : 'Rates over time'}
        heads={['Day', ...lines.map(l => l.name)]}
        rows={days.map((d, i) => [day(d), ...lines.map(l => said(l.values[i]))])}
      />
    </>
  )
}

// A band is an area without its edges.
const bands = {
  '& .MuiLineChart-area': { opacity: 0.16 },
  '& .MuiLineChart-line': { strokeWidth: 2.5 },
  '& .MuiLineChart-line:not([data-series^="rate"])': { display: 'none' },
}
