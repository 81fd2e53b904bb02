import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { brick, moss, paper } from '../look/theme'
import { StaleLine } from './StaleLine'
import type { FormStanding } from './savedForm'

interface Props {
  standing: FormStanding
  saved: { discard(): void; keepMine(): void }
}

/** The foot of a form: saves it, lets it go, and says how that went. */
export function SaveLine({ standing, saved }: Props) {
  return (
    <>
      <StaleLine standing={standing} saved={saved} />
      <Box sx={{ display: 'flex', gap: 2, alignItems: 'center', flexWrap: 'wrap', borderTop: `1px solid ${paper.line}`, pt: 2 }}>
        <Button type="submit" variant="contained" disabled={standing.stale || standing.busy}>
          {standing.busy ? 'Saving…' : 'Save'}
        </Button>
        {standing.changed && !standing.stale && (
          <Button variant="outlined" onClick={() => saved.discard()}>
            Discard changes
          </Button>
        )}
        {standing.saved && (
          <Typography role="status" sx={{ color: moss.ink, fontWeight: 600 }}>
            ✓ Saved, in effect within a second
          </Typography>
        )}
        {standing.wrong && (
          <Typography role="alert" sx={{ color: brick.main }}>
            {standing.wrong}
          </Typography>
        )}
      </Box>
    </>
  )
}
