import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import MenuItem from '@mui/material/MenuItem'
import TextField from '@mui/material/TextField'
import Typography from '@mui/material/Typography'
import { type FormEvent, useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import type { Drawing, Format, Frame } from '../../kinds/piece'
import { inFormat } from '../design/formats'
import { apricot, brick, ink, paper } from '../parts/look/theme'
import { Miniature } from '../parts/pages/Miniature'
import { api, type Trouble } from '../server/api'
import { formats, refreshPieces, useAddress, useSite } from '../server/queries'

/** What a new piece begins as. */
export interface Beginning {
  name: string
  format: Format
  template?: string
  /** The template of a blank piece; empty: a sign-up. */
  blank?: string
  copyOf?: string
  drawing?: Drawing
  promises?: boolean
}

/** Shows what was chosen, large and as phones have it, and asks for a name. */
export function Chosen({ from, frames, onClose }: { from: Beginning; frames?: Record<Format, Frame>; onClose(): void }) {
  const site = useSite().id
  const go = useNavigate()
  const at = useAddress()
  const [format, setFormat] = useState(from.format)
  const [begins, setBegins] = useState(from.blank ?? '')
  const [trouble, setTrouble] = useState<Trouble | null>(null)
  const [busy, setBusy] = useState(false)
  const drawing = useMemo(() => from.drawing && frames && inFormat(from.drawing, format, frames), [from, format, frames])
  const submit = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault()
    setBusy(true)
    try {
      const name = String(new FormData(e.currentTarget).get('name') ?? '')
      const made = await api(
        'POST /sites/:site/pieces',
        { site },
        { body: { name, format, copy_of: from.copyOf ?? '', template: from.template ?? (begins && format !== 'chat' ? begins : '') } },
      )
      refreshPieces(site)
      go(at(`/pieces/${made.id}/compose`))
    } catch (e) {
      setTrouble(e as Trouble)
      setBusy(false)
    }
  }
  const wrongName = trouble?.faults.find(f => f.at === 'name')?.message
  return (
    <Dialog
      open
      onClose={onClose}
      aria-labelledby="chosen"
      maxWidth={false}
      slotProps={{ paper: { component: 'form', onSubmit: submit, sx: { width: drawing ? 880 : 480 } } as never }}
    >
      <DialogTitle id="chosen" variant="h2">
        {from.copyOf ? `Duplicate “${from.name}”` : from.blank !== undefined ? 'Blank piece' : from.name}
      </DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 2, pt: '8px !important' }}>
        {drawing && (
          <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 172px', gap: 2 }}>
            <Box sx={{ borderRadius: '8px', overflow: 'hidden', border: `1px solid ${paper.line}` }}>
              <Miniature drawing={drawing} width={642} height={330} />
            </Box>
            <Box sx={{ borderRadius: '14px', overflow: 'hidden', border: `3px solid ${ink[1]}`, justifySelf: 'center' }}>
              <Miniature drawing={drawing} width={166} height={324} page={390} />
            </Box>
          </Box>
        )}
        {from.promises && (
          <Typography sx={{ p: '8px 12px', borderRadius: '8px', background: apricot.wash, color: apricot.ink, fontSize: 13.5 }}>
            Its thank-you promises a message. Gobbet collects the sign-ups and does not send it: send it from your mail tool, with the list from People.
          </Typography>
        )}
        <Box sx={{ display: 'grid', gridTemplateColumns: from.copyOf ? '1fr' : '1fr 200px', gap: 2 }}>
          <TextField
            name="name"
            label="Name"
            defaultValue={(from.copyOf ? `${from.name} (copy)` : from.name).slice(0, 120)}
            autoFocus
            onFocus={e => e.target.select()}
            error={!!wrongName}
            helperText={wrongName ?? 'Visitors do not see it.'}
            slotProps={{ htmlInput: { maxLength: 120 } }}
          />
          {!from.copyOf && (
            <TextField select label="Format" value={format} onChange={e => setFormat(e.target.value as Format)}>
              {Object.entries(formats).map(([f, name]) => (
                <MenuItem key={f} value={f}>
                  {name}
                </MenuItem>
              ))}
            </TextField>
          )}
        </Box>
        {from.blank !== undefined && (
          <TextField
            select
            label="Begins with"
            value={format === 'chat' ? 'chat' : begins}
            disabled={format === 'chat'}
            onChange={e => setBegins(e.target.value)}
            slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
          >
            {format === 'chat' && <MenuItem value="chat">A conversation: a greeting and two answers</MenuItem>}
            <MenuItem value="">A sign-up and a thank-you</MenuItem>
            <MenuItem value="blank-quiz">A quiz: questions, a sign-up and results</MenuItem>
            <MenuItem value="blank-calculator">A calculator: two inputs, a formula and a sign-up</MenuItem>
          </TextField>
        )}
        {trouble && !wrongName && (
          <Typography role="alert" sx={{ color: brick.main, fontWeight: 600 }}>
            {trouble.message}
          </Typography>
        )}
      </DialogContent>
      <DialogActions sx={{ p: '4px 24px 20px' }}>
        <Button onClick={onClose} sx={{ color: ink[2] }}>
          Cancel
        </Button>
        <Button type="submit" variant="contained" disabled={busy}>
          Create piece
        </Button>
      </DialogActions>
    </Dialog>
  )
}
