import DragIndicator from '@mui/icons-material/DragIndicator'
import KeyboardArrowDown from '@mui/icons-material/KeyboardArrowDown'
import KeyboardArrowUp from '@mui/icons-material/KeyboardArrowUp'
import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import IconButton from '@mui/material/IconButton'
import Skeleton from '@mui/material/Skeleton'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import { Link } from 'react-router'
import type { Ordered, Order as PriorityInfo } from '../../kinds/studio'
import { Dragging, elementAt, useDrag, useMovable } from '../parts/keys/dragging'
import { Loaded } from '../parts/look/Loaded'
import { Sheet } from '../parts/look/Sheet'
import { Title } from '../parts/look/Title'
import { brick, ink, paper, plum } from '../parts/look/theme'
import { count, counted } from '../parts/words/say'
import { api, type Trouble } from '../server/api'
import { client, outdated, useAddress, useOrder, useSite } from '../server/queries'

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

const latest = (site: number) => client.getQueryData<PriorityInfo>(['order', site])!

const inOrder = (info: PriorityInfo, ids: string[]): PriorityInfo => ({
  ...info,
  pieces: info.pieces.toSorted((a, b) => ids.indexOf(a.id) - ids.indexOf(b.id)),
})

let wanted: string[] | null = null // what is to be sent next
let sending = false

/**
 * Shows an order at once, and sends it. A move that comes while another is
 * under way waits for it: it is made on the version that one leads to.
 */
async function putOrder(site: number, ids: string[], setTrouble: (message: string) => void) {
  wanted = ids
  client.setQueryData(['order', site], inOrder(latest(site), ids))
  if (sending) return
  sending = true
  // An answer asked for before the move would put the list back.
  await client.cancelQueries({ queryKey: ['order', site] })
  try {
    while (wanted) {
      const pieces: string[] = wanted
      wanted = null
      const answer = await api('PUT /sites/:site/order', { site }, { body: { version: latest(site).version, pieces } })
      client.setQueryData(['order', site], wanted ? inOrder(answer, wanted) : answer)
    }
    outdated('rehearsal', site)
    setTrouble('')
  } catch (e) {
    wanted = null
    setTrouble((e as Trouble).message)
    outdated('order', site)
  } finally {
    sending = false
  }
}

/** Which live piece shows where two would show in the same place, and how often that happens. */
export function Priority() {
  const order = useOrder()
  const { data } = order
  const at = useAddress()
  const site = useSite().id
  const [trouble, setTrouble] = useState('')
  const put = (pieces: string[]) => putOrder(site, pieces, setTrouble)
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
          put(latest(site).pieces.map(p => (p.slot === slot ? left.shift()! : p.id)))
        }
        // From where it is by now, which a second quick press must not guess from what was drawn before the first.
        const step = (id: string, by: number) => {
          const now = latest(site).pieces.flatMap(p => (p.slot === slot ? p.id : []))
          const i = now.indexOf(id)
          reorder(now.toSpliced(i, 1).toSpliced(Math.max(0, i + by), 0, id))
        }
        return (
          <Sheet key={slot} aria-label={places[slot]?.[0] ?? slot}>
            <Typography variant="h2">{places[slot]?.[0] ?? slot}</Typography>
            <Typography color="textSecondary" sx={{ mb: 1 }}>
              {places[slot]?.[1]} {here.length === 1 && slot !== '' && 'No conflicts.'}
            </Typography>
            <Dragging
              // Over the upper half of a line it goes before it.
              landingAt={(x, y) => {
                const line = elementAt(x, y, '[data-piece]')
                const i = ids.indexOf(line?.dataset.piece ?? '')
                if (!line || i < 0) return null
                const r = line.getBoundingClientRect()
                return y < r.top + r.height / 2 ? i : i + 1
              }}
              onDrop={(id, to: number) => {
                const from = ids.indexOf(id)
                const at = to > from ? to - 1 : to
                if (at !== from) reorder(ids.toSpliced(from, 1).toSpliced(at, 0, id))
              }}
            >
              <Box component="ol" sx={{ listStyle: 'none', m: 0, p: 0 }}>
                {here.map((p, i) => (
                  <Line key={p.id} piece={p} i={i} last={i === here.length - 1} step={by => step(p.id, by)} />
                ))}
              </Box>
            </Dragging>
          </Sheet>
        )
      })}
    </Box>
  )
}

function Line({ piece, i, last, step }: { piece: Ordered; i: number; last: boolean; step(by: number): void }) {
  const at = useAddress()
  const { handle, isDragging } = useMovable(piece.id, piece.name)
  const { landing } = useDrag<number>()
  const lost = piece.lost.reduce((n, l) => n + l.views, 0)
  return (
    <Box
      component="li"
      data-piece={piece.id}
      sx={{
        display: 'flex',
        gap: '12px',
        alignItems: 'center',
        p: '9px 4px',
        borderTop: `1px solid ${paper.line}`,
        background: paper.sheet,
        opacity: isDragging ? 0.4 : 1,
        boxShadow: landing === i ? `0 -3px ${plum.main}` : last && landing === i + 1 ? `inset 0 -3px ${plum.main}` : 'none',
      }}
    >
      <ButtonBase
        {...handle}
        aria-label={`Move ${piece.name}, number ${i + 1}: drag, or Alt and arrow keys`}
        onKeyDown={e => {
          if (!e.altKey || (e.key !== 'ArrowUp' && e.key !== 'ArrowDown')) return
          e.preventDefault()
          e.stopPropagation()
          step(e.key === 'ArrowUp' ? -1 : 1)
        }}
        sx={{ color: ink[3], cursor: 'grab', touchAction: 'none', borderRadius: '4px', p: '2px', '&:hover': { color: plum.main } }}
      >
        <DragIndicator fontSize="small" />
      </ButtonBase>
      <Box sx={{ display: 'flex', flexDirection: 'column', mx: '-6px' }}>
        {[-1, 1].map(by => (
          <IconButton
            key={by}
            size="small"
            aria-label={`Move ${piece.name} ${by < 0 ? 'up' : 'down'}`}
            disabled={by < 0 ? i === 0 : last}
            onClick={() => step(by)}
            sx={{ p: '2px', minWidth: 24, minHeight: 24 }}
          >
            {by < 0 ? <KeyboardArrowUp sx={{ fontSize: 18 }} /> : <KeyboardArrowDown sx={{ fontSize: 18 }} />}
          </IconButton>
        ))}
      </Box>
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
