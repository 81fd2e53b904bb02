import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import { Sheet } from '../parts/look/Sheet'
import { ink } from '../parts/look/theme'
import { counted } from '../parts/words/say'
import { useAddress, useAlerts } from '../server/queries'

const reasons = { robot: 'names itself a robot', automated: 'driven by a program', team: 'your team' }

/** What was left out of all counts, by which rule. */
export function LeftOut() {
  const { data } = useAlerts()
  const at = useAddress()
  if (!data) return null
  return (
    <Sheet id="left-out" aria-label="Left out">
      <Typography variant="h3" component="h2" sx={{ mb: '6px' }}>
        Left out of all counts
      </Typography>
      {data.left_out.length ? (
        <Box component="table" sx={{ fontSize: 13.5, width: '100%', '& td': { py: '2px' } }}>
          <tbody>
            {data.left_out.slice(0, 8).map(l => (
              <tr key={l.why + l.what}>
                <td>{l.what}</td>
                <Box component="td" sx={{ color: ink[2] }}>
                  {reasons[l.why]}
                </Box>
                <Box component="td" sx={{ textAlign: 'end' }}>
                  {counted(l.events, 'event')}
                </Box>
              </tr>
            ))}
          </tbody>
        </Box>
      ) : (
        <Typography color="textSecondary">Nothing in the last {data.days} days.</Typography>
      )}
      <Typography variant="body2" color="textSecondary" sx={{ mt: '6px' }}>
        By rule: browsers that name themselves a robot, browsers driven by a program, browsers that ask not to be tracked, and the addresses of your team in{' '}
        <a href={at('/settings')}>Site</a>.
      </Typography>
    </Sheet>
  )
}
