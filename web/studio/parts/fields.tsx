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

/** Contrast ratio of two #rrggbb colours (WCAG 2.2). */
export function contrast(a: string, b: string): number {
  const luminance = (c: string) => {
    const [r, g, bl] = [1, 3, 5].map(i => {
      const s = Number.parseInt(c.slice(i, i + 2), 16) / 255
      return s <= 0.04045 ? s / 12.92 : ((s + 0.055) / 1.055) ** 2.4
    })
    return 0.2126 * r + 0.7152 * g + 0.0722 * bl
  }
  const [x, y] = [luminance(a), luminance(b)]
  return (Math.max(x, y) + 0.05) / (Math.min(x, y) + 0.05)
}
