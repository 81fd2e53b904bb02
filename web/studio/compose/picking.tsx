import Box from '@mui/material/Box'
import { useEffect, useState } from 'react'
import { create } from 'zustand'
import { plum } from '../theme'
import type { Rect } from './landing'

/** Whether an element of the page is being picked. */
export const usePicking = create<{ pick: boolean }>(() => ({ pick: false }))

/** Lets an element of the page be picked by a click. */
export function Picking({ doc, scale, onPick }: { doc: Document; scale: number; onPick(e: Element | null): void }) {
  const [over, setOver] = useState<Rect | null>(null)
  const end = (e: Element | null) => {
    usePicking.setState({ pick: false })
    onPick(e)
  }
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if (e.key !== 'Escape') return
      e.stopPropagation()
      end(null)
    }
    document.addEventListener('keydown', key, true)
    return () => document.removeEventListener('keydown', key, true)
  })
  const under = (e: React.MouseEvent) => {
    const box = e.currentTarget.getBoundingClientRect()
    return doc.elementFromPoint((e.clientX - box.left) / scale, (e.clientY - box.top) / scale)
  }
  return (
    <Box
      data-picking
      onMouseMove={e => {
        const r = under(e)?.getBoundingClientRect()
        setOver(r ? { left: r.left, top: r.top, width: r.width, height: r.height } : null)
      }}
      onClick={e => end(under(e))}
      sx={{ position: 'absolute', inset: 0, cursor: 'crosshair' }}
    >
      {over && <Box style={over} sx={{ position: 'absolute', outline: `3px solid ${plum.main}`, background: 'rgb(106 42 91 / .12)' }} />}
    </Box>
  )
}
