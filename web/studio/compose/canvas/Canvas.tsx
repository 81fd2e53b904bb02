import Box from '@mui/material/Box'
import { type PointerEvent, useCallback, useEffect, useLayoutEffect, useRef, useState } from 'react'
import type { Drawing } from '../../../kinds/piece'
import type { SentStep } from '../../../kinds/walk'
import { formatOn, on, type PageLook, placeOf } from '../../../page/paint'
import { apricot, ink, plum } from '../../parts/look/theme'
import { Picking, usePicking } from '../../parts/pages/Picking'
import { play } from '../../parts/pages/renderer'
import { selectorOf, useStill } from '../../parts/pages/stillPage'
import { useDrawing } from '../../piece/drawing'
import { pathOf } from '../../rule/rules'
import { addressOf, api, type Trouble } from '../../server/api'
import { usePieceID, useSite } from '../../server/queries'
import { changeFrame } from '../commands/change'
import { setDevice, useScene, useView } from '../commands/view'
import { usePageRoom } from './page'
import { Stage } from './Stage'
import { Toolbar } from './Toolbar'

const phoneHeight = 760

/** The scene on a page of the site, drawn by the renderer visitors get. */
export function Canvas() {
  const { doc, design, scene, view, phone } = useScene()
  const site = useSite()
  const [path, setPath] = useState(() => pathOf(doc.rule))
  const [playing, setPlaying] = useState(false)
  const [height, setHeight] = useState(0)
  const picking = usePicking(s => s.pick)
  const desk = useRef<HTMLDivElement>(null)
  const [room, setRoom] = useState({ width: 740, height: 480 })
  useLayoutEffect(() => {
    const eye = new ResizeObserver(([entry]) => setRoom({ width: entry.contentRect.width, height: entry.contentRect.height }))
    eye.observe(desk.current!)
    return () => eye.disconnect()
  }, [])
  const { width } = view
  const handheld = view.device === 'phone'
  const scale = handheld ? Math.min(1, (room.height - 24) / phoneHeight) : Math.min(1, room.width / width)
  const pageHeight = handheld ? phoneHeight : room.height / scale
  const drawing = useDrawing(doc, design)
  const format = formatOn(phone, drawing)
  const frame = on(phone, design.frame)
  const still = useStill()
  const piece = usePieceID()
  const sited = usePageRoom(still.doc, still.loaded, format, placeOf(format, frame.place), frame, piece, height, width)
  const onHeight = useCallback((h: number) => setHeight(h), [])
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', minWidth: 0, minHeight: 0 }}>
      <Toolbar path={path} onPath={setPath} playing={playing} onPlay={setPlaying} scale={room.width < 780 ? 0 : Math.round(scale * 100)} />
      {(phone || sited.lost || picking) && (
        <Box sx={{ px: '14px', py: '4px', fontSize: 12.5, background: apricot.wash, color: apricot.ink, flex: 'none' }} role="status">
          {picking
            ? 'Click an element of the page to place the piece beside it. Escape cancels.'
            : sited.lost
              ? 'This page has no place for it yet: it is drawn where it could be. Choose an element in its settings.'
              : 'Changes to the style here are for phones only. Text changes on every device.'}
        </Box>
      )}
      <Box
        ref={desk}
        onWheel={e => !playing && still.scroll(e.deltaY / scale)}
        sx={{
          flex: 1,
          minHeight: 0,
          position: 'relative',
          overflow: 'hidden',
          background: '#e9dfcd',
          display: 'grid',
          placeItems: handheld ? 'center' : 'start center',
        }}
      >
        <Box
          sx={{
            width: width * scale,
            height: pageHeight * scale,
            position: 'relative',
            overflow: 'hidden',
            ...(handheld && { borderRadius: '18px', boxShadow: `0 0 0 5px ${ink[1]}, 0 14px 40px rgb(36 26 46 / .3)` }),
          }}
        >
          <Box sx={{ width, height: pageHeight, transform: `scale(${scale})`, transformOrigin: '0 0', position: 'relative', background: '#fff' }}>
            <Box
              component="iframe"
              title="Page of the site"
              sandbox="allow-same-origin"
              ref={still.ref}
              onLoad={still.onLoad}
              inert
              tabIndex={-1}
              src={addressOf('GET /sites/:site/page', { site: site.id }, { path })}
              sx={{ position: 'absolute', inset: 0, width: '100%', height: '100%', border: 0, pointerEvents: 'none' }}
            />
            {playing ? (
              <Played drawing={drawing} phone={phone} page={sited.look} spot={sited.spot} onEnd={() => setPlaying(false)} />
            ) : (
              <Stage drawing={drawing} scene={scene} scale={scale} phone={phone} page={sited.look} spot={sited.spot} onHeight={onHeight} />
            )}
            {picking && still.doc && (
              <Picking
                doc={still.doc}
                scale={scale}
                onPick={e => {
                  usePicking.setState({ pick: false })
                  if (e) changeFrame(f => void (f.anchor = { selector: selectorOf(e), where: f.anchor?.where ?? 'after' }))
                }}
              />
            )}
          </Box>
        </Box>
        {view.device === 'any' && <Edge x={(room.width + width * scale) / 2} scale={scale} most={room.width} />}
      </Box>
    </Box>
  )
}

/** The edge of the page, to be dragged to any width. */
function Edge({ x, scale, most }: { x: number; scale: number; most: number }) {
  const from = useRef<{ x: number; width: number } | null>(null)
  const move = (e: PointerEvent) => {
    if (from.current) setDevice('any', Math.min(Math.max(most / 0.5, 1100), from.current.width + ((e.clientX - from.current.x) * 2) / scale))
  }
  return (
    <Box
      role="separator"
      aria-label="Width of the page"
      aria-orientation="vertical"
      aria-valuenow={useView.getState().width}
      tabIndex={0}
      onKeyDown={e => {
        const by = e.key === 'ArrowRight' ? 10 : e.key === 'ArrowLeft' ? -10 : 0
        if (!by) return
        e.stopPropagation()
        setDevice('any', useView.getState().width + by)
      }}
      onPointerDown={e => {
        e.currentTarget.setPointerCapture(e.pointerId)
        from.current = { x: e.clientX, width: useView.getState().width }
      }}
      onPointerMove={move}
      onPointerUp={() => {
        from.current = null
      }}
      style={{ left: Math.min(x, most - 12) }}
      sx={{
        position: 'absolute',
        top: 0,
        bottom: 0,
        width: 10,
        cursor: 'ew-resize',
        background: plum.main,
        opacity: 0.75,
        touchAction: 'none',
        borderRadius: '4px',
      }}
    />
  )
}

/** The piece as a visitor has it, sent nowhere. */
function Played({
  drawing,
  phone,
  page,
  spot,
  onEnd,
}: {
  drawing: Drawing
  phone: boolean
  page?: PageLook
  spot?: { left: number; top: number; width: number }
  onEnd(): void
}) {
  const box = useRef<HTMLDivElement>(null)
  const end = useRef(onEnd)
  end.current = onEnd
  const first = useRef(drawing)
  const site = useSite().id
  useEffect(() => {
    let stop = () => {}
    let over = false
    // As visitors get it, and asked of the server step by step as theirs is.
    const all: SentStep[] = []
    // Each time it is played something else may be drawn.
    const seed = String(Math.random())
    const walk = (steps: readonly SentStep[]) => api('POST /sites/:site/walk', { site }, { body: { drawing: first.current, steps: [...steps], seed } })
    const advance = async (steps: SentStep[], from: number) => {
      all.splice(from, Number.POSITIVE_INFINITY, ...steps)
      try {
        return { ok: true, answer: (await walk(all)).at }
      } catch (e) {
        const { problem } = e as Trouble
        return { ok: false, faults: problem?.faults, title: problem?.title }
      }
    }
    const begin = (drawing: Drawing, asks: boolean) => {
      if (!over) stop = play(box.current!, drawing, () => end.current(), { phone, page, advance: asks ? advance : undefined })
    }
    // A design with something wrong in it plays as far as it goes.
    walk([]).then(
      a => begin(a.drawing, true),
      () => begin(first.current, false),
    )
    return () => {
      over = true
      stop()
    }
  }, [])
  const inline = spot && { left: spot.left, top: spot.top, width: spot.width, right: 'auto', bottom: 'auto' }
  return <Box ref={box} data-played style={inline} sx={{ position: 'absolute', inset: 0, transform: 'translateZ(0)', overflow: spot ? 'visible' : 'hidden' }} />
}
