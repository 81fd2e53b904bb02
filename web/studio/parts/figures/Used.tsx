import Box from '@mui/material/Box'
import { Link } from 'react-router'
import type { UsedIn } from '../../../kinds/studio'
import { useAddress } from '../../server/queries'
import { ink } from '../look/theme'

const shown = 3

/** The pieces that use something. */
export function Used({ used }: { used: UsedIn[] }) {
  const at = useAddress()
  if (!used.length) return <Box sx={{ fontSize: 12.5, color: ink[2] }}>Not used</Box>
  return (
    <Box sx={{ fontSize: 12.5, color: ink[2] }}>
      Used in{' '}
      {used.slice(0, shown).map((u, i) => (
        <span key={u.id}>
          {i > 0 && ', '}
          <Link to={at(`/pieces/${u.id}/compose`)}>{u.name}</Link>
        </span>
      ))}
      {used.length > shown && ` and ${used.length - shown} more`}
    </Box>
  )
}
