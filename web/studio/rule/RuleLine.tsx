import DragIndicator from '@mui/icons-material/DragIndicator'
import MoreVert from '@mui/icons-material/MoreVert'
import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import IconButton from '@mui/material/IconButton'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import { type ComponentType, type KeyboardEvent, type ReactNode, useState } from 'react'
import { opWordsNot } from '../../kinds/ops'
import { useDrag, useMovable } from '../parts/keys/dragging'
import { apricot, ink, plum } from '../parts/look/theme'
import { counted } from '../parts/words/say'
import { type Builder, copiedRule, copyRule, useBuilder } from './builder'
import { ClauseLine } from './ClauseLine'
import type { Rule } from './kinds'
import { LineRow } from './LineRow'
import type { Landing } from './landing'
import {
  countAt,
  declared,
  type Group,
  groupOf,
  insertAt,
  isClause,
  isGroup,
  joinAt,
  moveAt,
  partsOf,
  placeIn,
  putAt,
  readCopied,
  rejoinAt,
  ruleAt,
} from './rules'
import { NameReach, SavedLine } from './SavedReaches'
import { Sieve } from './Sieve'
import { WordSelect } from './tokens'

interface Props {
  part: Rule
  at: string
  i: number
  of: number
  any: boolean
  so: number
  /** What draws the group that the line opens. */
  groups: ComponentType<{ group: Group; at: string; so: number }>
}

/** One line of a rule: a condition, a saved reach, or what opens a group. */
export function RuleLine({ part, at, i, of, any, so, groups: Groups }: Props) {
  const b = useBuilder()
  const [naming, setNaming] = useState(false)
  const negated = 'not' in part
  const inner = negated ? part.not : part
  const { landing } = useDrag<Landing>()
  const { handle, isDragging } = useMovable(at, shortly(inner, b))
  const over = !!landing && 'onto' in landing && landing.onto === at
  // Some comparisons say “not” themselves.
  const said = negated && isClause(inner) && !!opWordsNot[inner.op]
  const innerAt = negated ? at + '.not' : at
  const { group } = placeIn(at)
  const word = any ? 'or' : 'and'
  const put = (next: Rule | null) => b.change(putAt(b.rule, at, () => next))
  const move = (to: Rule, where: string) => {
    b.change(to)
    focusHandle(where)
  }
  const step = (by: -1 | 1) => {
    if (i + by >= 0 && i + by < of) return move(moveAt(b.rule, at, group, by < 0 ? i - 1 : i + 2), at.replace(/\d+\]$/, `${i + by}]`))
    out(by > 0)
  }
  // Out of the group, to stand after it or before it.
  const out = (after: boolean) => {
    const around = group.replace(/\.not$/, '')
    if (!group) return
    const up = placeIn(around)
    move(moveAt(b.rule, at, up.group, up.i + (after ? 1 : 0)), around)
  }
  // Into the group above, or into one of the two.
  const into = () => {
    if (i === 0) return
    const before = at.replace(/\d+\]$/, `${i - 1}]`)
    const there = ruleAt(b.rule, before)!
    const target = 'not' in there ? there.not : there
    const targetAt = 'not' in there ? before + '.not' : before
    if (isGroup(target)) move(moveAt(b.rule, at, targetAt, partsOf(target).length), before)
    else move(joinAt(b.rule, at, before), before)
  }
  const keys = (e: KeyboardEvent) => {
    const does: Record<string, (() => void) | undefined> = {
      'Alt+ArrowUp': () => step(-1),
      'Alt+ArrowDown': () => step(1),
      'Alt+ArrowLeft': () => out(true),
      'Alt+ArrowRight': into,
      'Ctrl+c': () => copyRule(part),
      'Ctrl+x': () => {
        copyRule(part)
        put(null)
      },
      'Ctrl+v': () => {
        const copied = readCopied(copiedRule())
        if (copied) b.change(insertAt(b.rule, group, i + 1, copied))
      },
      delete: () => put(null),
      n: () => put(negated ? inner : { not: part }),
    }
    const act = does[`${e.altKey ? 'Alt+' : ''}${e.ctrlKey || e.metaKey ? 'Ctrl+' : ''}${e.key === 'Delete' ? 'delete' : e.key}`]
    if (!act) return
    e.preventDefault()
    e.stopPropagation()
    act()
  }
  const lead = (
    <>
      <ButtonBase
        {...handle}
        data-handle={at}
        aria-label={`Line ${i + 1}: drag, or Alt and arrows to move; Ctrl C to copy, N to negate, Delete to delete`}
        title="Drag to move, onto a condition to group. Keys: Alt + arrows, Ctrl C, X, V, N, Delete"
        onKeyDown={keys}
        sx={{
          color: ink[3],
          cursor: 'grab',
          touchAction: 'none',
          borderRadius: '4px',
          ml: '-8px',
          mr: '-7px',
          minWidth: 24,
          minHeight: 24,
          '&:hover, &:focus-visible': { color: plum.main },
        }}
      >
        <DragIndicator sx={{ fontSize: 16 }} />
      </ButtonBase>
      {i > 0 && (
        <Word onClick={() => b.change(rejoinAt(b.rule, at))} label={`${word}: change this one to ${any ? 'and' : 'or'}`}>
          {word}
        </Word>
      )}
      {negated && !said && (
        <Word onClick={() => put(inner)} label="Remove “not”">
          not
        </Word>
      )}
    </>
  )
  const wrap = (key: 'all' | 'any') => put(groupOf(key, [part]))
  const written = (id: string) => b.reaches.find(r => r.id === id)?.rule ?? inner
  const acts: [string, () => void][] = [
    [negated ? 'Remove “not”' : 'Negate', () => put(negated ? inner : { not: part })],
    ...(i > 0 ? ([['Move up', () => step(-1)]] as [string, () => void][]) : []),
    ...(i < of - 1 ? ([['Move down', () => step(1)]] as [string, () => void][]) : []),
    ...(group ? ([['Move out of the group', () => out(true)]] as [string, () => void][]) : []),
    ...(isGroup(inner) && !negated ? ([['Ungroup', () => b.change(apart(b.rule, at, group, i, inner))]] as [string, () => void][]) : []),
    ['Wrap in “all of”', () => wrap('all')],
    ['Wrap in “any of”', () => wrap('any')],
    ['Copy', () => copyRule(part)],
    ...('saved' in inner
      ? ([['Replace with its conditions', () => put(negated ? { not: written(inner.saved) } : written(inner.saved))]] as [string, () => void][])
      : ([['Save as a reach…', () => setNaming(true)]] as [string, () => void][])),
    ['Delete', () => put(null)],
  ]
  const counts = b.counts.get(countAt(part, at))
  const more = <More name={`condition ${i + 1}`} acts={acts} />
  const moment = isClause(inner) && inner.fact.startsWith('moment.')
  const tail = (
    <>
      {more}
      <Sieve left={counts?.left} before={so} moment={moment} label={any ? 'This alone' : 'With those above'} />
    </>
  )
  return (
    <Box sx={{ opacity: isDragging ? 0.4 : 1 }}>
      <Box
        data-line={isGroup(inner) ? undefined : at}
        sx={over ? { position: 'relative', borderRadius: '6px', outline: `2px dashed ${apricot.main}`, outlineOffset: -1 } : undefined}
      >
        {over && <DropSays>{any ? 'makes “all of”: both must hold' : 'makes “any of”: one of the two is enough'}</DropSays>}
        {isClause(inner) ? (
          <ClauseLine
            clause={inner}
            negated={negated}
            at={innerAt}
            lead={lead}
            tail={tail}
            onChange={(next, not = negated) =>
              b.change(
                putAt(b.rule, at, () => (not ? { not: next } : next)),
                `clause ${at}`,
              )
            }
          />
        ) : 'saved' in inner ? (
          <SavedLine id={inner.saved} at={innerAt} lead={lead} tail={tail} />
        ) : (
          <LineRow tail={tail}>
            {lead}
            {isGroup(inner) ? (
              <WordSelect
                plain
                size={13}
                label="How many must hold"
                value={'any' in inner ? 'any' : 'all'}
                options={howMany}
                onChange={key => b.change(putAt(b.rule, innerAt, () => groupOf(key as 'all' | 'any', partsOf(inner))))}
              />
            ) : (
              <Box component="span" sx={{ color: ink[2], fontStyle: 'italic', fontSize: 13 }}>
                not
              </Box>
            )}
          </LineRow>
        )}
      </Box>
      {!isClause(inner) && !('saved' in inner) && (
        <Box sx={{ ml: deep(at) > 6 ? '5px' : '26px' }}>
          <Groups group={isGroup(inner) ? inner : { all: [inner] }} at={innerAt} so={so} />
        </Box>
      )}
      {naming && <NameReach rule={inner} onClose={() => setNaming(false)} onSaved={id => put(negated ? { not: { saved: id } } : { saved: id })} />}
    </Box>
  )
}

const howMany = [
  ['all', 'all of'],
  ['any', 'any of'],
] as const

/** What a drop would make, said where it would. */
export const DropSays = ({ children }: { children: ReactNode }) => (
  <Box
    sx={{
      position: 'absolute',
      right: 186,
      top: '50%',
      transform: 'translateY(-50%)',
      zIndex: 3,
      pointerEvents: 'none',
      background: apricot.wash,
      color: apricot.ink,
      borderRadius: '4px',
      px: '8px',
      py: '1px',
      fontSize: 12.5,
      fontWeight: 600,
      whiteSpace: 'nowrap',
    }}
  >
    {children}
  </Box>
)

/** How many groups lie around a place. */
const deep = (at: string) => at.split('[').length - 1

/** The rule with a group's parts standing where the group was. */
function apart(rule: Rule, at: string, group: string, i: number, inner: Rule): Rule {
  const without = putAt(rule, at, () => null)
  return isGroup(inner) ? partsOf(inner).reduceRight((r, p) => insertAt(r, group, i, p), without) : rule
}

/** A line in a few words. */
function shortly(part: Rule, b: Builder): string {
  if (isClause(part)) return `${declared(b.book.facts, part.fact)?.says.replace('{}', '…') ?? part.fact} ${part.value ?? ''}`.trim()
  if ('saved' in part) return b.reaches.find(r => r.id === part.saved)?.name ?? 'Saved reach'
  return isGroup(part) ? counted(partsOf(part).length, 'condition') : 'Not'
}

/** Gives a line's handle the keyboard back once it is where it went. */
function focusHandle(at: string) {
  requestAnimationFrame(() => requestAnimationFrame(() => document.querySelector<HTMLElement>(`[data-handle="${CSS.escape(at)}"]`)?.focus()))
}

function Word({ onClick, label, children }: { onClick(): void; label: string; children: ReactNode }) {
  return (
    <ButtonBase
      onClick={onClick}
      aria-label={label}
      title={label}
      sx={{
        color: ink[2],
        fontStyle: 'italic',
        fontSize: 13,
        borderRadius: '4px',
        px: '2px',
        minWidth: 24,
        minHeight: 24,
        '&:hover': { color: plum.main, textDecoration: 'underline' },
      }}
    >
      {children}
    </ButtonBase>
  )
}

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
