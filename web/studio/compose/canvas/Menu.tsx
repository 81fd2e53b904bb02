import Divider from '@mui/material/Divider'
import MuiMenu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import { nameOf, shownKeys } from '../../parts/keys/actions'
import { menuOf, selection } from '../commands/actions'
import { shutMenu, useMenu, useScene } from '../commands/view'
import { SaveSnippet } from '../panels/controls/SaveSnippet'

/** The menu of what is selected, where a right click asked for it. */
export function Menu() {
  const at = useMenu(s => s.at)
  return at && <Opened at={at} />
}

function Opened({ at }: { at: { x: number; y: number } }) {
  useScene() // drawn again as the selection changes
  const [saving, setSaving] = useState(false)
  const on = selection()
  if (saving && on.block) return <SaveSnippet kind="block" body={on.block} name={on.block.kind === 'button' ? on.block.words : ''} onClose={shutMenu} />
  return (
    <MuiMenu open onClose={shutMenu} anchorReference="anchorPosition" anchorPosition={{ left: at.x, top: at.y }} slotProps={{ list: { dense: true } }}>
      {menuOf(on)
        .filter(group => group.length > 0)
        .flatMap((group, i, groups) => [
          ...(i ? [<Divider key={`d${i}`} />] : []),
          ...group.map(a => (
            <MenuItem
              key={nameOf(a, on)}
              onClick={() => {
                a.run(on)
                shutMenu()
              }}
              sx={{ gap: 4, minHeight: 30 }}
            >
              {nameOf(a, on)}
              {a.keys && (
                <Typography variant="body2" color="textSecondary" sx={{ ml: 'auto' }}>
                  {shownKeys(a.keys)}
                </Typography>
              )}
            </MenuItem>
          )),
          ...(i === groups.length - 2 && on.one
            ? [
                <MenuItem key="save" onClick={() => setSaving(true)} sx={{ minHeight: 30 }}>
                  Save as snippet…
                </MenuItem>,
              ]
            : []),
        ])}
    </MuiMenu>
  )
}
