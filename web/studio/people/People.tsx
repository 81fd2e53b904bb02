import Download from '@mui/icons-material/Download'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'
import { useDeferredValue, useState } from 'react'
import { Sheet } from '../parts/Sheet'
import { counted } from '../parts/say'
import { useSite } from '../queries'
import { LeadTable } from './LeadTable'

/** Everyone who left a way to be reached. */
export function People() {
  const site = useSite().id
  const [search, setSearch] = useState('')
  const [total, setTotal] = useState<number | null>(null)
  const asked = useDeferredValue(search.trim())
  return (
    <Box component="main" sx={{ p: '22px 26px 40px', maxWidth: 1300, width: '100%', mx: 'auto' }}>
      <Box sx={{ display: 'flex', alignItems: 'flex-end', gap: 2, mb: '16px' }}>
        <Box sx={{ flex: 1 }}>
          <Typography variant="h1">People</Typography>
          <Typography color="textSecondary" aria-live="polite">
            {total === null ? ' ' : asked ? `${counted(total, 'person', 'people')} found` : `${counted(total, 'person', 'people')} left an address`}
          </Typography>
        </Box>
        <OutlinedInput
          size="small"
          type="search"
          placeholder="Name, address or answer"
          value={search}
          onChange={e => setSearch(e.target.value)}
          inputProps={{ 'aria-label': 'Search people', maxLength: 200 }}
          sx={{ width: 270 }}
        />
        <Button variant="outlined" startIcon={<Download />} href={`/api/sites/${site}/people.csv?${new URLSearchParams({ q: asked })}`} download>
          CSV
        </Button>
      </Box>
      <Sheet>
        <LeadTable key={asked} search={asked} piece="" onTotal={setTotal} />
      </Sheet>
    </Box>
  )
}
