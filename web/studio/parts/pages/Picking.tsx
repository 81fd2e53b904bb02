import Box from '@mui/material/Box'
import { useEffect, useState } from 'react'
import { create } from 'zustand'
import { apricot, plum } from '../look/theme'
import type { Rect } from './rect'
import { ofThePage } from './stillPage'

/** Whether an element of the page is being picked. */
export const usePicking = create<{ pick: boolean }>(() => ({ pick: false }))

const rectOf = (e: Element | null): Rect | null => {
  const r = e?.getBoundingClientRect()
  return r ? { left: r.left, top: r.top, width: r.width, height: r.height } : null
}

interface Props {
  doc: Document
  scale: number
  /** The element that was picked, where it stays in view. */
  chosen?: Element | null
  /** Takes the element that was clicked; null: Escape was pressed. */
  onPick(e: Element | null): void
}

/** Lies over a page, and lets an element of it be picked by a click. */
export function Picking({ doc, scale, chosen = null, onPick }: Props) {
  const [over, setOver] = useState<Rect | null>(null)
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if (e.key !== 'Escape') return
      e.stopPropagation()
      onPick(null)
    }
    document.addEventListener('keydown', key, true)
    return () => document.removeEventListener('keydown', key, true)
  })
  const under = (e: React.MouseEvent) => {
    const box = e.currentTarget.getBoundingClientRect()
    return ofThePage(doc.elementFromPoint((e.clientX - box.left) / scale, (e.clientY - box.top) / scale))
  }
  const kept = rectOf(chosen)
  return (
    <Box
      data-picking
      onMouseMove={e => setOver(rectOf(under(e)))}
      onMouseLeave={() => setOver(null)}
      onClick={e => {
        const picked = under(e)
        if (picked) onPick(picked)
      }}
      sx={{ position: 'absolute', inset: 0, cursor: 'crosshair' }}
    >
      {over && <Box style={over} sx={{ position: 'absolute', outline: `3px solid ${plum.main}`, background: 'rgb(106 42 91 / .12)', pointerEvents: 'none' }} />}
      {kept && <Box style={kept} sx={{ position: 'absolute', outline: `4px solid ${apricot.main}`, pointerEvents: 'none' }} />}
    </Box>
  )
}
