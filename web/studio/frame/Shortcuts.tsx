import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import FormControlLabel from '@mui/material/FormControlLabel'
import Switch from '@mui/material/Switch'
import Typography from '@mui/material/Typography'
import { type ActionGroup, shownKeys, useShortcuts } from '../parts/keys/actions'
import { setSingleKeys, useSingleKeys } from '../parts/keys/singleKeys'
import { paper } from '../parts/look/theme'

/** What has keys, of the screen in view and everywhere. */
export function Shortcuts({ onClose }: { onClose(): void }) {
  const groups = useShortcuts(s => s.groups)
  const single = useSingleKeys(s => s.on)
  const everywhere: ActionGroup<never> = {
    name: 'Everywhere',
    actions: [],
    gestures: [
      ['?', 'Keyboard shortcuts'],
      ['F6', 'Next part of the screen'],
      ['Shift F6', 'Part before'],
    ],
  }
  return (
    <Dialog open onClose={onClose} maxWidth="md" aria-labelledby="keys-title">
      <DialogTitle id="keys-title" variant="h2">
        Keyboard shortcuts
      </DialogTitle>
      <DialogContent sx={{ display: 'grid', gridTemplateColumns: { sm: '1fr 1fr' }, gap: '18px 40px' }}>
        {[...groups, everywhere].map(g => (
          <Box key={g.name}>
            <Typography variant="h4" component="h3" sx={{ mb: '6px' }}>
              {g.name}
            </Typography>
            {linesOf(g).map(([keys, does]) => (
              <Box key={keys + does} sx={{ display: 'grid', gridTemplateColumns: '150px 1fr', fontSize: 13.5, py: '3px' }}>
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
                  {keys}
                </Box>
                {does}
              </Box>
            ))}
          </Box>
        ))}
      </DialogContent>
      <DialogActions sx={{ p: 2, justifyContent: 'space-between' }}>
        <FormControlLabel
          control={<Switch checked={single} onChange={e => setSingleKeys(e.target.checked)} />}
          label="Keys without Ctrl or Alt, such as ? and Delete"
        />
        <Button variant="contained" onClick={onClose}>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  )
}

const linesOf = (g: ActionGroup<never>): (readonly [string, string])[] => [
  ...g.actions.flatMap(a => (a.keys ? [[shownKeys(a.keys), a.says ?? (typeof a.name === 'string' ? a.name : '')] as const] : [])),
  ...(g.gestures ?? []),
]
