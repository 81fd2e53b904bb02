import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import LinearProgress from '@mui/material/LinearProgress'
import OutlinedInput from '@mui/material/OutlinedInput'
import Skeleton from '@mui/material/Skeleton'
import TextField from '@mui/material/TextField'
import ToggleButton from '@mui/material/ToggleButton'
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup'
import Typography from '@mui/material/Typography'
import { type FormEvent, useDeferredValue, useState } from 'react'
import type { PoolInfo } from '../../kinds/studio'
import { addressOf, api, type Trouble, upload } from '../api'
import { confirm } from '../parts/Confirm'
import { Loaded } from '../parts/Loaded'
import { Sheet } from '../parts/Sheet'
import { count, counted } from '../parts/say'
import { Title } from '../parts/Title'
import { moment } from '../parts/time'
import { toast } from '../parts/toast'
import { Used } from '../parts/Used'
import { outdated, usePoolCodes, usePools, useSite } from '../queries'
import { apricot, brick, ink, paper } from '../theme'
import { SitePage } from './SitePage'

const few = 20

type Way = 'typed' | 'pattern' | 'file'

/** Pools of codes, of which each visitor gets their own. */
export function Codes() {
  const site = useSite().id
  const pools = usePools()
  const [to, setTo] = useState<PoolInfo | null>(null)
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
    <SitePage>
      <Title of="Codes" />
      <Sheet bitten>
        <Typography variant="h2">Pools</Typography>
        <Typography color="textSecondary" sx={{ mb: 1 }}>
          A code block or a prize that uses a pool gives each visitor a code of their own, and the same one whenever they come back.
        </Typography>
        <Loaded query={pools} what="the pools" placeholder={<Skeleton variant="rounded" height={90} />}>
          {list => (
            <>
              {list.length === 0 && <Typography color="textSecondary">No pools yet. Create one below.</Typography>}
              {list.map(p => (
                <Box key={p.id} sx={{ borderTop: `1px solid ${paper.line}` }}>
                  <Box
                    sx={{
                      display: 'grid',
                      gridTemplateColumns: 'minmax(0, 1fr) 110px 90px auto',
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
                    <Box component="span" sx={{ color: p.left < few ? apricot.ink : ink[1], fontWeight: p.left < few ? 700 : 400 }}>
                      {count(p.left)} left{p.left < few && p.used.length > 0 && ': add more'}
                    </Box>
                    <Box component="span" sx={{ color: ink[2] }}>
                      {count(p.given)} given
                    </Box>
                    <Box sx={{ '& > *': { minWidth: 0 } }}>
                      <Button size="small" onClick={() => setOpen(open === p.id ? '' : p.id)} aria-expanded={open === p.id}>
                        {open === p.id ? 'Hide codes' : 'Show codes'}
                      </Button>
                      <Button size="small" onClick={() => setTo(p)}>
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
      <AddCodes key={to?.id ?? ''} to={to} pools={pools.data ?? []} onDone={() => setTo(null)} />
    </SitePage>
  )
}

/** The codes of a pool, with who has which. */
function PoolCodes({ pool }: { pool: string }) {
  const [search, setSearch] = useState('')
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
                <tbody>
                  {rows.map(r => (
                    <tr key={r.code}>
                      <td>
                        <code>{r.code}</code>
                      </td>
                      <td>{r.email || (r.given_at ? 'a visitor without an email' : <span style={{ color: ink[2] }}>nobody yet</span>)}</td>
                      <td>{r.piece}</td>
                      <td>{r.given_at && moment(r.given_at)}</td>
                    </tr>
                  ))}
                </tbody>
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

/** Adds codes to a pool: typed, generated by a pattern, or from a file. */
function AddCodes({ to, pools, onDone }: { to: PoolInfo | null; pools: PoolInfo[]; onDone(): void }) {
  const site = useSite().id
  const [way, setWay] = useState<Way>('typed')
  const [name, setName] = useState('')
  const [codes, setCodes] = useState('')
  const [pattern, setPattern] = useState('SPRING-****-**')
  const [many, setMany] = useState('100')
  const [file, setFile] = useState<File | null>(null)
  const [busy, setBusy] = useState(false)
  const [sent, setSent] = useState(0)
  const [trouble, setTrouble] = useState<Trouble | null>(null)
  const lines = [...codes.split('\n').entries()].filter(([, c]) => c.trim())
  const given = lines.map(([, c]) => c)
  const submit = async (e: FormEvent) => {
    e.preventDefault()
    const pool = { site, id: to?.id ?? idOf(name, pools) }
    const called = to?.name ?? name
    setBusy(true)
    try {
      const done =
        way === 'file'
          ? await upload('PUT /sites/:site/pools/:id/file', pool, { query: { name: called }, file: file!, onProgress: setSent })
          : await api('PUT /sites/:site/pools/:id', pool, {
              body: way === 'typed' ? { name: called, codes: given, pattern: '', count: 0 } : { name: called, codes: [], pattern, count: Number(many) || 0 },
            })
      outdated('pools', site)
      const twice = done.came - done.added
      toast(`${counted(done.added, 'code')} added.${twice ? ` ${count(twice)} already in the pool.` : ''}`)
      setName('')
      setCodes('')
      setFile(null)
      setTrouble(null)
      onDone()
    } catch (e) {
      setTrouble(e as Trouble)
    }
    setBusy(false)
  }
  const fault = (at: string) => trouble?.faults.find(f => f.at.startsWith(at))
  const wrong = fault('codes')?.at.match(/\[(\d+)\]/)?.[1]
  const wrongLine = wrong && lines[Number(wrong)] && lines[Number(wrong)][0] + 1
  const inFile = fault('file')
  const fileLine = inFile?.at.match(/\[(\d+)\]/)?.[1]
  const ready = way === 'typed' ? given.length > 0 : way === 'file' ? !!file : pattern.trim() !== ''
  return (
    <Sheet component="form" onSubmit={submit as never}>
      <Typography variant="h2" sx={{ mb: 1.5 }}>
        {to ? `Add codes to ${to.name}` : 'New pool'}
      </Typography>
      <Box sx={{ display: 'grid', gap: 2 }}>
        {!to && (
          <TextField
            label="Name"
            value={name}
            onChange={e => setName(e.target.value)}
            error={!!fault('name')}
            helperText={fault('name') && `Name ${fault('name')!.message}`}
            slotProps={{ htmlInput: { maxLength: 120 } }}
          />
        )}
        <ToggleButtonGroup exclusive size="small" value={way} onChange={(_, v) => v && setWay(v)} aria-label="Where codes come from">
          <ToggleButton value="typed">Type or paste</ToggleButton>
          <ToggleButton value="pattern">Generate</ToggleButton>
          <ToggleButton value="file">CSV file</ToggleButton>
        </ToggleButtonGroup>
        {way === 'typed' && (
          <TextField
            label="Codes, one per line"
            multiline
            minRows={5}
            maxRows={14}
            value={codes}
            onChange={e => setCodes(e.target.value)}
            error={!!fault('codes')}
            helperText={
              fault('codes')
                ? `${wrongLine ? `Line ${wrongLine} ` : 'These '}${fault('codes')!.message}`
                : given.length
                  ? counted(given.length, 'code')
                  : 'Codes from your shop that each work once.'
            }
          />
        )}
        {way === 'pattern' && (
          <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 160px', gap: 2 }}>
            <TextField
              label="Pattern"
              value={pattern}
              onChange={e => setPattern(e.target.value)}
              error={!!fault('pattern')}
              helperText={
                fault('pattern') ? `The pattern ${fault('pattern')!.message}.` : '# is a digit, ? a letter, * either. Export them as CSV for your shop.'
              }
              slotProps={{ htmlInput: { maxLength: 60, spellCheck: false } }}
            />
            <TextField
              label="How many"
              value={many}
              onChange={e => setMany(e.target.value.replace(/\D/g, ''))}
              error={!!fault('count')}
              helperText={fault('count') && `The number ${fault('count')!.message}.`}
              slotProps={{ htmlInput: { inputMode: 'numeric', maxLength: 6 } }}
            />
          </Box>
        )}
        {way === 'file' && (
          <Box>
            <Button component="label" variant="outlined">
              {file ? file.name : 'Choose a file'}
              <input type="file" accept=".csv,.txt,text/csv,text/plain" hidden aria-label="CSV file" onChange={e => setFile(e.target.files?.[0] ?? null)} />
            </Button>
            <Typography color={inFile ? 'error' : 'textSecondary'} role={inFile ? 'alert' : undefined} sx={{ fontSize: 13, mt: 0.5 }}>
              {inFile
                ? fileLine
                  ? `Line ${Number(fileLine) + 1} ${inFile.message}.`
                  : `The file ${inFile.message}.`
                : 'Uses the column named “code”, or the first column. Up to a million codes; duplicates are skipped.'}
            </Typography>
          </Box>
        )}
        {busy && <LinearProgress aria-label="Adding codes" variant={way === 'file' && sent < 1 ? 'determinate' : 'indeterminate'} value={100 * sent} />}
        {trouble && !trouble.faults.length && (
          <Typography role="alert" sx={{ color: brick.main, fontWeight: 600 }}>
            {trouble.message}
          </Typography>
        )}
        <Box sx={{ display: 'flex', gap: 1 }}>
          <Button type="submit" variant="contained" disabled={!ready || busy}>
            {busy ? 'Adding…' : way === 'typed' && given.length ? `Add ${counted(given.length, 'code')}` : 'Add codes'}
          </Button>
          {to && (
            <Button variant="outlined" onClick={onDone}>
              Cancel
            </Button>
          )}
        </Box>
      </Box>
    </Sheet>
  )
}

/** An id for a pool that no other has. */
function idOf(name: string, pools: PoolInfo[]): string {
  const plain =
    name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '')
      .slice(0, 30) || 'pool'
  for (let n = 0; ; n++) {
    const id = n ? `${plain}-${n + 1}` : plain
    if (!pools.some(p => p.id === id)) return id
  }
}
