import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import MenuItem from '@mui/material/MenuItem'
import Skeleton from '@mui/material/Skeleton'
import TextField from '@mui/material/TextField'
import Typography from '@mui/material/Typography'
import { Suspense, useState } from 'react'
import { Link, useOutletContext } from 'react-router'
import type { PieceInfo, SplitResult } from '../../../kinds/studio'
import { saveCSV } from '../../parts/figures/csv'
import { Loaded } from '../../parts/look/Loaded'
import { later } from '../../parts/look/later'
import { Sheet } from '../../parts/look/Sheet'
import { TwoColumns } from '../../parts/look/TwoColumns'
import { apricot, moss } from '../../parts/look/theme'
import { toast } from '../../parts/look/toast'
import { count, counted, letters } from '../../parts/words/say'
import { day, dayOf, today } from '../../parts/words/time'
import { change, useDraft } from '../../piece/draft'
import type { Trouble } from '../../server/api'
import { useAddress, useAlerts, usePieceID, useSite, useSplit } from '../../server/queries'
import { Behind, type What } from '../Behind'
import { Brought } from './Brought'
import { Cuts } from './Cuts'
import { Designs } from './Designs'
import { makeOnly } from './only'
import { Plan } from './Plan'
import { Played } from './Played'
import { Rates } from './Rates'
import { addVariant, Shares } from './Shares'
import { Timeline } from './Timeline'
import { Winner } from './Winner'

// It brings the charts: the verdict and the numbers do not wait for them.
const RateOverTime = later(async () => (await import('./RateOverTime')).default)

/** The variants against the first: the verdict, then the numbers, then the split itself. */
export function PieceResults() {
  const piece = usePieceID()
  const split = useSplit(piece)
  return (
    <Box sx={split.data ? undefined : { p: '18px 24px', maxWidth: 1500, width: '100%', mx: 'auto' }}>
      <Loaded query={split} what="the results" placeholder={<Skeleton variant="rounded" height={340} />}>
        {result => <Compared piece={piece} result={result} />}
      </Loaded>
    </Box>
  )
}

function Compared({ piece, result }: { piece: string; result: SplitResult }) {
  const info = useOutletContext<PieceInfo>()
  const doc = useDraft(s => s.doc)
  const [winner, setWinner] = useState<number | null>(null)
  const [differences, setDifferences] = useState(false)
  const [behind, setBehind] = useState<What | null>(null)
  if (!doc) return null
  const seen = result.variants.some(v => v.measure.visitors > 0)
  const several = result.variants.length > 1
  return (
    <TwoColumns>
      <Verdict result={result} info={info} />
      <Box sx={{ display: 'grid', gap: '18px', minWidth: 0 }}>
        <Sheet>
          <Box sx={{ display: 'flex', alignItems: 'baseline', mb: '10px', gap: 1 }}>
            <Typography variant="h3" component="h2">
              Conversion rate
            </Typography>
            <Typography variant="body2" color="textSecondary" sx={{ ml: 'auto' }}>
              {seen ? spanOf(result) : 'no visitors yet'}
            </Typography>
          </Box>
          <Programs />
          <Rates result={result} onOpen={setBehind} />
          {result.of_eligible && several && (
            <Typography variant="body2" color="textSecondary" sx={{ mt: '6px' }}>
              Variants differ in how or when they show, so a visitor counts from the page on which the piece could show to them, seen or not.
            </Typography>
          )}
          {result.earlier > 0 && several && (
            <Typography variant="body2" color="textSecondary" sx={{ mt: '6px' }}>
              {counted(result.earlier, 'visitor')} saw the piece first at another time, with other variants or shares, and are not compared.
            </Typography>
          )}
          {seen && (
            <>
              <Box sx={{ display: 'flex', alignItems: 'center', mt: '18px', mb: '6px', gap: '6px' }}>
                <Typography variant="h3" sx={{ mr: 'auto' }}>
                  {differences && several ? `Difference to ${result.variants[0].letter} over time` : 'Rate over time'}
                </Typography>
                {several &&
                  [false, true].map(d => (
                    <Button
                      key={String(d)}
                      size="small"
                      variant={differences === d ? 'contained' : 'outlined'}
                      aria-pressed={differences === d}
                      onClick={() => setDifferences(d)}
                    >
                      {d ? 'Difference' : 'Rates'}
                    </Button>
                  ))}
                <Button size="small" variant="outlined" onClick={() => download(result)}>
                  CSV
                </Button>
              </Box>
              <Suspense fallback={<Skeleton variant="rounded" height={210} />}>
                <RateOverTime variants={result.variants} over={result.over} differences={differences && several} />
              </Suspense>
              <Typography variant="body2" color="textSecondary" sx={{ mt: '2px' }}>
                Bands are safe bounds: they hold however often you look.
              </Typography>
            </>
          )}
        </Sheet>
        {seen && several && <Cuts piece={piece} />}
        {doc.split.variants.length > 1 && <Designs doc={doc} />}
        <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fit, minmax(300px, 1fr))', gap: '18px', alignItems: 'start' }}>
          {result.gains.some(g => g.gain.shown.conversions + g.gain.held.conversions > 0) && (
            <Sheet aria-label="What it brings">
              <Brought result={result} />
            </Sheet>
          )}
          {result.runs.length > 0 && (
            <Sheet aria-label="Time line">
              <Timeline result={result} />
            </Sheet>
          )}
        </Box>
      </Box>
      <Box sx={{ display: 'grid', gap: '18px' }}>
        <Sheet>
          <Shares piece={piece} live={info.state === 'live' && doc !== info.live} onWinner={setWinner} />
          <Counts result={result} />
        </Sheet>
        {several && (
          <Sheet aria-label="Is the test reliable?">
            <Typography variant="h3" component="h2" sx={{ mb: '8px' }}>
              Is the test reliable?
            </Typography>
            <Sound result={result} />
          </Sheet>
        )}
        {doc.split.variants.length > 1 && (
          <Sheet aria-label="Plan">
            <Plan piece={piece} result={result} />
          </Sheet>
        )}
      </Box>
      <Played piece={piece} />
      {behind && <Behind what={behind} query={daysOf(result)} onClose={() => setBehind(null)} />}
      {winner !== null && <Winner info={info} i={winner} onClose={() => setWinner(null)} />}
    </TwoColumns>
  )
}

/** Visits that somebody may look for here in vain. */
function Programs() {
  const alerts = useAlerts().data
  const at = useAddress()
  const left = alerts?.left_out.filter(l => l.why !== 'team').reduce((sum, l) => sum + l.events, 0) ?? 0
  const team = alerts?.left_out.filter(l => l.why === 'team').reduce((sum, l) => sum + l.events, 0) ?? 0
  if (!alerts || !(left || team)) return null
  return (
    <Typography variant="body2" color="textSecondary" sx={{ mb: '8px' }}>
      Not counted in any piece, in the last {alerts.days} days:{' '}
      {[left && `${counted(left, 'event')} of visits by programs`, team && `${counted(team, 'event')} of your team`].filter(Boolean).join(', ')}.{' '}
      <Link to={at('/results#left-out')}>See which</Link>
    </Typography>
  )
}

/** What to do, in one sentence, and what it rests on; with the button that does it. */
function Verdict({ result, info }: { result: SplitResult; info: PieceInfo }) {
  const site = useSite().id
  const doc = useDraft(s => s.doc)!
  const [busy, setBusy] = useState(false)
  const { report, variants } = result
  const best = report.verdict === 'better' || report.verdict === 'worse' ? variants.find(v => v.letter === report.leader) : undefined
  const at = doc.split.variants.findIndex(v => v.id === best?.id)
  const already = doc.split.variants.every((v, i) => (i === at ? v.share > 0 : v.share === 0))
  const launch = async () => {
    setBusy(true)
    await makeOnly(site, info, at, true).catch((e: Trouble) => toast(e.faults?.[0]?.message ?? e.message, true))
    setBusy(false)
  }
  return (
    <Sheet bitten sx={{ gridColumn: '1 / -1', display: 'flex', alignItems: 'center', gap: 3, pr: '44px' }} aria-label="Verdict">
      <Box data-verdict={report.verdict}>
        <Typography variant="h2" sx={{ fontSize: 21 }}>
          {report.head}
        </Typography>
        <Typography color="textSecondary">{report.why}</Typography>
        {result.ended && (
          <Typography variant="body2" color="textSecondary" sx={{ mt: '2px' }}>
            This test ended on {day(result.ended)}.
          </Typography>
        )}
      </Box>
      {doc.split.variants.length === 1 ? (
        <Button variant="contained" onClick={addVariant} sx={{ ml: 'auto', flex: 'none' }}>
          Add a variant
        </Button>
      ) : (
        best &&
        at >= 0 &&
        !already && (
          <Button variant="contained" onClick={launch} disabled={busy} sx={{ ml: 'auto', flex: 'none' }}>
            {info.state === 'live' ? `Launch ${letters[at]} for everyone` : `Make ${letters[at]} the only one`}
          </Button>
        )
      )}
    </Sheet>
  )
}

/** The days of what is compared, as the address of a question. */
function daysOf(result: SplitResult) {
  const from = result.began ? dayOf(result.began) : (result.over[0]?.day ?? today())
  return { from, to: result.ended ? dayOf(result.ended) : today() }
}

/** Over which time, and how it is counted. */
function spanOf(result: SplitResult) {
  const since = result.began ? `${day(result.began)} to ${result.ended ? day(result.ended) : 'now'} · ` : ''
  return `${since}each visitor counted once · ${Math.round(result.confidence * 100)} % bounds`
}

/** What counts as a conversion of the split: the piece's own, or a goal of the site. */
function Counts({ result }: { result: SplitResult }) {
  const goal = useDraft(s => s.doc?.split.goal ?? '')
  const at = useAddress()
  if (!result.goals.length)
    return (
      <Typography variant="body2" color="textSecondary" sx={{ mt: '12px' }}>
        What counts is the piece’s own conversion. Add goals, such as orders, in <a href={at('/settings')}>Site</a>.
      </Typography>
    )
  const others = result.variants.flatMap(v => v.others)
  return (
    <>
      <TextField
        select
        label="What counts"
        value={goal}
        onChange={e => change(d => void (d.split.goal = e.target.value || undefined))}
        helperText={goal === result.goal ? 'Chosen before the start, it decides.' : 'The results above are of what is live. Launch to have this decide.'}
        sx={{ mt: '14px' }}
        slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
      >
        <MenuItem value="">The piece’s own conversion</MenuItem>
        {result.goals.map(g => (
          <MenuItem key={g.id} value={g.id}>
            {g.name}
          </MenuItem>
        ))}
      </TextField>
      {others.length > 0 && (
        <Box component="table" sx={{ fontSize: 13, mt: '8px', width: '100%', '& td': { py: '2px' } }}>
          <tbody>
            {[...new Set(others.map(o => o.goal))].map(id => (
              <tr key={id}>
                <td>{result.goals.find(g => g.id === id)?.name ?? (id || 'Own conversion')}</td>
                {result.variants.map(v => {
                  const o = v.others.find(x => x.goal === id)
                  return (
                    <Box component="td" key={v.id} sx={{ textAlign: 'end', color: 'text.secondary' }}>
                      <b>{v.letter}</b> {o ? `${count(o.measure.conversions)} (${((o.measure.rate ?? 0) * 100).toFixed(1)} %)` : '0'}
                    </Box>
                  )
                })}
              </tr>
            ))}
          </tbody>
        </Box>
      )}
    </>
  )
}

/** Whether the numbers can be trusted: what could make them wrong, one by one. */
function Sound({ result }: { result: SplitResult }) {
  const { sound, report, plan } = result
  const p = report.split.p_value
  return (
    <>
      <Check good={report.verdict !== 'broken_split'}>
        {p === null
          ? 'The split cannot be checked yet'
          : report.verdict === 'broken_split'
            ? 'Visitors are not split as asked'
            : `Visitors are split as asked (p = ${p < 0.01 ? p.toFixed(3) : p.toFixed(2)})`}
      </Check>
      <Check good={sound.saw_several === 0}>
        {sound.saw_several === 0
          ? 'No visitor saw two variants'
          : `${counted(sound.saw_several, 'visitor')} saw two variants, and count for the first they saw`}
      </Check>
      <Check good={!sound.changed.length}>
        {sound.changed.length && sound.changed_at
          ? `${sound.changed.join(' and ')} looked different before ${day(sound.changed_at)}: the rates mix both designs`
          : 'No design changed while it ran'}
      </Check>
      <Check good={sound.full_weeks > 0}>
        {sound.full_weeks > 0
          ? `Ran over ${counted(sound.full_weeks, 'full week')}`
          : `Ran ${result.days < 1 ? 'less than a day' : counted(Math.floor(result.days), 'day')}; run a full week to cover every weekday`}
      </Check>
      {plan && plan.size > 0 && (
        <Check good={plan.have >= plan.size}>
          {plan.have >= plan.size ? 'The planned number of visitors is reached' : `${count(plan.size - plan.have)} visitors per variant short of the plan`}
        </Check>
      )}
      <Check good>
        {sound.left_out ? `${counted(sound.left_out, 'event')} of robots and your team left out in 28 days` : 'Robots and your team are left out'}
      </Check>
    </>
  )
}

const Check = ({ good, children }: { good: boolean; children: React.ReactNode }) => (
  <Typography sx={{ fontSize: 13.5, py: '3px' }}>
    <Box component="b" sx={{ color: good ? moss.main : apricot.ink }}>
      {good ? '✓' : '◔'}
    </Box>{' '}
    {children}
  </Typography>
)

/** The chart as a table: a row a day, rates and safe bounds of each variant and each difference. */
function download(result: SplitResult) {
  const { variants, over } = result
  const base = variants[0].letter
  const head = [
    'day',
    ...variants.flatMap(v => [`${v.letter} visitors`, `${v.letter} rate`, `${v.letter} low`, `${v.letter} high`]),
    ...variants.slice(1).flatMap(v => [`${v.letter} minus ${base}`, `${v.letter} minus ${base} low`, `${v.letter} minus ${base} high`]),
  ]
  const rows = over.map(o => [
    o.day,
    ...o.rates.flatMap(r => [r.visitors, r.rate, ...r.interval]),
    ...o.differences.flatMap(d => [d.difference, ...d.interval]),
  ])
  saveCSV('rate-over-time.csv', [head, ...rows])
}
