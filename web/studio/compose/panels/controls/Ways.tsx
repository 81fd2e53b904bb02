import Close from '@mui/icons-material/Close'
import Box from '@mui/material/Box'
import IconButton from '@mui/material/IconButton'
import MenuItem from '@mui/material/MenuItem'
import OutlinedInput from '@mui/material/OutlinedInput'
import Select from '@mui/material/Select'
import type { Design, Edge, Field, Test } from '../../../../kinds/piece'
import { answered, chooses } from '../../../design/blocks'
import { leadsTo, leadsToWinner, leadTo, leadToWinner, resultsOf, spellOut } from '../../../design/graph'
import { flat } from '../../../design/tree'
import { TextButton } from '../../../parts/look/TextButton'
import { brick, ink, paper } from '../../../parts/look/theme'
import { useFault } from '../../../piece/draft'
import { changeScene } from '../../commands/change'
import { useSeen } from '../../commands/view'
import { Choice } from './controls'

const toWinner = ':winner' // no scene is called so

/** Which scene follows a block: by the answers, and otherwise. */
export function Ways({ block, label }: { block: string; label: string }) {
  const { design, scene, sceneAt } = useSeen()
  const scenes = design.scenes.filter(s => s.id !== scene.id).map(s => [s.id, s.name] as const)
  const edges = scene.edges ?? []
  const mine = edges.flatMap((e, i) => ((!e.block || e.block === block) && e.when?.length ? [{ e, i }] : []))
  const results = resultsOf(design.scenes)
  const winner = results.length > 1 && leadsToWinner(scene, block, results)
  const to = winner ? toWinner : leadsTo(scene, block)
  return (
    <>
      {!winner && mine.map(({ e, i }) => <Conditional key={i} edge={e} index={i} scenes={scenes} at={`${sceneAt}.edges[${i}]`} />)}
      <Choice
        label={mine.length && !winner ? 'Otherwise' : label}
        value={to}
        options={[
          ['', 'Close the piece'] as const,
          ...(results.length > 1 ? [[toWinner, 'The winning result (most weight)'] as const] : []),
          ...scenes.map(([id, name]) => [id, name] as const),
        ]}
        onChange={id =>
          changeScene(s => {
            if (id === toWinner) return leadToWinner(s, block, results)
            // Out of the winning result, what led to each goes with it.
            if (winner) s.edges = s.edges!.filter(e => e.block && e.block !== block)
            leadTo(s, block, id)
          })
        }
        at={`${sceneAt}.edges`}
      />
      {!winner && scenes.length > 0 && testables(design).length > 0 && (
        <Box sx={{ px: '16px', py: '4px', fontSize: 13 }}>
          <TextButton
            onClick={() =>
              changeScene(s => {
                spellOut(s)
                const before = (s.edges ?? []).findIndex(e => e.block === block && !e.when?.length)
                const edge: Edge = { block, when: [firstTest(design)], to: scenes[0][0] }
                s.edges = [...(s.edges ?? [])]
                s.edges.splice(before < 0 ? s.edges.length : before, 0, edge)
              })
            }
          >
            Add a condition
          </TextButton>
        </Box>
      )}
    </>
  )
}

type Named = readonly (readonly [string, string])[]

/** What can be tested: answers, formulas, the score, and which result has the most weight. */
function testables(design: Design): Named {
  const fields = answered(design).map(f => [f.key, short(f.label)] as const)
  const results = design.scenes.some(s => s.kind === 'result')
  const scored = design.scenes.some(s => flat(s.blocks).some(b => b.kind === 'field' && (b.points || b.choices?.some(c => c.score))))
  return [
    ...fields,
    ...(design.formulas ?? []).map(f => [f.name, f.name] as const),
    ...(scored && !fields.some(([key]) => key === 'score') ? [['score', 'Score'] as const] : []),
    ...(results ? [['weights', 'Highest weight'] as const] : []),
  ]
}

const short = (s: string) => (s.length > 24 ? s.slice(0, 23) + '…' : s)

const fieldOf = (design: Design, key: string): Field | undefined => answered(design).find(f => f.key === key)

/** A test of something, as it begins. */
function testOf(design: Design, of: string): Test {
  if (of === 'weights') return { of, op: 'most', value: design.scenes.find(s => s.kind === 'result')?.id ?? '' }
  const f = fieldOf(design, of)
  if (f?.choices?.length && f.ask !== 'order') return { of, op: 'is', value: f.choices[0].id }
  if (f && !/^(number|slider|scale|stars)$/.test(f.ask)) return { of, op: 'answered' }
  return { of, op: 'gte', value: 1 }
}

const firstTest = (design: Design): Test => testOf(design, testables(design).some(([of]) => of === 'weights') ? 'weights' : testables(design)[0][0])

const numeric: Named = [
  ['gte', '≥'],
  ['gt', '>'],
  ['lte', '≤'],
  ['lt', '<'],
  ['eq', '='],
  ['ne', '≠'],
]
const isAnswered: Named = [
  ['answered', 'is answered'],
  ['not_answered', 'is not answered'],
]
const same: Named = [
  ['is', 'is'],
  ['is_not', 'is not'],
]

function opsOf(design: Design, of: string): Named {
  if (of === 'weights') return [['most', 'is for']]
  const f = fieldOf(design, of)
  if (!f) return numeric
  if (chooses(f.ask) && f.ask !== 'order') return [...same, ...numeric, ...isAnswered]
  return /^(number|slider|scale|stars|order)$/.test(f.ask) ? [...numeric, ...isAnswered] : [...same, ...isAnswered]
}

/** One way on that is gone when its tests hold. */
function Conditional({ edge, index, scenes, at }: { edge: Edge; index: number; scenes: Named; at: string }) {
  const { design } = useSeen()
  const change = (how: (e: Edge) => void) => changeScene(s => how(s.edges![index]))
  const small = { fontSize: 13, minWidth: 0, flex: 1, background: paper.sheet }
  return (
    <Box sx={{ m: '6px 16px', p: '8px 10px', border: `1px solid ${paper.line}`, borderRadius: '7px', background: paper.sheet, fontSize: 13 }}>
      {edge.when!.map((t, i) => (
        <TestLine
          key={i}
          word={i ? 'and' : 'If'}
          test={t}
          at={`${at}.when[${i}]`}
          design={design}
          onChange={next => change(e => void (e.when![i] = next))}
          onRemove={() =>
            changeScene(s => {
              if (s.edges![index].when!.length > 1) s.edges![index].when!.splice(i, 1)
              else s.edges!.splice(index, 1)
            })
          }
        />
      ))}
      <Box sx={{ display: 'flex', alignItems: 'center', gap: '6px', mt: '6px' }}>
        <Box component="span" sx={{ width: 26, color: ink[2] }} aria-hidden>
          →
        </Box>
        <Select
          value={edge.to ?? ''}
          sx={small}
          onChange={e => change(x => void (x.to = e.target.value))}
          inputProps={{ 'aria-label': 'Next scene' }}
          displayEmpty
        >
          <MenuItem value="">Close the piece</MenuItem>
          {scenes.map(([id, name]) => (
            <MenuItem key={id} value={id}>
              {name}
            </MenuItem>
          ))}
        </Select>
        <TextButton onClick={() => change(e => void e.when!.push(firstTest(design)))}>and…</TextButton>
      </Box>
    </Box>
  )
}

function TestLine({
  word,
  test,
  at,
  design,
  onChange,
  onRemove,
}: {
  word: string
  test: Test
  at: string
  design: Design
  onChange(t: Test): void
  onRemove(): void
}) {
  const fault = useFault(at)
  const f = fieldOf(design, test.of)
  const ops = opsOf(design, test.of)
  const choices: Named | undefined =
    test.op === 'most'
      ? design.scenes.filter(s => s.kind === 'result').map(s => [s.id, s.name] as const)
      : (test.op === 'is' || test.op === 'is_not') && f?.choices?.length
        ? f.choices.map(c => [c.id, c.label] as const)
        : undefined
  const small = { fontSize: 13, minWidth: 0, background: paper.sheet }
  const put = (value: string) => onChange({ ...test, value: numeric.some(([op]) => op === test.op) ? Number(value) : value })
  return (
    <>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: '6px', mb: '4px' }}>
        <Box component="span" sx={{ width: 26, color: ink[2], flex: 'none' }}>
          {word}
        </Box>
        <Select value={test.of} sx={{ ...small, flex: 1 }} onChange={e => onChange(testOf(design, e.target.value))} inputProps={{ 'aria-label': 'Answer' }}>
          {testables(design).map(([of, name]) => (
            <MenuItem key={of} value={of}>
              {name}
            </MenuItem>
          ))}
          {!testables(design).some(([of]) => of === test.of) && <MenuItem value={test.of}>{test.of}</MenuItem>}
        </Select>
        <IconButton size="small" aria-label="Remove the condition" onClick={onRemove}>
          <Close sx={{ fontSize: 16 }} />
        </IconButton>
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: '6px', mb: '4px', pl: '32px' }}>
        {ops.length === 1 ? (
          <span>{ops[0][1]}</span>
        ) : (
          <Select
            value={test.op}
            sx={{ ...small, flex: isAnswered.some(([op]) => op === test.op) ? 1 : '0 0 76px' }}
            onChange={e => {
              const op = e.target.value as Test['op']
              const { value: _, ...bare } = test
              if (isAnswered.some(([x]) => x === op)) onChange({ ...bare, op })
              else if (numeric.some(([x]) => x === op)) onChange({ ...test, op, value: typeof test.value === 'number' ? test.value : 1 })
              else onChange({ ...test, op, value: typeof test.value === 'string' ? test.value : (f?.choices?.[0]?.id ?? '') })
            }}
            inputProps={{ 'aria-label': 'Operator' }}
          >
            {ops.map(([op, name]) => (
              <MenuItem key={op} value={op}>
                {name}
              </MenuItem>
            ))}
          </Select>
        )}
        {choices ? (
          <Select value={String(test.value ?? '')} sx={{ ...small, flex: 1 }} onChange={e => put(e.target.value)} inputProps={{ 'aria-label': 'Value' }}>
            {choices.map(([id, name]) => (
              <MenuItem key={id} value={id}>
                {name}
              </MenuItem>
            ))}
          </Select>
        ) : isAnswered.some(([op]) => op === test.op) ? null : (
          <OutlinedInput
            size="small"
            value={String(test.value ?? '')}
            type={numeric.some(([op]) => op === test.op) ? 'number' : 'text'}
            onChange={e => put(e.target.value)}
            sx={{ ...small, flex: 1 }}
            inputProps={{ 'aria-label': 'Value', maxLength: 200 }}
          />
        )}
      </Box>
      {fault && (
        <Box role="alert" sx={{ color: brick.main, fontWeight: 600, pl: '32px', mb: '4px' }}>
          {fault}
        </Box>
      )}
    </>
  )
}
