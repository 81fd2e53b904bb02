import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { brick, moss, paper } from '../theme'
import { StaleLine } from './StaleLine'

interface Props {
  unsaved: Parameters<typeof StaleLine>[0]['unsaved'] & { changed: boolean }
  saved: boolean
  /** What is wrong as a whole, rather than with one field. */
  wrong?: string
}

/** The foot of a form that keeps what is not saved: saves it, lets it go, and says how that went. */
export function SaveLine({ unsaved, saved, wrong }: Props) {
  return (
    <>
      <StaleLine unsaved={unsaved} />
      <Box sx={{ display: 'flex', gap: 2, alignItems: 'center', borderTop: `1px solid ${paper.line}`, pt: 2 }}>
        <Button type="submit" variant="contained" disabled={unsaved.stale}>
          Save
        </Button>
        {unsaved.changed && (
          <Button variant="outlined" onClick={unsaved.discard}>
            Discard changes
          </Button>
        )}
        {saved && (
          <Typography role="status" sx={{ color: moss.ink, fontWeight: 600 }}>
            ✓ Saved, in effect within a second
          </Typography>
        )}
        {wrong && (
          <Typography role="alert" sx={{ color: brick.main }}>
            {wrong}
          </Typography>
        )}
      </Box>
    </>
  )
}
