import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import Skeleton from '@mui/material/Skeleton'
import Typography from '@mui/material/Typography'
import { useRef } from 'react'
import type { DeletedPiece } from '../../kinds/studio'
import { useKeptFocus } from '../parts/keys/keptFocus'
import { Loaded } from '../parts/look/Loaded'
import { paper } from '../parts/look/theme'
import { day, moment } from '../parts/words/time'
import { restorePieces } from '../piece/actions'
import { useDeleted, useSite } from '../server/queries'

/** Deleted pieces, each to be restored as long as it is kept. */
export function Deleted({ open, onClose }: { open: boolean; onClose(): void }) {
  const site = useSite().id
  const deleted = useDeleted(open)
  const restore = (piece: DeletedPiece) => restorePieces(site, [piece])
  const [rows, close] = [useRef<HTMLElement>(null), useRef<HTMLButtonElement>(null)]
  useKeptFocus(rows, at => {
    const left = rows.current?.querySelectorAll('button') ?? []
    return left[Math.min(at, left.length - 1)] ?? close.current
  })
  return (
    <Dialog open={open} onClose={onClose} aria-labelledby="deleted-title" fullWidth maxWidth="sm">
      <DialogTitle id="deleted-title" variant="h2">
        Deleted pieces
      </DialogTitle>
      <DialogContent>
        <Typography color="textSecondary" sx={{ mb: 1 }}>
          Kept for 30 days. Their leads and results are kept for good.
        </Typography>
        <Loaded query={deleted} what="the deleted pieces" placeholder={<Skeleton variant="rounded" height={120} />}>
          {data => (
            <Box ref={rows}>
              {data.length === 0 && <Typography sx={{ py: 3, textAlign: 'center' }}>No deleted pieces.</Typography>}
              {data.map(piece => (
                <Box key={piece.id} sx={{ display: 'flex', gap: 2, alignItems: 'center', py: '9px', borderTop: `1px solid ${paper.line}` }}>
                  <Box sx={{ flex: 1, minWidth: 0 }}>
                    <Typography noWrap sx={{ fontWeight: 600 }}>
                      {piece.name}
                    </Typography>
                    <Typography variant="body2" color="textSecondary">
                      Deleted {moment(piece.deleted_at)} · kept until {day(piece.until)}
                    </Typography>
                  </Box>
                  <Button size="small" variant="outlined" aria-label={`Restore ${piece.name}`} onClick={() => restore(piece)}>
                    Restore
                  </Button>
                </Box>
              ))}
            </Box>
          )}
        </Loaded>
      </DialogContent>
      <DialogActions sx={{ p: 2 }}>
        <Button ref={close} variant="outlined" onClick={onClose}>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  )
}
