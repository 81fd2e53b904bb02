import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Checkbox from '@mui/material/Checkbox'
import Dialog from '@mui/material/Dialog'
import DialogTitle from '@mui/material/DialogTitle'
import MenuItem from '@mui/material/MenuItem'
import OutlinedInput from '@mui/material/OutlinedInput'
import Select from '@mui/material/Select'
import type { Choice, Field } from '../../../kinds/piece'
import { ink, paper } from '../../theme'
import { chooses } from '../document/blocks'
import { flat } from '../document/tree'
import { changeDesign, useScene } from '../view'

/** The score of every answer, and its weight for each result. */
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
        Scores and weights
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
                  {r.name}
                </Box>
              ))}
            </tr>
          </thead>
          {questions.map(({ scene, field }) => (
            <tbody key={scene + field.id}>
              <tr>
                <Box component="th" scope="rowgroup" colSpan={3 + results.length} sx={{ '&&': { fontWeight: 650, pt: '14px', pb: '4px' } }}>
                  {field.label}
                </Box>
              </tr>
              {(field.choices ?? []).map(c => (
                <tr key={c.id}>
                  <Box component="th" scope="row" sx={{ '&&': { pl: '14px' } }}>
                    {c.label}
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
            </tbody>
          ))}
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
