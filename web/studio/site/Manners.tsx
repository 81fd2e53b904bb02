import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import Typography from '@mui/material/Typography'
import { type FormEvent, type ReactNode, useState } from 'react'
import type { Settings } from '../../kinds/settings'
import type { SiteInfo } from '../../kinds/studio'
import { api, type Trouble } from '../api'
import { Sheet } from '../parts/Sheet'
import { StaleLine } from '../parts/StaleLine'
import { useUnsaved } from '../parts/unsaved'
import { client, setSite, useSite } from '../queries'
import { spansFor } from '../reach/spans'
import { NumberToken, WordSelect } from '../reach/tokens'
import { brick, ink, moss, paper } from '../theme'

const channels: [string, string][] = [
  ['search', 'Search'],
  ['social', 'Social'],
  ['email', 'Email'],
  ['ads', 'Ads'],
]

/** How all pieces together behave on the site, and what of its visits is recorded. */
export function Manners() {
  const site = useSite()
  const inForce = { settings: site.settings, hosts: Object.fromEntries(channels.map(([key]) => [key, (site.settings.channels[key] ?? []).join('\n')])) }
  const unsaved = useUnsaved(`settings:${site.id}`, inForce, site.settings_version)
  const { settings, hosts } = unsaved.value
  const [trouble, setTrouble] = useState<Trouble | null>(null)
  const [saved, setSaved] = useState(false)
  const put = (change: Partial<Settings>) => {
    setSaved(false)
    unsaved.set(now => ({ ...now, settings: { ...now.settings, ...change } }))
  }
  const fault = (at: string) => trouble?.faults.find(f => f.at.startsWith(at))
  const submit = async (e: FormEvent) => {
    e.preventDefault()
    setTrouble(null)
    const lists = Object.fromEntries(
      channels.map(([key]) => [
        key,
        hosts[key]
          .split('\n')
          .map(h => h.trim())
          .filter(Boolean),
      ]),
    )
    try {
      setSite(await api<SiteInfo>('PUT', `/sites/${site.id}/settings`, { version: unsaved.version, settings: { ...settings, channels: lists } }))
      unsaved.discard()
      setSaved(true)
      client.invalidateQueries({ queryKey: ['rehearsal'] })
    } catch (e) {
      if ((e as Trouble).status === 409) return void client.invalidateQueries({ queryKey: ['me'] })
      setTrouble(e as Trouble)
    }
  }
  const limits = settings.limits
  return (
    <Sheet component={'form' as never} onSubmit={submit as never} sx={{ display: 'grid', gap: 1.5, p: '18px 20px 22px' }} aria-label="Manners">
      <Typography variant="h2">Manners</Typography>
      <Typography color="textSecondary">What holds for all pieces together, whatever each of them says.</Typography>
      <Say>
        One visit brings
        <WordSelect
          label="Pieces over the page in one visit"
          value={String(limits.overlays ?? 0)}
          options={[
            ['0', 'any number of pieces'],
            ['1', 'one piece'],
            ['2', 'two pieces'],
            ['3', 'three pieces'],
            ['5', 'five pieces'],
          ]}
          onChange={n => put({ limits: { ...limits, overlays: Number(n) } })}
        />
        over the page, and
        <WordSelect
          label="Quiet between two pieces"
          value={limits.quiet ?? ''}
          options={spansFor([['', 'no time']], 'PT10S')}
          onChange={quiet => put({ limits: { ...limits, quiet } })}
        />
        of quiet lies between any two.
      </Say>
      <Say>
        A move counts as heading for the exit
        <WordSelect
          label="How readily a move counts as heading for the exit"
          value={settings.exit}
          options={[
            ['calm', 'only when it is quick and clear'],
            ['normal', 'when it is quick'],
            ['eager', 'even when it is slow'],
          ]}
          onChange={exit => put({ exit: exit as Settings['exit'] })}
        />
        .
      </Say>
      <Say>
        Of 100 visitors, the page views of
        <NumberToken
          label="Visitors recorded, of 100"
          value={settings.record}
          wrong={!!fault('record')}
          onChange={n => put({ record: Math.max(0, Math.min(100, Math.round(n))) })}
        />
        are recorded for rehearsals, for 90 days, without anything personal.
      </Say>
      <Typography variant="h3" sx={{ mt: 1 }}>
        Where visitors come from
      </Typography>
      <Typography color="textSecondary">
        Links with a medium (utm_medium) say so themselves. Otherwise the referring host tells; name here, one a line, the hosts that bring your visitors.
      </Typography>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(4, 1fr)', gap: 1.5 }}>
        {channels.map(([key, name]) => (
          <TextField
            key={key}
            label={name}
            multiline
            minRows={2}
            value={hosts[key]}
            onChange={e => {
              setSaved(false)
              unsaved.set(now => ({ ...now, hosts: { ...now.hosts, [key]: e.target.value } }))
            }}
            error={!!fault('channels.' + key)}
            helperText={fault('channels.' + key)?.message}
          />
        ))}
      </Box>
      <StaleLine unsaved={unsaved} />
      <Box sx={{ display: 'flex', gap: 2, alignItems: 'center', borderTop: `1px solid ${paper.line}`, pt: 2 }}>
        <Button type="submit" variant="contained" disabled={unsaved.stale}>
          Save
        </Button>
        {unsaved.changed && (
          <Button variant="outlined" onClick={unsaved.discard}>
            Discard changes
          </Button>
        )}
        {saved && (
          <Typography role="status" sx={{ color: moss.ink, fontWeight: 600 }}>
            ✓ Saved, and in force within a second
          </Typography>
        )}
        {trouble && (
          <Typography role="alert" sx={{ color: brick.main }}>
            {trouble.faults.find(f => !f.at.startsWith('channels'))?.message ?? trouble.message}
          </Typography>
        )}
      </Box>
    </Sheet>
  )
}

const Say = ({ children }: { children: ReactNode }) => (
  <Box sx={{ display: 'flex', gap: '7px', alignItems: 'center', flexWrap: 'wrap', color: ink[1] }}>{children}</Box>
)
