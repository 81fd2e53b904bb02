import Box from '@mui/material/Box'
import MenuItem from '@mui/material/MenuItem'
import TextField from '@mui/material/TextField'
import Typography from '@mui/material/Typography'
import { type FormEvent, useState } from 'react'
import type { Settings } from '../../kinds/settings'
import { api, type Trouble } from '../api'
import { SaveLine } from '../parts/SaveLine'
import { Sheet } from '../parts/Sheet'
import { useUnsaved } from '../parts/unsaved'
import { outdated, setSite, useSite } from '../queries'
import { spansFor } from '../reach/spans'

const channels: [string, string][] = [
  ['search', 'Search'],
  ['social', 'Social'],
  ['email', 'Email'],
  ['ads', 'Ads'],
]

/** How often all pieces together may show, and which visits are recorded. */
export function Frequency() {
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
      setSite(await api('PUT /sites/:site/settings', { site: site.id }, { body: { version: unsaved.version, settings: { ...settings, channels: lists } } }))
      unsaved.discard()
      setSaved(true)
      outdated('rehearsal')
    } catch (e) {
      if ((e as Trouble).status === 409) return void outdated('me')
      setTrouble(e as Trouble)
    }
  }
  const limits = settings.limits
  return (
    <Sheet component={'form' as never} onSubmit={submit as never} sx={{ display: 'grid', gap: 1.5, p: '18px 20px 22px' }} aria-label="Frequency and tracking">
      <Typography variant="h2">Frequency and tracking</Typography>
      <Typography color="textSecondary">For all pieces together, on top of each piece’s own frequency caps.</Typography>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 2, mt: 1 }}>
        <Choice
          label="Pieces over the page, per visit"
          help="Popups, side sheets and full-screen pieces."
          value={String(limits.overlays ?? 0)}
          options={[
            ['0', 'No limit'],
            ['1', '1'],
            ['2', '2'],
            ['3', '3'],
            ['5', '5'],
          ]}
          onChange={n => put({ limits: { ...limits, overlays: Number(n) } })}
        />
        <Choice
          label="Minimum time between pieces"
          help="No piece interrupts a visitor sooner after another."
          value={limits.quiet ?? ''}
          options={spansFor([['', 'None']], 'PT10S')}
          onChange={quiet => put({ limits: { ...limits, quiet } })}
        />
        <Choice
          label="Exit-intent sensitivity"
          help="Which mouse movements towards the edge count as leaving."
          value={settings.exit}
          options={[
            ['calm', 'Low: quick and clear moves only'],
            ['normal', 'Normal: quick moves'],
            ['eager', 'High: slow moves too'],
          ]}
          onChange={exit => put({ exit: exit as Settings['exit'] })}
        />
        <TextField
          label="Visitors recorded, in %"
          type="number"
          value={settings.record}
          onChange={e => put({ record: Math.max(0, Math.min(100, Math.round(Number(e.target.value) || 0))) })}
          error={!!fault('record')}
          helperText={fault('record')?.message ?? 'Their page views are kept for rehearsals for 90 days, without personal data.'}
          slotProps={{ htmlInput: { min: 0, max: 100 } }}
        />
      </Box>
      <Typography variant="h3" sx={{ mt: 1 }}>
        Traffic sources
      </Typography>
      <Typography color="textSecondary">
        Links with utm_medium name their source. For other visits, the referring host decides: list hosts here, one per line.
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
      <SaveLine
        unsaved={unsaved}
        saved={saved}
        wrong={trouble ? (trouble.faults.find(f => !f.at.startsWith('channels'))?.message ?? trouble.message) : undefined}
      />
    </Sheet>
  )
}

interface ChoiceProps {
  label: string
  help: string
  value: string
  options: readonly (readonly [string, string])[]
  onChange(value: string): void
}

const Choice = ({ label, help, value, options, onChange }: ChoiceProps) => (
  <TextField
    select
    label={label}
    value={value}
    onChange={e => onChange(e.target.value)}
    helperText={help}
    slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
  >
    {options.map(([key, name]) => (
      <MenuItem key={key} value={key}>
        {name}
      </MenuItem>
    ))}
    {!options.some(([key]) => key === value) && <MenuItem value={value}>{value}</MenuItem>}
  </TextField>
)
