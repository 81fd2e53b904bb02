import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import Typography from '@mui/material/Typography'
import { create } from 'zustand'
import { brick } from './theme'

interface Question {
  title: string
  /** What happens, and whether it can be undone. */
  text?: string
  /** The verb on the button: Delete, Pause. */
  verb: string
  run(): void
  /** It was not wanted after all. */
  onCancel?(): void
  /** It can be undone, or is no loss. */
  harmless?: boolean
}

const useQuestion = create<{ asked: Question | null }>(() => ({ asked: null }))

/** Asks before something is done that cannot be undone. */
export const confirm = (asked: Question) => useQuestion.setState({ asked })

/** Asks the same, and gives the answer. */
export const agreed = (question: Omit<Question, 'run' | 'onCancel'>) =>
  new Promise<boolean>(answer => confirm({ ...question, run: () => answer(true), onCancel: () => answer(false) }))

/** Where confirmations appear. */
export function Confirmation() {
  const asked = useQuestion(s => s.asked)
  const close = () => useQuestion.setState({ asked: null })
  const cancel = () => {
    asked?.onCancel?.()
    close()
  }
  return (
    <Dialog open={!!asked} onClose={cancel} aria-labelledby="confirm-title" maxWidth="xs" fullWidth>
      <DialogTitle id="confirm-title" variant="h2">
        {asked?.title}
      </DialogTitle>
      {asked?.text && (
        <DialogContent>
          <Typography>{asked.text}</Typography>
        </DialogContent>
      )}
      <DialogActions sx={{ p: 2 }}>
        <Button variant="outlined" onClick={cancel} autoFocus>
          Cancel
        </Button>
        <Button
          variant="contained"
          sx={asked?.harmless ? {} : { background: brick.main }}
          onClick={() => {
            asked!.run()
            close()
          }}
        >
          {asked?.verb}
        </Button>
      </DialogActions>
    </Dialog>
  )
}
