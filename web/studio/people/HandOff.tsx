import Download from '@mui/icons-material/Download'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import { Link } from 'react-router'
import { Sheet } from '../parts/look/Sheet'
import { counted } from '../parts/words/say'
import { addressOf } from '../server/api'
import { noFilter, useAddress, usePieceID, useSite } from '../server/queries'
import { LeadTable } from './LeadTable'

/** Where the leads of this piece go, and who they are. */
export function HandOff() {
  const piece = usePieceID()
  const at = useAddress()
  const site = useSite().id
  const [total, setTotal] = useState<number | null>(null)
  return (
    <Box sx={{ p: '18px 24px 28px', display: 'grid', gap: '18px', width: '100%', maxWidth: 1300, mx: 'auto' }}>
      <Sheet bitten sx={{ display: 'flex', alignItems: 'center', gap: 2, pr: '44px' }}>
        <Box sx={{ flex: 1 }}>
          <Typography variant="h2" sx={{ fontSize: 21 }}>
            Leads of this piece go to People.
          </Typography>
          <Typography color="textSecondary">
            Each is saved with its piece, variant, page and source. <Link to={at(`/people?piece=${piece}`)}>Open in People</Link>
          </Typography>
        </Box>
        <Button variant="outlined" startIcon={<Download />} href={addressOf('GET /sites/:site/people.csv', { site }, { piece })} download>
          Export CSV
        </Button>
      </Sheet>
      <Sheet>
        <Typography variant="h3" component="h2" sx={{ mb: '6px' }}>
          {total === null ? 'People from this piece' : `${counted(total, 'person', 'people')} from this piece`}
        </Typography>
        <LeadTable filter={{ ...noFilter, piece }} onTotal={setTotal} />
      </Sheet>
    </Box>
  )
}
