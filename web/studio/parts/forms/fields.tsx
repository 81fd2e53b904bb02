import InputAdornment from '@mui/material/InputAdornment'
import OutlinedInput from '@mui/material/OutlinedInput'
import { useEffect, useState } from 'react'

/** A whole number within bounds. What is typed counts once it fits; leaving puts it within. */
export function NumberField({
  id,
  value,
  unit,
  min,
  max,
  onChange,
  label,
}: {
  id?: string
  value: number
  unit?: string
  min: number
  max: number
  onChange(n: number): void
  label?: string
}) {
  const [typed, setTyped] = useState(String(value))
  useEffect(() => setTyped(t => (Number(t) === value && t.trim() !== '' ? t : String(value))), [value])
  const take = (text: string, leaving: boolean) => {
    setTyped(text)
    const n = Math.round(Number(text))
    if (text.trim() === '' || !Number.isFinite(n)) return leaving && setTyped(String(value))
    const within = Math.max(min, Math.min(max, n))
    if (n === within || leaving) onChange(within)
    if (leaving) setTyped(String(within))
  }
  return (
    <OutlinedInput
      id={id}
      size="small"
      fullWidth
      type="number"
      value={typed}
      onChange={e => take(e.target.value, false)}
      onBlur={e => take(e.target.value, true)}
      inputProps={{ min, max, step: 1, 'aria-label': label }}
      endAdornment={unit && <InputAdornment position="end">{unit}</InputAdornment>}
    />
  )
}
