import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import type { SiteCost } from '../../../kinds/studio'
import { apricot, brick, ink, paper, plum } from '../../parts/look/theme'
import { count, percent } from '../../parts/words/say'

const often = ['Never interrupted', 'Once a visit', 'Twice', 'Three or more']
const colors = [plum.main, plum.main, apricot.main, brick.main]

/** What the pieces cost visitors: interruptions, quick closes, leaving, and the page itself. */
export function Cost({ cost: c }: { cost: SiteCost }) {
  const all = c.visits.reduce((n, v) => n + v, 0)
  const line = { fontSize: 13.5, py: '4px', color: ink[2], '& b': { color: ink[1] } } as const
  return (
    <>
      {all > 0 ? (
        <Box component="table" aria-label="Visits by how many pieces came over the page" sx={{ width: '100%', fontSize: 13.5, borderSpacing: '0 5px' }}>
          <tbody>
            {c.visits.map((n, i) => (
              <tr key={often[i]}>
                <Box component="td" sx={{ whiteSpace: 'nowrap', pr: '12px', width: '1px' }}>
                  {often[i]}
                </Box>
                <td aria-hidden>
                  <Box data-hue sx={{ height: 13, background: colors[i], borderRadius: '3px', width: `${(100 * n) / all}%`, minWidth: n ? 3 : 0 }} />
                </td>
                <Box component="td" sx={{ textAlign: 'end', fontWeight: 650, width: 66, whiteSpace: 'nowrap' }} title={`${count(n)} visits`}>
                  {percent(n / all)}
                </Box>
              </tr>
            ))}
          </tbody>
        </Box>
      ) : (
        <Typography color="textSecondary">No visits recorded in this time.</Typography>
      )}
      {all > 0 && (
        <Typography variant="body2" color="textSecondary">
          Visits, by how many pieces came over the page.
        </Typography>
      )}
      <Box sx={{ borderTop: `1px solid ${paper.line}`, mt: '8px', pt: '6px' }}>
        {c.quick.rate !== null && (
          <Box sx={line}>
            Closed within 2 s: <b>{percent(c.quick.rate)}</b> of {count(c.quick.visitors)} showings
            {c.worst && c.worst.quick.rate! > c.quick.rate && `; ${c.worst.name} ${percent(c.worst.quick.rate!)}`}
          </Box>
        )}
        {c.left.rate !== null && (
          <Box sx={line}>
            Left the page within 10 s after one: <b>{percent(c.left.rate)}</b>
            {c.held_left.rate !== null &&
              `; where it was held back ${percent(c.held_left.rate)}, ${c.left_differs ? 'a real difference' : 'which may be chance'}`}
          </Box>
        )}
        {c.page.views > 0 ? (
          <>
            <Box sx={line}>
              The script loads <b>{Math.round(c.page.bytes / 1024)} KB</b> and keeps the page busy for <b>{c.page.busy_ms.toFixed(1)} ms</b>; people notice from
              50 ms on.
            </Box>
            {c.page.shift !== null && (
              <Box sx={line}>
                How much the page jumps (layout shift): <b>{c.page.shift.toFixed(3)}</b>
                {c.page.shift_without !== null && `, ${c.page.shift_without.toFixed(3)} without a piece`}. Up to 0.1 is good.
              </Box>
            )}
            {c.page.paint !== null && c.page.paint_without !== null && (
              <Box sx={line}>
                Until the main content is there (largest paint): <b>{(c.page.paint / 1000).toFixed(2)} s</b> with a piece,{' '}
                {(c.page.paint_without / 1000).toFixed(2)} s without
                {c.page.paint_ratio && `: ${c.page.paint_ratio[0].toFixed(2)} to ${c.page.paint_ratio[1].toFixed(2)} times as long`}. Up to 2.5 s is good.
              </Box>
            )}
            <Typography variant="body2" color="textSecondary">
              {count(c.page.views)} page views measured, {count(c.page.shown)} with a piece
              {c.sample < 100 && `; visits of ${c.sample} % of visitors`}
            </Typography>
          </>
        ) : (
          <Box sx={line}>No page view was measured in this time.</Box>
        )}
      </Box>
    </>
  )
}
