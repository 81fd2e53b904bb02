import Box from '@mui/material/Box'
import { useVirtualizer, useWindowVirtualizer } from '@tanstack/react-virtual'
import { type ReactNode, type RefObject, useLayoutEffect, useRef, useState } from 'react'

// Long lists, of which only what is near the window is drawn.

/** Up to here a list is drawn as a whole: it can be searched with the browser, and read from end to end. */
const few = 100

interface BodyProps<T> {
  rows: readonly T[]
  /** What the table scrolls in. */
  scroller: RefObject<HTMLElement | null>
  /** How tall a row is, in pixels, about. */
  height: number
  /** A table row, which takes ref and data-index. */
  children(row: T): ReactNode
}

/** The body of a table. Rows that are not drawn leave their room empty. */
export function VirtualBody<T>({ rows, scroller, height, children }: BodyProps<T>) {
  const v = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: 12,
    enabled: rows.length > few,
  })
  if (rows.length <= few) return <tbody>{rows.map(children)}</tbody>
  const drawn = v.getVirtualItems()
  const before = drawn[0]?.start ?? 0
  const after = v.getTotalSize() - (drawn.at(-1)?.end ?? 0)
  return (
    <tbody>
      {before > 0 && <tr aria-hidden style={{ height: before }} />}
      {drawn.map(item => children(rows[item.index]))}
      {after > 0 && <tr aria-hidden style={{ height: after }} />}
    </tbody>
  )
}

interface GridProps<T> {
  of: readonly T[]
  /** The least width of a column and the space between, in pixels. */
  least: number
  gap: number
  /**
   * How tall a row is, in pixels. Only one whose items need more room is taller: a row that turned out otherwise than
   * expected would move what is below it, and end a jump to the end halfway.
   */
  height: number
  children(item: T): ReactNode
}

/** A grid in the window, as many columns as there is room for. */
export function VirtualGrid<T>({ of, least, gap, height, children }: GridProps<T>) {
  const box = useRef<HTMLDivElement>(null)
  const [place, setPlace] = useState({ width: 0, top: 0 })
  // Ended as it goes: a size told a moment later would find nothing to measure.
  useLayoutEffect(() => {
    const look = () => {
      const { width, top } = box.current!.getBoundingClientRect()
      setPlace({ width, top: top + scrollY })
    }
    const eye = new ResizeObserver(look)
    eye.observe(box.current!)
    // What stands above it may come and go.
    eye.observe(document.body)
    return () => eye.disconnect()
  }, [])
  const columns = Math.max(1, Math.floor((place.width + gap) / (least + gap)))
  const v = useWindowVirtualizer({ count: Math.ceil(of.length / columns), estimateSize: () => height, gap, overscan: 2, scrollMargin: place.top })
  return (
    <div ref={box} style={{ height: v.getTotalSize(), position: 'relative' }}>
      {place.width > 0 &&
        v.getVirtualItems().map(row => (
          <Box
            key={row.key}
            ref={v.measureElement}
            data-index={row.index}
            style={{ transform: `translateY(${row.start - v.options.scrollMargin}px)`, gap }}
            sx={{
              position: 'absolute',
              top: 0,
              left: 0,
              width: 1,
              minHeight: height,
              display: 'grid',
              gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))`,
            }}
          >
            {of.slice(row.index * columns, (row.index + 1) * columns).map(children)}
          </Box>
        ))}
    </div>
  )
}
