import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import LinearProgress from '@mui/material/LinearProgress'
import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import { addressOf } from '../../server/api'
import { useSite } from '../../server/queries'
import { ink } from '../look/theme'
import { Picking } from './Picking'
import { selectorOf, useStill } from './stillPage'

const width = 1100
const height = 760
const scale = 0.8

/** What an element is called in a sentence: its text, or what it is. */
const describeElement = (e: Element) => (e.textContent ?? '').replace(/\s+/g, ' ').trim().slice(0, 60) || `<${e.localName}>`

/** Shows a page of the site, where an element is picked by a click. */
export function PickElement({ path: first, onPick, onClose }: { path: string; onPick(selector: string): void; onClose(): void }) {
  const site = useSite()
  const [path, setPath] = useState(first)
  const [typed, setTyped] = useState(first)
  const [picked, setPicked] = useState<Element | null>(null)
  const still = useStill()
  const go = () => {
    const next = `/${typed.trim().replace(/^\/+/, '')}`
    setTyped(next)
    setPath(next)
    setPicked(null)
  }
  // A click on what a button holds is meant for the button.
  const pick = (e: Element | null) => e && setPicked(e.closest('a, button, [role=button], input, label, summary') ?? e)
  const selector = picked && selectorOf(picked)
  return (
    <Dialog open onClose={onClose} maxWidth={false} aria-labelledby="pick-title">
      <DialogTitle id="pick-title" variant="h2" sx={{ display: 'flex', alignItems: 'center', gap: 2 }}>
        Pick an element
        <OutlinedInput
          size="small"
          value={typed}
          onChange={e => setTyped(e.target.value)}
          onBlur={go}
          onKeyDown={e => e.key === 'Enter' && go()}
          inputProps={{ 'aria-label': 'Page of the site', maxLength: 500, spellCheck: false }}
          sx={{ width: 280, fontSize: 14, ml: 'auto' }}
        />
      </DialogTitle>
      <DialogContent sx={{ pb: 1 }}>
        {!still.doc && <LinearProgress aria-label="Loading the page" />}
        <Box
          sx={{
            width: width * scale,
            height: height * scale,
            maxHeight: '60vh',
            overflow: 'hidden',
            position: 'relative',
            border: '1px solid #ddd',
            borderRadius: '6px',
          }}
          onWheel={e => still.scroll(e.deltaY / scale)}
        >
          <Box sx={{ width, height, transform: `scale(${scale})`, transformOrigin: '0 0', position: 'relative', background: '#fff' }}>
            <Box
              component="iframe"
              title="Page of the site"
              sandbox="allow-same-origin"
              ref={still.ref}
              onLoad={still.onLoad}
              tabIndex={-1}
              src={addressOf('GET /sites/:site/page', { site: site.id }, { path })}
              sx={{ position: 'absolute', inset: 0, width: '100%', height: '100%', border: 0 }}
            />
            {still.doc && <Picking doc={still.doc} scale={scale} chosen={picked} onPick={pick} />}
          </Box>
        </Box>
        <Typography role="status" sx={{ mt: 1, color: ink[2], minHeight: 22 }}>
          {picked ? (
            <>
              <b>{describeElement(picked)}</b> · <code>{selector}</code>
            </>
          ) : (
            'Click the button or link that should open the piece. Scroll with the wheel.'
          )}
        </Typography>
      </DialogContent>
      <DialogActions sx={{ p: 2 }}>
        <Button variant="outlined" onClick={onClose}>
          Cancel
        </Button>
        <Button
          variant="contained"
          disabled={!selector}
          onClick={() => {
            onPick(selector!)
            onClose()
          }}
        >
          Use this element
        </Button>
      </DialogActions>
    </Dialog>
  )
}
