import Redo from '@mui/icons-material/Redo'
import Undo from '@mui/icons-material/Undo'
import Box from '@mui/material/Box'
import IconButton from '@mui/material/IconButton'
import Tooltip from '@mui/material/Tooltip'
import { type ActionGroup, runKeys, shownKeys } from '../parts/keys/actions'
import { redo, undo, useDraft } from './draft'

/** Undo and redo of the draft. */
export const historyActions: ActionGroup<unknown> = {
  name: 'History',
  actions: [
    { name: 'Undo', keys: 'Mod+Z', run: () => undo() },
    { name: 'Redo', keys: 'Mod+Y', run: () => redo() },
    { name: 'Redo', says: 'Redo', keys: 'Mod+Shift+Z', run: () => redo() },
  ],
}

/** Buttons that undo and redo changes of the draft. */
export function UndoButtons() {
  const can = [useDraft(s => s.canUndo), useDraft(s => s.canRedo)]
  return (
    <Box sx={{ ml: 'auto', display: 'flex' }}>
      {historyActions.actions.slice(0, 2).map((a, i) => {
        const Icon = [Undo, Redo][i]
        return (
          <Tooltip key={a.keys} title={`${a.name} (${shownKeys(a.keys!)})`}>
            <span>
              <IconButton size="small" aria-label={a.name as string} disabled={!can[i]} onClick={() => a.run(undefined)}>
                <Icon fontSize="small" />
              </IconButton>
            </span>
          </Tooltip>
        )
      })}
    </Box>
  )
}

/** Undoes or redoes where the keys say so; says whether it did. */
export function historyKeys(e: KeyboardEvent): boolean {
  // A text that is not in the design yet has an undo of its own.
  if (e.target instanceof Element && e.target.closest('[data-free]')) return false
  return runKeys(e, [historyActions], undefined)
}
