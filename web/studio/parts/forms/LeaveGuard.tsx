import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import { useBlocker } from 'react-router'

interface Props {
  /** What has unsaved changes; empty: nothing. */
  unsaved: string
  /** Saves, and says whether that worked. */
  save(): Promise<boolean>
}

/** Asks before a screen with unsaved changes is left. */
export function LeaveGuard({ unsaved, save }: Props) {
  const blocker = useBlocker(({ currentLocation, nextLocation }) => !!unsaved && currentLocation.pathname !== nextLocation.pathname)
  if (blocker.state !== 'blocked') return null
  return (
    <Dialog open onClose={() => blocker.reset()} aria-labelledby="leave-title" maxWidth="xs" fullWidth>
      <DialogTitle id="leave-title" variant="h2">
        Save your changes to {unsaved}?
      </DialogTitle>
      <DialogContent>If you leave without saving, they stay in this browser and nothing changes for visitors.</DialogContent>
      <DialogActions sx={{ p: 2, flexWrap: 'wrap', gap: 1 }}>
        <Button variant="outlined" onClick={() => blocker.reset()}>
          Stay
        </Button>
        <Button variant="outlined" onClick={() => blocker.proceed()}>
          Leave without saving
        </Button>
        <Button variant="contained" onClick={async () => ((await save()) ? blocker.proceed() : blocker.reset())}>
          Save and leave
        </Button>
      </DialogActions>
    </Dialog>
  )
}
