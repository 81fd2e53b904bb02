import MoreVert from '@mui/icons-material/MoreVert'
import IconButton from '@mui/material/IconButton'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import type { PieceInfo } from '../../kinds/studio'
import { applies, nameOf } from '../parts/keys/actions'
import { duplicatePiece, pieceActions } from '../piece/actions'
import { save } from '../piece/draft'
import { addressOf } from '../server/api'
import { useAddress, useSite } from '../server/queries'

/** What can be done with the piece as a whole. */
export function PieceMenu({ info, name }: { info: PieceInfo; name: string }) {
  const site = useSite().id
  const go = useNavigate()
  const at = useAddress()
  const [menu, setMenu] = useState<HTMLElement | null>(null)
  const on = { site, pieces: [{ id: info.id, name, state: info.state }] }
  const duplicate = async () => {
    await save()
    const id = await duplicatePiece(site, { id: info.id, name })
    if (id) go(at(`/pieces/${id}/compose`))
  }
  return (
    <>
      <IconButton size="small" aria-label="More actions for this piece" onClick={e => setMenu(e.currentTarget)} sx={{ p: '3px' }}>
        <MoreVert fontSize="small" />
      </IconButton>
      <Menu open={!!menu} anchorEl={menu} onClose={() => setMenu(null)} onClick={() => setMenu(null)}>
        <MenuItem onClick={duplicate}>Duplicate</MenuItem>
        <MenuItem component="a" href={addressOf('GET /sites/:site/pieces/:piece/file', { site, piece: info.id })} download>
          Download as a file
        </MenuItem>
        {Object.entries(pieceActions)
          .filter(([, a]) => applies(a, on))
          .map(([key, a]) => (
            <MenuItem
              key={key}
              onClick={() => {
                a.run(on)
                if (key === 'delete' && info.state !== 'live') go(at('/board'))
              }}
            >
              {nameOf(a, on)}
            </MenuItem>
          ))}
      </Menu>
    </>
  )
}
