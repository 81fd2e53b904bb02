import OutlinedInput from '@mui/material/OutlinedInput'
import { useEffect, useRef, useState } from 'react'

const rest = 150 // ms after the last letter that it is looked for

interface Props {
  label: string
  placeholder?: string
  /** What is looked for, as the address has it. */
  value: string
  onChange(search: string): void
  width: number
  most?: number
  sx?: object
}

/**
 * Where one types what is looked for. The letters are its own, however long the
 * screen takes to follow; what an input method composes is looked for once it stands.
 */
export function SearchBox({ label, placeholder, value, onChange, width, most = 200, sx }: Props) {
  const [typed, setTyped] = useState(value)
  const told = useRef(value)
  const timer = useRef(0)
  // What is told waits, and by then other filters may have changed.
  const tellNow = useRef(onChange)
  useEffect(() => {
    tellNow.current = onChange
  })
  useEffect(() => {
    // Changed from elsewhere, such as by the back button, which is later than what waits.
    if (value === told.current) return
    clearTimeout(timer.current)
    told.current = value
    setTyped(value)
  }, [value])
  useEffect(() => () => clearTimeout(timer.current), [])
  const tell = (text: string, ms = rest) => {
    clearTimeout(timer.current)
    timer.current = window.setTimeout(() => {
      told.current = text
      tellNow.current(text)
    }, ms)
  }
  return (
    <OutlinedInput
      size="small"
      type="search"
      placeholder={placeholder}
      value={typed}
      onChange={e => {
        setTyped(e.target.value)
        if (!(e.nativeEvent as InputEvent).isComposing) tell(e.target.value)
      }}
      inputProps={{
        'aria-label': label,
        maxLength: most,
        onCompositionEnd: e => tell(e.currentTarget.value),
        onKeyDown: e => e.key === 'Enter' && tell(e.currentTarget.value, 0),
      }}
      sx={{ width, ...sx }}
    />
  )
}
