import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import FormControlLabel from '@mui/material/FormControlLabel'
import Radio from '@mui/material/Radio'
import RadioGroup from '@mui/material/RadioGroup'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import type { StateChange } from '../../kinds/studio'
import { api, type Trouble } from '../api'
import { DateTimeField } from '../parts/DateTimeField'
import { counted } from '../parts/say'
import { toast } from '../parts/toast'
import { wallIn } from '../parts/zone'
import { refreshPieces, useSite } from '../queries'
import { brick } from '../theme'

/** Asks whether everything is paused for good or until a time, and pauses it. */
export function PauseAll({ live, onClose }: { live: number; onClose(): void }) {
  const site = useSite()
  const [timed, setTimed] = useState(true)
  // Tomorrow at nine, on the site's clock.
  const [until, setUntil] = useState(() => `${wallIn(site.zone, new Date(Date.now() + 86_400_000)).slice(0, 10)}T09:00`)
  const [wrong, setWrong] = useState('')
  const [busy, setBusy] = useState(false)
  const pause = async () => {
    setBusy(true)
    try {
      const done = await api<StateChange>('POST', `/sites/${site.id}/pause`, { pieces: [], until: timed ? until : '' })
      refreshPieces(site.id)
      toast(`${counted(done.pieces.length, 'piece')} paused.`)
      onClose()
    } catch (e) {
      const { faults, message } = e as Trouble
      setWrong(faults[0] ? `The time ${faults[0].message}.` : message)
    }
    setBusy(false)
  }
  return (
    <Dialog open onClose={onClose} aria-labelledby="pause-title" maxWidth="xs" fullWidth>
      <DialogTitle id="pause-title" variant="h2">
        Pause all live pieces
      </DialogTitle>
      <DialogContent>
        <Typography color="textSecondary" sx={{ mb: 1 }}>
          {counted(live, 'piece')} will not show on {site.name} until resumed.
        </Typography>
        <RadioGroup value={timed ? 'until' : 'resumed'} onChange={(_, v) => setTimed(v === 'until')} aria-label="How long">
          <FormControlLabel value="until" control={<Radio size="small" />} label="Until a date and time" />
          {timed && (
            <Box sx={{ pl: '30px', pb: 1 }}>
              <DateTimeField label="Resume at" value={until} onChange={setUntil} wrong={!!wrong} />
            </Box>
          )}
          <FormControlLabel value="resumed" control={<Radio size="small" />} label="Until I resume them" />
        </RadioGroup>
        {wrong && (
          <Typography role="alert" sx={{ color: brick.main, fontWeight: 600 }}>
            {wrong}
          </Typography>
        )}
      </DialogContent>
      <DialogActions sx={{ p: 2 }}>
        <Button variant="outlined" onClick={onClose}>
          Cancel
        </Button>
        <Button variant="contained" onClick={pause} disabled={busy}>
          Pause all
        </Button>
      </DialogActions>
    </Dialog>
  )
}
