import Box from '@mui/material/Box'
import { useEffect } from 'react'
import { useSearchParams } from 'react-router'
import { historyKeys } from '../bench/History'
import { Canvas } from './Canvas'
import { copySelected, cutSelected, pasteCopied, pasteLook, pasteText, readCopied } from './clipboard'
import { Menu } from './Menu'
import { useLooking } from './notes'
import { Outline } from './Outline'
import { Settings } from './Settings'
import { stage } from './Stage'
import { Strip } from './Strip'
import { holdersOf } from './tree'
import { uploadPicture } from './uploads'
import {
  duplicateSelected,
  groupSelected,
  lockSelected,
  moveSelected,
  now,
  nudge,
  putBlocks,
  removeSelected,
  select,
  selectAll,
  selectNext,
  ungroupSelected,
  useView,
} from './view'

/** The design bench: outline, page, settings, and the strip of scenes. */
export function Compose() {
  const [query] = useSearchParams()
  useLooking()
  useEffect(() => {
    useView.setState({
      variant: Number(query.get('variant') ?? 0) || 0,
      scene: query.get('scene') ?? '',
      selected: query.get('block') ?? 'frame',
      also: [],
      editing: false,
    })
  }, [query])
  useEffect(() => {
    const listeners = { keydown: keys, copy, cut: copy, paste }
    for (const [name, listener] of Object.entries(listeners)) document.addEventListener(name, listener as EventListener)
    return () => {
      for (const [name, listener] of Object.entries(listeners)) document.removeEventListener(name, listener as EventListener)
    }
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
      <Menu />
    </Box>
  )
}

/** Whether keys belong to something else: an input, or what lies over the bench. */
function elsewhere(e: Event) {
  const typing = e.composedPath().some(t => t instanceof HTMLElement && (t.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(t.tagName)))
  return typing || !!document.querySelector('[role=dialog]:not([data-stage] *),[role=listbox],[role=menu],[data-played]')
}

function keys(e: KeyboardEvent) {
  if (!useView.getState().editing && historyKeys(e)) return
  if (elsewhere(e)) return
  const command = e.ctrlKey || e.metaKey
  const key = e.key.toLowerCase()
  const { selected } = useView.getState()
  // A button that has the focus is pressed by Enter.
  const onButton = e.target instanceof HTMLElement && e.target.closest('button, a')
  let done = true
  if (command && e.altKey && key === 'v') pasteLook()
  else if (command && key === 'd') duplicateSelected()
  else if (command && key === 'a') selectAll()
  else if (command && key === 'g') e.shiftKey ? ungroupSelected() : groupSelected()
  else if (command && key === 'l') lockSelected()
  else if (command) done = false
  else if (key === 'delete' || key === 'backspace') removeSelected()
  else if (e.altKey && key === 'arrowup') moveSelected(-1)
  else if (e.altKey && key === 'arrowdown') moveSelected(1)
  else if (e.shiftKey && key === 'arrowup') nudge(-4)
  else if (e.shiftKey && key === 'arrowdown') nudge(4)
  else if (key === 'arrowup') selectNext(-1)
  else if (key === 'arrowdown') selectNext(1)
  else if (key === 'enter' && !onButton) stage.edit?.(selected)
  else if (key === 'escape') select(holdersOf(now().scene, selected).at(-1) ?? 'frame')
  else done = false
  if (done) e.preventDefault()
}

function copy(e: ClipboardEvent) {
  if (elsewhere(e)) return
  const text = e.type === 'cut' ? cutSelected() : copySelected()
  if (!text) return
  e.clipboardData?.setData('text/plain', text)
  e.preventDefault()
}

async function paste(e: ClipboardEvent) {
  if (elsewhere(e)) return
  const file = [...(e.clipboardData?.files ?? [])].find(f => f.type.startsWith('image/'))
  const text = e.clipboardData?.getData('text/plain') ?? ''
  e.preventDefault()
  if (file) {
    const block = await uploadPicture(file)
    if (block) putBlocks([block])
  } else if (readCopied(text)) pasteCopied(text)
  else if (text.trim()) pasteText(text)
  else pasteCopied()
}
