import Box from '@mui/material/Box'
import { useEffect, useRef } from 'react'
import type { Drawing } from '../../kinds/piece'
import { draw } from '../../page/renderer'

/** How wide the page is that a miniature shows. */
const pageWidth = 1120

/** A scene of a piece on a page, drawn small by the very renderer visitors get. */
export function Miniature({ drawing, scene, width, height }: { drawing: Drawing; scene?: string; width: number; height: number }) {
  const box = useRef<HTMLDivElement>(null)
  useEffect(() => {
    if (box.current) draw(box.current, drawing, scene ?? drawing.scenes[0].id)
  }, [drawing, scene])
  const scale = width / pageWidth
  return (
    <Box aria-hidden inert sx={{ width, height, overflow: 'hidden', position: 'relative', background: '#ece3d3', contain: 'strict' }}>
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
        sx={{
          position: 'absolute',
          left: 0,
          top: 0,
          width: pageWidth,
          height: height / scale,
          transformOrigin: '0 0',
          transform: `scale(${scale})`,
          pointerEvents: 'none',
        }}
      />
    </Box>
  )
}
