import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import { useState } from 'react'
import type { Block, Scene } from '../../kinds/piece'
import type { KeepsakeInfo } from '../../kinds/studio'
import { api, type Trouble } from '../api'
import { tell } from '../parts/Told'
import { client, useSite } from '../queries'

/** Asks for a name and keeps a block or a scene for other pieces. */
export function KeepIt({ kind, body, name: first, onClose }: { kind: 'block' | 'scene'; body: Block | Scene; name: string; onClose(): void }) {
  const site = useSite().id
  const [name, setName] = useState(first)
  const [wrong, setWrong] = useState('')
  const keep = async () => {
    try {
      await api<KeepsakeInfo>('POST', `/sites/${site}/keepsakes`, { kind, name, body })
      client.invalidateQueries({ queryKey: ['keepsakes', site] })
      tell(`Kept. You find it under More, in every piece.`)
      onClose()
    } catch (e) {
      setWrong((e as Trouble).faults[0]?.message ?? (e as Trouble).message)
    }
  }
  return (
    <Dialog open onClose={onClose} aria-labelledby="keep-title" onKeyDown={e => e.stopPropagation()}>
      <DialogTitle id="keep-title" variant="h2">
        Keep this {kind} for other pieces
      </DialogTitle>
      <DialogContent sx={{ width: 380 }}>
        <TextField
          autoFocus
          label="What is it called?"
          value={name}
          onChange={e => setName(e.target.value)}
          onKeyDown={e => e.key === 'Enter' && keep()}
          error={!!wrong}
          helperText={wrong}
          sx={{ mt: 1 }}
          slotProps={{ htmlInput: { maxLength: 120 } }}
        />
      </DialogContent>
      <DialogActions sx={{ p: 2 }}>
        <Button variant="outlined" onClick={onClose}>
          Leave it
        </Button>
        <Button variant="contained" onClick={keep}>
          Keep it
        </Button>
      </DialogActions>
    </Dialog>
  )
}
