import Box from '@mui/material/Box'
import { useEffect, useRef, useState } from 'react'
import type { Drawing } from '../../../kinds/piece'
import { phoneWidth } from '../../../page/paint'
import { draw, erase } from './renderer'

/** How wide the page is that a miniature shows. */
const pageWidth = 1120
/** Until it is known how wide it is. */
const usualRoom = 320

interface Props {
  /** Undefined: it is not there yet, and the page stands empty. */
  drawing: Drawing | undefined
  scene?: string
  /** In pixels, or 'fill': all there is. */
  width: number | 'fill'
  height: number
  /** How wide the page is, if not as usual. */
  page?: number
  /** Drawn only once it comes into view: where there are many. */
  lazy?: boolean
  /** It has come into view. */
  onSeen?(): void
}

/** A scene of a piece on a page, drawn small by the very renderer visitors get. */
export function Miniature({ drawing, scene, width, height, page = pageWidth, lazy, onSeen }: Props) {
  const box = useRef<HTMLDivElement>(null)
  const around = useRef<HTMLDivElement>(null)
  const [seen, setSeen] = useState(!lazy)
  const [room, setRoom] = useState(width === 'fill' ? usualRoom : width)
  useEffect(() => {
    if (seen) return
    const eye = new IntersectionObserver(
      entries => {
        if (!entries.some(e => e.isIntersecting)) return
        setSeen(true)
        onSeen?.()
      },
      { rootMargin: '200px' },
    )
    eye.observe(around.current!)
    return () => eye.disconnect()
  }, [seen])
  useEffect(() => {
    const eye = new ResizeObserver(([e]) => setRoom(e.contentRect.width || usualRoom))
    eye.observe(around.current!)
    return () => eye.disconnect()
  }, [])
  const phone = page <= phoneWidth
  useEffect(() => {
    if (seen && box.current && drawing) draw(box.current, drawing, scene ?? drawing.scenes[0].id, { phone })
  }, [drawing, scene, phone, seen])
  useEffect(() => {
    const element = box.current!
    return () => erase(element)
  }, [])
  const scale = room / page
  return (
    <Box
      ref={around}
      aria-hidden
      inert
      data-hue
      style={{ width: width === 'fill' ? '100%' : width, height }}
      sx={{ overflow: 'hidden', position: 'relative', background: '#ece3d3', contain: 'strict' }}
    >
      <Box
        sx={{
          position: 'absolute',
          inset: '14px 16px',
          display: 'grid',
          alignContent: 'start',
          gap: '8px',
          opacity: 0.6,
          '& i': { height: 7, borderRadius: '3px', background: '#cfc2ac' },
        }}
      >
        <i style={{ width: '38%', height: 11 }} />
        {[100, 86, 93, 60, 90, 75, 88, 54].map(w => (
          <i key={w} style={{ width: w + '%' }} />
        ))}
      </Box>
      <Box
        ref={box}
        style={{ width: page, height: height / scale, transform: `scale(${scale})` }}
        sx={{ position: 'absolute', left: 0, top: 0, transformOrigin: '0 0', pointerEvents: 'none', overflow: 'hidden' }}
      />
    </Box>
  )
}
