import Add from '@mui/icons-material/Add'
import Close from '@mui/icons-material/Close'
import Autocomplete from '@mui/material/Autocomplete'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogTitle from '@mui/material/DialogTitle'
import IconButton from '@mui/material/IconButton'
import MenuItem from '@mui/material/MenuItem'
import OutlinedInput from '@mui/material/OutlinedInput'
import Select from '@mui/material/Select'
import TextField from '@mui/material/TextField'
import { useQuery } from '@tanstack/react-query'
import { useDeferredValue, useRef, useState } from 'react'
import type { Case, Design, Field, Formula } from '../../../../kinds/piece'
import { written } from '../../../../page/values'
import { flat, freshID, keysOf } from '../../../design/tree'
import { TextButton } from '../../../parts/look/TextButton'
import { brick, ink, moss, paper } from '../../../parts/look/theme'
import { useFault } from '../../../piece/draft'
import { api } from '../../../server/api'
import { useSite } from '../../../server/queries'
import { changeDesign } from '../../commands/change'
import { useScene } from '../../commands/view'

const functions = ['min(', 'max(', 'abs(', 'round(', 'floor(', 'ceil(', 'sqrt(', 'ln(', 'exp(', 'pow(', 'if(', 'payment(']

/** Names that formulas may use: answers that are numbers or stand for them, their choices, and the score. */
function inputsOf(design: Design): { name: string; says: string }[] {
  const fields = design.scenes.flatMap(s => flat(s.blocks)).filter((b): b is Field => b.kind === 'field')
  const numeric = fields.filter(f => /^(number|slider|scale|stars|choices?|dropdown|order|consent)$/.test(f.ask) || (f.ask === 'text' && f.right?.length))
  return [
    ...numeric.map(f => ({ name: f.key, says: f.label })),
    ...numeric.flatMap(f => (f.ask === 'order' ? [] : (f.choices ?? []).map(c => ({ name: `${f.key}.${c.id}`, says: `1 for ${c.label}, else 0` })))),
    ...(fields.some(f => f.key === 'score') ? [] : [{ name: 'score', says: 'score of all answers' }]),
  ]
}

/** Gives a formula another name, wherever it is named. */
function rename(design: Design, i: number, to: string) {
  const from = design.formulas![i].name
  design.formulas![i].name = to
  // While it is empty, or the name of another, nothing else follows it.
  if (!from || !to || design.formulas!.some((f, k) => k !== i && (f.name === to || f.name === from))) return
  const named = new RegExp(`(^|[^a-zA-Z0-9_.])${from}(?![a-zA-Z0-9_.(])`, 'g')
  for (const f of design.formulas!) f.formula = f.formula.replace(named, `$1${to}`)
  for (const s of design.scenes) {
    for (const b of flat(s.blocks)) if (b.kind === 'value' && b.formula === from) b.formula = to
    for (const e of s.edges ?? []) for (const t of e.when ?? []) if (t.of === from) t.of = to
  }
  for (const c of design.cases ?? [])
    if (from in c.wants) {
      c.wants[to] = c.wants[from]
      delete c.wants[from]
    }
}

/** What an input is in a sample that says nothing of it. */
function usual(design: Design, name: string): number {
  const f = design.scenes.flatMap(s => flat(s.blocks)).find((b): b is Field => b.kind === 'field' && b.key === name)
  if (!f) return 0
  if (f.choices?.length) return f.choices[0].score ?? 0
  return Number(f.start || f.least || (f.ask === 'slider' ? 0 : 1))
}

/** The formulas of a piece: each with its value, and samples that they are held to. */
export default function Formulas({ onClose }: { onClose(): void }) {
  const { design, at } = useScene()
  const formulas = design.formulas ?? []
  const inputs = inputsOf(design)
  const used = inputs.filter(i => formulas.some(f => new RegExp(`(^|[^a-z0-9_.])${i.name.replace('.', '\\.')}($|[^a-z0-9_.])`).test(f.formula)))
  const [sample, setSample] = useState<Record<string, number>>({})
  const cases = design.cases ?? []
  const of = (name: string, over: Record<string, number>) => over[name] ?? usual(design, name)
  const samples = [sample, ...cases.map(c => c.inputs)].map(over => Object.fromEntries(inputs.map(i => [i.name, of(i.name, over)])))
  const site = useSite().id
  const asked = useDeferredValue(
    JSON.stringify({ formulas: formulas.map(f => ({ name: f.name, formula: f.formula })), inputs: inputs.map(i => i.name), samples }),
  )
  const found = useQuery({
    queryKey: ['reckon', site, asked],
    queryFn: ({ signal }) => api('POST /sites/:site/reckon', { site }, { body: JSON.parse(asked), signal }),
    placeholderData: before => before,
    staleTime: Number.POSITIVE_INFINITY,
  })
  const set = (i: number, how: (f: Formula) => void) => changeDesign(d => how(d.formulas![i]), 'formula ' + i)
  const add = () =>
    changeDesign(d => {
      const name = freshID('value', [...keysOf(d.scenes), ...(d.formulas ?? []).map(f => f.name)])
      const first = inputs.find(i => !i.name.includes('.') && i.name !== 'score')
      d.formulas = [...(d.formulas ?? []), { name, formula: first ? `${first.name} * 2` : '1 + 1' }]
    })
  return (
    <Dialog open onClose={onClose} maxWidth={false} fullWidth aria-labelledby="formulas-title" slotProps={{ paper: { sx: { maxWidth: 1080 } } }}>
      <DialogTitle id="formulas-title" variant="h2" sx={{ display: 'flex', alignItems: 'center', gap: 2 }}>
        Formulas
        <Box component="span" sx={{ fontSize: 13, fontFamily: 'inherit', color: ink[2], fontWeight: 400 }}>
          Show one with a Value block, or as {'{name}'} in a text.
        </Box>
        <Button variant="outlined" size="small" onClick={onClose} sx={{ ml: 'auto' }}>
          Close
        </Button>
      </DialogTitle>
      <Box sx={{ overflow: 'auto', borderTop: `1px solid ${paper.line}`, maxHeight: '70vh', p: '14px 24px 22px', fontSize: 13.5 }}>
        {inputs.length > 1 && (
          <Box sx={{ color: ink[2], mb: '12px', fontSize: 13 }}>
            Names to use:{' '}
            {inputs
              .filter(i => !i.name.includes('.') && i.name !== 'score')
              .map((i, n) => (
                <span key={i.name}>
                  {n > 0 && ', '}
                  <code style={{ color: ink[1] }}>{i.name}</code> ({i.says})
                </span>
              ))}
            . Suggestions appear as you type.
          </Box>
        )}
        {formulas.length === 0 && (
          <Box sx={{ color: ink[2], mb: '10px' }}>A formula computes a value from the visitor’s answers: a cost, an amount, a saving.</Box>
        )}
        {formulas.map((f, i) => (
          <One
            key={i}
            formula={f}
            names={[...inputs.map(x => x.name), ...formulas.filter(x => x !== f).map(x => x.name)]}
            says={Object.fromEntries(inputs.map(x => [x.name, x.says]))}
            value={found.data?.values[0]?.[i]}
            fault={found.data?.faults.find(x => x.at === `formulas[${i}]`)}
            at={`${at}.formulas[${i}]`}
            set={how => set(i, how)}
            onRename={to => changeDesign(d => rename(d as Design, i, to), 'formula ' + i)}
            onRemove={() =>
              changeDesign(d => {
                d.formulas!.splice(i, 1)
                if (!d.formulas!.length) delete d.formulas
              })
            }
          />
        ))}
        <Box sx={{ mt: '8px', display: 'flex', alignItems: 'center', gap: '4px' }}>
          <Add sx={{ fontSize: 16, color: 'primary.main' }} />
          <TextButton onClick={add}>Add a formula</TextButton>
        </Box>
        {formulas.length > 0 && (
          <Samples
            design={design}
            formulas={formulas}
            used={used.map(u => u.name)}
            sample={sample}
            setSample={setSample}
            values={found.data?.values ?? []}
            valueOf={of}
          />
        )}
      </Box>
    </Dialog>
  )
}

function One({
  formula: f,
  names,
  says,
  value,
  fault,
  at,
  set,
  onRename,
  onRemove,
}: {
  formula: Formula
  names: string[]
  says: Record<string, string>
  value?: number | null
  fault?: { message: string; character?: number }
  at: string
  set(how: (f: Formula) => void): void
  onRename(to: string): void
  onRemove(): void
}) {
  const nameFault = useFault(`${at}.name`)
  const currencyFault = useFault(`${at}.currency`)
  const input = useRef<HTMLInputElement>(null)
  /** The name that is being typed before the caret. */
  const word = (text: string) => /[a-z_][a-z0-9_.]*$/i.exec(text.slice(0, input.current?.selectionStart ?? text.length))?.[0] ?? ''
  const character = fault?.character ? fault.character - 1 : undefined
  return (
    <Box sx={{ borderBottom: `1px solid ${paper.line}`, pb: '12px', mb: '12px' }}>
      <Box sx={{ display: 'grid', gridTemplateColumns: '150px 20px minmax(0, 1fr) 150px 34px', gap: '8px', alignItems: 'center' }}>
        <OutlinedInput
          size="small"
          value={f.name}
          onChange={e => onRename(e.target.value.toLowerCase().replace(/[^a-z0-9_]/g, '_'))}
          inputProps={{ 'aria-label': 'Name', maxLength: 40 }}
          error={!!nameFault}
        />
        <span aria-hidden>=</span>
        <Autocomplete
          freeSolo
          disableClearable
          openOnFocus={false}
          options={[...names, ...functions]}
          inputValue={f.formula}
          value={f.formula}
          onInputChange={(_, text, why) => why === 'input' && set(x => void (x.formula = text.slice(0, 2000)))}
          // What is chosen takes the place of the name that was being typed, and leaves the rest.
          onChange={(_, chosen) => {
            const caret = input.current?.selectionStart ?? f.formula.length
            const typed = word(f.formula)
            const text = f.formula.slice(0, caret - typed.length) + chosen + f.formula.slice(caret)
            set(x => void (x.formula = text))
            const to = caret - typed.length + chosen.length
            setTimeout(() => input.current?.setSelectionRange(to, to))
          }}
          filterOptions={options => {
            const typed = word(f.formula).toLowerCase()
            return typed ? options.filter(o => o.toLowerCase().startsWith(typed) && o !== typed).slice(0, 8) : []
          }}
          renderOption={({ key, ...props }, o) => (
            <li key={key} {...props}>
              <b>{o}</b>
              <Box component="span" sx={{ color: ink[2], ml: 1, fontSize: 12.5 }}>
                {says[o]}
              </Box>
            </li>
          )}
          renderInput={params => (
            <TextField
              {...params}
              size="small"
              error={!!fault}
              inputRef={input}
              slotProps={{
                ...params.slotProps,
                htmlInput: {
                  ...params.slotProps.htmlInput,
                  'aria-label': `Formula of ${f.name}`,
                  spellCheck: false,
                  maxLength: 2000,
                  style: { fontFamily: 'ui-monospace, monospace', fontSize: 13.5 },
                },
              }}
            />
          )}
        />
        <Box sx={{ fontSize: 17, fontWeight: 650, textAlign: 'end' }} aria-label={`Value of ${f.name}`}>
          {typeof value === 'number' ? written(value, f) : <Box sx={{ color: ink[3], fontWeight: 400, fontSize: 13 }}>no value</Box>}
        </Box>
        <IconButton size="small" aria-label={`Delete ${f.name}`} onClick={onRemove}>
          <Close sx={{ fontSize: 17 }} />
        </IconButton>
      </Box>
      {fault && (
        <Box role="alert" sx={{ color: brick.main, fontWeight: 600, mt: '4px', ml: '186px' }}>
          {character !== undefined && character < f.formula.length && (
            <Box component="code" sx={{ display: 'block', fontSize: 13, color: ink[2], fontWeight: 400, whiteSpace: 'pre', overflow: 'hidden' }}>
              {f.formula.slice(Math.max(0, character - 24), character)}
              <Box component="mark" sx={{ background: brick.wash, color: brick.main, fontWeight: 700, borderBottom: `2px solid ${brick.main}` }}>
                {/^[a-z_][a-z0-9_.]*/i.exec(f.formula.slice(character))?.[0] ?? f.formula[character]}
              </Box>
              {f.formula.slice(character + (/^[a-z_][a-z0-9_.]*/i.exec(f.formula.slice(character))?.[0].length ?? 1), character + 30)}
            </Box>
          )}
          {fault.message[0].toUpperCase() + fault.message.slice(1)}
          {character !== undefined && `, at character ${character + 1}`}.
        </Box>
      )}
      {(nameFault || currencyFault) && (
        <Box role="alert" sx={{ color: brick.main, fontWeight: 600, mt: '4px' }}>
          {nameFault ?? currencyFault}
        </Box>
      )}
      <Box sx={{ display: 'flex', gap: '8px', alignItems: 'center', mt: '6px', ml: '186px', color: ink[2] }}>
        Format
        <Select
          size="small"
          value={f.style ?? ''}
          displayEmpty
          onChange={e =>
            set(x => {
              const to = e.target.value as Formula['style'] | ''
              if (to) x.style = to
              else delete x.style
              if (to === 'money') x.currency ??= 'EUR'
              else delete x.currency
            })
          }
          inputProps={{ 'aria-label': `Format of ${f.name}` }}
        >
          <MenuItem value="">Number</MenuItem>
          <MenuItem value="money">Currency</MenuItem>
          <MenuItem value="percent">Percent</MenuItem>
        </Select>
        {f.style === 'money' && (
          <OutlinedInput
            size="small"
            value={f.currency ?? ''}
            onChange={e => set(x => void (x.currency = e.target.value.toUpperCase().slice(0, 3)))}
            sx={{ width: 76 }}
            inputProps={{ 'aria-label': `Currency of ${f.name}` }}
            error={!!currencyFault}
          />
        )}
        with
        <Select
          size="small"
          value={f.places === undefined ? '' : String(f.places)}
          displayEmpty
          onChange={e =>
            set(x => {
              if (e.target.value) x.places = Number(e.target.value)
              else delete x.places
            })
          }
          inputProps={{ 'aria-label': `Decimals of ${f.name}` }}
        >
          <MenuItem value="">default</MenuItem>
          {[0, 1, 2, 3, 4].map(n => (
            <MenuItem key={n} value={String(n)}>
              {n}
            </MenuItem>
          ))}
        </Select>
        decimals
      </Box>
    </Box>
  )
}

const near = (a: number, b: number) => Math.abs(a - b) <= 1e-6 * Math.max(1, Math.abs(a), Math.abs(b))

/** Samples: one to play with, and those that are kept with what is expected of them. */
function Samples({
  design,
  formulas,
  used,
  sample,
  setSample,
  values,
  valueOf,
}: {
  design: Design
  formulas: readonly Formula[]
  used: string[]
  sample: Record<string, number>
  setSample(s: Record<string, number>): void
  values: readonly (readonly (number | null)[])[]
  valueOf(name: string, over: Record<string, number>): number
}) {
  const cases = design.cases ?? []
  const columns = `150px repeat(${used.length}, minmax(80px, 1fr)) repeat(${formulas.length}, minmax(110px, 1fr)) 34px`
  const change = (i: number, how: (c: Case) => void) => changeDesign(d => how(d.cases![i]), 'case ' + i)
  const row = { display: 'grid', gridTemplateColumns: columns, gap: '6px 8px', alignItems: 'center', py: '3px' }
  const number = (label: string, value: number, put: (n: number) => void) => (
    <OutlinedInput size="small" type="number" value={value} onChange={e => put(Number(e.target.value))} inputProps={{ 'aria-label': label, step: 'any' }} />
  )
  return (
    <Box sx={{ mt: '22px' }}>
      <Box component="h3" sx={{ m: '0 0 4px', fontSize: 15 }}>
        Sample cases
      </Box>
      <Box sx={{ color: ink[2], mb: '8px' }}>Try inputs, and save cases whose results you know: they are checked whenever a formula changes.</Box>
      <Box sx={{ overflowX: 'auto' }}>
        <Box sx={{ ...row, color: ink[2], fontSize: 12.5 }}>
          <span />
          {used.map(name => (
            <span key={name}>{name}</span>
          ))}
          {formulas.map(f => (
            <b key={f.name}>{f.name}</b>
          ))}
        </Box>
        <Box sx={row}>
          <span>Try</span>
          {used.map(name => (
            <span key={name}>{number(`Try ${name}`, valueOf(name, sample), n => setSample({ ...sample, [name]: n }))}</span>
          ))}
          {formulas.map((f, i) => (
            <span key={f.name}>{typeof values[0]?.[i] === 'number' ? written(values[0][i]!, f) : '—'}</span>
          ))}
          <span />
        </Box>
        {cases.map((c, k) => (
          <Box key={k} sx={row} data-case={k}>
            <OutlinedInput
              size="small"
              value={c.name ?? ''}
              placeholder={`Case ${k + 1}`}
              onChange={e => change(k, x => void (x.name = e.target.value))}
              inputProps={{ 'aria-label': `Name of case ${k + 1}`, maxLength: 120 }}
            />
            {used.map(name => (
              <span key={name}>{number(`Case ${k + 1}, ${name}`, valueOf(name, c.inputs), n => change(k, x => void (x.inputs[name] = n)))}</span>
            ))}
            {formulas.map((f, i) => {
              const got = values[k + 1]?.[i]
              const want = c.wants[f.name]
              const fine = want === undefined || (typeof got === 'number' && near(got, want))
              return (
                <span key={f.name}>
                  {want === undefined ? (
                    <TextButton onClick={() => typeof got === 'number' && change(k, x => void (x.wants[f.name] = got))}>
                      {typeof got === 'number' ? written(got, f) : '—'}
                    </TextButton>
                  ) : (
                    <Box sx={{ display: 'flex', alignItems: 'center', gap: '6px' }}>
                      {number(`Case ${k + 1}, ${f.name} expected`, want, n => change(k, x => void (x.wants[f.name] = n)))}
                      <Box
                        component="b"
                        sx={{ color: fine ? moss.ink : brick.main }}
                        title={fine ? 'As expected' : `The result is ${typeof got === 'number' ? written(got, f) : 'not a number'}`}
                      >
                        {fine ? '✓' : '✗'}
                      </Box>
                    </Box>
                  )}
                </span>
              )
            })}
            <IconButton
              size="small"
              aria-label={`Delete case ${k + 1}`}
              onClick={() =>
                changeDesign(d => {
                  d.cases!.splice(k, 1)
                  if (!d.cases!.length) delete d.cases
                })
              }
            >
              <Close sx={{ fontSize: 16 }} />
            </IconButton>
          </Box>
        ))}
      </Box>
      <Box sx={{ mt: '6px', display: 'flex', alignItems: 'center', gap: '4px' }}>
        <Add sx={{ fontSize: 16, color: 'primary.main' }} />
        <TextButton
          onClick={() =>
            changeDesign(d => {
              const inputs = Object.fromEntries(used.map(name => [name, valueOf(name, sample)]))
              const wants = Object.fromEntries(formulas.flatMap((f, i) => (typeof values[0]?.[i] === 'number' ? [[f.name, values[0][i]!]] : [])))
              d.cases = [...(d.cases ?? []), { inputs, wants }]
            })
          }
        >
          Save as a case
        </TextButton>
      </Box>
    </Box>
  )
}
