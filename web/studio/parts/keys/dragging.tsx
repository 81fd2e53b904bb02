import { DndContext, PointerSensor, useDraggable, useSensor, useSensors } from '@dnd-kit/core'
import Box from '@mui/material/Box'
import { createContext, type ReactNode, useContext, useEffect, useMemo, useRef, useState } from 'react'
import { ink } from '../look/theme'

interface Drag {
  /** What is dragged, by the id it was made draggable with. */
  dragged: string | null
  /** Where it would land; null: nowhere. */
  landing: unknown
}

const DragContext = createContext<Drag>({ dragged: null, landing: null })

/** What is dragged around here, and where it would land. */
export const useDrag = <L,>() => useContext(DragContext) as { dragged: string | null; landing: L | null }

/** What an element needs to be dragged, or dragged by. Keys are each place's own. */
export function useMovable(id: string, name: string, disabled = false) {
  const { setNodeRef, listeners, isDragging } = useDraggable({ id, data: { name }, disabled })
  return { handle: { ref: setNodeRef, ...listeners }, isDragging }
}

interface Props<L> {
  /** Where what is dragged would land with the pointer at a place of the window. */
  landingAt(x: number, y: number, dragged: string): L | null
  onStart?(dragged: string): void
  onDrop(dragged: string, landing: L): void
  children: ReactNode
}

const starts = { activationConstraint: { distance: 4 } } // px; less is a click
// The places that use it say in their own labels what keys move things.
const silent = () => undefined
const unsaid = {
  announcements: { onDragStart: silent, onDragOver: silent, onDragEnd: silent, onDragCancel: silent },
  screenReaderInstructions: { draggable: '' },
}

/** Dragging with mouse or finger within what it holds: useMovable makes things draggable, useDrag tells where one would land. */
export function Dragging<L>({ landingAt, onStart, onDrop, children }: Props<L>) {
  const [dragged, setDragged] = useState<{ id: string; name: string } | null>(null)
  const [landing, setLanding] = useState<L | null>(null)
  const pointer = useRef({ x: 0, y: 0 })
  const ghost = useRef<HTMLDivElement>(null)
  const drag = useMemo(() => ({ dragged: dragged?.id ?? null, landing }), [dragged, landing])
  const sensors = useSensors(useSensor(PointerSensor, starts))
  const follow = () => {
    const { x, y } = pointer.current
    if (ghost.current) ghost.current.style.transform = `translate(${x + 14}px, ${y + 6}px)`
  }
  useEffect(() => {
    const note = (e: PointerEvent) => {
      pointer.current = { x: e.clientX, y: e.clientY }
      follow()
    }
    addEventListener('pointermove', note, true)
    return () => removeEventListener('pointermove', note, true)
  }, [])
  const where = (id: string) => landingAt(pointer.current.x, pointer.current.y, id)
  const end = () => {
    setDragged(null)
    setLanding(null)
  }
  return (
    <DndContext
      sensors={sensors}
      accessibility={unsaid}
      onDragStart={({ active }) => {
        setDragged({ id: String(active.id), name: active.data.current?.name })
        onStart?.(String(active.id))
      }}
      onDragMove={({ active }) => {
        const next = where(String(active.id))
        // Drawn anew only when it would land elsewhere.
        setLanding(before => (JSON.stringify(before) === JSON.stringify(next) ? before : next))
      }}
      onDragEnd={({ active }) => {
        const to = where(String(active.id))
        end()
        if (to !== null) onDrop(String(active.id), to)
      }}
      onDragCancel={end}
    >
      <DragContext value={drag}>{children}</DragContext>
      {dragged && (
        <Box
          ref={e => {
            ghost.current = e as HTMLDivElement | null
            follow()
          }}
          aria-hidden
          sx={{
            position: 'fixed',
            left: 0,
            top: 0,
            zIndex: 'tooltip',
            pointerEvents: 'none',
            background: ink[1],
            color: '#fff',
            borderRadius: '5px',
            px: '9px',
            py: '3px',
            fontSize: 12.5,
            maxWidth: 260,
            overflow: 'hidden',
            textOverflow: 'ellipsis',
            whiteSpace: 'nowrap',
          }}
        >
          {dragged.name}
        </Box>
      )}
    </DndContext>
  )
}

/** The nearest element under a place of the window that a selector matches. */
export function elementAt(x: number, y: number, selector: string): HTMLElement | null {
  for (const e of document.elementsFromPoint(x, y)) {
    const found = e.closest<HTMLElement>(selector)
    if (found) return found
  }
  return null
}
