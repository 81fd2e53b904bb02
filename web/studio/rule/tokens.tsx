import Autocomplete from '@mui/material/Autocomplete'
import Box from '@mui/material/Box'
import MenuItem from '@mui/material/MenuItem'
import Select from '@mui/material/Select'
import TextField from '@mui/material/TextField'
import { useEffect, useMemo, useState } from 'react'
import type { Op } from '../../kinds/reach'
import { brick, ink, plum } from '../parts/look/theme'
import { count } from '../parts/words/say'
import { useValues } from '../server/queries'
import { amountIn } from './typed'

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

/** One word of several, chosen from a list. A plain one is not a value but a turn of the sentence. */
export function WordSelect({
  label,
  value,
  options,
  wrong,
  plain,
  size = 14,
  onChange,
}: Token<string> & { options: readonly (readonly [string, string])[]; plain?: boolean; size?: number; onChange(value: string): void }) {
  const known = options.some(([key]) => key === value) ? options : [...options, [value, value] as const]
  return (
    <Select
      variant="standard"
      disableUnderline
      displayEmpty
      value={value}
      onChange={e => onChange(e.target.value)}
      inputProps={{ 'aria-label': label }}
      sx={{
        fontSize: size,
        ...(!plain && { fontWeight: 600, background: plum.wash, borderRadius: '4px 4px 0 0', borderBottom: `1.5px solid ${wrong ? brick.main : plum.main}` }),
        '& .MuiSelect-select': { p: plain ? '2px 22px 2px 0 !important' : '1px 22px 1px 7px !important' },
        '& svg': { fontSize: 17 },
      }}
      MenuProps={{ slotProps: { paper: { sx: { maxHeight: 420 } } } }}
    >
      {known.map(([key, name]) => (
        <MenuItem key={key} value={key}>
          {name}
        </MenuItem>
      ))}
    </Select>
  )
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

/** A number with its unit; “≥ 3” and the like give the comparison too. What is not a number yet is not passed on. */
export function NumberToken({ label, value, unit, wrong, onChange }: Token<unknown> & { unit?: string; onChange(n: number, as?: Op): void }) {
  const [typed, setTyped] = useState(String(value ?? ''))
  useEffect(() => {
    setTyped(t => (amountIn(t, unit)?.n === value ? t : String(value ?? '')))
  }, [value, unit])
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
          const said = amountIn(e.target.value, unit)
          if (said) onChange(said.n, said.op)
        }}
        onBlur={() => setTyped(String(value ?? ''))}
        style={{ width: `calc(${Math.max(2, typed.length)}ch + 16px)` }}
        sx={{ ...look(wrong || !amountIn(typed, unit)), textAlign: 'end' }}
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

type Value = string | number | boolean

// Made once: making one takes longer than asking it a thousand times.
const regions = new Intl.DisplayNames('en', { type: 'region', fallback: 'none' })

/** How a value of a fact is called by people. */
export function nameOf(fact: string, value: Value): string {
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  return fact === 'place.country' && /^[A-Z]{2}$/i.test(String(value)) ? (regions.of(String(value).toUpperCase()) ?? '') : ''
}

interface Recorded {
  fact: string
  /** The whole set of values, where the fact has one. */
  set?: string[]
  /** What people call the values of a set, which then keeps its order. */
  names?: Record<string, string>
}

/** Values of a fact to choose from: its set, or those of recorded visits, with how often they were seen. */
function useOffers({ fact, set, names }: Recorded, search: string, open: boolean) {
  const recorded = useValues(fact, set ? '' : search, open).data?.values
  return useMemo(() => {
    if (!open) return []
    const seen = new Map(recorded?.map(v => [String(v.value), v]))
    const all = set ? set.map(value => ({ value: value as Value, label: '', views: seen.get(value)?.views ?? 0 })) : (recorded ?? [])
    return all
      .map(v => ({ ...v, label: v.label || names?.[String(v.value)] || nameOf(fact, v.value) }))
      .filter(v => !set || `${v.value} ${v.label}`.toLowerCase().includes(search.toLowerCase()))
      .sort((a, b) => (names ? 0 : b.views - a.views))
  }, [recorded, set, names, fact, search, open])
}

type Offer = ReturnType<typeof useOffers>[number]

const Row = ({ offer, ...props }: { offer: Offer } & React.HTMLAttributes<HTMLLIElement>) => (
  <Box component="li" {...props} sx={{ display: 'flex !important', gap: '10px', fontSize: 13.5, alignItems: 'baseline !important' }}>
    <Box component="span" sx={{ fontWeight: 600, overflow: 'hidden', textOverflow: 'ellipsis' }}>
      {typeof offer.value === 'boolean' ? nameOf('', offer.value) : String(offer.value)}
    </Box>
    <Box component="span" sx={{ color: ink[2], flex: 1, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
      {typeof offer.value !== 'boolean' && offer.label}
    </Box>
    {offer.views > 0 && (
      <Box component="span" sx={{ color: ink[2], fontSize: 12.5 }}>
        {count(offer.views)}
      </Box>
    )}
  </Box>
)

const popper = { slotProps: { popper: { style: { width: 'auto', minWidth: 340, maxWidth: 560 }, placement: 'bottom-start' as const } } }

/** A value typed freely, with those of recorded visits offered by their real names. */
export function RecordedToken({
  label,
  value,
  wrong,
  fact,
  set,
  empty = '…',
  onChange,
}: Token<Value> & Recorded & { empty?: string; onChange(value: Value): void }) {
  const said = typeof value === 'boolean' ? nameOf('', value) : String(value ?? '')
  const [open, setOpen] = useState(false)
  const [search, setSearch] = useState('')
  const offers = useOffers({ fact, set }, search, open)
  const shown = set && value !== '' ? nameOf(fact, value) || said : said
  return (
    <Autocomplete<Offer, false, true, true>
      freeSolo
      disableClearable
      open={open && offers.length > 0}
      onOpen={() => setOpen(true)}
      onClose={() => setOpen(false)}
      options={offers}
      filterOptions={o => o}
      inputValue={set && open ? search : shown}
      getOptionLabel={o => (typeof o === 'string' ? o : String(o.value))}
      isOptionEqualToValue={() => false}
      onInputChange={(_, text, why) => {
        if (why !== 'input') return
        setSearch(text)
        if (!set) onChange(text)
        setOpen(true)
      }}
      onChange={(_, picked) => {
        if (typeof picked === 'object') onChange(picked.value)
        else if (!set) onChange(picked)
        setSearch('')
        setOpen(false)
      }}
      renderOption={({ key, ...props }, offer) => <Row key={String(offer.value)} {...props} offer={offer} />}
      {...popper}
      slotProps={{ popper: popper.slotProps.popper }}
      renderInput={params => (
        <Box ref={params.slotProps.input.ref} component="span">
          <Box
            component="input"
            {...(params.slotProps.htmlInput as object)}
            onFocus={e => {
              setSearch('')
              params.slotProps.htmlInput.onFocus?.(e as never)
            }}
            aria-label={label}
            aria-invalid={wrong || undefined}
            maxLength={2000}
            spellCheck={false}
            placeholder={empty}
            style={{ width: `calc(${Math.max(empty.length, 4, Math.min(46, shown.length))}ch + 18px)` }}
            sx={look(wrong)}
          />
        </Box>
      )}
    />
  )
}

/** Several values; where the fact has a set of them, from that set. */
export function ValuesToken({
  label,
  values,
  wrong,
  fact,
  set,
  names,
  onChange,
}: Recorded & { label: string; values: string[]; wrong?: boolean; onChange(values: string[]): void }) {
  const [search, setSearch] = useState('')
  const [open, setOpen] = useState(false)
  const offers = useOffers({ fact, set, names }, search, open).filter(o => !values.includes(String(o.value)))
  return (
    <Autocomplete<Offer | string, true, false, boolean>
      multiple
      freeSolo={!set}
      autoSelect={!set}
      open={open && offers.length > 0}
      onOpen={() => setOpen(true)}
      onClose={() => setOpen(false)}
      options={offers}
      filterOptions={o => o}
      getOptionLabel={o => (typeof o === 'string' ? names?.[o] || nameOf(fact, o) || o : String(o.value))}
      value={names && set ? set.filter(v => values.includes(v)) : values}
      inputValue={search}
      onInputChange={(_, text) => setSearch(text)}
      onChange={(_, next) => onChange([...new Set(next.map(v => (typeof v === 'string' ? v : String(v.value)).trim()).filter(Boolean))])}
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
      renderOption={({ key, ...props }, offer) => <Row key={String((offer as Offer).value)} {...props} offer={offer as Offer} />}
      slotProps={{ popper: popper.slotProps.popper, chip: { size: 'small', sx: { borderRadius: '4px', background: '#fff', fontWeight: 600 } } }}
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
