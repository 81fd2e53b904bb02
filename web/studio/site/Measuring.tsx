import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import MenuItem from '@mui/material/MenuItem'
import TextField from '@mui/material/TextField'
import Typography from '@mui/material/Typography'
import { type FormEvent, useState } from 'react'
import type { Goal, Settings } from '../../kinds/settings'
import { api, type Trouble } from '../api'
import { SaveLine } from '../parts/SaveLine'
import { Sheet } from '../parts/Sheet'
import { useUnsaved } from '../parts/unsaved'
import { outdated, setSite, useSite } from '../queries'

const newID = () => Math.random().toString(36).slice(2, 10)

/** What the site wants of visitors in the end, and how it is measured. */
export function Measuring() {
  const site = useSite()
  const inForce = { ...site.settings, teamText: site.settings.team.join('\n') }
  const unsaved = useUnsaved(`measuring:${site.id}`, inForce, site.settings_version)
  const s = unsaved.value
  const [trouble, setTrouble] = useState<Trouble | null>(null)
  const [saved, setSaved] = useState(false)
  const put = (change: Partial<typeof inForce>) => {
    setSaved(false)
    unsaved.set(now => ({ ...now, ...change }))
  }
  const goal = (i: number, change: Partial<Goal>) => put({ goals: s.goals.map((g, k) => (k === i ? { ...g, ...change } : g)) })
  const fault = (at: string) => trouble?.faults.find(f => f.at === at || f.at.startsWith(`${at}[`))?.message
  const submit = async (e: FormEvent) => {
    e.preventDefault()
    setTrouble(null)
    const { teamText, ...settings } = s
    settings.team = teamText
      .split('\n')
      .map(t => t.trim())
      .filter(Boolean)
    try {
      setSite(await api('PUT /sites/:site/settings', { site: site.id }, { body: { version: unsaved.version, settings: settings satisfies Settings } }))
      unsaved.discard()
      setSaved(true)
      for (const key of ['results', 'split', 'alerts']) outdated(key, site.id)
    } catch (e) {
      if ((e as Trouble).status === 409) return void outdated('me')
      setTrouble(e as Trouble)
    }
  }
  return (
    <Sheet component={'form' as never} onSubmit={submit as never} sx={{ display: 'grid', gap: 1.5, p: '18px 20px 22px' }} aria-label="Goals and measuring">
      <Typography variant="h2">Goals and measuring</Typography>
      <Typography color="textSecondary">
        A goal is what you want of visitors in the end, such as an order. It counts for each piece that the visitor saw in the days before.
      </Typography>
      {s.goals.map((g, i) => (
        <Box key={g.id} sx={{ display: 'grid', gridTemplateColumns: '1.1fr 1.1fr 1.3fr 1.1fr 96px auto', gap: 1, alignItems: 'start' }} data-goal={g.id}>
          <TextField
            label="Name"
            value={g.name}
            onChange={e => goal(i, { name: e.target.value })}
            error={!!fault(`goals[${i}].name`)}
            helperText={fault(`goals[${i}].name`)}
          />
          <TextField select label="Reached by" value={g.kind} onChange={e => goal(i, { kind: e.target.value as Goal['kind'] })}>
            <MenuItem value="page">A page</MenuItem>
            <MenuItem value="event">An event</MenuItem>
          </TextField>
          <TextField
            label={g.kind === 'page' ? 'Path' : 'Event name'}
            placeholder={g.kind === 'page' ? '/thanks' : 'order'}
            value={g.about}
            onChange={e => goal(i, { about: e.target.value })}
            error={!!fault(`goals[${i}].about`)}
            helperText={fault(`goals[${i}].about`) ?? (g.kind === 'page' ? '* stands for any letters' : 'gobbet.push({ event: … })')}
            slotProps={{ inputLabel: { shrink: true } }}
          />
          <TextField
            label="Value from data"
            placeholder="order_total"
            value={g.value}
            onChange={e => goal(i, { value: e.target.value })}
            error={!!fault(`goals[${i}].value`)}
            helperText={fault(`goals[${i}].value`) ?? 'Empty: no value'}
            slotProps={{ inputLabel: { shrink: true } }}
          />
          <TextField
            label="Days"
            type="number"
            value={g.days}
            onChange={e => goal(i, { days: Math.max(1, Math.min(365, Math.round(Number(e.target.value) || 1))) })}
            error={!!fault(`goals[${i}].days`)}
            helperText={fault(`goals[${i}].days`)}
            slotProps={{ htmlInput: { min: 1, max: 365 } }}
          />
          <Button onClick={() => put({ goals: s.goals.filter((_, k) => k !== i) })} aria-label={`Delete the goal ${g.name}`}>
            Delete
          </Button>
        </Box>
      ))}
      <Box>
        <Button
          variant="outlined"
          size="small"
          disabled={s.goals.length >= 10}
          onClick={() => put({ goals: [...s.goals, { id: newID(), name: 'Order', kind: 'page', about: '/thanks', value: '', days: 14 }] })}
        >
          Add a goal
        </Button>
        {fault('goals') && !s.goals.some((_, i) => trouble?.faults.some(f => f.at.startsWith(`goals[${i}]`))) && (
          <Typography color="error">{fault('goals')}</Typography>
        )}
      </Box>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(3, 1fr)', gap: 2, mt: 1 }}>
        <TextField
          label="Currency"
          placeholder="EUR"
          value={s.currency}
          onChange={e => put({ currency: e.target.value.toUpperCase().slice(0, 3) })}
          error={!!fault('currency')}
          helperText={fault('currency') ?? 'Of all values; amounts are not converted.'}
          slotProps={{ inputLabel: { shrink: true } }}
        />
        <TextField
          label="Keep raw events, in months"
          type="number"
          value={s.keep_months}
          onChange={e => put({ keep_months: Math.max(1, Math.min(120, Math.round(Number(e.target.value) || 1))) })}
          error={!!fault('keep_months')}
          helperText={fault('keep_months') ?? 'Totals stay for good.'}
          slotProps={{ htmlInput: { min: 1, max: 120 } }}
        />
        <TextField
          label="Data layer"
          placeholder="dataLayer"
          value={s.data_layer}
          onChange={e => put({ data_layer: e.target.value })}
          error={!!fault('data_layer')}
          helperText={fault('data_layer') ?? 'An array of your pages that every step is pushed to.'}
          slotProps={{ inputLabel: { shrink: true } }}
        />
      </Box>
      <TextField
        label="Your team’s addresses"
        multiline
        minRows={2}
        placeholder="203.0.113.7"
        value={s.teamText}
        onChange={e => put({ teamText: e.target.value })}
        error={!!fault('team')}
        helperText={fault('team') ?? 'IP addresses or networks, one per line. Their visits are left out of all counts.'}
        slotProps={{ inputLabel: { shrink: true } }}
      />
      <SaveLine unsaved={unsaved} saved={saved} wrong={trouble ? (trouble.faults.length ? 'Some fields need a change.' : trouble.message) : undefined} />
    </Sheet>
  )
}
