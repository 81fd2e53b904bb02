import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import Skeleton from '@mui/material/Skeleton'
import Typography from '@mui/material/Typography'
import { type ReactNode, Suspense, useState } from 'react'
import { DateField } from '../parts/forms/DateTimeField'
import { later } from '../parts/look/later'
import { apricot, brick, ink, plum } from '../parts/look/theme'
import { PickElement } from '../parts/pages/PickElement'
import { count, counted } from '../parts/words/say'
import { useCalled, useMatches, usePage, usePieceNames } from '../server/queries'
import { useBuilder } from './builder'
import { curveOf, hint } from './curve'
import { FactPicker } from './FactPicker'
import type { Clause, Fact, Op, Rule } from './kinds'
import { LineRow } from './LineRow'
import { type Compared, comparedAs, comparedWords, declared, opsOf, pathOf, valueFor } from './rules'
import { NumberToken, RecordedToken, TextToken, TimeToken, ValuesToken, WordSelect } from './tokens'

// It brings the charts, which nothing else here needs.
const Distribution = later(async () => (await import('./Distribution')).default)

interface Props {
  clause: Clause
  /** It stands in a “not”. */
  negated: boolean
  at: string
  lead: ReactNode
  tail: ReactNode
  /** Puts another condition here; negated as it was, where that is left out. */
  onChange(rule: Rule, negated?: boolean): void
}

/** One condition as part of a sentence; each underlined word can be changed. */
export function ClauseLine({ clause, negated, at, lead, tail, onChange }: Props) {
  const b = useBuilder()
  const [picking, setPicking] = useState<HTMLElement | null>(null)
  const [looking, setLooking] = useState(false)
  const fact = declared(b.book.facts, clause.fact)
  const pieces = usePieceNames().data
  const faults = b.faults.filter(f => f.at === at || f.at.startsWith(at + '.'))
  const curve = fact?.kind === 'counted' ? curveOf(fact.name, b.stays) : null
  const value = Number(clause.value) || 0
  const called = useCalled()
  const known = fact?.name === 'data.' ? called(clause.fact.slice(fact.name.length)) : undefined
  const named = fact && !known && ['page.query.', 'data.', 'cookie.'].includes(fact.name)
  return (
    <Box>
      <LineRow tail={tail}>
        {lead}
        <ButtonBase
          onClick={e => setPicking(e.currentTarget)}
          sx={{
            borderBottom: `1.5px solid ${faults.some(f => f.at.endsWith('.fact')) ? brick.main : plum.main}`,
            fontWeight: 600,
            fontSize: 14,
            p: '1px',
            whiteSpace: 'nowrap',
            '&:hover': { color: plum.main },
          }}
        >
          {fact ? (known ?? says(fact, clause, pieces)) : clause.fact}
        </ButtonBase>
        {named && (
          <TextToken
            label={`Name of the ${fact.name === 'data.' ? 'data' : fact.name === 'cookie.' ? 'cookie' : 'parameter'}`}
            value={clause.fact.slice(fact.name.length)}
            onChange={name => name && onChange({ ...clause, fact: fact.name + name })}
          />
        )}
        {fact && <Rest clause={clause} negated={negated} fact={fact} wrong={faults.some(f => /\.(value|op)/.test(f.at))} onChange={onChange} />}
        {curve && (
          <ButtonBase
            onClick={() => setLooking(!looking)}
            aria-expanded={looking}
            sx={{
              color: ink[2],
              fontSize: 12.5,
              borderRadius: '4px',
              px: '3px',
              minHeight: 24,
              '&:hover': { color: plum.main, textDecoration: 'underline' },
            }}
          >
            {hint(fact!.name, value, curve)}
          </ButtonBase>
        )}
        {fact?.name === 'moment.exit_intent' && b.stays && b.stays.page_views > 0 && (
          <Box component="span" sx={{ color: ink[2], fontSize: 12.5 }}>
            {Math.round(b.stays.left * 10)} in 10 do
          </Box>
        )}
      </LineRow>
      {faults.map(f => (
        <Typography key={f.at + f.message} variant="body2" role="alert" sx={{ pl: '14px', pb: '4px', color: brick.main, fontWeight: 600 }}>
          {f.message}
        </Typography>
      ))}
      {b.unrecorded.has(at) && fact && (
        <Typography variant="body2" sx={{ pl: '14px', pb: '4px', color: apricot.ink }}>
          {fact.group === 'moment'
            ? 'The visit log does not keep this, so it counts as never here.'
            : 'The visit log does not keep this, because it may be personal; it counts as not known here.'}
        </Typography>
      )}
      {b.unseen.has(at) && (
        <Typography variant="body2" sx={{ pl: '14px', pb: '4px', color: apricot.ink }}>
          No recorded visit has this, so it counts as never. Clicks and views are recorded for elements with an id, and for those a live piece waits for.
        </Typography>
      )}
      {curve && looking && (
        <Suspense fallback={<Skeleton variant="rounded" height={98} sx={{ maxWidth: 480, ml: '8px' }} />}>
          <Distribution curve={curve} value={value} label={fact!.says} onChange={v => onChange({ ...clause, value: v })} />
        </Suspense>
      )}
      {fact && elements.includes(fact.name) && !!clause.value && !faults.length && <Elements selector={String(clause.value)} path={pathOf(b.rule)} />}
      {fact?.recorded && fact.kind === 'text' && (clause.op === 'matches' || clause.op === 'like') && !faults.length && <Matches clause={clause} fact={fact} />}
      <FactPicker anchor={picking} onClose={() => setPicking(null)} onPick={onChange} />
    </Box>
  )
}

/** Facts about an element of the page. */
const elements = ['moment.click', 'moment.seen']

/** What a selector finds on a page of the rule, as it is there now. */
function Elements({ selector, path }: { selector: string; path: string }) {
  const page = usePage(path, true)
  if (!page.data) return null
  let found = -1
  try {
    found = page.data.doc.querySelectorAll(selector).length
  } catch {}
  const wrong = found < 1
  return (
    <Typography
      variant="body2"
      role={wrong ? 'alert' : undefined}
      sx={{ pl: '14px', pb: '4px', color: wrong ? brick.main : ink[2], fontWeight: wrong ? 600 : 450 }}
    >
      {found < 0
        ? 'This is not a CSS selector, like #buy or .card a. Pick the element on the page.'
        : found === 0
          ? `No element of ${path} matches it. Pick the element on the page, or check another page.`
          : `Matches ${counted(found, 'element')} of ${path}.`}
    </Typography>
  )
}

/** What a pattern matches among recorded values, as it is typed. */
function Matches({ clause, fact }: { clause: Clause; fact: Fact }) {
  const { data } = useMatches(clause.value ? { fact: clause.fact, op: clause.op, value: clause.value } : null)
  const [all, setAll] = useState(false)
  if (!data) return null
  const what = fact.name === 'page.path' ? 'page' : 'value'
  const shown = all ? data.values : data.values.slice(0, 4)
  return (
    <Box sx={{ pl: '14px', pb: '6px', fontSize: 12.5, color: ink[2] }} aria-live="polite" data-matches={data.matched}>
      {data.matched === 0 ? (
        <>Matches none of the recorded {what}s.</>
      ) : (
        <>
          Matches {counted(data.matched, `recorded ${what}`)}, {counted(data.views, 'page view')}:
          <Box component="ul" sx={{ m: '2px 0 0', p: 0, listStyle: 'none', columns: all ? 2 : 1 }}>
            {shown.map(v => (
              <li key={String(v.value)}>
                <b>{String(v.value)}</b> {v.label} · {count(v.views)}
              </li>
            ))}
          </Box>
          {data.values.length > 4 && (
            <ButtonBase onClick={() => setAll(!all)} sx={{ color: plum.main, fontWeight: 600, fontSize: 12.5 }}>
              {all ? 'fewer' : `all ${data.values.length}`}
            </ButtonBase>
          )}
        </>
      )}
    </Box>
  )
}

function says(fact: Fact, clause: Clause, pieces?: { id: string; name: string }[]): string {
  if (fact.kind === 'flag') return clause.op === 'is' && clause.value === false ? fact.says_not! : fact.says
  if (fact.kind === 'happening') {
    if (!fact.says.includes('{}')) return fact.says
    return fact.says.startsWith('{}') ? 'element' : fact.says.replace(' {}', '').replace(' is sent', '')
  }
  if (fact.name.startsWith('history.')) {
    const id = clause.fact.slice(fact.name.length)
    return fact.says.replace('{}', `“${pieces?.find(p => p.id === id)?.name ?? id}”`)
  }
  if (fact.name === 'data.') return 'site data'
  return fact.name.endsWith('.') ? fact.says.replace(' {}', '') : fact.says
}

const numeric: Op[] = ['eq', 'ne', 'lt', 'lte', 'gt', 'gte', 'between']

/** What follows the fact: how it is compared, and with what. */
function Rest({ clause, negated, fact, wrong, onChange }: Omit<Props, 'at' | 'lead' | 'tail'> & { fact: Fact; wrong: boolean }) {
  const { book, rule } = useBuilder()
  const [picking, setPicking] = useState(false)
  const set = (value: unknown) => onChange({ ...clause, value })
  if (fact.kind === 'flag')
    return (
      <ButtonBase
        onClick={() => set(clause.value === false)}
        sx={{ color: ink[2], fontSize: 12.5, '&:hover': { color: plum.main, textDecoration: 'underline' } }}
      >
        Negate
      </ButtonBase>
    )
  if (fact.kind === 'counted')
    return (
      <>
        <span>reaches</span>
        <NumberToken label={fact.says} value={clause.value} unit={fact.unit} wrong={wrong} onChange={set} />
      </>
    )
  if (fact.kind === 'happening') {
    if (!fact.says.includes('{}')) return null
    const [before, after] = fact.says.split('{}')
    return (
      <>
        <RecordedToken
          label={`What ${fact.says.replace('{}', '…')}`}
          value={String(clause.value ?? '')}
          fact={fact.name}
          wrong={wrong}
          onChange={text => onChange({ fact: clause.fact, op: 'happened', ...(text && { value: String(text) }) })}
        />
        {elements.includes(fact.name) && (
          <>
            <ButtonBase
              onClick={() => setPicking(true)}
              sx={{ color: plum.main, fontWeight: 600, fontSize: 13, borderRadius: '4px', px: '2px', '&:hover': { textDecoration: 'underline' } }}
            >
              Pick on the page…
            </ButtonBase>
            {picking && (
              <PickElement
                path={pathOf(rule)}
                onPick={selector => onChange({ fact: clause.fact, op: 'happened', value: selector })}
                onClose={() => setPicking(false)}
              />
            )}
          </>
        )}
        {before ? '' : after}
      </>
    )
  }
  // A “not” that the comparison says itself comes and goes with it; any other stays.
  const was = comparedAs(clause.op, negated)
  const change = (as: Compared) => {
    const not = as.startsWith('not ')
    const op = (not ? as.slice(4) : as) as Op
    const value = valueFor(op, clause.value, fact)
    onChange(value === undefined ? { fact: clause.fact, op } : { fact: clause.fact, op, value }, not || (negated && was === clause.op))
  }
  // Some facts compare texts and numbers; each with its own words.
  const words = (as: Compared) => comparedWords(as) + (fact.kind === 'any' && numeric.includes(as.replace('not ', '') as Op) ? ' (number)' : '')
  return (
    <>
      <WordSelect plain label="Comparison" value={was} options={opsOf(book.ops, fact).map(as => [as, words(as)])} onChange={as => change(as as Compared)} />
      <Value clause={clause} fact={fact} wrong={wrong} onChange={onChange} />
    </>
  )
}

function Value({ clause, fact, wrong, onChange }: { clause: Clause; fact: Fact; wrong: boolean; onChange(rule: Rule): void }) {
  const { op, value } = clause
  const set = (next: unknown) => onChange({ ...clause, value: next })
  if (op === 'present' || op === 'absent') return null
  const number = (n: unknown, set: (n: number) => void, label: string) =>
    fact.name === 'clock.time' ? (
      <TimeToken label={label} value={n} wrong={wrong} onChange={set} />
    ) : (
      <NumberToken
        label={label}
        value={n}
        unit={fact.unit}
        wrong={wrong}
        onChange={(n, as) => (as && op !== 'between' ? onChange({ ...clause, op: as, value: n }) : set(n))}
      />
    )
  if (fact.name === 'clock.date' && (op === 'is' || op === 'is_not')) return <DateField bare label={fact.says} value={String(value ?? '')} onChange={set} />
  if (op === 'between') {
    const [low, high] = Array.isArray(value) ? value : [0, 1]
    return (
      <>
        {number(low, n => set([n, high]), `${fact.says}, from`)}
        <span>and</span>
        {number(high, n => set([low, n]), `${fact.says}, to`)}
      </>
    )
  }
  if (op === 'in' || op === 'not_in')
    return (
      <ValuesToken
        label={fact.says}
        values={Array.isArray(value) ? value.map(String) : []}
        fact={clause.fact}
        set={fact.values}
        names={fact.names}
        wrong={wrong}
        onChange={set}
      />
    )
  if (fact.kind === 'number' || numeric.includes(op)) return number(value, set, fact.says)
  if (op === 'matches') return <TextToken label={fact.says} value={String(value ?? '')} wrong={wrong} onChange={set} mono />
  const label = fact.says === '{}' ? 'Value' : fact.says
  const short = fact.values && fact.values.length <= 20 && (op === 'is' || op === 'is_not')
  return (
    <>
      {short ? (
        <WordSelect label={label} value={String(value)} wrong={wrong} options={fact.values!.map(v => [v, fact.names?.[v] ?? v])} onChange={set} />
      ) : (
        <RecordedToken
          label={label}
          value={(value as string | boolean) ?? ''}
          fact={clause.fact}
          set={op === 'is' || op === 'is_not' ? fact.values : undefined}
          wrong={wrong}
          onChange={v => (typeof v === 'number' && fact.kind === 'any' ? onChange({ fact: clause.fact, op: 'eq', value: v }) : set(v))}
        />
      )}
      {typeof value !== 'boolean' && (
        <ButtonBase
          aria-label="Or another value"
          onClick={() => {
            if (op === 'is' || op === 'is_not') onChange({ ...clause, op: op === 'is' ? 'in' : 'not_in', value: [value].filter(Boolean) })
            else if (op === 'contains_not') onChange({ all: [clause, { ...clause, value: '' }] })
            else onChange({ any: [clause, { ...clause, value: '' }] })
          }}
          sx={{
            color: ink[2],
            fontStyle: 'italic',
            fontSize: 13,
            borderRadius: '4px',
            px: '2px',
            '&:hover': { color: plum.main, textDecoration: 'underline' },
          }}
        >
          {op === 'is_not' || op === 'contains_not' ? 'nor…' : 'or…'}
        </ButtonBase>
      )}
    </>
  )
}
