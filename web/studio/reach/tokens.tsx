import Autocomplete from '@mui/material/Autocomplete'
import Box from '@mui/material/Box'
import TextField from '@mui/material/TextField'
import { useEffect, useState } from 'react'
import { brick, plum } from '../theme'

// Values within a sentence: inputs that look like words.

const look = (wrong?: boolean) => ({
  font: 'inherit',
  fontSize: 14,
  fontWeight: 600,
  color: 'inherit',
  background: plum.wash,
  border: 0,
  borderBottom: `1.5px solid ${wrong ? brick.main : plum.main}`,
  borderRadius: '4px 4px 0 0',
  p: '1px 7px',
  outline: 'none',
  '&:focus': { boxShadow: `inset 0 0 0 2px ${plum.main}` },
})

interface Token<T> {
  label: string
  value: T
  wrong?: boolean
}

/** A text; it is as wide as what it says. */
export function TextToken({ label, value, wrong, onChange, mono }: Token<string> & { mono?: boolean; onChange(text: string): void }) {
  return (
    <Box
      component="input"
      aria-label={label}
      aria-invalid={wrong || undefined}
      value={value}
      maxLength={2000}
      spellCheck={false}
      placeholder="…"
      onChange={e => onChange(e.target.value)}
      style={{ width: `calc(${Math.max(4, Math.min(46, value.length))}ch + 18px)` }}
      sx={{ ...look(wrong), ...(mono && { fontFamily: 'ui-monospace, monospace', fontSize: 13 }) }}
    />
  )
}

/** A number with its unit. What is not one yet is not passed on. */
export function NumberToken({ label, value, unit, wrong, onChange }: Token<unknown> & { unit?: string; onChange(n: number): void }) {
  const [typed, setTyped] = useState(String(value ?? ''))
  useEffect(() => {
    setTyped(t => (t.trim() !== '' && Number(t) === value ? t : String(value ?? '')))
  }, [value])
  return (
    <Box component="span" sx={{ display: 'inline-flex', alignItems: 'baseline', gap: '4px' }}>
      <Box
        component="input"
        inputMode="decimal"
        aria-label={label}
        aria-invalid={wrong || undefined}
        value={typed}
        onChange={e => {
          setTyped(e.target.value)
          const n = Number(e.target.value.replace(',', '.'))
          if (e.target.value.trim() && Number.isFinite(n)) onChange(n)
        }}
        onBlur={() => setTyped(String(value ?? ''))}
        style={{ width: `calc(${Math.max(2, typed.length)}ch + 16px)` }}
        sx={{ ...look(wrong || !Number.isFinite(Number(typed.replace(',', '.')))), textAlign: 'end' }}
      />
      {unit}
    </Box>
  )
}

/** A time of day, kept in minutes since midnight. */
export function TimeToken({ label, value, wrong, onChange }: Token<unknown> & { onChange(minutes: number): void }) {
  const minutes = Number(value) || 0
  const two = (n: number) => String(n).padStart(2, '0')
  return (
    <Box
      component="input"
      type="time"
      aria-label={label}
      value={`${two(Math.floor(minutes / 60) % 24)}:${two(minutes % 60)}`}
      onChange={e => {
        const [h, m] = e.target.value.split(':').map(Number)
        if (Number.isFinite(h + m)) onChange(h * 60 + m)
      }}
      sx={look(wrong)}
    />
  )
}

/** Several values; where the fact has a set of them, from that set. */
export function ValuesToken({
  label,
  values,
  options,
  wrong,
  onChange,
}: {
  label: string
  values: string[]
  options?: string[]
  wrong?: boolean
  onChange(values: string[]): void
}) {
  return (
    <Autocomplete
      multiple
      freeSolo={!options}
      autoSelect={!options}
      options={options ?? []}
      value={values}
      onChange={(_, next) => onChange(next.map(v => v.trim()).filter(Boolean))}
      size="small"
      sx={{
        minWidth: 200,
        maxWidth: 420,
        '& .MuiInputBase-root': {
          py: '2px',
          borderBottom: `1.5px solid ${wrong ? brick.main : plum.main}`,
          background: plum.wash,
          borderRadius: '4px 4px 0 0',
        },
      }}
      slotProps={{ chip: { size: 'small', sx: { borderRadius: '4px', background: '#fff', fontWeight: 600 } } }}
      renderInput={params => (
        <TextField
          {...params}
          variant="standard"
          placeholder={values.length ? '' : 'type, then Enter'}
          slotProps={{
            ...params.slotProps,
            input: { ...params.slotProps.input, disableUnderline: true },
            htmlInput: { ...params.slotProps.htmlInput, 'aria-label': label },
          }}
        />
      )}
    />
  )
}
