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
import type { PieceInfo } from '../../kinds/studio'
import { api, type Trouble } from '../api'
import { letters } from '../parts/say'
import { toast } from '../parts/toast'
import { change, replace, save, useDraft } from '../piece/draft'
import { client, refreshPieces, useSite } from '../queries'
import { brick } from '../theme'

/** Makes one variant the only one: for everyone, or for those who have not seen another. */
export function Winner({ info, i, onClose }: { info: PieceInfo; i: number; onClose(): void }) {
  const site = useSite().id
  const doc = useDraft(s => s.doc)!
  const version = useDraft(s => s.version)
  const standing = useDraft(s => s.standing)
  const [everyone, setEveryone] = useState(true)
  const [wrong, setWrong] = useState('')
  const [busy, setBusy] = useState(false)
  const others = doc.split.variants.flatMap((_, k) => (k === i ? [] : [letters[k]])).join(', ')
  // What is in the draft besides would go live along with it.
  const launches = info.state === 'live' && info.live_version === version && standing === 'saved'
  const apply = async () => {
    setBusy(true)
    const before = doc
    change(d => {
      if (everyone) d.split.variants = [{ ...d.split.variants[i], share: 1 }]
      else for (const [k, v] of d.split.variants.entries()) v.share = k === i ? 1 : 0
    })
    const done = `${letters[i]} is now the only variant${everyone ? '' : ' for new visitors'}.`
    try {
      await save()
      const now = useDraft.getState()
      if (launches && now.standing === 'saved') {
        const next = await api<PieceInfo>('POST', `/sites/${site}/pieces/${info.id}/launch`, { version: now.version })
        client.setQueryData(['piece', site, info.id], next)
        toast(`${done} Launched.`)
      } else toast(info.state === 'live' ? `${done} Launch to put it live.` : done, false, { name: 'Undo', run: () => replace(before) })
      refreshPieces(site)
      onClose()
    } catch (e) {
      setWrong((e as Trouble).faults?.[0]?.message ?? (e as Error).message)
    }
    setBusy(false)
  }
  return (
    <Dialog open onClose={onClose} aria-labelledby="winner-title" maxWidth="xs" fullWidth>
      <DialogTitle id="winner-title" variant="h2">
        Make {letters[i]} the only one
      </DialogTitle>
      <DialogContent>
        <RadioGroup value={everyone ? 'everyone' : 'new'} onChange={(_, v) => setEveryone(v === 'everyone')} aria-label="For whom">
          <FormControlLabel value="everyone" control={<Radio size="small" />} label={`For everyone, also those who saw ${others}`} />
          <FormControlLabel value="new" control={<Radio size="small" />} label={`For new visitors; those who saw ${others} keep it`} />
        </RadioGroup>
        <Typography color="textSecondary" sx={{ mt: 1 }}>
          {everyone
            ? `${others} leaves the split. Its design stays in the version history, and its results stay below.`
            : `${others} stays in the split with a share of 0.`}
          {info.state === 'live' && (launches ? ' The change goes live at once.' : ' The draft has other changes too: launch them together.')}
        </Typography>
        {wrong && (
          <Typography role="alert" sx={{ color: brick.main, fontWeight: 600, mt: 1 }}>
            {wrong}
          </Typography>
        )}
      </DialogContent>
      <DialogActions sx={{ p: 2 }}>
        <Button variant="outlined" onClick={onClose}>
          Cancel
        </Button>
        <Button variant="contained" onClick={apply} disabled={busy}>
          {launches ? 'Apply and launch' : 'Apply'}
        </Button>
      </DialogActions>
    </Dialog>
  )
}
