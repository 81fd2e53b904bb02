import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import InputAdornment from '@mui/material/InputAdornment'
import OutlinedInput from '@mui/material/OutlinedInput'
import Popover from '@mui/material/Popover'
import { useEffect, useState } from 'react'
import { HexColorInput, HexColorPicker } from 'react-colorful'
import { paper, plum } from '../theme'

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

interface ColorProps {
  id?: string
  label: string
  value: string
  /** Colours at hand: those the design has already. */
  near: string[]
  onChange(color: string): void
}

/** A colour: those at hand, or any. */
export function ColorField({ id, label, value, near, onChange }: ColorProps) {
  const [open, setOpen] = useState<HTMLElement | null>(null)
  return (
    <Box sx={{ display: 'flex', gap: '6px', flexWrap: 'wrap' }}>
      <Swatch id={id} color={value} on label={`${label}: ${value}, change`} onClick={e => setOpen(e.currentTarget)} />
      {near
        .filter(c => c !== value)
        .slice(0, 4)
        .map(c => (
          <Swatch key={c} color={c} label={`${label}: ${c}`} onClick={() => onChange(c)} />
        ))}
      <Popover open={!!open} anchorEl={open} onClose={() => setOpen(null)} anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}>
        <Box sx={{ p: 1.5, display: 'grid', gap: 1 }}>
          <HexColorPicker color={value} onChange={c => onChange(full(c))} />
          <Box
            component={HexColorInput}
            color={value}
            onChange={(c: string) => onChange(full(c))}
            prefixed
            aria-label={`${label}, as hex`}
            sx={{ font: 'inherit', p: '6px 9px', border: `1px solid ${paper.strong}`, borderRadius: '6px', width: 200 }}
          />
        </Box>
      </Popover>
    </Box>
  )
}

/** #abc is #aabbcc. */
const full = (c: string) => (c.length === 4 ? '#' + [...c.slice(1)].map(x => x + x).join('') : c).toLowerCase()

function Swatch({ color, on, label, onClick, id }: { color: string; on?: boolean; label: string; id?: string; onClick: React.MouseEventHandler<HTMLElement> }) {
  return (
    <ButtonBase
      id={id}
      aria-label={label}
      title={color}
      onClick={onClick}
      style={{ background: color }}
      sx={{
        width: 24,
        height: 24,
        borderRadius: '6px',
        boxShadow: 'inset 0 0 0 1px rgb(0 0 0 / .16)',
        ...(on && { outline: `2px solid ${plum.main}`, outlineOffset: 2, mr: '5px', ml: '2px' }),
      }}
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
