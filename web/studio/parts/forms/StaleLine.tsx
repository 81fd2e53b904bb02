import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import { apricot } from '../look/theme'
import type { FormStanding } from './savedForm'

interface Props {
  standing: FormStanding
  saved: { discard(): void; keepMine(): void }
}

/** Says that another window saved the same meanwhile, with what can be done about it. */
export function StaleLine({ standing, saved }: Props) {
  if (!standing.stale) return null
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
      <Button size="small" variant="outlined" onClick={() => saved.discard()}>
        Discard my changes
      </Button>
      <Button size="small" variant="contained" onClick={() => saved.keepMine()}>
        Keep my changes
      </Button>
    </Box>
  )
}
