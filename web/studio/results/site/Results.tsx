import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import CircularProgress from '@mui/material/CircularProgress'
import MenuItem from '@mui/material/MenuItem'
import Select from '@mui/material/Select'
import Skeleton from '@mui/material/Skeleton'
import Typography from '@mui/material/Typography'
import { Suspense, useState } from 'react'
import type { DayRange, Measure, SiteResults } from '../../../kinds/studio'
import { AlertLines } from '../../parts/figures/AlertLines'
import { saveCSV } from '../../parts/figures/csv'
import { DateField } from '../../parts/forms/DateTimeField'
import { Loaded } from '../../parts/look/Loaded'
import { later } from '../../parts/look/later'
import { Sheet } from '../../parts/look/Sheet'
import { TextButton } from '../../parts/look/TextButton'
import { Title } from '../../parts/look/Title'
import { ink } from '../../parts/look/theme'
import { toast } from '../../parts/look/toast'
import { type Ask, useAsked } from '../../parts/words/asked'
import { count, counted, cutName, money, percent, points } from '../../parts/words/say'
import { today } from '../../parts/words/time'
import type { Query } from '../../server/api'
import { usePieceNames, useSiteResults } from '../../server/queries'
import { Behind, type What } from '../Behind'
import { LeftOut } from '../LeftOut'
import { Cost } from './Cost'
import { Hours } from './Hours'
import { Rows } from './Rows'
import { presetOf, presets, rangeOf, rangeText } from './range'

// It brings the charts: the sentence and the numbers do not wait for them.
const BroughtOver = later(async () => (await import('./BroughtOver')).default)

/** What the site's pieces brought, and what they cost visitors. */
export function Results() {
  const [params, set, clear] = useAsked()
  const query: Query<'GET /sites/:site/results'> = Object.fromEntries([...params].filter(([key]) => ['from', 'to', 'piece', 'by'].includes(key)))
  const results = useSiteResults(query)
  // Until what was asked for is there, what was there before stands, and says that it does.
  const waits = results.isPlaceholderData
  const [behind, setBehind] = useState<What | null>(null)
  return (
    <Box component="main" sx={{ display: 'grid', gap: '16px', p: '18px 24px 28px', maxWidth: 1500, width: '100%', mx: 'auto', alignContent: 'start' }}>
      <Title of="Results" />
      <AlertLines />
      <Loaded
        query={results}
        what="the results"
        placeholder={<Skeleton variant="rounded" height={460} />}
        way={Object.keys(query).length ? { name: 'Show the last 28 days', run: clear } : undefined}
      >
        {r => (
          <>
            <Head r={r} range={rangeIn(query, r)} waits={waits} set={set} piece={params.get('piece') ?? ''} />
            <Box sx={{ display: 'grid', gap: '16px', opacity: waits ? 0.5 : 1 }} aria-busy={waits}>
              <Box sx={{ display: 'grid', gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'repeat(3, minmax(0, 1fr))' }, gap: '16px', alignItems: 'stretch' }}>
                <Sheet aria-label="What they brought">
                  <Heading of="What they brought" rows={() => broughtRows(r)} />
                  <Brought r={r} onOpen={setBehind} />
                </Sheet>
                <Sheet aria-label="What they cost visitors">
                  <Heading of="What they cost visitors" rows={() => costRows(r)} />
                  <Cost cost={r.cost} />
                </Sheet>
                <Sheet aria-label="When visitors convert">
                  <Heading of="When visitors convert" rows={() => hourRows(r)} />
                  <Hours hours={r.hours} />
                </Sheet>
              </Box>
              <Rows r={r} by={params.get('by') ?? ''} query={query} set={set} onOpen={setBehind} />
              <Box sx={{ display: 'grid', gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'repeat(2, minmax(0, 1fr))' }, gap: '16px', alignItems: 'start' }}>
                {r.leads.length > 0 && <Leads r={r} />}
                <LeftOut />
              </Box>
            </Box>
            {behind && <Behind what={behind} query={query} onClose={() => setBehind(null)} />}
          </>
        )}
      </Loaded>
    </Box>
  )
}

/** A sheet's heading, and what it draws as a file. */
const Heading = ({ of, rows }: { of: string; rows(): Cell[][] }) => (
  <Box sx={{ display: 'flex', alignItems: 'baseline', mb: '8px' }}>
    <Typography variant="h3" component="h2" sx={{ mr: 'auto' }}>
      {of}
    </Typography>
    <TextButton onClick={() => saveCSV(`${of.toLowerCase().replaceAll(' ', '-')}.csv`, rows())} label={`${of}: CSV`}>
      CSV
    </TextButton>
  </Box>
)

type Cell = string | number | null

const ratio = (m: Measure): Cell[] => [m.conversions, m.visitors, m.rate, ...m.interval]

const broughtRows = (r: SiteResults): Cell[][] => [
  ['from', 'reached, shown', 'shown', 'rate', 'low', 'high', 'reached, held back', 'held back', 'rate', 'low', 'high'],
  ...r.over.map(s => [s.day, ...ratio(s.shown), ...ratio(s.held)]),
]

const costRows = ({ cost: c }: SiteResults): Cell[][] => [
  ['what', 'count', 'of', 'rate', 'low', 'high'],
  ...c.visits.map((n, i): Cell[] => [`visits interrupted ${i === 3 ? '3 times or more' : `${i} times`}`, n, c.visits.reduce((a, b) => a + b, 0)]),
  ['closed within 2 s', ...ratio(c.quick)],
  ['left within 10 s of a piece', ...ratio(c.left)],
  ['left within 10 s, held back', ...ratio(c.held_left)],
  ['mean KB fetched', c.page.bytes / 1024, c.page.views],
  ['mean ms the page was held up', c.page.busy_ms, c.page.views],
  ['mean layout shift with a piece', c.page.shift, c.page.shown],
  ['mean layout shift without', c.page.shift_without, c.page.views - c.page.shown],
  ['typical largest paint with a piece, ms', c.page.paint, c.page.shown],
  ['typical largest paint without, ms', c.page.paint_without, c.page.views - c.page.shown],
]

const hourRows = (r: SiteResults): Cell[][] => [
  ['weekday', ...Array.from({ length: 24 }, (_, h) => `${h}:00`)],
  ...['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'].map((d, i) => [d, ...r.hours[i]]),
]

/** The days that were asked for, or those that are shown where none were. */
const rangeIn = ({ from, to }: Query<'GET /sites/:site/results'>, r: SiteResults): DayRange => (from && to ? { from: String(from), to: String(to) } : r.range)

/** Copies the address of the view as it is, with its days named, so that it says the same tomorrow. */
async function share({ from, to }: DayRange) {
  const address = new URL(location.href)
  address.searchParams.set('from', from)
  address.searchParams.set('to', to)
  try {
    await navigator.clipboard.writeText(address.href)
    toast('The address of this view is copied. Who opens it sees the same days, once signed in.')
  } catch {
    toast(`The browser does not let it be copied: ${address.href}`, true)
  }
}

/** The sentence, and over which days. */
function Head({ r, range, waits, set, piece }: { r: SiteResults; range: DayRange; waits: boolean; set: Ask; piece: string }) {
  const names = usePieceNames().data ?? []
  const now = today()
  const preset = presetOf(range, now)
  const [own, setOwn] = useState(false)
  return (
    <Sheet bitten sx={{ pr: '44px' }} aria-label="What the pieces brought">
      <Box sx={{ display: 'flex', flexWrap: 'wrap', alignItems: 'flex-start', gap: '10px 24px' }}>
        <Box sx={{ flex: '1 1 320px', opacity: waits ? 0.5 : 1 }} aria-busy={waits}>
          <Typography variant="h2" sx={{ fontSize: 21 }}>
            {r.head}
            {waits && <CircularProgress size={14} aria-label="Counting the days asked for" sx={{ ml: '10px' }} />}
          </Typography>
          <Typography color="textSecondary">{r.why}</Typography>
        </Box>
        <Box sx={{ display: 'grid', gap: '6px', flex: 'none', width: own || !preset ? 340 : 250 }}>
          <Select
            value={own || !preset ? 'own' : preset}
            inputProps={{ 'aria-label': 'Period' }}
            onChange={e => {
              const value = e.target.value
              setOwn(value === 'own')
              if (value !== 'own') set({ ...rangeOf(value as (typeof presets)[number], now) })
            }}
          >
            {presets.map(p => (
              <MenuItem key={p} value={p}>
                {p}
              </MenuItem>
            ))}
            <MenuItem value="own">{preset ? 'Other days…' : rangeText(range)}</MenuItem>
          </Select>
          {(own || !preset) && (
            <Box sx={{ display: 'flex', gap: '6px' }}>
              <DateField label="From" value={range.from} onChange={from => from && set(inOrder(from, range.to, from))} />
              <DateField label="To" value={range.to} onChange={to => to && set(inOrder(range.from, to, to))} />
            </Box>
          )}
          <Select value={piece} displayEmpty inputProps={{ 'aria-label': 'Piece' }} onChange={e => set({ piece: e.target.value })}>
            <MenuItem value="">All pieces</MenuItem>
            {names.map(n => (
              <MenuItem key={n.id} value={n.id}>
                {n.name}
              </MenuItem>
            ))}
          </Select>
          <Button variant="outlined" size="small" onClick={() => share(range)} sx={{ justifySelf: 'end' }}>
            Share
          </Button>
        </Box>
      </Box>
      <Typography variant="body2" sx={{ color: ink[2], mt: '8px' }}>
        {rangeText(r.range)} against {rangeText(r.before)}: {count(r.now.visitors)} visitors saw a piece ({count(r.then.visitors)} before),{' '}
        {r.now.rate === null ? 'none converted' : `${percent(r.now.rate)} converted`}
        {r.now.rate !== null && r.then.rate !== null && ` (${points(r.now.rate - r.then.rate)} pp)`}. Each visitor counts once a piece, on the day they first
        saw it.
      </Typography>
    </Sheet>
  )
}

/** A range of two days; where they are the wrong way round, of the one that was just chosen. */
const inOrder = (from: string, to: string, chosen: string) => (from <= to ? { from, to } : { from: chosen, to: chosen })

/** A day that takes effect once it is one. */
function Brought({ r, onOpen }: { r: SiteResults; onOpen(what: What): void }) {
  if (!r.brought.length)
    return (
      <>
        <Typography color="textSecondary">
          {r.goals.length
            ? 'No visitors were held back in this time, so it cannot be told what would have come without the pieces. Hold some back in a piece’s Results, under Traffic split.'
            : 'Name a goal of the site, such as an order, in Site. Then hold some visitors back in a piece’s Results, under Traffic split.'}
        </Typography>
        <Goals r={r} onOpen={onOpen} />
      </>
    )
  const name = r.goals.find(g => g.id === r.brought[0].goal)?.name ?? ''
  return (
    <>
      <Suspense fallback={<Skeleton variant="rounded" height={190} />}>
        <BroughtOver steps={r.over} />
      </Suspense>
      <Typography variant="body2" color="textSecondary">
        Share who reached “{name}”, by the {r.step === 1 ? 'day' : r.step === 7 ? 'week' : `${r.step} days`} they first saw a piece, with 95 % bounds; dashed:
        held back.
      </Typography>
      <Goals r={r} onOpen={onOpen} />
    </>
  )
}

/** The goals, as anybody reached them, and what the pieces added. */
const Goals = ({ r, onOpen }: { r: SiteResults; onOpen(what: What): void }) => (
  <Box sx={{ mt: '10px', fontSize: 13.5 }}>
    {r.goals.map(g => {
      const gain = r.brought.find(b => b.goal === g.id)?.gain
      return (
        <Box key={g.id} sx={{ py: '2px' }}>
          <b>{g.name}</b>{' '}
          {g.times > 0 ? (
            <TextButton onClick={() => onOpen({ title: `${g.name}: latest`, kind: 'reached' })}>{counted(g.times, 'time')}</TextButton>
          ) : (
            'not reached'
          )}
          {g.valued && g.times > 0 && `, ${money(g.value, r.currency)}`}
          {gain && gain.conversions !== null && g.times > 0 && (
            <Box component="span" sx={{ color: ink[2] }}>
              {' '}
              ·{' '}
              {gain.sure
                ? `${count(Math.round(gain.conversions))} through pieces (${count(Math.round(gain.bounds[0]!))} to ${count(Math.round(gain.bounds[1]!))})`
                : 'not sure what pieces added'}
            </Box>
          )}
        </Box>
      )
    })}
  </Box>
)

function Leads({ r }: { r: SiteResults }) {
  return (
    <Sheet aria-label="Leads by source">
      <Typography variant="h3" component="h2" sx={{ mb: '6px' }}>
        Leads by source
      </Typography>
      <Box
        component="table"
        sx={{
          width: '100%',
          fontSize: 13.5,
          borderCollapse: 'collapse',
          '& th': { fontWeight: 550, color: ink[2], fontSize: 12.5 },
          '& td, & th': { py: '4px', textAlign: 'end', whiteSpace: 'nowrap' },
          '& td:first-of-type, & th:first-of-type': { textAlign: 'start' },
        }}
      >
        <thead>
          <tr>
            <th>Source</th>
            <th>Leads</th>
            <th>Ordered since</th>
            <th>Value</th>
            <th>Per lead</th>
          </tr>
        </thead>
        <tbody>
          {r.leads.map(l => (
            <tr key={l.channel}>
              <td>{cutName('channel', l.channel)}</td>
              <td>{count(l.leads)}</td>
              <td>
                {count(l.ordered.conversions)} ({percent(l.ordered.rate ?? 0)})
              </td>
              <td>{money(l.value, r.currency)}</td>
              <td>{money(l.value / Math.max(1, l.leads), r.currency, 2)}</td>
            </tr>
          ))}
        </tbody>
      </Box>
    </Sheet>
  )
}
