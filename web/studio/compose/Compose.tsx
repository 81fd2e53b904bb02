import Box from '@mui/material/Box'
import { useEffect } from 'react'
import { useSearchParams } from 'react-router'
import { LandingContext } from '../library/landing'
import { runKeys, typing, useShortcuts } from '../parts/keys/actions'
import { turnedOff } from '../parts/keys/singleKeys'
import { historyKeys } from '../piece/UndoButtons'
import { Canvas } from './canvas/Canvas'
import { Menu } from './canvas/Menu'
import { composeActions, keyed, selection } from './commands/actions'
import { copySelected, cutSelected, pasteCopied, pasteText, readCopied } from './commands/clipboard'
import { putPicture } from './commands/pictures'
import { removeSelected } from './commands/selection'
import { fromHere, useView } from './commands/view'
import { Outline } from './panels/outline/Outline'
import { Strip } from './panels/scenes/Strip'
import { Settings } from './panels/settings/Settings'

/** The designer: outline, page, settings, and the strip of scenes. */
export function Compose() {
  const [query] = useSearchParams()
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
    useShortcuts.setState({ groups: composeActions as never })
    return () => {
      for (const [name, listener] of Object.entries(listeners)) document.removeEventListener(name, listener as EventListener)
      useShortcuts.setState({ groups: [] })
    }
  }, [])
  return (
    <LandingContext value={fromHere}>
      <Box
        sx={{
          height: 'calc(100vh - 136px)',
          minHeight: 520,
          display: 'grid',
          gridTemplateColumns: { xs: '130px minmax(0, 1fr) 232px', md: '178px minmax(0, 1fr) 284px', lg: '236px minmax(0, 1fr) 300px' },
          gridTemplateRows: 'minmax(0, 1fr) 128px',
        }}
      >
        <Outline />
        <Canvas />
        <Settings />
        <Strip />
        <Menu />
      </Box>
    </LandingContext>
  )
}

/** Whether keys belong to something else: an input, or what lies over the designer. */
const elsewhere = (e: Event) => typing(e) || !!document.querySelector('[role=dialog]:not([data-stage] *),[role=listbox],[role=menu],[data-played]')

function keys(e: KeyboardEvent) {
  if (!useView.getState().editing && historyKeys(e)) return
  if (elsewhere(e)) return
  // A button that has the focus is pressed by Enter.
  if (e.key === 'Enter' && e.target instanceof HTMLElement && e.target.closest('button, a')) return
  if (e.key === 'Backspace' && !e.ctrlKey && !e.metaKey && !turnedOff(e)) {
    e.preventDefault()
    return removeSelected()
  }
  runKeys(e, keyed, selection())
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
    await putPicture(file)
  } else if (readCopied(text)) pasteCopied(text)
  else if (text.trim()) pasteText(text)
  else pasteCopied()
}
