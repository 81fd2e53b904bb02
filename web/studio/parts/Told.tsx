import Alert from '@mui/material/Alert'
import Snackbar from '@mui/material/Snackbar'
import { create } from 'zustand'

const useTold = create<{ said: string; wrong: boolean; act?: { name: string; run(): void } }>(() => ({ said: '', wrong: false }))

/** Says something that happened, for a while; with an act to go on from it. */
export const tell = (said: string, wrong = false, act?: { name: string; run(): void }) => useTold.setState({ said, wrong, act })

/** Where it is said. */
export function Told() {
  const { said, wrong, act } = useTold()
  const close = () => useTold.setState({ said: '' })
  return (
    <Snackbar
      open={!!said}
      autoHideDuration={wrong ? 9000 : 5000}
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
