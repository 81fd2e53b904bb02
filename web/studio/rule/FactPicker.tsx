import Box from '@mui/material/Box'
import InputBase from '@mui/material/InputBase'
import List from '@mui/material/List'
import ListItemButton from '@mui/material/ListItemButton'
import ListSubheader from '@mui/material/ListSubheader'
import Popover from '@mui/material/Popover'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import { ink, paper } from '../parts/look/theme'
import { found } from '../parts/words/find'
import { useCalled, usePieceNames, useValues } from '../server/queries'
import { useBuilder } from './builder'
import type { Fact, Rule } from './kinds'
import { begin, comparedAs, comparedWords } from './rules'
import { typed } from './typed'

const groups: Record<string, string> = {
  typed: 'What you typed',
  saved: 'Saved reaches',
  page: 'The page',
  source: 'Where they came from',
  device: 'Their device',
  place: 'Where they are',
  clock: 'The clock',
  visitor: 'The visitor',
  history: 'What they saw before',
  'site data': "The site's own data",
  moment: 'While the page is open',
}

interface Offer {
  group: string
  key: string
  says: string
  rule: Rule
}

interface Props {
  anchor: HTMLElement | null
  onPick(rule: Rule): void
  onClose(): void
}

/** Everything a condition may ask about, with search; or a condition typed as a sentence. */
export function FactPicker({ anchor, onPick, onClose }: Props) {
  const { book, reaches } = useBuilder()
  const [search, setSearch] = useState('')
  const [on, setOn] = useState(0)
  const pieces = usePieceNames().data ?? []
  const called = useCalled()
  const data = useValues('data.', '').data?.values ?? []
  const twice = (name: string) => pieces.filter(p => p.name === name).length > 1
  const sentence = typed(search, book.facts, book.ops)
  const of = (f: Fact): Offer[] => {
    const one = (name: string, says: string, kind?: string): Offer => ({ group: f.group, key: name, says, rule: begin(f, name, kind) })
    // A family is offered by its members where they are known.
    if (f.name.startsWith('history.'))
      return pieces.map(p => one(f.name + p.id, f.says.replace('{}', `“${p.name}”${twice(p.name) ? ` (${p.state}, ${p.id.slice(0, 4)})` : ''}`)))
    if (f.name === 'page.query.') return [one('page.query.ref', 'address parameter …')]
    if (f.name === 'cookie.') return [one('cookie.name', 'cookie …')]
    if (f.name === 'data.')
      return [
        ...data.map(d => one(f.name + d.value, called(String(d.value)) ?? String(d.value), d.label)),
        one('data.name', 'another name from the site’s data layer …'),
      ]
    // What is so or not is offered both ways: people look for either.
    if (f.kind === 'flag' && f.says_not)
      return [one(f.name, f.says), { ...one(`${f.name} not`, f.says_not), rule: { fact: f.name, op: 'is', value: false } as Rule }]
    return [one(f.name, saysOf(f))]
  }
  const offers = [
    ...(sentence ? [{ group: 'typed', key: 'typed', says: sentenceOf(sentence, book.facts), rule: sentence }] : []),
    ...found(
      [...reaches.map(r => ({ group: 'saved', key: r.id, says: r.name, rule: { saved: r.id } as Rule })), ...book.facts.flatMap(of)],
      search,
      o => `${o.says} ${o.key.replaceAll(/[._]/g, ' ')} ${o.key} ${groups[o.group]}`,
    ),
  ]
  const close = () => {
    setSearch('')
    setOn(0)
    onClose()
  }
  const pick = (o: Offer) => {
    onPick(o.rule)
    close()
  }
  return (
    <Popover
      open={!!anchor}
      anchorEl={anchor}
      onClose={close}
      anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
      slotProps={{ paper: { sx: { width: 360, maxHeight: 430, display: 'flex', flexDirection: 'column' } } }}
    >
      <InputBase
        autoFocus
        value={search}
        placeholder="Search, or type: scroll at least 50"
        onChange={e => {
          setSearch(e.target.value)
          setOn(0)
        }}
        onKeyDown={e => {
          if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
            e.preventDefault()
            const next = Math.max(0, Math.min(offers.length - 1, on + (e.key === 'ArrowDown' ? 1 : -1)))
            setOn(next)
            document.getElementById(`offer-${next}`)?.scrollIntoView({ block: 'nearest' })
          }
          if (e.key !== 'Enter' || !offers[on]) return
          e.preventDefault() // or the press would go on to the button that has focus next
          pick(offers[on])
        }}
        inputProps={{
          'aria-label': 'Find a condition',
          role: 'combobox',
          'aria-expanded': true,
          'aria-controls': 'offers',
          'aria-activedescendant': `offer-${on}`,
        }}
        sx={{ px: 2, py: 1, borderBottom: `1px solid ${paper.line}`, fontSize: 14 }}
      />
      <Box sx={{ overflowY: 'auto' }} id="offers" role="listbox" aria-label="Conditions">
        {Object.entries(groups).map(([group, name]) => {
          const here = offers.filter(o => o.group === group)
          if (!here.length) return null
          return (
            <List
              key={group}
              dense
              disablePadding
              role="group"
              aria-label={name}
              subheader={
                <ListSubheader role="presentation" sx={{ lineHeight: '30px', fontSize: 12.5, color: ink[2], background: paper.sheet }}>
                  {name}
                </ListSubheader>
              }
            >
              {here.map(o => (
                <ListItemButton
                  key={o.key}
                  id={`offer-${offers.indexOf(o)}`}
                  role="option"
                  aria-selected={offers[on] === o}
                  selected={offers[on] === o && !!search.trim()}
                  onClick={() => pick(o)}
                  sx={{ fontSize: 13.5, py: '4px' }}
                >
                  {o.says}
                </ListItemButton>
              ))}
            </List>
          )
        })}
        {!offers.length && <Typography sx={{ p: 2, color: ink[2] }}>No condition found. Try another word, or type a whole one: visits at least 3.</Typography>}
      </Box>
    </Popover>
  )
}

/** How a fact is listed. */
function saysOf(fact: Fact): string {
  const says = fact.says.replace('{} ', fact.kind === 'happening' ? 'something ' : '').replace('{}', '…')
  return fact.kind === 'counted' ? `${says} reaches … ${fact.unit}` : says
}

function sentenceOf(rule: Rule, facts: Fact[]): string {
  const negated = 'not' in rule
  const c = negated ? rule.not : rule
  if (!('fact' in c)) return ''
  const f = facts.find(f => f.name === c.fact)!
  if (f.kind === 'flag' || f.kind === 'happening') return f.says
  const said = (v: unknown) => f.names?.[String(v)] ?? (f.unit === 'hh:mm' && typeof v === 'number' ? clockSaid(v) : String(v ?? ''))
  const value = Array.isArray(c.value) ? c.value.map(said).join(c.op === 'between' ? ' and ' : ', ') : said(c.value)
  return `${f.says} ${f.kind === 'counted' ? 'reaches' : comparedWords(comparedAs(c.op, negated))} ${value} ${f.unit === 'hh:mm' ? '' : (f.unit ?? '')}`.trim()
}

/** A time of day as clocks show it. */
const clockSaid = (minutes: number) => `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`
