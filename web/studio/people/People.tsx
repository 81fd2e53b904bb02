import Download from '@mui/icons-material/Download'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import MenuItem from '@mui/material/MenuItem'
import Select from '@mui/material/Select'
import Typography from '@mui/material/Typography'
import { useDeferredValue, useState } from 'react'
import { DateField } from '../parts/forms/DateTimeField'
import { SearchBox } from '../parts/look/SearchBox'
import { Sheet } from '../parts/look/Sheet'
import { Title } from '../parts/look/Title'
import { useAsked } from '../parts/words/asked'
import { counted } from '../parts/words/say'
import { shiftDay, today } from '../parts/words/time'
import { addressOf } from '../server/api'
import { type LeadFilter, useFacts, usePieceNames, useSite } from '../server/queries'
import { LeadTable } from './LeadTable'

const periods: [string, string][] = [
  ['', 'All time'],
  ['7', 'Last 7 days'],
  ['28', 'Last 28 days'],
  ['90', 'Last 90 days'],
  ['custom', 'Custom…'],
]

/** Everyone who left a way to be reached; the filters are in the address, and go into the export. */
export function People() {
  const site = useSite()
  const [query, ask, clear] = useAsked()
  const [total, setTotal] = useState<number | null>(null)
  const names = usePieceNames().data ?? []
  const sources = useFacts().data?.facts.find(f => f.name === 'source.channel')?.values ?? []
  const of = (key: string) => query.get(key) ?? ''
  const put = (change: Record<string, string>) => ask(change, { replace: true })
  const period = of('period')
  const day = (ago: number) => shiftDay(today(), -ago)
  const custom = period === 'custom'
  const filter: LeadFilter = {
    q: useDeferredValue(of('q').trim()),
    piece: of('piece'),
    source: of('source'),
    from: custom ? of('from') : Number(period) ? day(Number(period) - 1) : '',
    to: custom ? of('to') : '',
  }
  const filtered = Object.values(filter).some(Boolean)
  return (
    <Box component="main" sx={{ p: '22px 26px 40px', maxWidth: 1300, width: '100%', mx: 'auto' }}>
      <Title of="People" />
      <Box sx={{ display: 'flex', alignItems: 'flex-end', gap: 2, mb: '14px', flexWrap: 'wrap' }}>
        <Box sx={{ flex: 1 }}>
          <Typography variant="h1">People</Typography>
          <Typography color="textSecondary" aria-live="polite">
            {total === null
              ? '\u00a0'
              : filtered
                ? `${counted(total, 'person', 'people')} found`
                : `${counted(total, 'person', 'people')} left an email address`}
          </Typography>
        </Box>
        <SearchBox label="Search people" placeholder="Name, email, answer or piece" value={of('q')} onChange={q => put({ q })} width={250} />
        <Button variant="outlined" startIcon={<Download />} href={addressOf('GET /sites/:site/people.csv', { site: site.id }, filter)} download>
          Export CSV
        </Button>
      </Box>
      <Box role="group" aria-label="Filters" sx={{ display: 'flex', gap: 1, mb: '14px', flexWrap: 'wrap', alignItems: 'center' }}>
        <Filter label="Piece" value={filter.piece} all="All pieces" options={names.map(p => [p.id, p.name])} onChange={piece => put({ piece })} />
        <Filter label="Source" value={filter.source} all="All sources" options={sources.map(s => [s, s])} onChange={source => put({ source })} />
        <Filter
          label="Period"
          value={period}
          all="All time"
          options={periods.slice(1)}
          onChange={p => put({ period: p, from: p === 'custom' ? day(6) : '', to: '' })}
        />
        {custom && (
          <>
            <DateField label="From" value={filter.from} onChange={from => put({ from })} />
            <DateField label="To" value={filter.to} onChange={to => put({ to })} />
          </>
        )}
        {filtered && (
          <Button size="small" onClick={clear}>
            Clear filters
          </Button>
        )}
      </Box>
      <Sheet>
        <LeadTable key={JSON.stringify(filter)} filter={filter} onTotal={setTotal} />
      </Sheet>
    </Box>
  )
}

interface FilterProps {
  label: string
  value: string
  /** What is shown where nothing is picked. */
  all: string
  options: readonly (readonly [string, string])[]
  onChange(value: string): void
}

function Filter({ label, value, all, options, onChange }: FilterProps) {
  return (
    <Select
      size="small"
      displayEmpty
      value={value}
      onChange={e => onChange(e.target.value)}
      inputProps={{ 'aria-label': label }}
      MenuProps={{ slotProps: { paper: { sx: { maxHeight: 420 } } } }}
      sx={{ fontSize: 14, minWidth: 130, maxWidth: 260 }}
    >
      <MenuItem value="">{all}</MenuItem>
      {options.map(([key, name]) => (
        <MenuItem key={key} value={key}>
          {name}
        </MenuItem>
      ))}
      {value && !options.some(([key]) => key === value) && <MenuItem value={value}>{value}</MenuItem>}
    </Select>
  )
}
