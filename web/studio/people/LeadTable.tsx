import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Drawer from '@mui/material/Drawer'
import Skeleton from '@mui/material/Skeleton'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import Typography from '@mui/material/Typography'
import { useEffect, useState } from 'react'
import type { LeadPage, LeadRow } from '../../kinds/studio'
import { Loaded } from '../parts/look/Loaded'
import { plum } from '../parts/look/theme'
import { moment } from '../parts/words/time'
import { type LeadFilter, usePeople } from '../server/queries'
import { Person } from './Person'

/** Leads, the latest first, in pages; a click shows all of one. */
export function LeadTable({ filter, onTotal }: { filter: LeadFilter; onTotal?(total: number): void }) {
  const [trail, setTrail] = useState<string[]>([''])
  const people = usePeople(filter, trail[trail.length - 1])
  const total = people.data?.total
  useEffect(() => {
    if (total !== undefined) onTotal?.(total)
  }, [total])
  return (
    <Loaded query={people} what="the people" placeholder={<Skeleton variant="rounded" height={320} />}>
      {page => <Leads page={page} old={people.isPlaceholderData} filtered={Object.values(filter).some(Boolean)} trail={trail} onTrail={setTrail} />}
    </Loaded>
  )
}

interface LeadsProps {
  page: LeadPage
  /** A newer page is on its way. */
  old: boolean
  filtered: boolean
  trail: string[]
  onTrail(next: (trail: string[]) => string[]): void
}

function Leads({ page: data, old, filtered, trail, onTrail: setTrail }: LeadsProps) {
  const [open, setOpen] = useState<LeadRow | null>(null)
  if (!data.leads.length)
    return (
      <Box sx={{ textAlign: 'center', py: '9vh', color: 'text.secondary' }}>
        <Typography variant="h2" sx={{ color: 'text.primary' }}>
          {filtered ? 'No people match' : 'No people yet'}
        </Typography>
        {filtered ? 'Change the search or the filters.' : 'Visitors who leave an email address in a live piece appear here at once.'}
      </Box>
    )
  return (
    <>
      <Table sx={{ opacity: old ? 0.6 : 1, tableLayout: 'fixed' }}>
        <TableHead>
          <TableRow>
            <TableCell sx={{ width: '30%' }}>Person</TableCell>
            <TableCell sx={{ width: '24%' }}>Piece</TableCell>
            <TableCell sx={{ width: '20%' }}>Page</TableCell>
            <TableCell sx={{ width: '14%' }}>Source</TableCell>
            <TableCell align="right" sx={{ width: '12%' }}>
              Last seen
            </TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {data.leads.map(lead => {
            // The latest answers, and the name as it was given there.
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
            Newer
          </Button>
        )}
        {data.next && (
          <Button variant="outlined" size="small" onClick={() => setTrail(t => [...t, data.next])}>
            Older
          </Button>
        )}
      </Box>
      <Drawer anchor="right" open={!!open} onClose={() => setOpen(null)} slotProps={{ paper: { 'aria-label': open ? open.name || open.email : undefined } }}>
        {open && <Person lead={open} onClose={() => setOpen(null)} />}
      </Drawer>
    </>
  )
}
