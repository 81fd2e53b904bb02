import Box from '@mui/material/Box'
import { LineChart } from '@mui/x-charts/LineChart'
import type { GainStep, Measure } from '../../../kinds/studio'
import { ChartTable } from '../../parts/figures/ChartTable'
import { ink, paper, plum } from '../../parts/look/theme'
import { between, percent } from '../../parts/words/say'
import { day } from '../../parts/words/time'

/** How many of those shown a piece, and of those held back, reached the goal, step by step. */
export default function BroughtOver({ steps }: { steps: GainStep[] }) {
  if (steps.length < 2) return <p style={{ color: ink[2], margin: 0 }}>The chart needs a longer time.</p>
  const top = Math.min(1, Math.max(0.02, ...steps.flatMap(s => [s.shown.visitors ? s.shown.interval[1] : 0, s.held.rate ?? 0])) * 1.08)
  const line = { showMark: false, curve: 'linear' as const }
  const says =
    (of: (s: GainStep) => Measure) =>
    (_: number | null, { dataIndex }: { dataIndex: number }) => {
      const m = of(steps[dataIndex])
      return m.rate === null ? null : `${percent(m.rate)} of ${m.visitors} (${between(m.interval)})`
    }
  const only = (m: Measure, value: number) => (m.visitors ? Math.min(value, top) : null)
  const said = (m: Measure) => (m.rate === null ? '–' : `${percent(m.rate)} of ${m.visitors} (${between(m.interval)})`)
  return (
    <>
      <Box role="img" aria-label={`Weeks from ${day(steps[0].day)} to ${day(steps.at(-1)!.day)}`} sx={look}>
        <LineChart
          height={190}
          hideLegend
          skipAnimation
          margin={{ left: 0, right: 20, top: 8, bottom: 0 }}
          xAxis={[
            {
              data: steps.map(s => s.day),
              scaleType: 'point',
              valueFormatter: (d: string) => day(d),
              disableTicks: true,
              tickLabelInterval: (_, i) => i === 0 || i === steps.length - 1 || i === Math.floor(steps.length / 2),
            },
          ]}
          yAxis={[{ min: 0, max: top, valueFormatter: (x: number) => percent(x), tickNumber: 4, width: 54 }]}
          grid={{ horizontal: true }}
          series={[
            { ...line, id: 'low', data: steps.map(s => only(s.shown, s.shown.interval[0])), stack: 'band', area: true, color: 'transparent' },
            {
              ...line,
              id: 'band',
              data: steps.map(s => only(s.shown, s.shown.interval[1] - s.shown.interval[0])),
              stack: 'band',
              area: true,
              color: plum.main,
            },
            {
              ...line,
              id: 'shown',
              label: 'Shown a piece',
              data: steps.map(s => only(s.shown, s.shown.rate ?? 0)),
              color: plum.main,
              valueFormatter: says(s => s.shown),
            },
            {
              ...line,
              id: 'held',
              label: 'Held back',
              data: steps.map(s => only(s.held, s.held.rate ?? 0)),
              color: paper.strong,
              valueFormatter: says(s => s.held),
            },
          ]}
          slotProps={{ tooltip: { trigger: 'axis' } }}
        />
      </Box>
      <ChartTable
        caption="Who reached the goal, over time"
        heads={['From', 'Shown a piece', 'Held back']}
        rows={steps.map(s => [day(s.day), said(s.shown), said(s.held)])}
      />
    </>
  )
}

const look = {
  '& .MuiLineChart-area': { opacity: 0.16 },
  '& .MuiLineChart-line': { strokeWidth: 2.5 },
  '& .MuiLineChart-line[data-series=low], & .MuiLineChart-line[data-series=band]': { display: 'none' },
  '& .MuiLineChart-line[data-series=held]': { strokeDasharray: '5 4' },
}
