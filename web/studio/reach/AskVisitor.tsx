import Box from '@mui/material/Box'
import type { ReactNode } from 'react'
import type { FactBook } from '../../kinds/studio'
import { DateTimeField } from '../parts/forms/DateTimeField'
import { ink, paper } from '../parts/look/theme'
import { shiftDay, today, weekday } from '../parts/words/time'
import type { Rule } from '../rule/kinds'
import { declared, isClause, isGroup, partsOf } from '../rule/rules'
import { RecordedToken, WordSelect } from '../rule/tokens'
import { useCalled } from '../server/queries'

/** A made-up visitor, as the form has them. */
export interface MadeUp {
  page: string
  device: string
  channel: string
  visits: number
  country: string
  /** On the site's wall clock; empty is now. */
  when: string
  /** How many days ago they saw the piece; empty is never. */
  saw: string
  did: 'closed' | 'left' | 'converted'
  /** Whatever else the rule asks about. */
  extra: Record<string, string | number | boolean>
}

export const madeUp = (page: string): MadeUp => ({
  page,
  device: 'desktop',
  channel: 'direct',
  visits: 1,
  country: '',
  when: '',
  saw: '',
  did: 'closed',
  extra: {},
})

const asked = ['page.path', 'page.url', 'device.kind', 'device.width', 'source.channel', 'place.country', 'visitor.visits', 'visitor.new', 'visitor.pages']
const never = ['clock.', 'moment.', 'history.', 'page.query.']

/** The facts that a rule asks about, beside those every visitor is asked for. */
function extras(rule: Rule): string[] {
  if (isGroup(rule)) return [...new Set(partsOf(rule).flatMap(extras))]
  if ('not' in rule) return extras(rule.not)
  if (!isClause(rule) || asked.includes(rule.fact) || never.some(n => rule.fact.startsWith(n))) return []
  return [rule.fact]
}

/** What the core is told of a made-up visitor. */
export function factsOf(v: MadeUp, origin: string, rule: Rule): Record<string, unknown> {
  const [path, query = ''] = v.page.split('?')
  const facts: Record<string, unknown> = {
    'page.path': path,
    'page.url': origin + v.page,
    'device.kind': v.device,
    'device.width': { desktop: 1280, tablet: 820, phone: 390 }[v.device],
    'device.language': 'en',
    'source.channel': v.channel,
    'visitor.visits': v.visits,
    'visitor.new': v.visits === 1,
    'visitor.pages': v.visits * 3 - 2,
    'visitor.pages_this_visit': 1,
    'visitor.landing_path': path,
    'visitor.lead': false,
    ...(v.visits > 1 && { 'visitor.days_since_last': 3 }),
    ...(v.country && { 'place.country': v.country }),
  }
  for (const [name, value] of new URLSearchParams(query)) {
    facts['page.query.' + name] = value
    if (/^utm_(source|medium|campaign|term|content)$/.test(name)) facts['source.' + name] = value
  }
  for (const name of extras(rule)) if (v.extra[name] !== undefined && v.extra[name] !== '') facts[name] = v.extra[name]
  return facts
}

const whens: [string, string][] = [
  ['', 'now'],
  ['mon 10:00', 'Monday, 10:00'],
  ['wed 14:30', 'Wednesday, 14:30'],
  ['tue 20:15', 'Tuesday, 20:15'],
  ['sat 11:00', 'Saturday, 11:00'],
  ['sun 21:00', 'Sunday, 21:00'],
  ['date', 'a day of your choice'],
]

/** The next such time, on the site's wall clock as the server reads it; empty is now. */
export function nextTime(when: string): string {
  const [day, hour] = when.split(' ')
  if (!hour) return when === 'date' ? '' : when
  let at = today()
  while (['sun', 'mon', 'tue', 'wed', 'thu', 'fri', 'sat'][weekday(at)] !== day) at = shiftDay(at, 1)
  return `${at}T${hour}`
}

const agos: [string, string][] = [
  ['', 'never'],
  ['0', 'just now'],
  ['1', 'a day ago'],
  ['3', '3 days ago'],
  ['9', '9 days ago'],
  ['40', '40 days ago'],
]

/** Asks who the visitor is: a few things always, and whatever the rule asks about. */
export function AskVisitor({ visitor: v, rule, book, onChange }: { visitor: MadeUp; rule: Rule; book: FactBook; onChange(next: MadeUp): void }) {
  const called = useCalled()
  const put = (change: Partial<MadeUp>) => onChange({ ...v, ...change })
  const values = (name: string) => (book.facts.find(f => f.name === name)?.values ?? []).map(x => [x, x] as const)
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) minmax(0, 1fr)', gap: '6px 14px', my: '10px' }}>
      <Ask label="Page" wide>
        <Bare label="Page" value={v.page} onChange={page => put({ page })} onBlur={() => put({ page: '/' + v.page.trim().replace(/^\/+/, '') })} />
      </Ask>
      <Ask label="Device">
        <WordSelect plain size={13} label="Their device" value={v.device} options={values('device.kind')} onChange={device => put({ device })} />
      </Ask>
      <Ask label="From">
        <WordSelect plain size={13} label="Where they come from" value={v.channel} options={values('source.channel')} onChange={channel => put({ channel })} />
      </Ask>
      <Ask label="Visit">
        <WordSelect
          plain
          size={13}
          label="Which visit it is"
          value={String(v.visits)}
          options={[
            ['1', 'first'],
            ['2', '2nd'],
            ['3', '3rd'],
            ['5', '5th'],
            ['10', '10th'],
          ]}
          onChange={n => put({ visits: Number(n) })}
        />
      </Ask>
      <Ask label="Country">
        <Plainly>
          <RecordedToken
            label="Their country"
            empty="not known"
            value={v.country}
            fact="place.country"
            set={book.facts.find(f => f.name === 'place.country')?.values}
            onChange={country => put({ country: String(country) })}
          />
        </Plainly>
      </Ask>
      <Ask label="When" wide={v.when === 'date' || v.when.includes('T')}>
        <WordSelect
          plain
          size={13}
          label="When they come"
          value={whens.some(([w]) => w === v.when) ? v.when : 'date'}
          options={whens}
          onChange={when => put({ when })}
        />
        {(v.when === 'date' || v.when.includes('T')) && (
          <DateTimeField bare label="Day and time" value={v.when === 'date' ? '' : v.when} onChange={when => put({ when })} />
        )}
      </Ask>
      <Ask label="Last seen">
        <WordSelect plain size={13} label="Last seen" value={v.saw} options={agos} onChange={saw => put({ saw })} />
      </Ask>
      {v.saw !== '' && (
        <Ask label="and then">
          <WordSelect
            plain
            size={13}
            label="What they did then"
            value={v.did}
            options={[
              ['closed', 'closed it'],
              ['left', 'left the page'],
              ['converted', 'converted'],
            ]}
            onChange={did => put({ did: did as MadeUp['did'] })}
          />
        </Ask>
      )}
      {extras(rule).map(name => {
        const fact = declared(book.facts, name)
        const set = (value: string | number | boolean) => put({ extra: { ...v.extra, [name]: value } })
        const label = name.startsWith('data.') ? (called(name.slice(5)) ?? name.slice(5)) : (fact?.says ?? name)
        const value = v.extra[name] ?? ''
        return (
          <Ask key={name} label={label} wide>
            {flag(rule, name) || fact?.kind === 'flag' ? (
              <WordSelect
                plain
                size={13}
                label={label}
                value={value === '' ? '' : value ? 'yes' : 'no'}
                options={[
                  ['', 'not known'],
                  ['yes', 'yes'],
                  ['no', 'no'],
                ]}
                onChange={x => set(x === '' ? '' : x === 'yes')}
              />
            ) : (
              <Plainly>
                <RecordedToken
                  empty={name.startsWith('page.') ? 'as recorded' : 'not known'}
                  label={label}
                  value={value}
                  fact={name}
                  onChange={x => set(typeof x === 'string' && x.trim() !== '' && numeric(rule, name) ? Number(x) || x : x)}
                />
              </Plainly>
            )}
          </Ask>
        )
      })}
    </Box>
  )
}

/** Whether the rule compares a fact as yes or no, or as a number. */
const some = (rule: Rule, name: string, of: (value: unknown, op: string) => boolean): boolean =>
  isGroup(rule)
    ? partsOf(rule).some(p => some(p, name, of))
    : 'not' in rule
      ? some(rule.not, name, of)
      : isClause(rule) && rule.fact === name && of(rule.value, rule.op)
const flag = (rule: Rule, name: string) => some(rule, name, value => typeof value === 'boolean')
const numeric = (rule: Rule, name: string) => some(rule, name, (_, op) => ['eq', 'ne', 'lt', 'lte', 'gt', 'gte', 'between'].includes(op))

function Ask({ label, wide, children }: { label: string; wide?: boolean; children: ReactNode }) {
  return (
    <Box
      sx={{
        gridColumn: wide ? '1 / -1' : undefined,
        borderBottom: `1px solid ${paper.line}`,
        pb: '3px',
        fontSize: 13,
        minWidth: 0,
        display: 'flex',
        justifyContent: 'space-between',
        alignItems: 'baseline',
        gap: 1,
        '& .MuiSelect-select': { fontWeight: 600 },
        '&:focus-within': { borderColor: 'primary.main' },
      }}
    >
      <Box component="span" sx={{ color: ink[2], flex: 'none', maxWidth: '60%', overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
        {label}
      </Box>
      {children}
    </Box>
  )
}

/** A token without its look of a value. */
const Plainly = ({ children }: { children: ReactNode }) => (
  <Box
    sx={{
      minWidth: 0,
      '& input': {
        background: 'none !important',
        border: '0 !important',
        p: '0 !important',
        textAlign: 'end',
        fontSize: '13px !important',
        maxWidth: '100%',
        width: '84px !important',
      },
    }}
  >
    {children}
  </Box>
)

function Bare({ label, value, onChange, onBlur }: { label: string; value: string; onChange(v: string): void; onBlur?(): void }) {
  return (
    <Box
      component="input"
      aria-label={label}
      value={value}
      onChange={e => onChange(e.target.value)}
      onBlur={onBlur}
      maxLength={2000}
      sx={{ font: 'inherit', fontWeight: 600, border: 0, outline: 0, background: 'none', textAlign: 'end', minWidth: 0, flex: 1, color: ink[1] }}
    />
  )
}
