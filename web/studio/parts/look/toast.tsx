import Alert from '@mui/material/Alert'
import Snackbar from '@mui/material/Snackbar'
import { create } from 'zustand'

interface Toast {
  /** Tells one toast from the next, which has its own time. */
  n: number
  said: string
  wrong: boolean
  act?: { name: string; run(): void }
}

const useToast = create<Toast>(() => ({ n: 0, said: '', wrong: false }))

/** Says what happened for some seconds, with a button that goes on from it. */
export const toast = (said: string, wrong = false, act?: { name: string; run(): void }) => useToast.setState(({ n }) => ({ n: n + 1, said, wrong, act }))

/** Where toasts appear. */
export function Toaster() {
  const { n, said, wrong, act } = useToast()
  const close = () => useToast.setState({ said: '' })
  return (
    <Snackbar
      key={n}
      open={!!said}
      autoHideDuration={act ? 12_000 : wrong ? 9000 : 5000}
      onClose={(_, why) => why !== 'clickaway' && close()}
      anchorOrigin={{ vertical: 'bottom', horizontal: 'center' }}
    >
      <Alert
        severity={wrong ? 'error' : 'success'}
        onClose={close}
        icon={false}
        action={
          act && (
            <button
              type="button"
              onClick={() => {
                act.run()
                close()
              }}
              style={{ font: 'inherit', fontWeight: 650, border: 0, background: 'none', textDecoration: 'underline', cursor: 'pointer', color: 'inherit' }}
            >
              {act.name}
            </button>
          )
        }
      >
        {said}
      </Alert>
    </Snackbar>
  )
}
