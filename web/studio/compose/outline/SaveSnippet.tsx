import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import { useState } from 'react'
import type { Block, Scene } from '../../../kinds/piece'
import type { SnippetInfo } from '../../../kinds/studio'
import { api, type Trouble } from '../../api'
import { toast } from '../../parts/toast'
import { client, useSite } from '../../queries'

/** Saves a block or a scene under a name, to be used in other pieces. */
export function SaveSnippet({ kind, body, name: first, onClose }: { kind: 'block' | 'scene'; body: Block | Scene; name: string; onClose(): void }) {
  const site = useSite().id
  const [name, setName] = useState(first)
  const [wrong, setWrong] = useState('')
  const keep = async () => {
    try {
      await api<SnippetInfo>('POST', `/sites/${site}/snippets`, { kind, name, body })
      client.invalidateQueries({ queryKey: ['snippets', site] })
      toast('Saved. You find it under More in every piece, and in the library.')
      onClose()
    } catch (e) {
      setWrong((e as Trouble).faults[0]?.message ?? (e as Trouble).message)
    }
  }
  return (
    <Dialog open onClose={onClose} aria-labelledby="keep-title" onKeyDown={e => e.stopPropagation()}>
      <DialogTitle id="keep-title" variant="h2">
        Save this {kind} as a snippet
      </DialogTitle>
      <DialogContent sx={{ width: 380 }}>
        <TextField
          autoFocus
          label="Name"
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
          Cancel
        </Button>
        <Button variant="contained" onClick={keep}>
          Save
        </Button>
      </DialogActions>
    </Dialog>
  )
}
