import MoreVert from '@mui/icons-material/MoreVert'
import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import IconButton from '@mui/material/IconButton'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import Typography from '@mui/material/Typography'
import { type ReactNode, useState } from 'react'
import type { Fault } from '../../kinds/fault'
import type { FactBook } from '../../kinds/studio'
import { apricot, brick, ink, plum } from '../theme'
import { ClauseLine } from './ClauseLine'
import { FactPicker } from './FactPicker'
import type { Rule } from './kinds'
import { begin, isClause } from './rules'

interface Props {
  rule: { all: Rule[] } | { any: Rule[] }
  at: string
  root?: boolean
  book: FactBook
  faults: Fault[]
  onChange(rule: Rule): void
}

/** Conditions on a brace: a single one where all must hold, a double where any will do. */
export function RuleGroup({ rule, at, root, book, faults, onChange }: Props) {
  const [picking, setPicking] = useState<HTMLElement | null>(null)
  const any = 'any' in rule
  const key = any ? 'any' : 'all'
  const parts = any ? rule.any : rule.all
  const put = (next: Rule[]) => onChange(any ? { any: next } : { all: next })
  const swap = () => onChange(any ? { all: parts } : { any: parts })
  const replace = (i: number, part: Rule) => put(parts.map((p, j) => (j === i ? part : p)))
  const remove = (i: number) => put(parts.filter((_, j) => j !== i))
  const move = (i: number, by: number) => {
    const next = [...parts]
    const [part] = next.splice(i, 1)
    next.splice(i + by, 0, part)
    put(next)
  }
  const word = any ? 'or' : 'and'
  return (
    <Box
      role="group"
      aria-label={any ? 'Any of these' : 'All of these'}
      sx={{
        borderLeft: any ? `5px double ${apricot.main}` : `3px solid ${plum.main}`,
        borderRadius: '10px 0 0 10px',
        m: root ? '8px 0 4px 6px' : '4px 0 4px 0',
        p: '2px 0 2px 4px',
      }}
    >
      {parts.length === 0 && (
        <Typography sx={{ pl: '14px', py: '6px', color: ink[2] }}>
          {any ? 'Never: there is no condition to hold.' : root ? 'For everyone, at once. Add a condition to say when.' : 'Always.'}
        </Typography>
      )}
      {parts.map((part, i) => {
        const negated = 'not' in part
        const inner = negated ? part.not : part
        const partAt = `${at}.${key}[${i}]`
        const innerAt = negated ? `${partAt}.not` : partAt
        const set = (next: Rule) => replace(i, negated ? { not: next } : next)
        const first = i === 0
        const lead = (
          <>
            {!first && (
              <Word onClick={swap} label={`${word}: change to ${any ? 'and' : 'or'}`}>
                {word}
              </Word>
            )}
            {negated && (
              <Word onClick={() => replace(i, inner)} label="not: take it away">
                not
              </Word>
            )}
          </>
        )
        const more = (
          <More
            name={`condition ${i + 1}`}
            acts={[
              [negated ? 'Take “not” away' : 'Put “not” before it', () => replace(i, negated ? inner : { not: part })],
              ...(i > 0 ? ([['Move up', () => move(i, -1)]] as const) : []),
              ...(i < parts.length - 1 ? ([['Move down', () => move(i, 1)]] as const) : []),
              ...(isClause(inner)
                ? ([[any ? 'Add what must hold with it' : 'Add an alternative to it', () => replace(i, any ? { all: [part] } : { any: [part] })]] as const)
                : ([['Take the group apart', () => put([...parts.slice(0, i), ...(groupParts(inner) ?? [inner]), ...parts.slice(i + 1)])]] as const)),
              ['Take it out', () => remove(i)],
            ]}
          />
        )
        if (isClause(inner)) {
          return <ClauseLine key={i} clause={inner} book={book} faults={faults.filter(f => f.at.startsWith(innerAt))} lead={lead} more={more} onChange={set} />
        }
        const group = groupParts(inner) ? (inner as { all: Rule[] }) : { all: [inner] }
        return (
          <Box key={i}>
            <Box sx={{ display: 'flex', alignItems: 'center', minHeight: 36, gap: '7px', pl: '14px' }}>
              {lead}
              <Box component="span" sx={{ color: ink[2], fontStyle: 'italic', fontSize: 13 }}>
                {'any' in group ? 'any of' : 'all of'}
              </Box>
              {more}
            </Box>
            <Box sx={{ ml: '26px' }}>
              <RuleGroup rule={group} at={innerAt} book={book} faults={faults} onChange={set} />
            </Box>
          </Box>
        )
      })}
      {faults
        .filter(f => f.at === at)
        .map(f => (
          <Typography key={f.message} variant="body2" sx={{ pl: '14px', color: brick.main, fontWeight: 600 }}>
            {f.message}
          </Typography>
        ))}
      <Box sx={{ display: 'flex', gap: '16px', pl: '14px', pt: '4px' }}>
        <Add onClick={e => setPicking(e.currentTarget)}>+ condition</Add>
        <Add
          onClick={() =>
            put([
              ...parts,
              any
                ? { all: [begin(book.facts[0])] }
                : {
                    any: [begin(book.facts.find(f => f.name === 'moment.seconds_on_page')!), begin(book.facts.find(f => f.name === 'moment.scroll_percent')!)],
                  },
            ])
          }
        >
          + group
        </Add>
        {parts.length > 1 && root && <Add onClick={swap}>{any ? 'make it “all of”' : 'make it “any of”'}</Add>}
      </Box>
      <FactPicker anchor={picking} facts={book.facts} onClose={() => setPicking(null)} onPick={(fact, name) => put([...parts, begin(fact, name)])} />
    </Box>
  )
}

const groupParts = (rule: Rule): Rule[] | null => ('all' in rule ? rule.all : 'any' in rule ? rule.any : null)

function Word({ onClick, label, children }: { onClick(): void; label: string; children: ReactNode }) {
  return (
    <ButtonBase
      onClick={onClick}
      aria-label={label}
      title={label}
      sx={{ color: ink[2], fontStyle: 'italic', fontSize: 13, borderRadius: '4px', px: '2px', '&:hover': { color: plum.main, textDecoration: 'underline' } }}
    >
      {children}
    </ButtonBase>
  )
}

const Add = ({ onClick, children }: { onClick: React.MouseEventHandler<HTMLElement>; children: ReactNode }) => (
  <ButtonBase
    onClick={onClick}
    sx={{ color: plum.main, fontWeight: 600, fontSize: 13, borderRadius: '4px', py: '3px', '&:hover': { textDecoration: 'underline' } }}
  >
    {children}
  </ButtonBase>
)

function More({ name, acts }: { name: string; acts: (readonly [string, () => void])[] }) {
  const [menu, setMenu] = useState<HTMLElement | null>(null)
  return (
    <>
      <IconButton size="small" aria-label={`More for ${name}`} onClick={e => setMenu(e.currentTarget)} sx={{ ml: 'auto', p: '2px', color: ink[3] }}>
        <MoreVert sx={{ fontSize: 17 }} />
      </IconButton>
      <Menu open={!!menu} anchorEl={menu} onClose={() => setMenu(null)} onClick={() => setMenu(null)}>
        {acts.map(([does, act]) => (
          <MenuItem key={does} onClick={act}>
            {does}
          </MenuItem>
        ))}
      </Menu>
    </>
  )
}
