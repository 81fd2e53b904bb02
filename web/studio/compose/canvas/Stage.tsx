import Box from '@mui/material/Box'
import { type DragEvent, lazy, type MouseEvent, type PointerEvent, Suspense, useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'
import type { Drawing, Scene } from '../../../kinds/piece'
import { formatOn, type PageLook, paint, placeOf } from '../../../page/paint'
import { blockKinds } from '../../design/blocks'
import { find, flat, holdersOf, shownOn } from '../../design/tree'
import { plum } from '../../parts/look/theme'
import { toast } from '../../parts/look/toast'
import type { Rect } from '../../parts/pages/rect'
import { draw, erase } from '../../parts/pages/renderer'
import { useSite } from '../../server/queries'
import { stage } from '../commands/actions'
import { putPicture } from '../commands/pictures'
import { moveSelectedTo, standSelectedBeside } from '../commands/selection'
import { openMenu, select, selectToo, useView } from '../commands/view'
import { Handles } from './Handles'
import { between, type Landing, landingAt, touched } from './landing'
import { editText, type Pen, prepareToEdit } from './text/editText'

const toolbar = () => import('./text/TextToolbar')
const TextToolbar = lazy(toolbar)

const dragStarts = 5 // px of the window
const labelHeight = 22 // px of the window, of the name over what is selected
const nameWidth = 110 // px of the window, of the longest
const goesAside = 24 // px of the window; a drag straight up or down puts nothing beside another block

/** Takes what is drawn out of the way of the Tab key and of typing: it is looked at, and edited by the outline and the settings. */
function out(root: ShadowRoot) {
  for (const e of root.querySelectorAll<HTMLElement>('a, button, input, select, textarea, summary, iframe, video, audio, [tabindex], [contenteditable]'))
    e.tabIndex = -1
}

const noFocus = (e: Event) => {
  if (!useView.getState().editing) (e.target as HTMLElement).blur()
}

interface Props {
  drawing: Drawing
  scene: Scene
  scale: number
  phone: boolean
  page?: PageLook
  /** The position of an inline piece in the page. */
  spot?: Rect
  /** Toaster how high an inline piece or a bar is, so that the page can make room. */
  onHeight(height: number): void
}

/**
 * Where a scene is drawn and edited: a click selects, another edits text in
 * place, a drag moves a block, and from beside the blocks it selects several.
 * The drawing is the renderer's own; only marks are laid over it.
 */
export function Stage({ drawing, scene, scale, phone, page, spot, onHeight }: Props) {
  const box = useRef<HTMLDivElement>(null)
  const { kit } = useSite()
  const { selected, also, editing, width } = useView()
  const [hovered, setHovered] = useState('')
  const [landing, setLanding] = useState<Landing | null>(null)
  const [band, setBand] = useState<Rect | null>(null)
  const [rects, setRects] = useState<Record<string, Rect>>({})
  const [pen, setPen] = useState<Pen | undefined>()
  const drag = useRef<{ id: string; x: number; y: number; moving: boolean; wasSelected: boolean } | null>(null)
  const format = formatOn(phone, drawing)
  const frame = shownOn(phone, drawing.frame)
  const place = placeOf(format, frame.place)

  const measure = useCallback(() => {
    const root = box.current?.shadowRoot
    if (!root) return
    const origin = box.current!.getBoundingClientRect()
    const found: Record<string, Rect> = {}
    const note = (id: string, element: Element | null) => {
      if (!element) return
      const r = element.getBoundingClientRect()
      found[id] = { left: (r.left - origin.left) / scale, top: (r.top - origin.top) / scale, width: r.width / scale, height: r.height / scale }
    }
    note('frame', root.querySelector('[data-frame]'))
    note('close', root.querySelector('[data-close]'))
    for (const block of root.querySelectorAll('[data-block]')) note(block.getAttribute('data-block')!, block)
    setRects(before => (alike(before, found) ? before : found))
    onHeight(Math.round(found.frame?.height ?? 0))
  }, [scale, onHeight])

  useLayoutEffect(() => {
    // While words are edited in place the element is the writer's.
    if (!editing) out(draw(box.current!, drawing, scene.id, { phone, page }))
    measure()
  }, [drawing, scene.id, editing, measure, width, phone, page, spot])

  useEffect(() => {
    const root = box.current!.shadowRoot!
    const eye = new ResizeObserver(measure)
    const seen = root.querySelector('[data-frame]')
    if (seen) eye.observe(seen)
    root.addEventListener('scroll', measure, true)
    root.addEventListener('load', measure, true)
    root.addEventListener('focusin', noFocus)
    return () => {
      eye.disconnect()
      root.removeEventListener('scroll', measure, true)
      root.removeEventListener('load', measure, true)
      root.removeEventListener('focusin', noFocus)
    }
  }, [measure, scene.id, format])
  useEffect(() => {
    const element = box.current!
    document.fonts.addEventListener('loadingdone', measure)
    return () => {
      document.fonts.removeEventListener('loadingdone', measure)
      erase(element)
    }
  }, [])

  const under = (e: { nativeEvent: Event }): string => {
    for (const target of e.nativeEvent.composedPath()) {
      if (!(target instanceof HTMLElement)) continue
      if (target.dataset.block) return target.dataset.block
      if ('close' in target.dataset) return 'close'
    }
    return 'frame'
  }
  const at = (e: { clientX: number; clientY: number }) => {
    const origin = box.current!.getBoundingClientRect()
    return [(e.clientX - origin.left) / scale, (e.clientY - origin.top) / scale] as const
  }
  const chosen = useMemo(() => [selected, ...also], [selected, also])

  const down = (e: PointerEvent) => {
    if (useView.getState().editing || e.button !== 0) return
    // Nothing in the drawing acts while it is being designed.
    e.preventDefault()
    const id = under(e)
    if (document.activeElement instanceof HTMLElement) document.activeElement.blur()
    if (e.shiftKey || e.ctrlKey || e.metaKey) return selectToo(id)
    drag.current = { id, x: e.clientX, y: e.clientY, moving: false, wasSelected: selected === id && !also.length }
    if (!chosen.includes(id)) select(id)
  }
  const move = (e: PointerEvent) => {
    const d = drag.current
    if (!d) {
      const over = editing ? '' : under(e)
      if (find(scene, over)) {
        prepareToEdit()
        toolbar().catch(() => {})
      }
      return setHovered(over)
    }
    const block = find(scene, d.id)?.block
    if (d.id !== 'frame' && (!block || block.locked)) return
    if (!d.moving && Math.hypot(e.clientX - d.x, e.clientY - d.y) < dragStarts) return
    if (!d.moving) box.current!.setPointerCapture(e.pointerId)
    d.moving = true
    if (!block) return stretch(e, d)
    setLanding(landingAt(scene, rects, chosen.includes(d.id) ? chosen : [d.id], ...at(e), format === 'bar', Math.abs(e.clientX - d.x) > goesAside))
  }
  // A drag that begins on no block draws a band, and selects what it touches.
  const stretch = (e: PointerEvent, from: { x: number; y: number }) => {
    const drawn = between(...at({ clientX: from.x, clientY: from.y }), ...at(e))
    setBand(drawn)
    const [first = 'frame', ...rest] = touched(scene, rects, drawn)
    select(first, rest)
  }
  const up = () => {
    const d = drag.current
    drag.current = null
    setBand(null)
    if (!d) return
    if (d.moving) {
      if (landing?.beside) standSelectedBeside(landing.beside.id, landing.beside.after)
      else if (landing?.spot) moveSelectedTo(landing.spot)
    } else if (d.wasSelected) edit(d.id)
    else select(d.id)
    setLanding(null)
  }
  const edit = async (id: string) => {
    const whole = find(scene, id)?.block
    const element = box.current?.shadowRoot?.querySelector<HTMLElement>(`[data-block="${CSS.escape(id)}"]`)
    if (!whole || !element || whole.locked) return
    let over = false
    const from = document.activeElement
    const done = () => {
      over = true
      setPen(undefined)
      if (box.current) erase(box.current)
      // Who came from the keyboard goes back there.
      if (from instanceof HTMLElement && from !== document.body && from.isConnected) from.focus()
    }
    try {
      const [made] = await Promise.all([editText(shownOn(phone, whole), element, c => paint(kit, c), measure, done), toolbar()])
      if (!over) setPen(made)
    } catch {
      toast('The text editor could not be loaded. Check your connection and try again.', true)
    }
  }
  stage.edit = edit

  const drop = (e: DragEvent) => {
    const file = [...e.dataTransfer.files].find(f => f.type.startsWith('image/'))
    e.preventDefault()
    if (file) putPicture(file, landingAt(scene, rects, [], ...at(e), format === 'bar')?.spot)
    else if (e.dataTransfer.files.length) toast('Drop a picture here: PNG, JPEG, WebP or GIF. Other files go into the library.', true)
  }
  const menu = (e: MouseEvent) => {
    e.preventDefault()
    const id = under(e)
    if (!chosen.includes(id)) select(id)
    openMenu(e.clientX, e.clientY)
  }

  const single = !also.length && !editing && !landing && !band ? find(scene, selected)?.block : undefined
  const shown = single && shownOn(phone, single)
  const holder = single && rects[holdersOf(scene, single.id).at(-1) ?? 'frame']
  const room = holder ? holder.width - (holder === rects.frame ? 2 * frame.padding : 0) : 300
  const seen = new Set(flat(scene.blocks).map(b => b.id))
  const inline = spot && { '--at-x': spot.left + 'px', '--at-y': spot.top + 'px', '--at-w': spot.width + 'px' }
  return (
    <>
      <Box
        ref={box}
        data-stage
        data-hue
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={() => {
          drag.current = null
          setLanding(null)
          setBand(null)
        }}
        onPointerLeave={() => setHovered('')}
        onContextMenu={menu}
        onDragOver={e => e.preventDefault()}
        onDrop={drop}
        onClickCapture={e => e.preventDefault()}
        onSubmitCapture={e => e.preventDefault()}
        style={inline as React.CSSProperties}
        sx={{ position: 'absolute', inset: 0, transform: 'translateZ(0)', overflow: 'hidden', cursor: 'default', touchAction: 'none' }}
      />
      <Box sx={{ position: 'absolute', inset: 0, pointerEvents: 'none', overflow: 'hidden' }}>
        {hovered && !chosen.includes(hovered) && rects[hovered] && <Outlined rect={rects[hovered]} scale={scale} faint />}
        {chosen
          .filter(id => rects[id])
          .map(id => (
            <Outlined
              key={id}
              rect={rects[id]}
              scale={scale}
              faint={!!landing}
              frame={id === 'frame' ? undefined : rects.frame}
              width={width}
              atEnd={rects[id].left * scale > (box.current?.clientWidth ?? 0) * scale - nameWidth}
              name={
                editing || id !== selected
                  ? ''
                  : id === 'frame'
                    ? 'Frame'
                    : id === 'close'
                      ? 'Close button'
                      : seen.has(id)
                        ? blockKinds[find(scene, id)!.block.kind].name
                        : ''
              }
            />
          ))}
        {shown && !shown.locked && rects[shown.id] && <Handles block={shown} rect={rects[shown.id]} room={room} scale={scale} />}
        {selected === 'frame' && !also.length && rects.frame && /popup|fly_in|sheet/.test(format) && (
          <Handles frame={frame} rect={rects.frame} room={room} scale={scale} centred={/center|top$|bottom$/.test(place)} />
        )}
        {band && (
          <Box
            data-band
            style={{ ...band, borderWidth: 1 / scale }}
            sx={{ position: 'absolute', border: `solid ${plum.main}`, background: 'rgb(106 42 91 / .1)' }}
          />
        )}
        {landing && (
          <Box
            data-landing
            style={{
              left: landing.mark.left,
              top: landing.mark.top,
              width: Math.max(landing.mark.width, 4 / scale),
              height: Math.max(landing.mark.height, 4 / scale),
            }}
            sx={{ position: 'absolute', borderRadius: '2px', background: plum.main, boxShadow: '0 0 0 1px rgb(255 255 255 / .8)' }}
          />
        )}
      </Box>
      {pen && rects[pen.block.id] && (
        <Box
          style={{ transform: `scale(${1 / scale})`, width: `${100 * scale}%`, height: `${100 * scale}%` }}
          sx={{ position: 'absolute', inset: 0, transformOrigin: '0 0', pointerEvents: 'none', '& > *': { pointerEvents: 'auto' } }}
        >
          <Suspense>
            <TextToolbar pen={pen} rect={rects[pen.block.id]} scale={scale} ink={frame.ink} accent={frame.accent} />
          </Suspense>
        </Box>
      )}
    </>
  )
}

const alike = (a: Record<string, Rect>, b: Record<string, Rect>) => {
  const ids = Object.keys(b)
  const same = (x: Rect | undefined, y: Rect) => x && x.left === y.left && x.top === y.top && x.width === y.width && x.height === y.height
  return ids.length === Object.keys(a).length && ids.every(id => same(a[id], b[id]))
}

interface Marked {
  rect: Rect
  scale: number
  faint?: boolean
  name?: string
  atEnd?: boolean
  /** The frame, beside which there may be room for the name. */
  frame?: Rect
  /** How wide the page is. */
  width?: number
}

function Outlined({ rect, scale, faint, name, atEnd, frame, width = 0 }: Marked) {
  const off = 4 / scale
  // Beside the frame it hides no words; over the block only where there is no room.
  const [left, right] = frame ? [rect.left - off - frame.left, frame.left + frame.width - rect.left - rect.width - off] : [0, 0]
  const beside =
    frame && frame.left * scale > nameWidth
      ? { right: `calc(100% + ${left + 6 / scale}px)`, top: 0 }
      : frame && (width - frame.left - frame.width) * scale > nameWidth
        ? { left: `calc(100% + ${right + 6 / scale}px)`, top: 0 }
        : { [atEnd ? 'right' : 'left']: -2 / scale, [rect.top * scale < labelHeight ? 'top' : 'bottom']: '100%' }
  return (
    <Box
      aria-hidden
      style={{
        left: rect.left - off,
        top: rect.top - off,
        width: rect.width + 2 * off,
        height: rect.height + 2 * off,
        border: `${(faint ? 1 : 2) / scale}px ${faint ? 'dashed' : 'solid'} ${plum.main}`,
        borderRadius: 2 / scale + 'px',
        boxShadow: faint ? 'none' : `0 0 0 ${1 / scale}px rgb(255 255 255 / .7)`,
      }}
      sx={{ position: 'absolute' }}
    >
      {name && (
        <Box
          component="span"
          style={{
            ...beside,
            borderRadius: `${4 / scale}px`,
            padding: `${1 / scale}px ${7 / scale}px`,
            fontSize: 11 / scale,
          }}
          sx={{ position: 'absolute', background: plum.main, color: '#fff', fontWeight: 600, whiteSpace: 'nowrap' }}
        >
          {name}
        </Box>
      )}
    </Box>
  )
}
