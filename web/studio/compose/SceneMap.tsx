import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogTitle from '@mui/material/DialogTitle'
import { type PointerEvent, useRef, useState } from 'react'
import { useParams } from 'react-router'
import type { Scene } from '../../kinds/piece'
import { Miniature } from '../parts/Miniature'
import { count } from '../parts/say'
import { usePlayed } from '../queries'
import { apricot, ink, paper, plum } from '../theme'
import { useDrawing } from './drawing'
import { PlayedThrough, usePlayThrough } from './PlayThrough'
import { buttonsOf, deadEnds, depths, lead, waysOf, waysOn } from './scenes'
import { useScene, useView } from './view'

const card = { width: 190, height: 96 }
const chip = 24
const gap = { x: 110, y: 34 }

/** What a scene may be left by: what goes on, and buttons that could. */
const rowsOf = (s: Scene) => {
  const on = waysOn(s)
  return [...on, ...buttonsOf(s).filter(b => b.press.do !== 'back' && !on.some(w => w.id === b.id))]
}

/** The graph of scenes: what leads where, to be drawn anew by hand. */
export function SceneMap({ onClose }: { onClose(): void }) {
  const { doc, design, v } = useScene()
  const drawing = useDrawing(doc, design)
  const [seed, setSeed] = useState(0)
  const played = usePlayThrough(drawing, seed)
  const { piece = '' } = useParams()
  const live = usePlayed(piece, 0).data?.variants.find(x => x.id === doc.split.variants[v].id)
  const came = live?.visitors ? new Map(live.scenes.map(s => [s.id, s.reached])) : undefined
  const area = useRef<HTMLDivElement>(null)
  const [line, setLine] = useState<{ from: string; block: string; x0: number; y0: number; x: number; y: number } | null>(null)
  const ways = waysOf(design)
  const dead = deadEnds(design)
  const depth = depths(design)
  const last = Math.max(0, ...depth.values())

  // As many columns side by side as go.
  const across = last + (design.scenes.every(s => depth.has(s.id)) ? 0 : 1)
  const gapX = Math.max(46, Math.min(gap.x, (1120 - (across + 1) * card.width) / Math.max(1, across)))
  // Columns by how many steps a scene is from the first; those nobody reaches stand last.
  const rows = new Map<number, number>()
  const spots = new Map(
    design.scenes.map(s => {
      const column = depth.get(s.id) ?? last + 1
      const y = rows.get(column) ?? 0
      const height = card.height + 26 + rowsOf(s).length * chip
      rows.set(column, y + height + gap.y)
      return [s.id, { x: 20 + column * (card.width + gapX), y: 16 + y, height }]
    }),
  )
  const size = { width: 40 + (across + 1) * (card.width + gapX) - gapX, height: Math.max(320, ...rows.values()) + 20 }
  const out = (scene: string, block: string) => {
    const s = spots.get(scene)!
    const i = rowsOf(design.scenes.find(x => x.id === scene)!).findIndex(b => !block || b.id === block)
    return { x: s.x + card.width, y: s.y + card.height + 22 + Math.max(0, i) * chip + chip / 2 }
  }
  const curve = (x0: number, y0: number, x1: number, y1: number) => {
    const bend = Math.max(40, Math.abs(x1 - x0) / 2)
    return `M${x0} ${y0}C${x0 + bend} ${y0} ${x1 - bend} ${y1} ${x1} ${y1}`
  }
  const at = (e: PointerEvent) => {
    const r = area.current!.getBoundingClientRect()
    return { x: e.clientX - r.left, y: e.clientY - r.top }
  }
  const drop = (e: PointerEvent) => {
    if (!line) return
    const p = at(e)
    const over = design.scenes.find(s => {
      const spot = spots.get(s.id)!
      return p.x >= spot.x && p.x <= spot.x + card.width && p.y >= spot.y && p.y <= spot.y + spot.height
    })
    if (over && over.id !== line.from) lead(line.from, line.block, over.id)
    setLine(null)
  }
  return (
    <Dialog open onClose={onClose} maxWidth={false} fullWidth aria-labelledby="map-title" slotProps={{ paper: { sx: { maxWidth: 1180 } } }}>
      <DialogTitle id="map-title" variant="h2" sx={{ display: 'flex', alignItems: 'center' }}>
        What leads where
        <Box component="span" sx={{ ml: 2, fontSize: 13, fontFamily: 'inherit', color: ink[2], fontWeight: 400 }}>
          Drag from a button's dot to the scene it should lead to.{came ? ' Counted: visitors since it is live.' : ''}
        </Box>
        <Button variant="outlined" size="small" onClick={onClose} sx={{ ml: 'auto' }}>
          Close
        </Button>
      </DialogTitle>
      <Box sx={{ overflow: 'auto', background: paper.page, borderTop: `1px solid ${paper.line}`, maxHeight: '56vh' }}>
        <Box
          ref={area}
          sx={{ position: 'relative', touchAction: 'none' }}
          style={size}
          onPointerMove={e => line && setLine({ ...line, ...at(e) })}
          onPointerUp={drop}
        >
          <svg width={size.width} height={size.height} aria-hidden="true" style={{ position: 'absolute', inset: 0 }}>
            {ways.map(w => {
              const from = out(w.from, w.block)
              const to = spots.get(w.to)
              return (
                to && (
                  <path
                    key={w.from + w.block + w.to}
                    d={curve(from.x, from.y, to.x, to.y + card.height / 2)}
                    fill="none"
                    stroke={plum.main}
                    strokeWidth="2"
                    opacity="0.75"
                  />
                )
              )
            })}
            {ways.map(w => {
              const to = spots.get(w.to)
              return (
                to && (
                  <path
                    key={'a' + w.from + w.block + w.to}
                    d={`M${to.x - 9} ${to.y + card.height / 2 - 6}L${to.x} ${to.y + card.height / 2}L${to.x - 9} ${to.y + card.height / 2 + 6}Z`}
                    fill={plum.main}
                  />
                )
              )
            })}
            {line && <path d={curve(line.x0, line.y0, line.x, line.y)} fill="none" stroke={apricot.main} strokeWidth="2.5" strokeDasharray="6 5" />}
          </svg>
          {design.scenes.map((s, i) => {
            const spot = spots.get(s.id)!
            const share = played.data && !played.isError ? `${Math.round((100 * (played.data.reached[s.id] ?? 0)) / played.data.visitors)} %` : ''
            const come = came ? `${count(came.get(s.id) ?? 0)} came` : share
            const wrong = !depth.has(s.id) ? 'nobody gets here' : dead.includes(s.id) ? 'nothing leads on' : ''
            return (
              <Box
                key={s.id}
                data-scene={s.id}
                style={{ left: spot.x, top: spot.y }}
                sx={{
                  position: 'absolute',
                  width: card.width,
                  background: paper.sheet,
                  border: `${wrong ? 2 : 1}px ${wrong ? 'dashed' : 'solid'} ${wrong ? apricot.main : paper.strong}`,
                  borderRadius: '8px',
                  overflow: 'hidden',
                }}
              >
                <Box
                  component="button"
                  type="button"
                  onClick={() => {
                    useView.setState({ scene: s.id, selected: 'frame', also: [] })
                    onClose()
                  }}
                  aria-label={`Open ${s.name}`}
                  sx={{ border: 0, p: 0, display: 'block', width: '100%', cursor: 'pointer', background: 'none', textAlign: 'start', font: 'inherit' }}
                >
                  <Miniature drawing={drawing} scene={s.id} width={card.width} height={card.height} />
                  <Box
                    sx={{
                      px: '8px',
                      fontSize: 12.5,
                      fontWeight: 600,
                      height: 22,
                      lineHeight: '22px',
                      overflow: 'hidden',
                      whiteSpace: 'nowrap',
                      textOverflow: 'ellipsis',
                    }}
                  >
                    {come && !wrong && (
                      <Box
                        component="span"
                        title={came ? 'Visitors who came here, all time' : 'Made-up visitors who come here'}
                        sx={{ float: 'right', fontWeight: 400, color: ink[2], pl: '6px' }}
                      >
                        {come}
                      </Box>
                    )}
                    {i + 1} · {s.name}
                    {wrong && (
                      <Box component="span" sx={{ color: apricot.ink }}>
                        {' '}
                        · {wrong}
                      </Box>
                    )}
                  </Box>
                </Box>
                {rowsOf(s).map(b => (
                  <Box
                    key={b.id}
                    sx={{
                      height: chip,
                      display: 'flex',
                      alignItems: 'center',
                      gap: '6px',
                      pl: '8px',
                      pr: '4px',
                      fontSize: 12,
                      borderTop: `1px solid ${paper.line}`,
                    }}
                  >
                    <Box component="span" sx={{ flex: 1, overflow: 'hidden', whiteSpace: 'nowrap', textOverflow: 'ellipsis', color: ink[2] }}>
                      {b.words}
                    </Box>
                    <Box
                      data-dot={b.id}
                      title="Drag to a scene"
                      onPointerDown={e => {
                        e.preventDefault()
                        const from = out(s.id, b.id)
                        setLine({ from: s.id, block: b.id, x0: from.x, y0: from.y, ...at(e) })
                      }}
                      sx={{
                        width: 14,
                        height: 14,
                        borderRadius: '50%',
                        border: `2px solid ${plum.main}`,
                        background: ways.some(w => w.from === s.id && (!w.block || w.block === b.id)) ? plum.main : paper.sheet,
                        cursor: 'crosshair',
                        flex: 'none',
                      }}
                    />
                  </Box>
                ))}
              </Box>
            )
          })}
        </Box>
      </Box>
      {design.scenes.length > 1 && <PlayedThrough design={design} played={played} onAgain={() => setSeed(seed + 1)} />}
    </Dialog>
  )
}
