import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import type { Trouble } from '../../server/api'

interface Props {
  title: string
  /** What the name is for, where the title does not say it. */
  about?: string
  name?: string
  /** Keeps it under a name; what it throws is said at the name. */
  save(name: string): Promise<void>
  onClose(): void
}

/** Asks for the name that something is saved under. */
export function NameDialog({ title, about, name: first = '', save, onClose }: Props) {
  const [name, setName] = useState(first)
  const [wrong, setWrong] = useState('')
  const [busy, setBusy] = useState(false)
  const keep = async () => {
    setBusy(true)
    try {
      await save(name)
      onClose()
    } catch (e) {
      setWrong((e as Trouble).faults?.[0]?.message ?? (e as Error).message)
      setBusy(false)
    }
  }
  return (
    <Dialog open onClose={onClose} maxWidth="xs" fullWidth aria-labelledby="name-title" onKeyDown={e => e.stopPropagation()}>
      <DialogTitle id="name-title" variant="h2">
        {title}
      </DialogTitle>
      <DialogContent>
        {about && (
          <Typography color="textSecondary" sx={{ mb: 2 }}>
            {about}
          </Typography>
        )}
        <TextField
          autoFocus
          label="Name"
          value={name}
          onChange={e => setName(e.target.value)}
          onKeyDown={e => e.key === 'Enter' && !busy && keep()}
          error={!!wrong}
          helperText={wrong}
          sx={{ mt: about ? 0 : 1 }}
          slotProps={{ htmlInput: { maxLength: 120 } }}
        />
      </DialogContent>
      <DialogActions sx={{ p: 2 }}>
        <Button variant="outlined" onClick={onClose}>
          Cancel
        </Button>
        <Button variant="contained" onClick={keep} disabled={busy}>
          Save
        </Button>
      </DialogActions>
    </Dialog>
  )
}
