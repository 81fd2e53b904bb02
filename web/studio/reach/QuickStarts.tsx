import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import Popover from '@mui/material/Popover'
import { useState } from 'react'
import { ink, paper, plum } from '../parts/look/theme'
import { type QuickStart, quickStarts } from './quickStarts'

/** Rules to start from. What they replace can be had back with undo. */
export function QuickStarts({ onPick }: { onPick(start: QuickStart): void }) {
  const [open, setOpen] = useState<HTMLElement | null>(null)
  return (
    <>
      <Button size="small" variant="outlined" onClick={e => setOpen(e.currentTarget)} aria-haspopup="dialog">
        Start from…
      </Button>
      <Popover open={!!open} anchorEl={open} onClose={() => setOpen(null)} anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}>
        <Box role="list" aria-label="Quick starts" sx={{ width: 440, py: '6px' }}>
          {quickStarts.map(start => (
            <Box role="listitem" key={start.name}>
              <ButtonBase
                onClick={() => {
                  onPick(start)
                  setOpen(null)
                }}
                sx={{
                  display: 'block',
                  width: '100%',
                  textAlign: 'start',
                  p: '7px 16px',
                  borderBottom: `1px solid ${paper.line}`,
                  '&:hover, &:focus-visible': { background: plum.wash },
                }}
              >
                <Box sx={{ fontWeight: 600 }}>{start.name}</Box>
                <Box sx={{ color: ink[2], fontSize: 12.5 }}>{start.why}</Box>
              </ButtonBase>
            </Box>
          ))}
        </Box>
      </Popover>
    </>
  )
}
