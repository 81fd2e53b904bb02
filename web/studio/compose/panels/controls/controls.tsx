import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import MenuItem from '@mui/material/MenuItem'
import OutlinedInput from '@mui/material/OutlinedInput'
import Select from '@mui/material/Select'
import Switch from '@mui/material/Switch'
import Tooltip from '@mui/material/Tooltip'
import Typography from '@mui/material/Typography'
import { createContext, type ReactNode, useContext, useId, useState } from 'react'
import type { Color } from '../../../../kinds/style'
import { ColourField } from '../../../parts/forms/ColourField'
import { contrast } from '../../../parts/forms/contrast'
import { NumberField } from '../../../parts/forms/fields'
import { apricot, brick, ink, moss, paper, plum } from '../../../parts/look/theme'
import { useFault } from '../../../piece/draft'
import { useSite } from '../../../server/queries'

// Settings of one thing. Each control names the property it sets, and from that
// knows its value, its place in the document, what is wrong there, and whether
// it differs on phones.

export interface Thing {
  /** The thing as the device in view has it. */
  shown: object
  at: string
  set(how: (thing: never) => void): void
  /** Properties that differ on phones. */
  differs: string[]
  putBack(key: string): void
  /** Colours the design has. */
  near: Color[]
}

export const ThingContext = createContext<Thing>(null as never)

const steps = (path: string) => path.split('.')

export function valueAt(thing: object, path: string): unknown {
  return steps(path).reduce<unknown>((at, key) => (at as Record<string, unknown> | undefined)?.[key], thing)
}

/** Sets a property; empty values of optional ones are left out. */
export function setAt(thing: object, path: string, value: unknown) {
  const keys = steps(path)
  let at = thing as Record<string, unknown>
  for (const key of keys.slice(0, -1)) at = (at[key] ??= {}) as Record<string, unknown>
  if (value === undefined) delete at[keys.at(-1)!]
  else at[keys.at(-1)!] = value
  // An object left empty is removed, except for those that are always there.
  if (keys.length === 2 && !['backdrop', 'close'].includes(keys[0]) && Object.keys(at).length === 0) delete (thing as Record<string, unknown>)[keys[0]]
}

function useValue<T>(k: string): [T | undefined, (value: T | undefined) => void] {
  const { shown, set } = useContext(ThingContext)
  return [valueAt(shown, k) as T | undefined, value => set(thing => setAt(thing, k, value))]
}

interface RowProps {
  label: string
  k?: string
  /** A place in the document, where it is not that of k. */
  at?: string
  wide?: boolean
  children: (id: string) => ReactNode
}

/** A setting: what it is, what it is set to, and what is wrong with that at its place in the document. */
export function Row({ label, k, at, wide, children }: RowProps) {
  const thing = useContext(ThingContext)
  const place = at ?? (thing && k ? `${thing.at}.${k}` : '?')
  const fault = useFault(place)
  const id = useId()
  const key = k && steps(k)[0]
  const differs = key && thing?.differs.includes(key)
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: wide ? '1fr' : '98px minmax(0, 1fr)', alignItems: 'center', gap: '3px 8px', p: '4px 16px', fontSize: 13 }}>
      <Box component="label" htmlFor={id} sx={{ color: ink[2], display: 'flex', gap: '5px', alignItems: 'center' }}>
        {label}
        {differs && (
          <Tooltip title="Different on phones. Reset">
            <ButtonBase
              aria-label={`Reset ${label} on phones`}
              onClick={() => thing.putBack(key)}
              sx={{ fontSize: 11, px: '5px', borderRadius: '4px', background: plum.wash, color: plum.main, fontWeight: 600 }}
            >
              ▯ ↺
            </ButtonBase>
          </Tooltip>
        )}
      </Box>
      <div>{children(id)}</div>
      {fault && (
        <Typography variant="body2" role="alert" sx={{ gridColumn: wide ? 1 : 2, color: brick.main, fontWeight: 600 }}>
          {fault}
        </Typography>
      )}
    </Box>
  )
}

export function Num({ k, label, unit, min, max, usual }: { k: string; label: string; unit?: string; min: number; max: number; usual?: number }) {
  const [value, set] = useValue<number>(k)
  return (
    <Row label={label} k={k}>
      {id => (
        <NumberField
          id={id}
          value={value ?? usual ?? 0}
          unit={unit}
          min={min}
          max={max}
          onChange={n => set(usual !== undefined && n === usual ? undefined : n)}
        />
      )}
    </Row>
  )
}

/** A number that the site's style gives unless it is set. */
export function KitNum({ k, label, min, max, kit, by }: { k: string; label: string; min: number; max: number; kit: number; by: number | undefined }) {
  const [value, set] = useValue<number>(k)
  const own = value !== undefined && value !== by
  return (
    <Row label={label} k={k}>
      {id => (
        <Box sx={{ display: 'flex', gap: '6px', alignItems: 'center' }}>
          <NumberField id={id} value={own ? value! : kit} unit="px" min={min} max={max} onChange={n => set(n)} />
          {own ? <Reset onClick={() => set(by)} /> : <Styled />}
        </Box>
      )}
    </Row>
  )
}

const Styled = () => (
  <Box component="span" sx={{ fontSize: 12, color: ink[2], whiteSpace: 'nowrap' }}>
    style kit
  </Box>
)

const Reset = ({ onClick }: { onClick(): void }) => (
  <Tooltip title="Reset to the style kit">
    <ButtonBase aria-label="Reset to the style kit" onClick={onClick} sx={{ fontSize: 15, px: '4px', color: plum.main, borderRadius: '4px' }}>
      ↺
    </ButtonBase>
  </Tooltip>
)

export function Flag({ k, label }: { k: string; label: string }) {
  const [value, set] = useValue<boolean>(k)
  // Some flags are always written down, others only when they are on.
  return (
    <Toggle
      label={label}
      k={k}
      on={!!value}
      onChange={on => set(on || ['required', 'counts', 'quiet', 'backdrop.closes', 'close.shown'].includes(k) ? on : undefined)}
    />
  )
}

export function Toggle({ label, on, onChange, k }: { label: string; on: boolean; onChange(on: boolean): void; k?: string }) {
  return (
    <Row label={label} k={k}>
      {id => <Switch id={id} checked={on} onChange={e => onChange(e.target.checked)} slotProps={{ input: { 'aria-label': label } }} />}
    </Row>
  )
}

type Options<T extends string> = readonly (readonly [T, string])[]

export function Pick({ k, label, options }: { k: string; label: string; options: Options<string> }) {
  const [value, set] = useValue<string>(k)
  // What another format offers, and this one does not, counts as the usual here.
  const shown = options.some(([v]) => v === value) ? value! : options[0][0]
  return <Choice label={label} k={k} value={shown} options={options} onChange={v => set(v || undefined)} />
}

export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
  at,
  k,
}: {
  label: string
  value: T
  options: Options<T>
  onChange(value: T): void
  at?: string
  k?: string
}) {
  return (
    <Row label={label} at={at} k={k}>
      {() => (
        <Select fullWidth value={value} onChange={e => onChange(e.target.value as T)} inputProps={{ 'aria-label': label }} displayEmpty>
          {options.map(([key, name]) => (
            <MenuItem key={key} value={key}>
              {name}
            </MenuItem>
          ))}
          {!options.some(([key]) => key === value) && (
            <MenuItem value={value} disabled>
              {value}
            </MenuItem>
          )}
        </Select>
      )}
    </Row>
  )
}

export function Line({
  k,
  label,
  max,
  lines,
  hint,
  optional,
  tidy = w => w,
}: {
  k: string
  label: string
  max: number
  lines?: number
  hint?: string
  optional?: boolean
  tidy?(w: string): string
}) {
  const [value, set] = useValue<string>(k)
  return (
    <Row label={label} k={k}>
      {id => <Typed id={id} value={value ?? ''} max={max} lines={lines} hint={hint} onChange={w => set(tidy(w) || (optional ? undefined : ''))} />}
    </Row>
  )
}

export function Typed({
  id,
  value,
  lines,
  max,
  hint,
  onChange,
}: {
  id?: string
  value: string
  lines?: number
  max: number
  hint?: string
  onChange(words: string): void
}) {
  return (
    <OutlinedInput
      id={id}
      size="small"
      fullWidth
      multiline={!!lines}
      minRows={lines}
      maxRows={8}
      value={value}
      placeholder={hint}
      onChange={e => onChange(e.target.value)}
      inputProps={{ maxLength: max }}
    />
  )
}

/** A colour; usual is what it is when it is not set. */
export function Colour({ k, label, usual, set: fixed, page }: { k: string; label: string; usual?: Color; set?: Color; page?: boolean }) {
  const [value, set] = useValue<Color>(k)
  const { near } = useContext(ThingContext)
  const { kit } = useSite()
  const is = value || usual || '@ink'
  return (
    <Row label={label} k={k}>
      {id => (
        <Box sx={{ display: 'flex', alignItems: 'center' }}>
          <ColourField id={id} label={label} value={is} kit={kit} near={near} page={page} onChange={c => set(usual && c === usual ? undefined : c)} />
          {value && (usual ? value !== usual : fixed && value !== fixed) ? <Reset onClick={() => set(usual ? undefined : fixed)} /> : null}
        </Box>
      )}
    </Row>
  )
}

/** The contrast of text with its background. */
export function Reads({ ink: words, behind, large }: { ink: string; behind: string; large?: boolean }) {
  if (!/^#/.test(words) || !/^#/.test(behind)) return null
  const ratio = Math.floor(contrast(words, behind) * 10) / 10
  const least = large ? 3 : 4.5
  const clear = ratio >= least
  return (
    <Row label="Contrast">
      {() => (
        <span>
          <Box component="b" sx={{ color: clear ? moss.ink : apricot.ink }}>
            {ratio.toFixed(1)} : 1
          </Box>{' '}
          {clear ? '✓ good' : `! too low, at least ${least}`}
        </span>
      )}
    </Row>
  )
}

export function Rule() {
  return <Box sx={{ borderTop: `1px solid ${paper.line}`, my: '8px' }} />
}

/** Settings that few need, one click away. */
export function More({ name, children, open: first = false }: { name: string; children: ReactNode; open?: boolean }) {
  const [open, setOpen] = useState(first)
  return (
    <Box sx={{ borderTop: `1px solid ${paper.line}`, mt: '6px' }}>
      <ButtonBase
        onClick={() => setOpen(!open)}
        aria-expanded={open}
        sx={{ width: '100%', justifyContent: 'space-between', px: '16px', py: '7px', fontSize: 13, fontWeight: 600, color: ink[1] }}
      >
        {name}
        <span aria-hidden>{open ? '−' : '+'}</span>
      </ButtonBase>
      {/* Without a transition, so that nothing moves under the pointer. */}
      {open && <Box sx={{ pb: '8px' }}>{children}</Box>}
    </Box>
  )
}

export const Muted = ({ children }: { children: ReactNode }) => (
  <Box component="span" sx={{ fontSize: 12.5, color: ink[2] }}>
    {children}
  </Box>
)
