import { DragDropProvider } from '@dnd-kit/react'
import { isSortable, useSortable } from '@dnd-kit/react/sortable'
import DragIndicator from '@mui/icons-material/DragIndicator'
import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import Skeleton from '@mui/material/Skeleton'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import { Link } from 'react-router'
import type { Ordered, Order as PriorityInfo } from '../../kinds/studio'
import { api, type Trouble } from '../api'
import { Loaded } from '../parts/Loaded'
import { Sheet } from '../parts/Sheet'
import { count, counted } from '../parts/say'
import { sorting } from '../parts/sorting'
import { Title } from '../parts/Title'
import { client, useAddress, useOrder, useSite } from '../queries'
import { brick, ink, paper, plum } from '../theme'

const places: Record<string, [string, string]> = {
  overlay: ['Over the page', 'One piece at a time covers the page.'],
  'corner.bottom_end': ['Bottom right corner', 'One piece at a time shows in each corner.'],
  'corner.bottom_start': ['Bottom left corner', 'One piece at a time shows in each corner.'],
  'corner.top_end': ['Top right corner', 'One piece at a time shows in each corner.'],
  'corner.top_start': ['Top left corner', 'One piece at a time shows in each corner.'],
  'edge.top': ['Top edge', 'One bar at a time shows at each edge.'],
  'edge.bottom': ['Bottom edge', 'One bar at a time shows at each edge.'],
  '': ['In the page', 'Inline pieces never conflict: any number can show.'],
}

/** Which live piece shows where two would show in the same place, and how often that happens. */
export function Priority() {
  const order = useOrder()
  const { data } = order
  const at = useAddress()
  const site = useSite().id
  const [trouble, setTrouble] = useState('')
  const put = async (pieces: string[]) => {
    // Shown at once; the counts follow.
    const known = new Map(data!.pieces.map(p => [p.id, p]))
    client.setQueryData<PriorityInfo>(['order', site], { ...data!, pieces: pieces.map(id => known.get(id)!) })
    try {
      client.setQueryData(['order', site], await api<PriorityInfo>('PUT', `/sites/${site}/order`, { version: data!.version, pieces }))
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
        <Title of="Priority" />
        <Typography variant="h1">Priority</Typography>
        <Typography color="textSecondary">
          Where two pieces could show in the same place on one page view, the one whose moment comes first shows; at the same moment, the one higher in this
          list. Drag to reorder{data && `. Counts are from ${count(data.views)} recorded page views in the last ${data.days} days`}.
        </Typography>
        {trouble && (
          <Typography role="alert" sx={{ color: brick.main, fontWeight: 600 }}>
            {trouble}
          </Typography>
        )}
      </Box>
      <Loaded query={order} what="the order" placeholder={<Skeleton variant="rounded" height={220} />}>
        {() => null}
      </Loaded>
      {data?.pieces.length === 0 && (
        <Box sx={{ textAlign: 'center', py: '8vh' }}>
          <Typography variant="h2">No live pieces</Typography>
          <Typography color="textSecondary">
            Live pieces are listed here in the order of their priority. <Link to={at('/board')}>Back to the board</Link>
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
              {places[slot]?.[1]} {here.length === 1 && slot !== '' && 'No conflicts.'}
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
  const at = useAddress()
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
        aria-label={`Move ${piece.name}, number ${i + 1}: drag, or Alt and arrow keys`}
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
        <Link to={at(`/pieces/${piece.id}/reach`)} style={{ fontWeight: 600 }}>
          {piece.name}
        </Link>
        <Typography variant="body2" color="textSecondary">
          {lost ? `Yields to ${piece.lost.map(l => `“${l.name}” on ${counted(l.views, 'page view')}`).join(', ')}.` : 'No conflicts.'}
        </Typography>
      </Box>
      <Typography sx={{ textAlign: 'end' }}>
        {counted(piece.shown, 'showing')}
        {lost > 0 && (
          <Typography component="span" variant="body2" sx={{ display: 'block', color: brick.main }}>
            {count(lost)} yielded
          </Typography>
        )}
      </Typography>
    </Box>
  )
}
