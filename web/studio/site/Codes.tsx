import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
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

/** Pools of codes, of which each visitor gets their own. */
export function Codes() {
  const site = useSite().id
  const pools = usePools().data ?? []
  const [to, setTo] = useState<PoolInfo | null>(null)
  const [name, setName] = useState('')
  const [codes, setCodes] = useState('')
  const [trouble, setTrouble] = useState<Trouble | null>(null)
  const lines = [...codes.split('\n').entries()].filter(([, c]) => c.trim())
  const given = lines.map(([, c]) => c)
  const submit = async (e: FormEvent) => {
    e.preventDefault()
    const id = to?.id ?? idOf(name, pools)
    try {
      const done = await api<CodesAnswer>('PUT', `/sites/${site}/pools/${id}`, { name: to?.name ?? name, codes: given })
      client.invalidateQueries({ queryKey: ['pools', site] })
      const twice = given.length - done.added
      tell(`${counted(done.added, 'code')} added.${twice ? ` ${counted(twice, 'code')} had been there already.` : ''}`)
      setTo(null)
      setName('')
      setCodes('')
      setTrouble(null)
    } catch (e) {
      setTrouble(e as Trouble)
    }
  }
  const remove = async (p: PoolInfo) => {
    try {
      await api('DELETE', `/sites/${site}/pools/${p.id}`)
      client.invalidateQueries({ queryKey: ['pools', site] })
    } catch (e) {
      tell((e as Trouble).message, true)
    }
  }
  const fault = (at: string) => trouble?.faults.find(f => f.at.startsWith(at))
  const wrong = fault('codes')?.at.match(/\[(\d+)\]/)?.[1]
  const wrongLine = wrong && lines[Number(wrong)] && lines[Number(wrong)][0] + 1
  return (
    <SitePlace>
      <Sheet bitten>
        <Typography variant="h2">Pools</Typography>
        <Typography color="textSecondary" sx={{ mb: 1 }}>
          A code block that takes from a pool gives each visitor a code of their own, the same one whenever they come back.
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
              {count(p.left)} left
            </Box>
            <Box component="span" sx={{ color: ink[2] }}>
              {count(p.given)} given
            </Box>
            <Box>
              <Button size="small" onClick={() => setTo(p)}>
                Add codes
              </Button>
              {p.used.length === 0 && (
                <Button size="small" onClick={() => remove(p)}>
                  Take out
                </Button>
              )}
            </Box>
          </Box>
        ))}
        {pools.length === 0 && <Typography color="textSecondary">There is none yet. Make one below.</Typography>}
      </Sheet>
      <Sheet component="form" onSubmit={submit as never}>
        <Typography variant="h2" sx={{ mb: 1.5 }}>
          {to ? `More codes for ${to.name}` : 'A new pool'}
        </Typography>
        <Box sx={{ display: 'grid', gap: 2 }}>
          {!to && (
            <TextField
              label="What is it called?"
              value={name}
              onChange={e => setName(e.target.value)}
              error={!!fault('name')}
              helperText={fault('name')?.message}
              slotProps={{ htmlInput: { maxLength: 120 } }}
            />
          )}
          <TextField
            label="Codes, a line each"
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
          {trouble && !trouble.faults.length && <Typography sx={{ color: brick.main, fontWeight: 600 }}>{trouble.message}</Typography>}
          <Box sx={{ display: 'flex', gap: 1 }}>
            <Button type="submit" variant="contained" disabled={!given.length}>
              Add {given.length ? counted(given.length, 'code') : 'codes'}
            </Button>
            {to && (
              <Button variant="outlined" onClick={() => setTo(null)}>
                A new pool instead
              </Button>
            )}
          </Box>
        </Box>
      </Sheet>
    </SitePlace>
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
