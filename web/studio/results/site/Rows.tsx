import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import { Link as RouterLink } from 'react-router'
import type { ResultRow, SiteResults } from '../../../kinds/studio'
import { AxisHead, Interval, intervalTop } from '../../parts/figures/Interval'
import { Sheet } from '../../parts/look/Sheet'
import { TextButton } from '../../parts/look/TextButton'
import { brick, display, moss, plum } from '../../parts/look/theme'
import { count, cutName, cuts, percent, points } from '../../parts/words/say'
import { addressOf, type Query } from '../../server/api'
import { useAddress, useSite } from '../../server/queries'
import type { What } from '../Behind'

const few = 12

/** The pieces, or the parts of their visitors: the best rates first, the worst last. */
export function Rows({
  r,
  by,
  query,
  set,
  onOpen,
}: {
  r: SiteResults
  by: string
  query: Query<'GET /sites/:site/results'>
  set(change: Record<string, string>): void
  onOpen(what: What): void
}) {
  const site = useSite().id
  const [all, setAll] = useState(false)
  const short = r.rows.length > few + 2 && !all
  const rows = short ? [...r.rows.slice(0, few / 2), ...r.rows.slice(-few / 2)] : r.rows
  const top = intervalTop(r.rows.map(x => x.now.interval))
  const title = by ? `Best and worst, by ${cuts.find(c => c[0] === by)![1].toLowerCase()}` : 'Pieces'
  return (
    <Sheet aria-label={title}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: '6px', mb: '6px', flexWrap: 'wrap' }}>
        <Typography variant="h3" component="h2" sx={{ mr: 'auto' }}>
          {title}
        </Typography>
        <Box role="group" aria-label="By" sx={{ display: 'flex', gap: '6px' }}>
          {[['', 'Piece'] as const, ...cuts].map(([key, name]) => (
            <Button key={key} size="small" variant={by === key ? 'contained' : 'outlined'} aria-pressed={by === key} onClick={() => set({ by: key })}>
              {name}
            </Button>
          ))}
        </Box>
        <Button size="small" variant="outlined" component="a" href={addressOf('GET /sites/:site/results.csv', { site }, query)} download>
          Export CSV
        </Button>
      </Box>
      {rows.length === 0 ? (
        <Typography color="textSecondary">No piece had 20 visitors in this time.</Typography>
      ) : (
        <Table>
          <TableHead>
            <TableRow>
              {by && <TableCell>{cuts.find(c => c[0] === by)![1]}</TableCell>}
              <TableCell>Piece</TableCell>
              <TableCell align="right">Visitors</TableCell>
              <TableCell align="right">Converted</TableCell>
              <TableCell sx={{ width: 210, pl: '14px' }}>
                <AxisHead top={top} />
              </TableCell>
              <TableCell align="right">Against before (pp)</TableCell>
              {r.goals.length > 0 && <TableCell align="right">{r.goals[0].name}</TableCell>}
            </TableRow>
          </TableHead>
          <TableBody>
            {rows.map((x, i) => (
              <Row key={x.piece + x.value} x={x} by={by} top={top} gap={short && i === few / 2} goal={r.goals.length > 0} onOpen={onOpen} />
            ))}
          </TableBody>
        </Table>
      )}
      <Typography variant="body2" color="textSecondary" sx={{ mt: '6px' }}>
        {r.more > 0 && `${count(r.more)} with fewer than 20 visitors, or in between, are not listed. `}
        {by && 'Who looks at many rows finds something by chance: the bounds are of each row by itself. '}
        {r.rows.length > few + 2 && <TextButton onClick={() => setAll(!all)}>{all ? 'Show the best and worst' : `Show all ${r.rows.length}`}</TextButton>}
      </Typography>
    </Sheet>
  )
}

function Row({ x, by, top, gap, goal, onOpen }: { x: ResultRow; by: string; top: number; gap: boolean; goal: boolean; onOpen(what: What): void }) {
  const at = useAddress()
  const what = (kind: What['kind'], title: string): What => ({
    title: `${title}: ${x.name}${by ? `, ${cutName(by, x.value)}` : ''}`,
    kind,
    piece: x.piece,
    by,
    value: x.value,
  })
  const surely = x.change_interval[0] > 0 ? moss.ink : x.change_interval[1] < 0 ? brick.main : 'inherit'
  const number = { p: '0 4px', minWidth: 0, color: 'inherit', fontWeight: 'inherit', fontSize: 'inherit' }
  return (
    <TableRow sx={gap ? { '& td': { borderTop: '3px double', borderTopColor: 'divider' } } : undefined}>
      {by && (
        <TableCell sx={{ maxWidth: 260, overflow: 'hidden', textOverflow: 'ellipsis', fontWeight: 600 }} title={x.value}>
          {cutName(by, x.value)}
        </TableCell>
      )}
      <TableCell>
        <Box
          component={RouterLink}
          to={at(`/pieces/${x.piece}/results`)}
          sx={{ color: 'inherit', textDecoration: 'none', fontWeight: by ? 400 : 600, '&:hover': { textDecoration: 'underline' } }}
        >
          {x.name || 'A deleted piece'}
        </Box>
      </TableCell>
      <TableCell align="right">
        <Button sx={number} onClick={() => onOpen(what('shown', 'Showings'))}>
          {count(x.now.visitors)}
        </Button>
      </TableCell>
      <TableCell align="right">
        <Button sx={{ ...number, font: `620 16px ${display}` }} onClick={() => onOpen(what('converted', 'Conversions'))}>
          {percent(x.now.rate ?? 0)}
        </Button>
      </TableCell>
      <TableCell sx={{ pl: '14px' }}>
        <Interval value={x.now.rate ?? 0} interval={x.now.interval} top={top} color={plum.main} width={190} />
      </TableCell>
      <TableCell align="right">
        {x.change === null ? (
          '–'
        ) : (
          <>
            <b style={{ color: surely }}>{points(x.change)}</b>
            <Typography variant="body2" color="textSecondary" sx={{ whiteSpace: 'nowrap' }}>
              {points(x.change_interval[0])} to {points(x.change_interval[1])}
            </Typography>
          </>
        )}
      </TableCell>
      {goal && (
        <TableCell align="right">
          {count(x.goal.conversions)}
          <Typography variant="body2" color="textSecondary" sx={{ whiteSpace: 'nowrap' }}>
            {percent(x.goal.rate ?? 0)}
          </Typography>
        </TableCell>
      )}
    </TableRow>
  )
}
