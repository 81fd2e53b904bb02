import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Drawer from '@mui/material/Drawer'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import type { LeadRow } from '../../kinds/studio'
import { moment } from '../parts/say'
import { usePeople } from '../queries'
import { plum } from '../theme'
import { Person } from './Person'

/** Leads, the latest first, in pages; a press shows all of one. */
export function LeadTable({ search, piece, onTotal }: { search: string; piece: string; onTotal?(total: number): void }) {
  const [trail, setTrail] = useState<string[]>([''])
  const [open, setOpen] = useState<LeadRow | null>(null)
  const { data, isPlaceholderData } = usePeople(search, piece, trail[trail.length - 1])
  if (data && onTotal) queueMicrotask(() => onTotal(data.total))
  if (!data) return null
  if (!data.leads.length)
    return (
      <Box sx={{ textAlign: 'center', py: '9vh', color: 'text.secondary' }}>
        <Typography variant="h2" sx={{ color: 'text.primary' }}>
          {search ? 'Nobody is found by that' : 'Nobody yet'}
        </Typography>
        {search ? 'Search by name, address or answer.' : 'Whoever leaves an address in a live piece appears here at once.'}
      </Box>
    )
  return (
    <>
      <Table sx={{ opacity: isPlaceholderData ? 0.6 : 1, tableLayout: 'fixed' }}>
        <TableHead>
          <TableRow>
            <TableCell sx={{ width: '30%' }}>Person</TableCell>
            <TableCell sx={{ width: '24%' }}>Piece</TableCell>
            <TableCell sx={{ width: '20%' }}>Page</TableCell>
            <TableCell sx={{ width: '14%' }}>Came from</TableCell>
            <TableCell align="right" sx={{ width: '12%' }}>
              Last seen
            </TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {data.leads.map(lead => {
            // Of a piece, what was told it; the name as it was given there.
            const [walk] = lead.walks
            const name = walk?.name || lead.name
            return (
              <TableRow
                key={lead.id}
                hover
                onClick={() => setOpen(lead)}
                sx={{ cursor: 'pointer', '& td': { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } }}
              >
                <TableCell>
                  <Box
                    component="button"
                    onClick={() => setOpen(lead)}
                    sx={{
                      font: 'inherit',
                      border: 0,
                      p: 0,
                      background: 'none',
                      textAlign: 'start',
                      cursor: 'pointer',
                      maxWidth: '100%',
                      display: 'block',
                      overflow: 'hidden',
                      textOverflow: 'ellipsis',
                      color: 'inherit',
                      '&:hover b': { color: plum.main },
                    }}
                  >
                    <b>{name || lead.email}</b>
                    {name && (
                      <Box component="span" sx={{ display: 'block', color: 'text.secondary', fontSize: 12.5 }}>
                        {lead.email}
                      </Box>
                    )}
                  </Box>
                </TableCell>
                <TableCell>
                  {walk?.piece}{' '}
                  <Box component="span" sx={{ color: 'text.secondary' }}>
                    · {walk?.variant}
                    {lead.times > 1 && ` · ${lead.times} times`}
                  </Box>
                </TableCell>
                <TableCell>{walk?.page}</TableCell>
                <TableCell>
                  {walk?.channel}
                  {walk?.campaign && (
                    <Box component="span" sx={{ color: 'text.secondary' }}>
                      {' '}
                      · {walk?.campaign}
                    </Box>
                  )}
                </TableCell>
                <TableCell align="right">{moment(walk?.at ?? lead.last_at)}</TableCell>
              </TableRow>
            )
          })}
        </TableBody>
      </Table>
      <Box sx={{ display: 'flex', gap: 1, mt: 1.5 }}>
        {trail.length > 1 && (
          <Button variant="outlined" size="small" onClick={() => setTrail(t => t.slice(0, -1))}>
            Later ones
          </Button>
        )}
        {data.next && (
          <Button variant="outlined" size="small" onClick={() => setTrail(t => [...t, data.next])}>
            Earlier ones
          </Button>
        )}
      </Box>
      <Drawer anchor="right" open={!!open} onClose={() => setOpen(null)}>
        {open && <Person lead={open} onClose={() => setOpen(null)} />}
      </Drawer>
    </>
  )
}
