import Box from '@mui/material/Box'
import { useContext } from 'react'
import type { Frame } from '../../../../kinds/piece'
import { Pick, Row, ThingContext } from '../controls/controls'

/** How a picture fills its box, and its focal point. */
export function FocalPoint({ k, hash }: { k?: string; hash?: string }) {
  const { shown, set } = useContext(ThingContext)
  const of = (k ? ((shown as Frame).behind ?? {}) : shown) as { focus?: { x: number; y: number }; fit?: string }
  const focus = of.focus ?? { x: 50, y: 50 }
  const prefix = k ? k + '.' : ''
  const point = (x: number, y: number) =>
    set(((t: Frame) => {
      const target = (k ? (t.behind ??= {}) : t) as { focus?: { x: number; y: number } }
      target.focus = { x: Math.max(0, Math.min(100, Math.round(x))), y: Math.max(0, Math.min(100, Math.round(y))) }
    }) as never)
  return (
    <>
      <Pick
        k={`${prefix}fit`}
        label="Fit"
        options={[
          ['', 'Cover'],
          ['contain', 'Contain'],
        ]}
      />
      {hash && of.fit !== 'contain' && (
        <Row label="Focal point" k={`${prefix}focus`}>
          {() => (
            <Box
              role="slider"
              aria-label="Focal point"
              aria-valuetext={`${focus.x} % across, ${focus.y} % down`}
              aria-valuenow={focus.x}
              tabIndex={0}
              onKeyDown={e => {
                const by = { ArrowLeft: [-5, 0], ArrowRight: [5, 0], ArrowUp: [0, -5], ArrowDown: [0, 5] }[e.key]
                if (!by) return
                e.preventDefault()
                e.stopPropagation()
                point(focus.x + by[0], focus.y + by[1])
              }}
              onPointerDown={e => e.currentTarget.setPointerCapture(e.pointerId)}
              onPointerMove={e => {
                if (!e.buttons) return
                const r = e.currentTarget.getBoundingClientRect()
                point((100 * (e.clientX - r.left)) / r.width, (100 * (e.clientY - r.top)) / r.height)
              }}
              onClick={e => {
                const r = e.currentTarget.getBoundingClientRect()
                point((100 * (e.clientX - r.left)) / r.width, (100 * (e.clientY - r.top)) / r.height)
              }}
              sx={{ position: 'relative', cursor: 'crosshair', lineHeight: 0, borderRadius: '6px', overflow: 'hidden', touchAction: 'none' }}
            >
              <img src={`/v1/pictures/${hash}`} alt="" draggable={false} style={{ width: '100%', display: 'block' }} />
              <Box
                style={{ left: focus.x + '%', top: focus.y + '%' }}
                sx={{
                  position: 'absolute',
                  width: 18,
                  height: 18,
                  m: '-9px',
                  borderRadius: '50%',
                  border: '3px solid #fff',
                  boxShadow: '0 0 0 2px rgb(0 0 0 / .6)',
                }}
              />
            </Box>
          )}
        </Row>
      )}
    </>
  )
}
