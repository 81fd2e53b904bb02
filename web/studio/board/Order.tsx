import { DragDropProvider } from '@dnd-kit/react'
import { isSortable, useSortable } from '@dnd-kit/react/sortable'
import DragIndicator from '@mui/icons-material/DragIndicator'
import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import Skeleton from '@mui/material/Skeleton'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import { Link } from 'react-router'
import type { Order as Fared, Ordered } from '../../kinds/studio'
import { api, type Trouble } from '../api'
import { Sheet } from '../parts/Sheet'
import { count, counted } from '../parts/say'
import { sorting } from '../parts/sorting'
import { client, useOrder, useSite } from '../queries'
import { brick, ink, paper, plum } from '../theme'

const places: Record<string, [string, string]> = {
  overlay: ['Over the page', 'One at a time lies over the page.'],
  'corner.bottom_end': ['In the corner: bottom, end', 'One at a time sits in each corner.'],
  'corner.bottom_start': ['In the corner: bottom, start', 'One at a time sits in each corner.'],
  'corner.top_end': ['In the corner: top, end', 'One at a time sits in each corner.'],
  'corner.top_start': ['In the corner: top, start', 'One at a time sits in each corner.'],
  'edge.top': ['Along the top', 'One bar at a time stands along each edge.'],
  'edge.bottom': ['Along the bottom', 'One bar at a time stands along each edge.'],
  '': ['In the page', 'Any number stand in the page: none gives way.'],
}

/** Which of the live pieces wins where two want the same place, and how often that happens. */
export function Order() {
  const { data, error } = useOrder()
  const site = useSite().id
  const [trouble, setTrouble] = useState('')
  const put = async (pieces: string[]) => {
    // Shown at once; the counts follow.
    const known = new Map(data!.pieces.map(p => [p.id, p]))
    client.setQueryData<Fared>(['order', site], { ...data!, pieces: pieces.map(id => known.get(id)!) })
    try {
      client.setQueryData(['order', site], await api<Fared>('PUT', `/sites/${site}/order`, { version: data!.version, pieces }))
      client.invalidateQueries({ queryKey: ['rehearsal', site] })
      setTrouble('')
    } catch (e) {
      setTrouble((e as Trouble).message)
      client.invalidateQueries({ queryKey: ['order', site] })
    }
  }
  const slots = data ? [...new Set(data.pieces.map(p => p.slot))] : []
  return (
    <Box component="main" sx={{ p: '22px 26px 40px', maxWidth: 900, width: '100%', mx: 'auto', display: 'grid', gap: '18px' }}>
      <Box>
        <Typography variant="h1">Who wins</Typography>
        <Typography color="textSecondary">
          Where two pieces want the same place on the same page view, the one whose moment comes first has it; at the same moment, the upper one. Drag to change
          the order{data && `; counts are of ${count(data.views)} recorded page views in ${data.days} days`}.
        </Typography>
        {(trouble || error) && (
          <Typography role="alert" sx={{ color: brick.main, fontWeight: 600 }}>
            {trouble || error?.message}
          </Typography>
        )}
      </Box>
      {!data && !error && <Skeleton variant="rounded" height={220} />}
      {data?.pieces.length === 0 && (
        <Box sx={{ textAlign: 'center', py: '8vh' }}>
          <Typography variant="h2">Nothing is live</Typography>
          <Typography color="textSecondary">
            Put a piece live, and here you say which goes before which. <Link to="/board">To the board</Link>
          </Typography>
        </Box>
      )}
      {slots.map(slot => {
        const here = data!.pieces.filter(p => p.slot === slot)
        const ids = here.map(p => p.id)
        // Pieces of other places keep theirs.
        const reorder = (next: string[]) => {
          const left = [...next]
          put(data!.pieces.map(p => (p.slot === slot ? left.shift()! : p.id)))
        }
        return (
          <Sheet key={slot} aria-label={places[slot]?.[0] ?? slot}>
            <Typography variant="h2">{places[slot]?.[0] ?? slot}</Typography>
            <Typography color="textSecondary" sx={{ mb: 1 }}>
              {places[slot]?.[1]} {here.length === 1 && 'Nobody else wants this place.'}
            </Typography>
            <DragDropProvider
              plugins={sorting}
              onDragEnd={({ canceled, operation: { source } }) => {
                if (!canceled && isSortable(source) && source.index !== source.initialIndex)
                  reorder(ids.toSpliced(source.initialIndex, 1).toSpliced(source.index, 0, ids[source.initialIndex]))
              }}
            >
              <Box component="ol" sx={{ listStyle: 'none', m: 0, p: 0 }}>
                {here.map((p, i) => (
                  <Line key={p.id} piece={p} i={i} step={by => reorder(ids.toSpliced(i, 1).toSpliced(Math.max(0, i + by), 0, p.id))} />
                ))}
              </Box>
            </DragDropProvider>
          </Sheet>
        )
      })}
    </Box>
  )
}

function Line({ piece, i, step }: { piece: Ordered; i: number; step(by: number): void }) {
  const { ref, handleRef, isDragging } = useSortable({ id: piece.id, index: i })
  const lost = piece.lost.reduce((n, l) => n + l.views, 0)
  return (
    <Box
      component="li"
      ref={ref}
      data-piece={piece.id}
      sx={{
        display: 'flex',
        gap: '12px',
        alignItems: 'center',
        p: '9px 4px',
        borderTop: `1px solid ${paper.line}`,
        background: paper.sheet,
        ...(isDragging && { boxShadow: '0 6px 20px rgb(36 26 46 / .2)' }),
      }}
    >
      <ButtonBase
        ref={handleRef}
        aria-label={`${piece.name}, place ${i + 1}: drag, or Alt and arrows`}
        onKeyDown={e => {
          if (!e.altKey || (e.key !== 'ArrowUp' && e.key !== 'ArrowDown')) return
          e.preventDefault()
          e.stopPropagation()
          step(e.key === 'ArrowUp' ? -1 : 1)
        }}
        sx={{ color: ink[3], cursor: 'grab', borderRadius: '4px', '&:hover': { color: plum.main } }}
      >
        <DragIndicator fontSize="small" />
      </ButtonBase>
      <Typography variant="h3" component="b" sx={{ width: 22, color: ink[2] }}>
        {i + 1}
      </Typography>
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <Link to={`/pieces/${piece.id}/reach`} style={{ fontWeight: 600 }}>
          {piece.name}
        </Link>
        <Typography variant="body2" color="textSecondary">
          {lost ? `Gives way to ${piece.lost.map(l => `“${l.name}” on ${counted(l.views, 'page view')}`).join(', ')}.` : 'Gives way to nobody.'}
        </Typography>
      </Box>
      <Typography sx={{ textAlign: 'end' }}>
        {counted(piece.shown, 'showing')}
        {lost > 0 && (
          <Typography component="span" variant="body2" sx={{ display: 'block', color: brick.main }}>
            {count(lost)} lost
          </Typography>
        )}
      </Typography>
    </Box>
  )
}
