import MenuItem from '@mui/material/MenuItem'
import TextField, { type TextFieldProps } from '@mui/material/TextField'
import { type ReactNode, useState } from 'react'
import { type Control, type FieldPath, type FieldValues, useController } from 'react-hook-form'

// Fields of forms: each shows what is wrong with it, or else its help, below it.

interface Named<T extends FieldValues> {
  control: Control<T>
  name: FieldPath<T>
  label: string
  help?: ReactNode
}

type TextProps<T extends FieldValues> = Named<T> &
  Omit<TextFieldProps, 'name' | 'label' | 'value' | 'onChange' | 'error' | 'helperText'> & {
    /** How what is typed is brought to its form. */
    tidy?(text: string): string
    max?: number
  }

/** A line of text, or several. */
export function TextIn<T extends FieldValues>({ control, name, label, help, tidy = t => t, max, slotProps, ...rest }: TextProps<T>) {
  const { field, fieldState } = useController({ control, name })
  return (
    <TextField
      {...rest}
      label={label}
      value={field.value ?? ''}
      onChange={e => field.onChange(tidy(e.target.value))}
      onBlur={field.onBlur}
      inputRef={field.ref}
      error={!!fieldState.error}
      helperText={fieldState.error?.message ?? help}
      slotProps={{ ...slotProps, htmlInput: { maxLength: max, ...(slotProps?.htmlInput as object) } }}
    />
  )
}

/** A whole number within bounds. What is typed counts once it fits; leaving puts it within. */
export function NumberIn<T extends FieldValues>({
  control,
  name,
  label,
  help,
  min,
  max,
  ...rest
}: Named<T> & { min: number; max: number } & Pick<TextFieldProps, 'sx'>) {
  const { field, fieldState } = useController({ control, name })
  const [typed, setTyped] = useState<string | null>(null)
  const take = (text: string) => {
    setTyped(text)
    const n = Number(text)
    if (text.trim() !== '' && Number.isInteger(n) && n >= min && n <= max) field.onChange(n)
  }
  return (
    <TextField
      {...rest}
      label={label}
      type="number"
      value={typed ?? field.value}
      onChange={e => take(e.target.value)}
      onBlur={() => {
        const n = Math.round(Number(typed))
        if (typed?.trim() && Number.isFinite(n)) field.onChange(Math.max(min, Math.min(max, n)))
        setTyped(null)
        field.onBlur()
      }}
      inputRef={field.ref}
      error={!!fieldState.error}
      helperText={fieldState.error?.message ?? help}
      slotProps={{ htmlInput: { min, max } }}
    />
  )
}

/** One of several, each a value and its name. */
export function ChoiceIn<T extends FieldValues>({
  control,
  name,
  label,
  help,
  options,
  number,
  sx,
}: Named<T> & { options: readonly (readonly [string, string])[]; number?: boolean } & Pick<TextFieldProps, 'sx'>) {
  const { field, fieldState } = useController({ control, name })
  const value = String(field.value ?? (number ? 0 : ''))
  return (
    <TextField
      select
      label={label}
      value={value}
      onChange={e => field.onChange(number ? Number(e.target.value) : e.target.value)}
      onBlur={field.onBlur}
      error={!!fieldState.error}
      helperText={fieldState.error?.message ?? help}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
      sx={sx}
    >
      {options.map(([key, name]) => (
        <MenuItem key={key} value={key}>
          {name}
        </MenuItem>
      ))}
      {!options.some(([key]) => key === value) && <MenuItem value={value}>{value}</MenuItem>}
    </TextField>
  )
}
