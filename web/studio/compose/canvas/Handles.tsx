import Box from '@mui/material/Box'
import { type PointerEvent, useState } from 'react'
import type { Block, Columns, Field, Frame, Icon, Picture, Space, Video } from '../../../kinds/piece'
import { plum } from '../../parts/look/theme'
import type { Rect } from '../../parts/pages/rect'
import { changeBlock, changeFrame } from '../commands/change'

interface Grip {
  name: string
  /** Where it stands on the rect, as parts of it. */
  x: number
  y: number
  cursor: string
  long?: 'x' | 'y'
  /** Takes how far it was dragged, in CSS pixels of the page, and says what it is now. */
  drag(dx: number, dy: number): string
}

const clamp = (n: number, low: number, high: number) => Math.round(Math.max(low, Math.min(high, n)))

/** The grips of what is selected: at its edges to size it, above it for space. */
export function Handles({
  block,
  frame,
  rect,
  room,
  scale,
  centred,
}: {
  block?: Block
  frame?: Frame
  rect: Rect
  room: number
  scale: number
  centred?: boolean
}) {
  const grips = block ? gripsOf(block, rect, room) : frame ? frameGrips(frame, !!centred) : []
  return grips.map(g => <Handle key={g.name} grip={g} rect={rect} scale={scale} />)
}

function frameGrips(frame: Frame, centred: boolean): Grip[] {
  const begun = frame.width
  const by = (dx: number) => {
    const width = clamp(begun + dx * (centred ? 2 : 1), 200, 1200)
    changeFrame(f => void (f.width = width), 'frame width')
    return width + ' px'
  }
  return [
    { name: 'Width, at the end', x: 1, y: 0.5, cursor: 'ew-resize', long: 'y', drag: dx => by(dx) },
    { name: 'Width, at the start', x: 0, y: 0.5, cursor: 'ew-resize', long: 'y', drag: dx => by(-dx) },
  ]
}

function gripsOf(block: Block, rect: Rect, room: number): Grip[] {
  const grips: Grip[] = [
    {
      name: 'Space above',
      x: 0.5,
      y: 0,
      cursor: 'ns-resize',
      long: 'x',
      drag: (_, dy) => {
        const above = clamp((block.above ?? 0) + dy, -48, 160)
        changeBlock(block.id, b => void (b.above = above || undefined))
        return `${above} px above`
      },
    },
  ]
  const set = <B extends Block>(how: (b: B) => void) => changeBlock<B>(block.id, how)
  if (block.kind === 'picture' || block.kind === 'video') {
    grips.push({
      name: 'Height',
      x: 0.5,
      y: 1,
      cursor: 'ns-resize',
      long: 'x',
      drag: (_, dy) => {
        const ratio = clamp((100 * (rect.height + dy)) / rect.width, 10, 400)
        set<Picture | Video>(b => void (b.ratio = ratio))
        return `${ratio} % of its width`
      },
    })
  }
  if (block.kind === 'picture') {
    const by = (dx: number) => {
      const width = clamp((100 * (rect.width + dx * (block.align === 'center' ? 2 : 1))) / room, 10, 100)
      set<Picture>(b => void (b.width = width))
      return width + ' %'
    }
    if (block.align !== 'end') grips.push({ name: 'Width', x: 1, y: 0.5, cursor: 'ew-resize', long: 'y', drag: dx => by(dx) })
    if (block.align !== 'start') grips.push({ name: 'Width, at the start', x: 0, y: 0.5, cursor: 'ew-resize', long: 'y', drag: dx => by(-dx) })
  }
  if (block.kind === 'field' && block.ask !== 'hidden')
    grips.push({
      name: 'Width',
      x: 1,
      y: 0.5,
      cursor: 'ew-resize',
      long: 'y',
      drag: dx => {
        const width = clamp((100 * (rect.width + dx)) / room, 20, 100)
        set<Field>(b => void (b.width = width < 100 ? width : undefined))
        return width + ' %'
      },
    })
  if (block.kind === 'icon')
    grips.push({
      name: 'Size',
      x: 1,
      y: 1,
      cursor: 'nwse-resize',
      drag: (dx, dy) => {
        const size = clamp(block.size + Math.max(dx, dy), 12, 200)
        set<Icon>(b => void (b.size = size))
        return size + ' px'
      },
    })
  if (block.kind === 'space')
    grips.push({
      name: 'Height',
      x: 0.5,
      y: 1,
      cursor: 'ns-resize',
      long: 'x',
      drag: (_, dy) => {
        const height = clamp(block.height + dy, 1, 400)
        set<Space>(b => void (b.height = height))
        return height + ' px'
      },
    })
  if (block.kind === 'columns') {
    const widths = block.blocks.map((_, i) => block.widths?.[i] ?? 100 / block.blocks.length)
    const sum = widths.reduce((a, b) => a + b, 0)
    let before = 0
    for (let i = 0; i + 1 < widths.length; i++) {
      before += widths[i]
      grips.push({
        name: `Between ${i + 1} and ${i + 2}`,
        x: before / sum,
        y: 0.5,
        cursor: 'col-resize',
        long: 'y',
        drag: dx => {
          const both = widths[i] + widths[i + 1]
          const left = clamp(widths[i] + (dx / rect.width) * sum, 5, both - 5)
          const next = widths.map(w => Math.max(1, Math.round(w)))
          next[i] = Math.max(1, left)
          next[i + 1] = Math.max(1, Math.round(both - left))
          set<Columns>(b => void (b.widths = next))
          return `${next[i]} : ${next[i + 1]}`
        },
      })
    }
  }
  return grips
}

function Handle({ grip, rect, scale }: { grip: Grip; rect: Rect; scale: number }) {
  const [says, setSays] = useState('')
  const [from, setFrom] = useState<{ x: number; y: number; grip: Grip } | null>(null)
  const px = (n: number) => n / scale
  const [w, h] = grip.long === 'x' ? [26, 8] : grip.long === 'y' ? [8, 26] : [12, 12]
  const down = (e: PointerEvent<HTMLElement>) => {
    e.preventDefault()
    e.stopPropagation()
    e.currentTarget.setPointerCapture(e.pointerId)
    // What it was when the drag began is what the drag counts from.
    setFrom({ x: e.clientX, y: e.clientY, grip })
  }
  return (
    <Box
      data-grip={grip.name}
      onPointerDown={down}
      onPointerMove={e => from && setSays(from.grip.drag((e.clientX - from.x) / scale, (e.clientY - from.y) / scale))}
      onPointerUp={() => {
        setFrom(null)
        setSays('')
      }}
      style={{
        left: rect.left + rect.width * grip.x - px(w / 2),
        top: rect.top + rect.height * grip.y - px(h / 2),
        width: px(w),
        height: px(h),
        borderRadius: px(5),
        borderWidth: px(1.5),
      }}
      sx={{
        position: 'absolute',
        pointerEvents: 'auto',
        cursor: grip.cursor,
        background: '#fff',
        borderStyle: 'solid',
        borderColor: plum.main,
        touchAction: 'none',
      }}
    >
      {says && (
        <Box
          component="span"
          style={{ fontSize: px(12), padding: `${px(2)}px ${px(7)}px`, top: px(14), left: px(14), borderRadius: px(4) }}
          sx={{ position: 'absolute', background: plum.main, color: '#fff', whiteSpace: 'nowrap', fontWeight: 600 }}
        >
          {says}
        </Box>
      )}
    </Box>
  )
}
