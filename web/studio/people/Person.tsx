import Close from '@mui/icons-material/Close'
import Box from '@mui/material/Box'
import IconButton from '@mui/material/IconButton'
import Typography from '@mui/material/Typography'
import type { ReactNode } from 'react'
import { Link } from 'react-router'
import type { LeadRow, WalkRow } from '../../kinds/studio'
import { paper } from '../parts/look/theme'
import { counted } from '../parts/words/say'
import { moment } from '../parts/words/time'
import { useAddress } from '../server/queries'

/** One person and their answers to each piece, the latest first. */
export function Person({ lead, onClose }: { lead: LeadRow; onClose(): void }) {
  return (
    <Box sx={{ width: 420, maxWidth: '92vw', p: '20px 24px', background: paper.sheet, minHeight: '100%' }}>
      <Box sx={{ display: 'flex', alignItems: 'flex-start' }}>
        <Typography variant="h2" sx={{ overflowWrap: 'anywhere', flex: 1 }}>
          {lead.name || lead.email}
        </Typography>
        <IconButton aria-label="Close" onClick={onClose}>
          <Close />
        </IconButton>
      </Box>
      <Lines
        lines={[
          ['Email', lead.email],
          ['First seen', moment(lead.first_at)],
          ['Last seen', moment(lead.last_at)],
        ]}
      />
      {lead.walks.map(walk => (
        <Answered key={walk.id} walk={walk} />
      ))}
      {lead.times > lead.walks.length && (
        <Typography color="textSecondary" sx={{ mt: 2 }}>
          and {counted(lead.times - lead.walks.length, 'earlier submission')}
        </Typography>
      )}
    </Box>
  )
}

/** The answers to one piece at one time. */
function Answered({ walk }: { walk: WalkRow }) {
  const at = useAddress()
  return (
    <Box component="section" aria-label={`${walk.piece}, ${moment(walk.at)}`} sx={{ mt: '18px', pt: '12px', borderTop: `1px solid ${paper.line}` }}>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'baseline', mb: '8px' }}>
        <Typography variant="h3" sx={{ flex: 1, fontSize: 15.5 }}>
          <Link to={at(`/pieces/${walk.piece_id}/results`)}>{walk.piece}</Link>
        </Typography>
        <Typography variant="body2" color="textSecondary">
          {moment(walk.at)}
        </Typography>
      </Box>
      <Lines
        lines={[
          ...Object.entries(walk.answers)
            .filter(([key]) => key !== 'email')
            .map(([key, answer]): [string, ReactNode] => [key.charAt(0).toUpperCase() + key.slice(1).replaceAll('_', ' '), answer]),
          ['Variant', walk.variant],
          ['Page', walk.page],
          ['Source', [walk.channel, walk.campaign, walk.referrer].filter(Boolean).join(' · ')],
        ]}
      />
    </Box>
  )
}

const Lines = ({ lines }: { lines: [string, ReactNode][] }) => (
  <Box
    component="dl"
    sx={{
      m: 0,
      display: 'grid',
      gridTemplateColumns: '92px 1fr',
      gap: '7px 12px',
      '& dt': { color: 'text.secondary' },
      '& dd': { m: 0, overflowWrap: 'anywhere', whiteSpace: 'pre-wrap' },
    }}
  >
    {lines.map(([name, value]) => (
      <Box key={name} sx={{ display: 'contents' }}>
        <dt>{name}</dt>
        <dd>{value || '–'}</dd>
      </Box>
    ))}
  </Box>
)
