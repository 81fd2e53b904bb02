import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import MenuItem from '@mui/material/MenuItem'
import Select from '@mui/material/Select'
import Typography from '@mui/material/Typography'
import { type ReactNode, useState } from 'react'
import type { Fault } from '../../kinds/fault'
import type { FactBook } from '../../kinds/studio'
import { useBoard } from '../queries'
import { brick, ink, plum } from '../theme'
import { FactPicker } from './FactPicker'
import type { Clause, Fact, Op } from './kinds'
import { begin, declared, opsOf, opWords, valueFor } from './rules'
import { NumberToken, TextToken, TimeToken, ValuesToken } from './tokens'

interface Props {
  clause: Clause
  book: FactBook
  faults: Fault[]
  lead: ReactNode
  more: ReactNode
  onChange(clause: Clause): void
}

/** One condition as part of a sentence; each underlined word can be changed. */
export function ClauseLine({ clause, book, faults, lead, more, onChange }: Props) {
  const [picking, setPicking] = useState<HTMLElement | null>(null)
  const fact = declared(book.facts, clause.fact)
  const pieces = useBoard().data?.cards
  return (
    <Box>
      <Box sx={{ display: 'flex', alignItems: 'center', minHeight: 38, gap: '7px', pl: '14px', flexWrap: 'wrap' }}>
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
          {fact ? says(fact, clause, pieces) : clause.fact}
        </ButtonBase>
        {fact?.name === 'page.query.' && (
          <TextToken
            label="Name of the parameter"
            value={clause.fact.slice(fact.name.length)}
            onChange={name => name && onChange({ ...clause, fact: fact.name + name })}
          />
        )}
        {fact && <Rest clause={clause} fact={fact} book={book} wrong={faults.some(f => /\.value/.test(f.at))} onChange={onChange} />}
        {more}
      </Box>
      {faults.map(f => (
        <Typography key={f.at + f.message} variant="body2" role="alert" sx={{ pl: '14px', pb: '4px', color: brick.main, fontWeight: 600 }}>
          {f.message}
        </Typography>
      ))}
      <FactPicker anchor={picking} facts={book.facts} onClose={() => setPicking(null)} onPick={(f, name) => onChange(begin(f, name))} />
    </Box>
  )
}

function says(fact: Fact, clause: Clause, pieces?: { id: string; name: string }[]): string {
  if (fact.kind === 'flag') return clause.op === 'is' && clause.value === false ? fact.says_not! : fact.says
  if (fact.kind === 'happening') {
    if (!fact.says.includes('{}')) return fact.says
    return fact.says.startsWith('{}') ? 'element' : fact.says.replace(' {}', '').replace(' comes', '')
  }
  if (fact.name.startsWith('history.')) {
    const id = clause.fact.slice(fact.name.length)
    return fact.says.replace('{}', `“${pieces?.find(p => p.id === id)?.name ?? id}”`)
  }
  return fact.name.endsWith('.') ? fact.says.replace(' {}', '') : fact.says
}

/** What follows the fact: how it is compared, and with what. */
function Rest({ clause, fact, book, wrong, onChange }: { clause: Clause; fact: Fact; book: FactBook; wrong: boolean; onChange(clause: Clause): void }) {
  const set = (value: unknown) => onChange({ ...clause, value })
  if (fact.kind === 'flag')
    return (
      <ButtonBase
        onClick={() => set(clause.value === false)}
        sx={{ color: ink[2], fontSize: 12.5, '&:hover': { color: plum.main, textDecoration: 'underline' } }}
      >
        or turn it round
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
        <TextToken
          label={`What ${fact.says.replace('{}', '…')}`}
          value={String(clause.value ?? '')}
          wrong={wrong}
          onChange={text => onChange({ fact: clause.fact, op: 'happened', ...(text && { value: text }) })}
        />
        {before ? '' : after}
      </>
    )
  }
  const ops = opsOf(book.ops, fact)
  const change = (op: Op) => {
    const value = valueFor(op, clause.value, fact)
    onChange(value === undefined ? { fact: clause.fact, op } : { fact: clause.fact, op, value })
  }
  return (
    <>
      <Select
        variant="standard"
        disableUnderline
        value={clause.op}
        onChange={e => change(e.target.value as Op)}
        inputProps={{ 'aria-label': 'Compared how' }}
        sx={{ fontSize: 14, '& .MuiSelect-select': { py: '2px', pr: '22px !important' }, '& svg': { fontSize: 17 } }}
      >
        {ops.map(op => (
          <MenuItem key={op} value={op}>
            {opWords[op]}
          </MenuItem>
        ))}
      </Select>
      <Value clause={clause} fact={fact} wrong={wrong} onChange={set} />
    </>
  )
}

function Value({ clause, fact, wrong, onChange }: { clause: Clause; fact: Fact; wrong: boolean; onChange(value: unknown): void }) {
  const { op, value } = clause
  if (op === 'present' || op === 'absent') return null
  const number = (n: unknown, set: (n: number) => void, label: string) =>
    fact.name === 'clock.time' ? (
      <TimeToken label={label} value={n} wrong={wrong} onChange={set} />
    ) : (
      <NumberToken label={label} value={n} unit={fact.unit} wrong={wrong} onChange={set} />
    )
  if (op === 'between') {
    const [low, high] = Array.isArray(value) ? value : [0, 1]
    return (
      <>
        {number(low, n => onChange([n, high]), `${fact.says}, from`)}
        <span>and</span>
        {number(high, n => onChange([low, n]), `${fact.says}, to`)}
      </>
    )
  }
  if (op === 'in' || op === 'not_in')
    return <ValuesToken label={fact.says} values={Array.isArray(value) ? value.map(String) : []} options={fact.values} wrong={wrong} onChange={onChange} />
  if (fact.kind === 'number' || ['eq', 'ne', 'lt', 'lte', 'gt', 'gte'].includes(op)) return number(value, onChange, fact.says)
  if (fact.values && (op === 'is' || op === 'is_not'))
    return (
      <Select
        variant="standard"
        disableUnderline
        value={fact.values.includes(String(value)) ? String(value) : ''}
        onChange={e => onChange(e.target.value)}
        inputProps={{ 'aria-label': fact.says }}
        sx={{
          fontSize: 14,
          fontWeight: 600,
          background: plum.wash,
          borderRadius: '4px 4px 0 0',
          borderBottom: `1.5px solid ${wrong ? brick.main : plum.main}`,
          '& .MuiSelect-select': { p: '1px 22px 1px 7px !important' },
          '& svg': { fontSize: 17 },
        }}
      >
        {fact.values.map(v => (
          <MenuItem key={v} value={v}>
            {v}
          </MenuItem>
        ))}
      </Select>
    )
  return <TextToken label={fact.says} value={String(value ?? '')} wrong={wrong} onChange={onChange} mono={op === 'matches'} />
}
