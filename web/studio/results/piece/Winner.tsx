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
import type { PieceInfo } from '../../../kinds/studio'
import { brick } from '../../parts/look/theme'
import { letters } from '../../parts/words/say'
import { useDraft } from '../../piece/draft'
import type { Trouble } from '../../server/api'
import { useSite } from '../../server/queries'
import { launchesAtOnce, makeOnly } from './only'

/** Asks whether the other variants stay, and makes one the only one that visitors get. */
export function Winner({ info, i, onClose }: { info: PieceInfo; i: number; onClose(): void }) {
  const site = useSite().id
  const doc = useDraft(s => s.doc)!
  const standing = useDraft(s => s.standing)
  const [keep, setKeep] = useState(true)
  const [wrong, setWrong] = useState('')
  const [busy, setBusy] = useState(false)
  const others = doc.split.variants.flatMap((_, k) => (k === i ? [] : [letters[k]])).join(', ')
  // What is in the draft besides would go live along with it.
  const launches = launchesAtOnce(info, standing)
  const apply = async () => {
    setBusy(true)
    try {
      await makeOnly(site, info, i, keep)
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
        <RadioGroup value={keep ? 'keep' : 'delete'} onChange={(_, v) => setKeep(v === 'keep')} aria-label="The other variants">
          <FormControlLabel value="keep" control={<Radio size="small" />} label={`Keep ${others} in the split, with a share of 0`} />
          <FormControlLabel value="delete" control={<Radio size="small" />} label={`Delete ${others}; the design stays in the version history`} />
        </RadioGroup>
        <Typography color="textSecondary" sx={{ mt: 1 }}>
          Every visitor gets {letters[i]}, also those who saw another. The results so far stay.
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
