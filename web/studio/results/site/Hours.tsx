import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import { ink, plum } from '../../parts/look/theme'
import { counted, percent } from '../../parts/words/say'

const days = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
const window = 3 // hours of the best time of day

/** How dark an hour is, by its share of the most. */
const shade = (share: number) => 0.06 + 0.9 * share

/** Conversions of each hour of each weekday: the darker, the more; each says its count. */
export function Hours({ hours }: { hours: number[][] }) {
  const most = Math.max(0, ...hours.flat())
  const all = hours.flat().reduce((n, x) => n + x, 0)
  if (!all) return <Typography color="textSecondary">Nobody converted in this time.</Typography>
  const byHour = Array.from({ length: 24 }, (_, h) => hours.reduce((n, d) => n + d[h], 0))
  const sums = byHour.map((_, h) => Array.from({ length: window }, (_, i) => byHour[(h + i) % 24]).reduce((n, x) => n + x, 0))
  const best = sums.indexOf(Math.max(...sums))
  return (
    <>
      <Box
        component="table"
        aria-label="Conversions by weekday and hour"
        sx={{ width: '100%', borderSpacing: '2px', tableLayout: 'fixed', fontSize: 11.5, color: ink[2] }}
      >
        <tbody>
          {hours.map((row, d) => (
            <tr key={days[d]}>
              <Box component="th" scope="row" sx={{ width: 32, textAlign: 'start', fontWeight: 500 }}>
                {days[d]}
              </Box>
              {row.map((n, h) => (
                <Box
                  component="td"
                  key={h}
                  title={`${days[d]} ${h}:00 to ${h + 1}:00: ${counted(n, 'conversion')}`}
                  data-hue
                  sx={{ height: 17, p: 0, borderRadius: '3px', background: plum.main, fontSize: 0 }}
                  style={{ opacity: shade(n / most) }}
                >
                  {n}
                </Box>
              ))}
            </tr>
          ))}
          <tr aria-hidden>
            <td />
            {[0, 6, 12, 18].map(h => (
              <td key={h} colSpan={6}>
                {h} h
              </td>
            ))}
          </tr>
        </tbody>
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: '6px', mt: '6px', fontSize: 12, color: ink[2] }}>
        0
        {[0, 0.25, 0.5, 0.75, 1].map(share => (
          <Box key={share} aria-hidden data-hue sx={{ width: 18, height: 12, borderRadius: '3px', background: plum.main }} style={{ opacity: shade(share) }} />
        ))}
        {counted(most, 'conversion')} in an hour of the week
      </Box>
      <Typography variant="body2" color="textSecondary" sx={{ mt: '8px' }}>
        {best} to {(best + window) % 24} h brings {percent(sums[best] / all)} of {counted(all, 'conversion')}, on the site’s clock.
      </Typography>
    </>
  )
}
