import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import { apricot } from '../theme'

/** Says that another window saved meanwhile, with what can be done about it. */
export function StaleLine({ unsaved }: { unsaved: { stale: boolean; discard(): void; keepMine(): void } }) {
  if (!unsaved.stale) return null
  return (
    <Box
      role="alert"
      sx={{
        display: 'flex',
        gap: 1.5,
        alignItems: 'center',
        flexWrap: 'wrap',
        p: '10px 14px',
        borderRadius: '8px',
        background: apricot.wash,
        color: apricot.ink,
      }}
    >
      <Box sx={{ flex: 1, minWidth: 240, fontWeight: 600 }}>This was changed in another window. Your changes are still here, unsaved.</Box>
      <Button size="small" variant="outlined" onClick={unsaved.discard}>
        Discard my changes
      </Button>
      <Button size="small" variant="contained" onClick={unsaved.keepMine}>
        Keep my changes
      </Button>
    </Box>
  )
}
