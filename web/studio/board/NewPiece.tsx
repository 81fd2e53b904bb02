import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import MenuItem from '@mui/material/MenuItem'
import TextField from '@mui/material/TextField'
import Typography from '@mui/material/Typography'
import { type FormEvent, useState } from 'react'
import { useNavigate } from 'react-router'
import type { Format } from '../../kinds/piece'
import type { Card, PieceInfo } from '../../kinds/studio'
import { api, type Trouble } from '../api'
import { useSite } from '../queries'
import { brick, ink, paper, plum } from '../theme'

const choices: [Format, string, string][] = [
  ['popup', 'Popup', 'In the middle, with the page dimmed behind it.'],
  ['fly_in', 'Fly-in', 'Slides into a corner; the page stays usable.'],
]

/** Asks what a new piece should be, and opens it. */
export function NewPiece({ open, onClose, cards }: { open: boolean; onClose(): void; cards: Card[] }) {
  const site = useSite().id
  const go = useNavigate()
  const [format, setFormat] = useState<Format>('popup')
  const [from, setFrom] = useState('')
  const [trouble, setTrouble] = useState<Trouble | null>(null)
  const submit = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault()
    try {
      const name = new FormData(e.currentTarget).get('name')
      const made = await api<PieceInfo>('POST', `/sites/${site}/pieces`, { name, format, copy_of: from })
      go(`/pieces/${made.id}/compose`)
    } catch (e) {
      setTrouble(e as Trouble)
    }
  }
  const wrongName = trouble?.faults.find(f => f.at === 'name')?.message
  return (
    <Dialog
      open={open}
      onClose={onClose}
      aria-labelledby="new-piece"
      slotProps={{ paper: { component: 'form', onSubmit: submit, sx: { width: 520 } } as never }}
    >
      <DialogTitle id="new-piece" variant="h2">
        New piece
      </DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 2, pt: '8px !important' }}>
        <TextField
          name="name"
          label="What is it for?"
          placeholder="Spring glaze letter"
          autoFocus
          error={!!wrongName}
          helperText={wrongName ?? 'Only you see this name.'}
          slotProps={{ htmlInput: { maxLength: 120 } }}
        />
        <TextField select label="Start from" value={from} onChange={e => setFrom(e.target.value)}>
          <MenuItem value="">A sign-up with a thank-you</MenuItem>
          {cards.map(c => (
            <MenuItem key={c.id} value={c.id}>
              A copy of “{c.name}”
            </MenuItem>
          ))}
        </TextField>
        {!from && (
          <Box role="radiogroup" aria-label="Format" sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1.5 }}>
            {choices.map(([key, name, about]) => (
              <ButtonBase
                key={key}
                role="radio"
                aria-checked={format === key}
                onClick={() => setFormat(key)}
                sx={{
                  display: 'block',
                  textAlign: 'start',
                  p: '10px 12px 12px',
                  borderRadius: '8px',
                  border: `1px solid ${format === key ? plum.main : paper.line}`,
                  boxShadow: format === key ? `inset 0 0 0 1px ${plum.main}` : 'none',
                  background: format === key ? plum.wash : 'none',
                }}
              >
                <Sketch format={key} />
                <Typography sx={{ fontWeight: 650, mt: 1 }}>{name}</Typography>
                <Typography variant="body2" color="textSecondary">
                  {about}
                </Typography>
              </ButtonBase>
            ))}
          </Box>
        )}
        {trouble && !wrongName && <Typography sx={{ color: brick.main, fontWeight: 600 }}>{trouble.message}</Typography>}
      </DialogContent>
      <DialogActions sx={{ p: '4px 24px 20px' }}>
        <Button onClick={onClose} sx={{ color: ink[2] }}>
          Not now
        </Button>
        <Button type="submit" variant="contained">
          Make it
        </Button>
      </DialogActions>
    </Dialog>
  )
}

function Sketch({ format }: { format: Format }) {
  const box = format === 'popup' ? { x: 62, y: 22, w: 76, h: 50 } : { x: 128, y: 40, w: 62, h: 44 }
  return (
    <svg viewBox="0 0 200 94" width="100%" aria-hidden="true">
      <rect width="200" height="94" rx="6" fill={format === 'popup' ? '#cfc3ae' : '#ece3d3'} />
      {[14, 28, 42, 56, 70].map((y, i) => (
        <rect key={y} x="12" y={y} width={i ? 150 - (i % 3) * 22 : 60} height={i ? 5 : 8} rx="2" fill="#b9ab96" opacity=".55" />
      ))}
      <rect x={box.x} y={box.y} width={box.w} height={box.h} rx="5" fill={paper.sheet} stroke={paper.strong} />
      <rect x={box.x + 9} y={box.y + 9} width={box.w - 32} height="6" rx="2" fill={ink[1]} />
      <rect x={box.x + 9} y={box.y + 20} width={box.w - 18} height="4" rx="2" fill="#cbbfae" />
      <rect x={box.x + 9} y={box.y + box.h - 16} width={box.w - 18} height="9" rx="3" fill={plum.main} />
    </svg>
  )
}
