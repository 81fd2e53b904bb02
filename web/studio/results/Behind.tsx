import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import Typography from '@mui/material/Typography'
import { useRef } from 'react'
import type { BehindRow } from '../../kinds/studio'
import { VirtualBody } from '../parts/figures/Virtual'
import { Loaded } from '../parts/look/Loaded'
import { ink, paper } from '../parts/look/theme'
import { cutName, money } from '../parts/words/say'
import { moment } from '../parts/words/time'
import type { Query } from '../server/api'
import { useBehind, useSite } from '../server/queries'

/** A number whose events are looked at. */
export interface What {
  title: string
  kind: BehindRow['kind']
  piece?: string
  variant?: string
  by?: string
  value?: string
}

/** The events behind a number, the latest first. */
export function Behind({ what, query, onClose }: { what: What; query: Query<'GET /sites/:site/results'>; onClose(): void }) {
  const currency = useSite().settings.currency
  const rows = useBehind({
    ...query,
    kind: what.kind,
    piece: what.piece || query.piece,
    variant: what.variant || undefined,
    ...(what.by && what.value ? { by: what.by, value: what.value } : { by: undefined }),
  })
  const scroller = useRef<HTMLDivElement>(null)
  const looked = rows.data?.pages.at(-1)?.since
  const events = rows.data?.pages.flatMap(p => p.rows) ?? []
  return (
    <Dialog open onClose={onClose} maxWidth="lg" fullWidth aria-labelledby="behind-title">
      <DialogTitle id="behind-title" variant="h2">
        {what.title}
      </DialogTitle>
      <DialogContent ref={scroller}>
        <Typography variant="body2" color="textSecondary" sx={{ mb: 1 }}>
          Every event of this time, the latest first. One visitor may have several; each counts once.
        </Typography>
        <Loaded query={rows} what="the events">
          {() =>
            events.length ? (
              <Box
                component="table"
                sx={{
                  width: '100%',
                  fontSize: 13,
                  borderCollapse: 'collapse',
                  '& th': { textAlign: 'start', color: ink[2], fontWeight: 550 },
                  '& td, & th': { p: '5px 12px 5px 0', borderTop: `1px solid ${paper.line}`, whiteSpace: 'nowrap' },
                }}
              >
                <thead>
                  <tr>
                    <th>When</th>
                    <th>Visitor</th>
                    {what.kind === 'reached' ? <th>Goal</th> : <th>Piece</th>}
                    <th>Page</th>
                    <th>Source</th>
                    <th>Device</th>
                    <th>Country</th>
                    <th>New or returning</th>
                    {what.kind === 'reached' && <th>Value</th>}
                  </tr>
                </thead>
                <VirtualBody rows={events} scroller={scroller} height={30}>
                  {e => (
                    <tr key={e.id}>
                      <td>{moment(e.at)}</td>
                      <td>{e.visitor}</td>
                      <td>{what.kind === 'reached' ? e.goal : e.name}</td>
                      <Box component="td" sx={{ maxWidth: 220, overflow: 'hidden', textOverflow: 'ellipsis' }} title={e.page}>
                        {e.page}
                      </Box>
                      <td>{e.channel && cutName('channel', e.channel)}</td>
                      <td>{e.device && cutName('device', e.device)}</td>
                      <td>{e.country && cutName('country', e.country)}</td>
                      <td>{e.known && cutName('known', e.known)}</td>
                      {what.kind === 'reached' && <td>{money(e.value, currency, 2)}</td>}
                    </tr>
                  )}
                </VirtualBody>
              </Box>
            ) : (
              <Typography>{rows.hasNextPage ? 'None so far.' : 'No events in this time: totals may be older than the raw events that are kept.'}</Typography>
            )
          }
        </Loaded>
      </DialogContent>
      <DialogActions sx={{ p: 2 }}>
        {rows.hasNextPage && looked && (
          <Typography variant="body2" color="textSecondary" sx={{ mr: 'auto' }} aria-live="polite">
            Looked back to {moment(looked)}
          </Typography>
        )}
        {rows.hasNextPage && (
          <Button variant="outlined" onClick={() => rows.fetchNextPage()} disabled={rows.isFetching}>
            {rows.isFetching ? 'Looking…' : 'Look further back'}
          </Button>
        )}
        <Button variant="contained" onClick={onClose}>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  )
}
