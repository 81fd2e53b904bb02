import Box from '@mui/material/Box'
import { type PointerEvent, useCallback, useEffect, useLayoutEffect, useRef, useState } from 'react'
import type { Block, Drawing, Scene } from '../../kinds/piece'
import { draw, erase } from '../../page/renderer'
import { plum } from '../theme'
import { editWords } from './editWords'
import { kindNames, moveBlock, select, useView } from './view'

interface Rect {
  left: number
  top: number
  width: number
  height: number
}

const dragStarts = 5 // px of the window

/**
 * Where a scene is drawn and touched: a click selects, another edits words in
 * place, a drag moves a block. The drawing is the renderer's own; what is laid
 * over it only marks it.
 */
export function Stage({ drawing, scene, scale }: { drawing: Drawing; scene: Scene; scale: number }) {
  const box = useRef<HTMLDivElement>(null)
  const { selected, editing, device } = useView()
  const [hovered, setHovered] = useState('')
  const [landing, setLanding] = useState<{ index: number; y: number } | null>(null)
  const [rects, setRects] = useState<Record<string, Rect>>({})
  const drag = useRef<{ id: string; y: number; moving: boolean; wasSelected: boolean } | null>(null)

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
    setRects(found)
  }, [scale])

  useLayoutEffect(() => {
    // While words are edited in place the element is the writer's.
    if (!editing) draw(box.current!, drawing, scene.id)
    measure()
  }, [drawing, scene.id, editing, measure, device])

  useEffect(() => {
    const root = box.current!.shadowRoot!
    const eye = new ResizeObserver(measure)
    eye.observe(root.querySelector('[data-frame]')!)
    root.addEventListener('scroll', measure, true)
    return () => {
      eye.disconnect()
      root.removeEventListener('scroll', measure, true)
    }
  }, [measure, scene.id])
  useEffect(() => {
    const element = box.current!
    return () => erase(element)
  }, [])

  const under = (e: PointerEvent): string => {
    for (const target of e.nativeEvent.composedPath()) {
      if (!(target instanceof HTMLElement)) continue
      if (target.dataset.block) return target.dataset.block
      if ('close' in target.dataset) return 'close'
    }
    return 'frame'
  }

  const down = (e: PointerEvent) => {
    if (useView.getState().editing || e.button !== 0) return
    // Nothing in the drawing acts while it is being designed.
    e.preventDefault()
    const id = under(e)
    drag.current = { id, y: e.clientY, moving: false, wasSelected: selected === id }
    select(id)
    if (document.activeElement instanceof HTMLElement) document.activeElement.blur()
  }
  const move = (e: PointerEvent) => {
    const d = drag.current
    if (!d) return setHovered(editing ? '' : under(e))
    if (!scene.blocks.some(b => b.id === d.id)) return
    if (!d.moving && Math.abs(e.clientY - d.y) < dragStarts) return
    if (!d.moving) box.current!.setPointerCapture(e.pointerId)
    d.moving = true
    const y = (e.clientY - box.current!.getBoundingClientRect().top) / scale
    const others = scene.blocks.map(b => rects[b.id]).filter(Boolean)
    const index = others.filter(r => r.top + r.height / 2 < y).length
    const mark = index < others.length ? others[index].top - 8 : others[others.length - 1].top + others[others.length - 1].height + 8
    setLanding({ index, y: mark })
  }
  const up = () => {
    const d = drag.current
    drag.current = null
    if (!d) return
    if (d.moving && landing) {
      const from = scene.blocks.findIndex(b => b.id === d.id)
      moveBlock(from, landing.index > from ? landing.index - 1 : landing.index)
    } else if (d.wasSelected) startEditing(d.id)
    setLanding(null)
  }
  const startEditing = (id: string) => {
    const block = scene.blocks.find(b => b.id === id)
    const element = box.current?.shadowRoot?.querySelector<HTMLElement>(`[data-block="${id}"]`)
    if (block && element)
      editWords(block, element, measure, () => {
        if (box.current) erase(box.current)
      })
  }

  const frame = rects.frame
  return (
    <>
      <Box
        ref={box}
        data-stage
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={() => {
          drag.current = null
          setLanding(null)
        }}
        onPointerLeave={() => setHovered('')}
        onClickCapture={e => e.preventDefault()}
        onSubmitCapture={e => e.preventDefault()}
        sx={{ position: 'absolute', inset: 0, transform: 'translateZ(0)', overflow: 'hidden', cursor: 'default', touchAction: 'none' }}
      />
      <Box aria-hidden sx={{ position: 'absolute', inset: 0, pointerEvents: 'none', overflow: 'hidden' }}>
        {hovered && hovered !== selected && rects[hovered] && <Outlined rect={rects[hovered]} scale={scale} faint />}
        {rects[selected] && (
          <Outlined
            rect={rects[selected]}
            scale={scale}
            name={editing ? '' : selected === 'frame' ? 'Frame' : selected === 'close' ? 'Close' : nameOfKind(scene.blocks, selected)}
          />
        )}
        {landing && frame && (
          <Box
            sx={{
              position: 'absolute',
              left: frame.left + 8,
              width: frame.width - 16,
              top: landing.y - 2 / scale,
              height: 4 / scale,
              borderRadius: 2,
              background: plum.main,
            }}
          />
        )}
      </Box>
    </>
  )
}

const nameOfKind = (blocks: Block[], id: string) => {
  const block = blocks.find(b => b.id === id)
  return block ? kindNames[block.kind] : ''
}

function Outlined({ rect, scale, faint, name }: { rect: Rect; scale: number; faint?: boolean; name?: string }) {
  const off = 4 / scale
  return (
    <Box
      style={{ left: rect.left - off, top: rect.top - off, width: rect.width + 2 * off, height: rect.height + 2 * off }}
      sx={{
        position: 'absolute',
        border: `${(faint ? 1 : 2) / scale}px ${faint ? 'dashed' : 'solid'} ${plum.main}`,
        borderRadius: 2 / scale + 'px',
        boxShadow: faint ? 'none' : `0 0 0 ${1 / scale}px rgb(255 255 255 / .7)`,
      }}
    >
      {name && (
        <Box
          component="span"
          sx={{
            position: 'absolute',
            left: -2 / scale,
            bottom: '100%',
            background: plum.main,
            color: '#fff',
            borderRadius: `${4 / scale}px`,
            p: `${1 / scale}px ${7 / scale}px`,
            fontSize: 11 / scale,
            fontWeight: 600,
            whiteSpace: 'nowrap',
          }}
        >
          {name}
        </Box>
      )}
    </Box>
  )
}
