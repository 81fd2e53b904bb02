import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Checkbox from '@mui/material/Checkbox'
import Dialog from '@mui/material/Dialog'
import DialogTitle from '@mui/material/DialogTitle'
import InputBase from '@mui/material/InputBase'
import MenuItem from '@mui/material/MenuItem'
import OutlinedInput from '@mui/material/OutlinedInput'
import Select from '@mui/material/Select'
import type { Choice, Field, Scene } from '../../../../kinds/piece'
import { choicesOf, chooses } from '../../../design/blocks'
import { flat, plain } from '../../../design/tree'
import { TextButton } from '../../../parts/look/TextButton'
import { ink, paper, plum } from '../../../parts/look/theme'
import { changeDesign } from '../../commands/change'
import { addSort } from '../../commands/scenes'
import { useScene, useView } from '../../commands/view'

/** All questions of a quiz with their answers, the score of each answer, and its weight for each result. */
export default function Scores({ onClose }: { onClose(): void }) {
  const { design } = useScene()
  const results = design.scenes.filter(s => s.kind === 'result')
  const questions = design.scenes.flatMap(s => flat(s.blocks).flatMap(b => (b.kind === 'field' && chooses(b.ask) ? [{ scene: s.id, field: b }] : [])))
  const set = (scene: string, field: string, choice: string, how: (c: Choice) => void) =>
    changeDesign(d => {
      const f = flat(d.scenes.find(s => s.id === scene)?.blocks ?? []).find((b): b is Field => b.id === field && b.kind === 'field')
      const c = f?.choices?.find(x => x.id === choice)
      if (c) how(c)
    }, `scores ${scene} ${field} ${choice}`)
  const changeField = (scene: string, field: string, how: (f: Field, s: Scene) => void, what: string) =>
    changeDesign(d => {
      const s = d.scenes.find(x => x.id === scene) as Scene | undefined
      const f = flat(s?.blocks ?? []).find((b): b is Field => b.id === field && b.kind === 'field')
      if (s && f) how(f, s)
    }, `${what} ${scene} ${field}`)
  // What stands above the answers says the same as their label.
  const rename = (scene: string, field: string, label: string) =>
    changeField(
      scene,
      field,
      (f, s) => {
        const heading = flat(s.blocks).find(b => b.kind === 'heading' && plain(b.text).trim() === f.label.trim())
        if (heading && 'text' in heading) heading.text = label
        f.label = label
      },
      'question',
    )
  const answer = (scene: string, field: string, labels: string[], focus: number) => {
    changeField(scene, field, f => void (f.choices = choicesOf(labels.slice(0, mostAnswers), f.choices)), 'answers')
    later(`[data-question="${scene} ${field}"] [data-answer]`, focus)
  }
  const nameResult = (id: string, name: string) =>
    changeDesign(d => {
      const s = d.scenes.find(x => x.id === id)
      const heading = s && flat(s.blocks).find(b => b.kind === 'heading')
      if (heading && 'text' in heading && ['Your result', s.name].includes(plain(heading.text).trim())) heading.text = name
      if (s) s.name = name
    }, `result ${id}`)
  const add = (sort: 'question' | 'result') => {
    const last = design.scenes.findLast(s => s.kind === 'question')
    if (sort === 'question' && last) useView.setState({ scene: last.id })
    addSort(sort)
    later(sort === 'question' ? `[data-question^="${useView.getState().scene} "] [data-label]` : `[data-result="${useView.getState().scene}"]`, 0)
  }
  const most = (f: Field) =>
    (f.choices ?? []).reduce((n, c) => (f.ask === 'choice' || f.ask === 'dropdown' ? Math.max(n, c.score ?? 0) : n + Math.max(0, c.score ?? 0)), 0)
  const least = (f: Field) =>
    (f.choices ?? []).reduce(
      (n, c) => (f.ask === 'choice' || f.ask === 'dropdown' ? Math.min(n, c.score ?? 0) : n + Math.min(0, c.score ?? 0)),
      f.ask === 'choice' && f.required ? Infinity : 0,
    )
  const sum = (of: (f: Field) => number) => questions.reduce((n, q) => n + of(q.field), 0)
  return (
    <Dialog open onClose={onClose} maxWidth={false} fullWidth aria-labelledby="scores-title" slotProps={{ paper: { sx: { maxWidth: 1080 } } }}>
      <DialogTitle id="scores-title" variant="h2" sx={{ display: 'flex', alignItems: 'center', gap: 2 }}>
        Questions and scores
        <Box component="span" sx={{ fontSize: 13, fontFamily: 'inherit', color: ink[2], fontWeight: 400 }}>
          A visitor scores {sum(least)} to {sum(most)}.{results.length > 0 && ' The result with the most weight wins.'}
        </Box>
        <Button variant="outlined" size="small" onClick={onClose} sx={{ ml: 'auto' }}>
          Close
        </Button>
      </DialogTitle>
      <Box sx={{ overflow: 'auto', borderTop: `1px solid ${paper.line}`, maxHeight: '68vh', p: '0 24px 20px', fontSize: 13.5 }}>
        <Box
          component="table"
          aria-labelledby="scores-title"
          sx={{
            width: '100%',
            minWidth: 420 + results.length * 100,
            borderCollapse: 'collapse',
            '& th': { textAlign: 'start', fontWeight: 400 },
            '& td, & tbody th': { p: '2px 10px 2px 0' },
            '& thead th': {
              p: '10px 10px 10px 0',
              position: 'sticky',
              top: 0,
              background: paper.sheet,
              zIndex: 1,
              color: ink[2],
              borderBottom: `1px solid ${paper.line}`,
            },
          }}
        >
          <thead>
            <tr>
              <th scope="col">Answer</th>
              <th scope="col">Correct</th>
              <th scope="col">Score</th>
              {results.map(r => (
                <Box component="th" scope="col" key={r.id} sx={{ '&&': { fontWeight: 600, color: ink[1] } }}>
                  <InputBase
                    value={r.name}
                    onChange={e => nameResult(r.id, e.target.value)}
                    inputProps={{ 'aria-label': 'Name of a result', maxLength: 120, 'data-result': r.id }}
                    sx={written}
                  />
                </Box>
              ))}
            </tr>
          </thead>
          {questions.map(({ scene, field }) => (
            <tbody key={scene + field.id} data-question={`${scene} ${field.id}`}>
              <tr>
                <Box component="th" scope="rowgroup" colSpan={3 + results.length} sx={{ '&&': { fontWeight: 650, pt: '14px', pb: '4px' } }}>
                  <InputBase
                    value={field.label}
                    fullWidth
                    onChange={e => rename(scene, field.id, e.target.value)}
                    inputProps={{ 'aria-label': 'Question', maxLength: 200, 'data-label': true }}
                    sx={{ ...written, fontWeight: 650 }}
                  />
                </Box>
              </tr>
              {(field.choices ?? []).map((c, i, all) => (
                <tr key={c.id}>
                  <Box component="th" scope="row" sx={{ '&&': { pl: '14px' } }}>
                    <InputBase
                      value={c.label}
                      fullWidth
                      onChange={e =>
                        answer(
                          scene,
                          field.id,
                          all.map((x, k) => (k === i ? e.target.value : x.label)),
                          -1,
                        )
                      }
                      onPaste={e => {
                        // A list becomes an answer for each line.
                        const lines = e.clipboardData
                          .getData('text/plain')
                          .split(/\r?\n/)
                          .map(l => l.trim())
                          .filter(Boolean)
                        if (lines.length < 2) return
                        e.preventDefault()
                        const labels = all.map(x => x.label)
                        answer(scene, field.id, [...labels.slice(0, i), ...lines, ...labels.slice(i + lines.length)], i + lines.length - 1)
                      }}
                      onKeyDown={e => {
                        const labels = all.map(x => x.label)
                        if (e.key === 'Enter') {
                          e.preventDefault()
                          answer(scene, field.id, labels.toSpliced(i + 1, 0, `Answer ${all.length + 1}`), i + 1)
                        } else if (e.key === 'Backspace' && !c.label && all.length > 1) {
                          e.preventDefault()
                          answer(scene, field.id, labels.toSpliced(i, 1), Math.max(0, i - 1))
                        }
                      }}
                      inputProps={{ 'aria-label': 'Answer', maxLength: 200, 'data-answer': true }}
                      sx={written}
                    />
                  </Box>
                  <td>
                    {field.ask !== 'order' && (
                      <Checkbox
                        size="small"
                        checked={!!c.right}
                        onChange={e => set(scene, field.id, c.id, x => (e.target.checked ? void (x.right = true) : void delete x.right))}
                        slotProps={{ input: { 'aria-label': `${c.label} is correct` } }}
                        sx={{ p: 0 }}
                      />
                    )}
                  </td>
                  <Amount
                    label={`Score of ${c.label}`}
                    value={c.score ?? 0}
                    onChange={n => set(scene, field.id, c.id, x => (n ? void (x.score = n) : void delete x.score))}
                  />
                  {results.map(r => (
                    <Amount
                      key={r.id}
                      label={`${c.label} for ${r.name}`}
                      value={c.weights?.[r.id] ?? 0}
                      quiet
                      onChange={n =>
                        set(scene, field.id, c.id, x => {
                          const { [r.id]: _, ...others } = x.weights ?? {}
                          const weights = n ? { ...others, [r.id]: n } : others
                          if (Object.keys(weights).length) x.weights = weights
                          else delete x.weights
                        })
                      }
                    />
                  ))}
                </tr>
              ))}
              <tr>
                <td colSpan={3 + results.length}>
                  <Box component="span" sx={{ pl: '14px' }}>
                    <TextButton
                      onClick={() => {
                        const labels = (field.choices ?? []).map(c => c.label)
                        answer(scene, field.id, [...labels, `Answer ${labels.length + 1}`], labels.length)
                      }}
                    >
                      Add an answer
                    </TextButton>
                  </Box>
                </td>
              </tr>
            </tbody>
          ))}
        </Box>
        <Box sx={{ display: 'flex', gap: 1, mt: '14px' }}>
          <Button variant="outlined" size="small" onClick={() => add('question')}>
            Add a question
          </Button>
          <Button variant="outlined" size="small" onClick={() => add('result')}>
            Add a result
          </Button>
        </Box>
        {results.length > 1 && (
          <Box sx={{ display: 'flex', alignItems: 'center', gap: '10px', mt: '18px', color: ink[2] }}>
            On a tie
            <Select
              size="small"
              value={design.ties ?? ''}
              displayEmpty
              onChange={e =>
                changeDesign(d => {
                  if (e.target.value) d.ties = 'latest'
                  else delete d.ties
                })
              }
              inputProps={{ 'aria-label': 'On a tie' }}
            >
              <MenuItem value="">the first result wins</MenuItem>
              <MenuItem value="latest">the result of the latest answer wins</MenuItem>
            </Select>
          </Box>
        )}
      </Box>
    </Dialog>
  )
}

/** Gives the keyboard to what is drawn next, and selects what stands there. */
function later(selector: string, i: number) {
  if (i < 0) return
  requestAnimationFrame(() => {
    const input = document.querySelectorAll<HTMLInputElement>(selector)[i]
    input?.focus()
    input?.select()
  })
}

const mostAnswers = 30

const written = {
  font: 'inherit',
  '& input': { p: '3px 6px', ml: '-6px', borderRadius: '5px', boxShadow: `inset 0 -1px ${paper.line}` },
  '& input:hover': { background: paper.page },
  '& input:focus': { background: paper.sheet, boxShadow: `0 0 0 2px ${plum.main}` },
} as const

function Amount({ label, value, quiet, onChange }: { label: string; value: number; quiet?: boolean; onChange(n: number): void }) {
  return (
    <td>
      <OutlinedInput
        size="small"
        type="number"
        value={value}
        onChange={e => Number.isFinite(Number(e.target.value)) && onChange(Number(e.target.value))}
        sx={{ width: 78, background: quiet && !value ? 'transparent' : paper.sheet, '& input': { color: value ? ink[1] : ink[3] } }}
        inputProps={{ 'aria-label': label, step: 'any' }}
      />
    </td>
  )
}
