import Box from '@mui/material/Box'
import { Link as RouterLink } from 'react-router'
import { useAddress, useAlerts } from '../../server/queries'
import { apricot } from '../look/theme'
import { moment } from '../words/time'

/** What is not as usual on the site, with the way to it; nothing where all is. */
export function AlertLines() {
  const alerts = useAlerts().data?.alerts ?? []
  const at = useAddress()
  if (!alerts.length) return null
  return (
    <Box component="ul" aria-label="Alerts" sx={{ listStyle: 'none', m: 0, p: 0, display: 'grid', gap: '8px' }}>
      {alerts.map(({ alert: a, since }) => (
        <Box
          component="li"
          key={a.kind + a.say}
          data-alert={a.kind}
          sx={{
            background: apricot.wash,
            color: apricot.ink,
            borderRadius: '8px',
            p: '9px 14px',
            fontWeight: 550,
            display: 'flex',
            gap: 2,
            alignItems: 'baseline',
          }}
        >
          <span>
            {a.say}
            {since && (
              <Box component="span" sx={{ fontWeight: 400 }}>
                {' '}
                Seen first {moment(since)}.
              </Box>
            )}
          </span>
          {a.piece && (
            <Box component={RouterLink} to={at(`/pieces/${a.piece}/results`)} sx={{ ml: 'auto', flex: 'none', color: 'inherit' }}>
              See its results
            </Box>
          )}
        </Box>
      ))}
    </Box>
  )
}
