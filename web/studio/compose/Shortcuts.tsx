import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import { paper } from '../theme'

const keys: [string, [string, string][]][] = [
  [
    'Selecting',
    [
      ['↑ ↓', 'what is above, what is below'],
      ['Escape', 'what holds it; then the frame'],
      ['Shift click', 'one more, or one less'],
      ['Drag from beside', 'all that it touches'],
      ['Ctrl A', 'everything in the scene'],
      ['Enter', 'change its words'],
    ],
  ],
  [
    'Moving',
    [
      ['Alt ↑ ↓', 'one place up or down'],
      ['Shift ↑ ↓', '4 px less or more space above'],
      ['Ctrl G', 'put into a box'],
      ['Ctrl Shift G', 'take out of its box'],
      ['Ctrl L', 'lock, or unlock'],
    ],
  ],
  [
    'Copying',
    [
      ['Ctrl C, X, V', 'copy, cut, put in'],
      ['Ctrl Alt V', 'put on the look only'],
      ['Ctrl D', 'another one'],
      ['Delete', 'take out'],
    ],
  ],
  [
    'Everywhere',
    [
      ['Ctrl Z, Ctrl Y', 'undo, redo'],
      ['Right click, Menu key', 'all that can be done'],
      ['Ctrl B, I, U', 'bold, italic, underlined words'],
      ['?', 'this list'],
    ],
  ],
]

/** The keys of the designer. */
export function Shortcuts({ onClose }: { onClose(): void }) {
  return (
    <Dialog open onClose={onClose} maxWidth="md" aria-labelledby="keys-title">
      <DialogTitle id="keys-title" variant="h2">
        Keys
      </DialogTitle>
      <DialogContent sx={{ display: 'grid', gridTemplateColumns: { sm: '1fr 1fr' }, gap: '18px 40px' }}>
        {keys.map(([name, list]) => (
          <Box key={name}>
            <Box component="h3" sx={{ m: '0 0 6px', fontSize: 14 }}>
              {name}
            </Box>
            {list.map(([key, does]) => (
              <Box key={key} sx={{ display: 'grid', gridTemplateColumns: '150px 1fr', fontSize: 13.5, py: '3px' }}>
                <Box
                  component="kbd"
                  sx={{
                    font: 'inherit',
                    fontWeight: 600,
                    justifySelf: 'start',
                    background: paper.page,
                    border: `1px solid ${paper.line}`,
                    borderRadius: '4px',
                    px: '6px',
                  }}
                >
                  {key}
                </Box>
                {does}
              </Box>
            ))}
          </Box>
        ))}
      </DialogContent>
      <DialogActions sx={{ p: 2 }}>
        <Button variant="contained" onClick={onClose}>
          Good
        </Button>
      </DialogActions>
    </Dialog>
  )
}
