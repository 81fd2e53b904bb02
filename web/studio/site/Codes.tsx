import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import OutlinedInput from '@mui/material/OutlinedInput'
import Skeleton from '@mui/material/Skeleton'
import Typography from '@mui/material/Typography'
import { useDeferredValue, useRef, useState } from 'react'
import type { PoolInfo } from '../../kinds/studio'
import { AddCodes } from '../library/AddCodes'
import { Used } from '../parts/figures/Used'
import { VirtualBody } from '../parts/figures/Virtual'
import { confirm } from '../parts/look/Confirm'
import { Loaded } from '../parts/look/Loaded'
import { Sheet } from '../parts/look/Sheet'
import { Title } from '../parts/look/Title'
import { apricot, ink, moss, paper } from '../parts/look/theme'
import { toast } from '../parts/look/toast'
import { count, counted } from '../parts/words/say'
import { moment } from '../parts/words/time'
import { addressOf, api, type Trouble } from '../server/api'
import { outdated, usePoolCodes, usePools, useSite } from '../server/queries'
import { SitePage } from './SitePage'

const few = 20

/** Pools of codes, of which each visitor gets their own. */
export function Codes() {
  const site = useSite().id
  const pools = usePools()
  const [adding, setAdding] = useState<{ to: PoolInfo | null } | null>(null)
  const [open, setOpen] = useState('')
  const remove = (p: PoolInfo) =>
    confirm({
      title: `Delete the pool “${p.name}”?`,
      text: `Its ${counted(p.left + p.given, 'code')} are deleted with it. This cannot be undone.`,
      verb: 'Delete',
      run: async () => {
        try {
          await api('DELETE /sites/:site/pools/:id', { site, id: p.id })
        } catch (e) {
          toast((e as Trouble).message, true)
        }
        outdated('pools', site)
      },
    })
  return (
    <SitePage wide>
      <Title of="Codes" />
      <Sheet bitten>
        <Box sx={{ display: 'flex', gap: 2, alignItems: 'flex-start', mb: 1, pr: '34px' }}>
          <Box sx={{ flex: 1 }}>
            <Typography variant="h2">Pools of codes</Typography>
            <Typography color="textSecondary">
              A code block or a prize that uses a pool gives each visitor a code of their own, and the same one whenever they come back.
            </Typography>
          </Box>
          <Button variant="contained" onClick={() => setAdding({ to: null })}>
            New pool
          </Button>
        </Box>
        <Loaded query={pools} what="the pools" placeholder={<Skeleton variant="rounded" height={90} />}>
          {list => (
            <>
              {list.length === 0 && (
                <Typography color="textSecondary">No pools yet: paste codes of your shop into a new one, or have some generated.</Typography>
              )}
              {list.map(p => (
                <Box key={p.id} sx={{ borderTop: `1px solid ${paper.line}` }}>
                  <Box
                    sx={{
                      display: 'grid',
                      gridTemplateColumns: 'minmax(0, 1fr) minmax(150px, 260px) auto',
                      gap: 2,
                      py: '8px',
                      alignItems: 'center',
                      fontSize: 13.5,
                    }}
                  >
                    <Box>
                      <b>{p.name}</b>
                      <Used used={p.used} />
                    </Box>
                    <Stock pool={p} />
                    <Box sx={{ '& > *': { minWidth: 0 } }}>
                      <Button size="small" onClick={() => setOpen(open === p.id ? '' : p.id)} aria-expanded={open === p.id}>
                        {open === p.id ? 'Hide codes' : 'Show codes'}
                      </Button>
                      <Button size="small" onClick={() => setAdding({ to: p })}>
                        Add codes
                      </Button>
                      <Button size="small" component="a" href={addressOf('GET /sites/:site/pools/:id/codes.csv', { site, id: p.id })} download>
                        Export CSV
                      </Button>
                      {p.used.length === 0 && (
                        <Button size="small" onClick={() => remove(p)}>
                          Delete
                        </Button>
                      )}
                    </Box>
                  </Box>
                  {open === p.id && <PoolCodes pool={p.id} />}
                </Box>
              ))}
            </>
          )}
        </Loaded>
      </Sheet>
      {adding && <AddCodes to={adding.to} pools={pools.data ?? []} onDone={() => setAdding(null)} />}
    </SitePage>
  )
}

/** How many codes of a pool are left, and how many are given. */
function Stock({ pool: { left, given, used } }: { pool: PoolInfo }) {
  const low = left < few
  return (
    <Box>
      <Box sx={{ display: 'flex', justifyContent: 'space-between', mb: '3px' }}>
        <Box component="span" sx={{ color: low ? apricot.ink : ink[1], fontWeight: low ? 700 : 400 }}>
          {count(left)} left{low && used.length > 0 && ': add more'}
        </Box>
        <Box component="span" sx={{ color: ink[2] }}>
          {count(given)} given
        </Box>
      </Box>
      <Box aria-hidden sx={{ height: 6, borderRadius: 3, background: paper.line, overflow: 'hidden' }}>
        <Box data-hue sx={{ height: 1, width: `${(100 * left) / (left + given || 1)}%`, background: low ? apricot.main : moss.main }} />
      </Box>
    </Box>
  )
}

/** The codes of a pool, with who has which. */
function PoolCodes({ pool }: { pool: string }) {
  const [search, setSearch] = useState('')
  const scroller = useRef<HTMLDivElement>(null)
  const codes = usePoolCodes(pool, useDeferredValue(search.trim()))
  return (
    <Box sx={{ background: paper.bench, borderRadius: '8px', p: '10px 14px', mb: '10px' }}>
      <OutlinedInput
        size="small"
        type="search"
        value={search}
        onChange={e => setSearch(e.target.value)}
        placeholder="Code or email"
        inputProps={{ 'aria-label': 'Search codes', maxLength: 200 }}
        sx={{ width: 240, mb: 1 }}
      />
      <Loaded query={codes} what="the codes" placeholder={<Skeleton variant="rounded" height={120} />}>
        {data => {
          const rows = data.pages.flatMap(p => p.codes)
          return (
            <>
              <Box ref={scroller} tabIndex={0} role="region" aria-label="Codes of the pool" sx={{ overflow: 'auto', maxHeight: 420 }}>
                <Box
                  component="table"
                  sx={{
                    width: '100%',
                    borderCollapse: 'collapse',
                    fontSize: 13.5,
                    '& th': { textAlign: 'start', color: ink[2], fontWeight: 600 },
                    '& td, & th': { p: '3px 8px 3px 0' },
                  }}
                >
                  <thead>
                    <tr>
                      <th>Code</th>
                      <th>Given to</th>
                      <th>Piece</th>
                      <th>When</th>
                    </tr>
                  </thead>
                  <VirtualBody rows={rows} scroller={scroller} height={26}>
                    {r => (
                      <tr key={r.code}>
                        <td>
                          <code>{r.code}</code>
                        </td>
                        <td>{r.email || (r.given_at ? 'a visitor without an email' : <span style={{ color: ink[2] }}>nobody yet</span>)}</td>
                        <td>{r.piece}</td>
                        <td>{r.given_at && moment(r.given_at)}</td>
                      </tr>
                    )}
                  </VirtualBody>
                </Box>
              </Box>
              {rows.length === 0 && <Typography color="textSecondary">{search ? 'No codes match.' : 'This pool is empty.'}</Typography>}
              {codes.hasNextPage && (
                <Button size="small" onClick={() => codes.fetchNextPage()} disabled={codes.isFetching}>
                  Show more
                </Button>
              )}
            </>
          )
        }}
      </Loaded>
    </Box>
  )
}
