import Redo from '@mui/icons-material/Redo'
import Undo from '@mui/icons-material/Undo'
import Box from '@mui/material/Box'
import IconButton from '@mui/material/IconButton'
import Tooltip from '@mui/material/Tooltip'
import { useDraft, useHistory } from './draft'

/** Undo and redo of the draft. */
export function History() {
  const before = useHistory(past => past.pastStates.length > 0)
  const after = useHistory(past => past.futureStates.length > 0)
  const { undo, redo } = useDraft.temporal.getState()
  const acts = [
    ['Undo', 'Ctrl Z', before, undo, Undo],
    ['Redo', 'Ctrl Y', after, redo, Redo],
  ] as const
  return (
    <Box sx={{ ml: 'auto', display: 'flex' }}>
      {acts.map(([name, keys, can, act, Icon]) => (
        <Tooltip key={name} title={`${name} (${keys})`}>
          <span>
            <IconButton size="small" aria-label={name} disabled={!can} onClick={() => act()}>
              <Icon fontSize="small" />
            </IconButton>
          </span>
        </Tooltip>
      ))}
    </Box>
  )
}

/** Undoes or redoes where the keys say so; whether they did. */
export function historyKeys(e: KeyboardEvent): boolean {
  const history = useDraft.temporal.getState()
  // A text that is not in the design yet has an undo of its own.
  if (e.target instanceof Element && e.target.closest('[data-free]')) return false
  const key = e.key.toLowerCase()
  if (!(e.ctrlKey || e.metaKey) || (key !== 'z' && key !== 'y')) return false
  if (key === 'y' || e.shiftKey) history.redo()
  else history.undo()
  e.preventDefault()
  return true
}
