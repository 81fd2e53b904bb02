import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import Typography from '@mui/material/Typography'
import { useEffect, useState } from 'react'
import { Link, Outlet, useNavigate } from 'react-router'
import { LandingContext, type Remember } from '../library/landing'
import { LoadError } from '../parts/look/Loaded'
import { Loading } from '../parts/look/Loading'
import { moment } from '../parts/words/time'
import { closeDraft, draftHere, inDraft, openDraft, save, useDraft } from '../piece/draft'
import type { PieceDraft } from '../piece/pieceDraft'
import { Trouble } from '../server/api'
import { useAddress, usePiece, usePieceID, useSite } from '../server/queries'
import { PieceHead } from './PieceHead'

/** One piece: its name and its five places above, the open place below. */
export function PieceLayout() {
  const piece = usePieceID()
  const site = useSite().id
  const at = useAddress()
  const { data, error, dataUpdatedAt, refetch } = usePiece(piece)
  const id = useDraft(s => s.id)
  useEffect(() => {
    if (data) openDraft(site, data)
  }, [site, data, dataUpdatedAt])
  useEffect(() => closeDraft, [site, piece])
  useEffect(() => {
    const leaving = (e: BeforeUnloadEvent) => {
      if (useDraft.getState().standing === 'saved') return
      save()
      if (useDraft.getState().standing === 'stale' || !draftHere().safe) e.preventDefault()
    }
    addEventListener('beforeunload', leaving)
    return () => removeEventListener('beforeunload', leaving)
  }, [])
  if (error instanceof Trouble && !data) {
    return (
      <Box component="main" sx={{ m: '14vh auto', maxWidth: 460, px: 3 }}>
        {error.status === 404 ? (
          <>
            <Typography variant="h1">This piece is not here</Typography>
            <Typography>It was deleted, or the address is wrong.</Typography>
          </>
        ) : (
          <LoadError what="this piece" error={error} retry={refetch} />
        )}
        <Typography sx={{ mt: 1 }}>
          <Link to={at('/board')}>Back to the board</Link>
        </Typography>
      </Box>
    )
  }
  if (!data || id !== piece) return <Loading />
  return (
    <>
      <PieceHead info={data} />
      <Box component="main" sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
        <LandingContext value={inThisDraft}>
          <Outlet context={data} />
        </LandingContext>
      </Box>
      <Conflicts />
    </>
  )
}

/** Uploads end in the piece they began in. */
const inThisDraft: Remember = () => {
  const draft = draftHere()
  return run => {
    inDraft(draft, run)
    return true
  }
}

/** Dialogs about drafts that two windows changed. */
function Conflicts() {
  const standing = useDraft(s => s.standing)
  const leftover = useDraft(s => s.leftovers[0])
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState('')
  const go = useNavigate()
  const at = useAddress()
  const decide = (how: (draft: PieceDraft) => Promise<void>) => async () => {
    setBusy(true)
    setTrouble('')
    await how(draftHere()).catch(e => setTrouble(e.message))
    setBusy(false)
  }
  const wrong = trouble && (
    <Typography role="alert" sx={{ mt: 1, fontWeight: 600 }}>
      {trouble}
    </Typography>
  )
  return (
    <>
      <Dialog open={standing === 'stale'} aria-labelledby="stale-title">
        <DialogTitle id="stale-title" variant="h2">
          This was changed in another window
        </DialogTitle>
        <DialogContent>
          Your changes since then are still here, in this window. Only one of the two can be kept.
          {wrong}
        </DialogContent>
        <DialogActions sx={{ p: 2 }}>
          <Button variant="outlined" disabled={busy} onClick={decide(draft => draft.takeTheirs())}>
            Use the other window’s
          </Button>
          <Button variant="contained" disabled={busy} onClick={decide(draft => draft.keepMine())}>
            Keep mine
          </Button>
        </DialogActions>
      </Dialog>
      <Dialog open={standing === 'gone'} aria-labelledby="gone-title">
        <DialogTitle id="gone-title" variant="h2">
          This piece was deleted in another window
        </DialogTitle>
        <DialogContent>
          Your changes since then are still here, in this window.
          {wrong}
        </DialogContent>
        <DialogActions sx={{ p: 2 }}>
          <Button
            variant="outlined"
            disabled={busy}
            onClick={() => {
              draftHere().discard()
              go(at('/board'))
            }}
          >
            Discard changes
          </Button>
          <Button variant="contained" disabled={busy} onClick={decide(draft => draft.restore())}>
            Restore the piece
          </Button>
        </DialogActions>
      </Dialog>
      <Dialog open={!!leftover && standing !== 'stale' && standing !== 'gone'} aria-labelledby="leftover-title">
        <DialogTitle id="leftover-title" variant="h2">
          There is unsaved work in this browser
        </DialogTitle>
        <DialogContent>It is from {leftover && moment(new Date(leftover.at).toISOString())}. The piece was changed elsewhere since.</DialogContent>
        <DialogActions sx={{ p: 2 }}>
          <Button variant="outlined" onClick={() => draftHere().takeLeftover(false)}>
            Discard it
          </Button>
          <Button variant="contained" onClick={() => draftHere().takeLeftover(true)}>
            Continue with it
          </Button>
        </DialogActions>
      </Dialog>
    </>
  )
}
