import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import LinearProgress from '@mui/material/LinearProgress'
import TextField from '@mui/material/TextField'
import ToggleButton from '@mui/material/ToggleButton'
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup'
import Typography from '@mui/material/Typography'
import { type FormEvent, useState } from 'react'
import { Link } from 'react-router'
import type { CodesAnswer, PoolInfo } from '../../kinds/studio'
import { api, type Trouble } from '../api'
import { Sheet } from '../parts/Sheet'
import { count, counted } from '../parts/say'
import { tell } from '../parts/Told'
import { client, usePools, useSite } from '../queries'
import { apricot, brick, ink, paper } from '../theme'
import { SitePlace } from './Places'

const few = 20

type Way = 'typed' | 'pattern' | 'file'

/** Pools of codes, of which each visitor gets their own. */
export function Codes() {
  const site = useSite().id
  const pools = usePools().data ?? []
  const [to, setTo] = useState<PoolInfo | null>(null)
  const remove = async (p: PoolInfo) => {
    try {
      await api('DELETE', `/sites/${site}/pools/${p.id}`)
      client.invalidateQueries({ queryKey: ['pools', site] })
    } catch (e) {
      tell((e as Trouble).message, true)
    }
  }
  return (
    <SitePlace>
      <Sheet bitten>
        <Typography variant="h2">Pools</Typography>
        <Typography color="textSecondary" sx={{ mb: 1 }}>
          A code block or a prize that takes from a pool gives each visitor a code of their own, the same one whenever they come back.
        </Typography>
        {pools.map(p => (
          <Box
            key={p.id}
            sx={{
              display: 'grid',
              gridTemplateColumns: '1fr 110px 110px auto',
              gap: 2,
              py: '8px',
              borderTop: `1px solid ${paper.line}`,
              alignItems: 'center',
              fontSize: 13.5,
            }}
          >
            <Box>
              <b>{p.name}</b>
              <Box sx={{ fontSize: 12.5, color: ink[2] }}>
                {p.used.length
                  ? p.used.map((u, i) => (
                      <span key={u.id}>
                        {i > 0 && ', '}
                        <Link to={`/pieces/${u.id}/compose`}>{u.name}</Link>
                      </span>
                    ))
                  : 'not used'}
              </Box>
            </Box>
            <Box component="span" sx={{ color: p.left < few ? apricot.ink : ink[1], fontWeight: p.left < few ? 700 : 400 }}>
              {count(p.left)} left{p.left < few && p.used.length > 0 && ': add some'}
            </Box>
            <Box component="span" sx={{ color: ink[2] }}>
              {count(p.given)} given
            </Box>
            <Box>
              <Button size="small" onClick={() => setTo(p)}>
                Add codes
              </Button>
              <Button size="small" component="a" href={`/api/sites/${site}/pools/${p.id}/codes.csv`} download>
                CSV
              </Button>
              {p.used.length === 0 && (
                <Button size="small" onClick={() => remove(p)}>
                  Delete
                </Button>
              )}
            </Box>
          </Box>
        ))}
        {pools.length === 0 && <Typography color="textSecondary">No pools yet. Make one below.</Typography>}
      </Sheet>
      <AddCodes key={to?.id ?? ''} to={to} pools={pools} onDone={() => setTo(null)} />
    </SitePlace>
  )
}

/** Puts codes into a pool: pasted, made by a pattern, or from a file. */
function AddCodes({ to, pools, onDone }: { to: PoolInfo | null; pools: PoolInfo[]; onDone(): void }) {
  const site = useSite().id
  const [way, setWay] = useState<Way>('typed')
  const [name, setName] = useState('')
  const [codes, setCodes] = useState('')
  const [pattern, setPattern] = useState('SPRING-****-**')
  const [many, setMany] = useState('100')
  const [file, setFile] = useState<File | null>(null)
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<Trouble | null>(null)
  const lines = [...codes.split('\n').entries()].filter(([, c]) => c.trim())
  const given = lines.map(([, c]) => c)
  const submit = async (e: FormEvent) => {
    e.preventDefault()
    const at = `/sites/${site}/pools/${to?.id ?? idOf(name, pools)}`
    const called = to?.name ?? name
    setBusy(true)
    try {
      const done =
        way === 'file'
          ? await api<CodesAnswer>('PUT', `${at}/file?name=${encodeURIComponent(called)}`, file!)
          : await api<CodesAnswer>('PUT', at, way === 'typed' ? { name: called, codes: given } : { name: called, pattern, count: Number(many) || 0 })
      client.invalidateQueries({ queryKey: ['pools', site] })
      const twice = done.came - done.added
      tell(`${counted(done.added, 'code')} added.${twice ? ` ${counted(twice, 'code')} had been there already.` : ''}`)
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
        {to ? `More codes for ${to.name}` : 'New pool'}
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
                  : 'From your shop: each should work once.'
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
              helperText={fault('pattern') ? `The pattern ${fault('pattern')!.message}.` : '# is a digit, ? a letter, * either. Take them to your shop as CSV.'}
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
                : 'The column called “code”, or the first one. Up to a million codes; what is there already is left out.'}
            </Typography>
          </Box>
        )}
        {busy && <LinearProgress aria-label="Adding codes" />}
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

/** A short name for a pool that no other has. */
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
