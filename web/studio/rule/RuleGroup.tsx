import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import Typography from '@mui/material/Typography'
import { type ReactNode, useState } from 'react'
import { useDrag } from '../parts/keys/dragging'
import { apricot, brick, ink, plum } from '../parts/look/theme'
import { counted } from '../parts/words/say'
import { copiedRule, useBuilder } from './builder'
import { FactPicker } from './FactPicker'
import type { Rule } from './kinds'
import type { Landing } from './landing'
import { DropSays, RuleLine } from './RuleLine'
import { begin, countAt, type Group, insertAt, keyOf, partsOf, putAt, readCopied } from './rules'

/** How many lines of one group are drawn at first: what is longer was not written by hand. */
const many = 60

interface Props {
  group: Group
  at: string
  /** Page views that come so far. */
  so: number
}

/** Conditions on a brace: a single one where all must hold, a double where any will do. */
export function RuleGroup({ group, at, so }: Props) {
  const b = useBuilder()
  const [picking, setPicking] = useState<HTMLElement | null>(null)
  const [most, setMost] = useState(many)
  const key = keyOf(group)
  const any = key === 'any'
  const parts = partsOf(group)
  const root = at === ''
  const place = (i: number) => `${at ? at + '.' : ''}${key}[${i}]`
  const swap = () => b.change(putAt(b.rule, at, () => (any ? { all: parts } : { any: parts })))
  const add = (part: Rule) => b.change(insertAt(b.rule, at, parts.length, part))
  const copied = readCopied(copiedRule())
  // What a line leaves of those before it: in a joint group of the line above it, in alternatives of what came in.
  const before = (i: number) => (any || i === 0 ? so : (b.counts.get(countAt(parts[i - 1], place(i - 1)))?.left ?? so))
  return (
    <Box
      role="group"
      aria-label={any ? 'Any of these' : 'All of these'}
      sx={{
        borderLeft: any ? `5px double ${apricot.main}` : `3px solid ${plum.main}`,
        borderRadius: '10px 0 0 10px',
        m: root ? '8px 0 4px 6px' : '2px 0 4px 0',
        p: '2px 0 2px 2px',
      }}
    >
      {parts.length === 0 && (
        <Typography sx={{ pl: '14px', py: '6px', color: ink[2] }}>
          {any ? 'Never: add a condition.' : root ? (b.empty ?? 'For everyone, at once. Add a condition to say when.') : 'Always: add a condition.'}
        </Typography>
      )}
      {parts.slice(0, most).map((part, i) => (
        <Box key={i}>
          <Gap group={at} i={i} any={any} />
          <RuleLine part={part} at={place(i)} i={i} of={parts.length} any={any} so={before(i)} groups={RuleGroup} />
        </Box>
      ))}
      <Gap group={at} i={parts.length} any={any} last />
      {parts.length > most && (
        <Box sx={{ pl: '14px', py: '4px', color: ink[2] }}>
          and {counted(parts.length - most, 'more line')}, kept as they are. <Add onClick={() => setMost(most + many)}>show {many} more</Add>
        </Box>
      )}
      {b.faults
        .filter(f => f.at === at || (f.at === key && root))
        .map(f => (
          <Typography key={f.message} variant="body2" sx={{ pl: '14px', color: brick.main, fontWeight: 600 }}>
            {f.message}
          </Typography>
        ))}
      <Box sx={{ display: 'flex', gap: '16px', pl: '14px', pt: '4px', flexWrap: 'wrap' }}>
        <Add onClick={e => setPicking(e.currentTarget)}>+ condition</Add>
        <Add
          onClick={() =>
            add(
              any
                ? { all: [begin(b.book.facts[0])] }
                : {
                    any: [
                      begin(b.book.facts.find(f => f.name === 'moment.seconds_on_page')!),
                      begin(b.book.facts.find(f => f.name === 'moment.scroll_percent')!),
                    ],
                  },
            )
          }
        >
          + group
        </Add>
        {copied && <Add onClick={() => add(copied)}>paste the copied condition</Add>}
        {parts.length > 1 && root && <Add onClick={swap}>{any ? 'change all to “and”' : 'change all to “or”'}</Add>}
      </Box>
      <FactPicker anchor={picking} onClose={() => setPicking(null)} onPick={add} />
    </Box>
  )
}

/** Between two lines; what is dragged may land here. */
function Gap({ group, i, any, last }: { group: string; i: number; any: boolean; last?: boolean }) {
  const { dragged, landing } = useDrag<Landing>()
  if (dragged === null) return null
  const gap = `${group}#${i}`
  const over = !!landing && 'gap' in landing && landing.gap === gap
  return (
    <Box sx={{ position: 'relative', height: 0, zIndex: 1 }}>
      <Box
        data-gap={gap}
        sx={{
          position: 'absolute',
          left: 8,
          right: 190,
          top: last ? -4 : -8,
          height: last ? 20 : 16,
          '&::after': over ? { content: '""', position: 'absolute', left: 0, right: 0, top: 6, height: 4, borderRadius: 2, background: apricot.main } : {},
        }}
      >
        {over && <DropSays>moves here, joined by “{any ? 'or' : 'and'}”</DropSays>}
      </Box>
    </Box>
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
