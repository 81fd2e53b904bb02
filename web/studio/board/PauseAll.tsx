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
import { DateTimeField } from '../parts/forms/DateTimeField'
import { TextButton } from '../parts/look/TextButton'
import { brick } from '../parts/look/theme'
import { toast } from '../parts/look/toast'
import { counted } from '../parts/words/say'
import { moment, nowHere } from '../parts/words/time'
import { api, type Trouble } from '../server/api'
import { refreshPieces, useSite } from '../server/queries'
import { usualEnd, usualStart, weekend } from './pauseTimes'

/** Asks from when, and whether for good or until a time, everything is paused, and pauses it. */
export function PauseAll({ live, onClose }: { live: number; onClose(): void }) {
  const site = useSite()
  const [planned, setPlanned] = useState(false)
  const [timed, setTimed] = useState(true)
  const now = nowHere()
  const [from, setFrom] = useState(() => usualStart(now))
  // Until one is chosen, the end goes with the start.
  const [end, setUntil] = useState<string>()
  const until = end ?? usualEnd(planned ? from : now, now)
  const [wrong, setWrong] = useState('')
  const [busy, setBusy] = useState(false)
  const pause = async () => {
    setBusy(true)
    try {
      const done = await api(
        'POST /sites/:site/pause',
        { site: site.id },
        {
          body: {
            pieces: [],
            all: true,
            from: planned ? from : '',
            until: timed ? until : '',
          },
        },
      )
      refreshPieces(site.id)
      toast(`${counted(done.pieces.length, 'piece')} ${done.from ? `will pause on ${moment(done.from)}` : 'paused'}.`)
      onClose()
    } catch (e) {
      const { faults, message } = e as Trouble
      setWrong(faults[0] ? `${faults[0].at === 'from' ? 'The start' : 'The end'} ${faults[0].message}.` : message)
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
        <TextButton
          onClick={() => {
            const next = weekend(now)
            setPlanned(true)
            setFrom(next.from)
            setTimed(true)
            setUntil(next.until)
          }}
        >
          From Friday evening to Monday
        </TextButton>
        <RadioGroup value={planned ? 'planned' : 'now'} onChange={(_, v) => setPlanned(v === 'planned')} aria-label="Start">
          <FormControlLabel value="now" control={<Radio size="small" />} label="Start now" />
          <FormControlLabel value="planned" control={<Radio size="small" />} label="Start at a date and time" />
          {planned && (
            <Box sx={{ pl: '30px', pb: 1 }}>
              <DateTimeField label="Pause at" value={from} onChange={setFrom} wrong={wrong.startsWith('The start')} />
            </Box>
          )}
        </RadioGroup>
        <RadioGroup value={timed ? 'until' : 'resumed'} onChange={(_, v) => setTimed(v === 'until')} aria-label="How long">
          <FormControlLabel value="until" control={<Radio size="small" />} label="Until a date and time" />
          {timed && (
            <Box sx={{ pl: '30px', pb: 1 }}>
              <DateTimeField label="Resume at" value={until} onChange={setUntil} wrong={wrong.startsWith('The end')} />
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
          {planned ? 'Plan the pause' : 'Pause all'}
        </Button>
      </DialogActions>
    </Dialog>
  )
}
