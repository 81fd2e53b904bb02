import Box from '@mui/material/Box'
import { useEffect } from 'react'
import { useSearchParams } from 'react-router'
import { historyKeys } from '../bench/History'
import { Canvas } from './Canvas'
import { Outline } from './Outline'
import { Settings } from './Settings'
import { Strip } from './Strip'
import { duplicateSelected, moveSelected, removeSelected, select, selectNext, useView } from './view'

/** The design bench: outline, page, settings, and the strip of scenes. */
export function Compose() {
  const [query] = useSearchParams()
  useEffect(() => {
    useView.setState({ variant: Number(query.get('variant') ?? 0) || 0, scene: '', selected: query.get('block') ?? 'frame', editing: false })
  }, [query])
  useEffect(() => {
    document.addEventListener('keydown', keys)
    return () => document.removeEventListener('keydown', keys)
  }, [])
  return (
    <Box
      sx={{
        height: 'calc(100vh - 136px)',
        minHeight: 520,
        display: 'grid',
        gridTemplateColumns: '236px minmax(0, 1fr) 300px',
        gridTemplateRows: 'minmax(0, 1fr) 128px',
      }}
    >
      <Outline />
      <Canvas />
      <Settings />
      <Strip />
    </Box>
  )
}

function keys(e: KeyboardEvent) {
  const typing = e.composedPath().some(t => t instanceof HTMLElement && (t.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(t.tagName)))
  if (!useView.getState().editing && historyKeys(e)) return
  const command = e.ctrlKey || e.metaKey
  const key = e.key.toLowerCase()
  let done = true
  if (typing || document.querySelector('[role=dialog],[role=listbox],[role=menu]')) return
  else if (command && key === 'd') duplicateSelected()
  else if (key === 'delete' || key === 'backspace') removeSelected()
  else if (e.altKey && key === 'arrowup') moveSelected(-1)
  else if (e.altKey && key === 'arrowdown') moveSelected(1)
  else if (key === 'arrowup') selectNext(-1)
  else if (key === 'arrowdown') selectNext(1)
  else if (key === 'escape') select('frame')
  else done = false
  if (done) e.preventDefault()
}
