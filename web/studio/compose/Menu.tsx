import Divider from '@mui/material/Divider'
import MuiMenu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import { copySelected, cutSelected, pasteCopied, pasteLook } from './clipboard'
import { KeepIt } from './Keepsakes'
import { stage } from './Stage'
import { find, holds } from './tree'
import {
  alignSelected,
  duplicateSelected,
  groupSelected,
  hideSelected,
  lockSelected,
  moveSelected,
  removeSelected,
  selectedIDs,
  shutMenu,
  ungroupSelected,
  useMenu,
  useScene,
} from './view'

type Act = [string, string, () => void, boolean?]

/** All that can be done with what is selected, where a right click asked for it. */
export function Menu() {
  const at = useMenu(s => s.at)
  return at && <Opened at={at} />
}

function Opened({ at }: { at: { x: number; y: number } }) {
  const { scene, view } = useScene()
  const [keep, setKeep] = useState(false)
  const ids = selectedIDs()
  const block = find(scene, view.selected)?.block
  const locked = ids.length > 0 && ids.every(id => find(scene, id)?.block.locked)
  const wordy = block && ['heading', 'text', 'list', 'button', 'field'].includes(block.kind)
  const put = (text: string | undefined) => {
    if (text) navigator.clipboard?.writeText(text).catch(() => {})
  }
  const groups: Act[][] = [
    [
      ['Change its words', 'Enter', () => stage.edit?.(view.selected), !!wordy && ids.length === 1 && !locked],
      ['Another one', 'Ctrl D', duplicateSelected, ids.length > 0],
      ['Copy', 'Ctrl C', () => put(copySelected()), ids.length > 0],
      ['Cut', 'Ctrl X', () => put(cutSelected()), ids.length > 0 && !locked],
      ['Put in what was copied', 'Ctrl V', () => void pasteCopied()],
      ['Put on the look of what was copied', 'Ctrl Alt V', pasteLook, ids.length > 0],
    ],
    [
      ['Move up', 'Alt ↑', () => moveSelected(-1), ids.length === 1 && !locked],
      ['Move down', 'Alt ↓', () => moveSelected(1), ids.length === 1 && !locked],
      ['To the start', '', () => alignSelected('start'), ids.length > 0],
      ['To the middle', '', () => alignSelected('center'), ids.length > 0],
      ['To the end', '', () => alignSelected('end'), ids.length > 0],
    ],
    [
      ['Put into a box', 'Ctrl G', groupSelected, ids.length > 0 && !locked],
      ['Take out of its box', 'Ctrl Shift G', ungroupSelected, !!block && holds(block) && !locked],
      [locked ? 'Unlock' : 'Lock', 'Ctrl L', lockSelected, ids.length > 0],
      [block?.hide ? 'Show everywhere' : 'Hide on phones', '', () => hideSelected(block?.hide ? undefined : 'phone'), ids.length > 0],
      ['Show on phones only', '', () => hideSelected('desktop'), ids.length > 0 && !block?.hide],
      ['Keep for other pieces…', '', () => setKeep(true), ids.length === 1],
    ],
    [['Take out', 'Delete', removeSelected, (ids.length > 0 && !locked) || view.selected === 'close']],
  ]
  if (keep && block) return <KeepIt kind="block" body={block} name={block.kind === 'button' ? block.words : ''} onClose={shutMenu} />
  return (
    <MuiMenu open onClose={shutMenu} anchorReference="anchorPosition" anchorPosition={{ left: at.x, top: at.y }} slotProps={{ list: { dense: true } }}>
      {groups.flatMap((acts, i) => [
        ...(i ? [<Divider key={'d' + i} />] : []),
        ...acts
          .filter(([, , , may = true]) => may)
          .map(([name, key, run]) => (
            <MenuItem
              key={name}
              onClick={() => {
                run()
                if (!name.endsWith('…')) shutMenu()
              }}
              sx={{ gap: 4, minHeight: 30 }}
            >
              {name}
              <Typography variant="body2" color="textSecondary" sx={{ ml: 'auto' }}>
                {key}
              </Typography>
            </MenuItem>
          )),
      ])}
    </MuiMenu>
  )
}
