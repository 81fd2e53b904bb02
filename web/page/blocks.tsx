/** @jsxImportSource preact */
import type { JSX } from 'preact'
import type { Block, Button, Drawing, Field, Frame, LiveFormula, Picture, Scene, Words } from '../kinds/piece'
import type { Color, Kit } from '../kinds/style'
import type { AdvanceAnswer } from '../kinds/visitor'
import { fill } from './fill'
import { fitted, on } from './paint'
import type { PieceParts } from './parts'
import { safe } from './safe'
import type { WalkEvent } from './walk'
import type { WalkState } from './walkState'
import type { Say } from './words'

/** What blocks need to know of the scene they stand in. */
export interface Around {
  frame: Frame
  kit: Kit
  phone: boolean
  base: string
  /** So far, by the keys of fields: as they are kept, and as they are read, with the values that formulas come to. */
  answers: Record<string, string>
  said: Record<string, string>
  values: Record<string, number>
  /** How values are written, by their names. */
  live: LiveFormula[]
  marks: NonNullable<AdvanceAnswer['marks']>
  tallies: NonNullable<AdvanceAnswer['tallies']>
  faults: Record<string, string>
  sending: boolean
  /** Drawn to be looked at, not used. */
  still: boolean
  /** The scene's id, and what it is one of. */
  scene: string
  drawing: Drawing
  /** Every scene that is known by now. */
  scenes: Scene[]
  /** Where the visitor is on the way through it, and what to tell of them. */
  walk: WalkState
  tell(e: WalkEvent): void
  /** Tells those who hear what is new. */
  announce(text: string): void
  /** Cleans markup, where a draft is drawn. */
  clean?(html: string): Node[]
  /** The fixed words, and the language that they and numbers are in. */
  say: Say
  language?: string
  /** The button that takes the scene's answers along. */
  sender?: Button
  answer(key: string, value: string): void
  press(button: Button): void
  /** Leaves the scene by a block, with its answers or without. */
  leave(block: string, takes: boolean, late?: boolean): void
  close(): void
  /** When this visitor first saw the piece, in ms since 1970. */
  since(): number
  /** The visitor's own code of a pool, or of what they drew; null where none is left. */
  code(pool?: string, draw?: string): Promise<string | null>
  color(c: Color | undefined, otherwise?: Color): string
}

/** The parts of the script that only some pieces need, once they are here. */
export const parts: { [P in keyof PieceParts]?: ReturnType<PieceParts[P]['make']> } & { walk?: typeof import('./acts') } = {}

/** Words with their looks. */
export function Written({ words, around }: { words: Words; around: Around }) {
  if (typeof words === 'string') return <>{fill(words, around.said)}</>
  return (
    <>
      {words.map((s, i) => {
        const style = {
          fontWeight: s.bold ? 700 : undefined,
          fontStyle: s.italic ? 'italic' : undefined,
          textDecoration: s.underline ? 'underline' : undefined,
          color: around.color(s.color) || undefined,
          fontSize: s.size ? s.size + 'px' : undefined,
        }
        const text = fill(s.text, around.said)
        return s.link && safe(s.link) ? (
          <a key={i} href={s.link} style={style} rel="noopener">
            {text}
          </a>
        ) : (
          <span key={i} style={style}>
            {text}
          </span>
        )
      })}
    </>
  )
}

/** One block, as the device has it. data-block lets the studio find it. */
export function DrawnBlock({ block: b, around, width }: { block: Block; around: Around; width?: string }): JSX.Element | null {
  b = on(around.phone, b)
  if (b.hide && (b.hide === 'phone') === around.phone) return null
  const room = (css: Record<string, string | undefined> = {}) => ({ ...css, marginTop: b.above ? b.above + 'px' : undefined, flex: width })
  const words = (css: Record<string, string | undefined>) => room({ ...css, color: 'color' in b ? around.color(b.color) || undefined : undefined })
  switch (b.kind) {
    case 'heading':
      return (
        <h2 data-block={b.id} class={b.align} style={words({ '--size': b.size + 'px' })}>
          <Written words={b.text} around={around} />
        </h2>
      )
    case 'text':
      return (
        <p data-block={b.id} class={b.align} style={words({ '--size': b.size + 'px' })}>
          <Written words={b.text} around={around} />
        </p>
      )
    case 'picture':
      return <DrawnPicture picture={b} base={around.base} still={around.still} style={room()} />
    case 'space':
      return <div data-block={b.id} style={room({ height: b.height + 'px' })} />
    case 'field':
      return b.ask === 'hidden' ? null : <DrawnField field={b} around={around} style={room({ maxWidth: b.width ? b.width + '%' : undefined })} />
    case 'button':
      return <DrawnButton button={b} around={around} style={room()} />
  }
  const { extras, play, draw } = parts
  const Whole = extras?.whole[b.kind]
  if (Whole) return <Whole block={b} around={around} style={words({})} />
  const Rare = extras?.blocks[b.kind] ?? play?.blocks[b.kind] ?? draw?.blocks[b.kind]
  // Without its script, or of a newer Gobbet than this one: left out.
  return Rare ? (
    <div data-block={b.id} class={'align' in b ? b.align : 'start'} style={words({})}>
      <Rare block={b} around={around} />
    </div>
  ) : null
}

function DrawnPicture({ picture: p, base, still, style }: { picture: Picture; base: string; still: boolean; style: Record<string, string | undefined> }) {
  const look = { ...style, width: p.width + '%', aspectRatio: `100 / ${p.ratio}`, borderRadius: p.corners + 'px' }
  // Nothing to see; in the studio, where one goes.
  if (!p.picture)
    return still ? (
      <div data-block={p.id} class={`picture none ${p.align}`} style={look}>
        Choose a picture
      </div>
    ) : null
  const img = <img src={`${base}/v1/pictures/${p.picture}`} alt={p.alt} draggable={false} style={fitted(p.fit, p.focus)} />
  return (
    <div data-block={p.id} class={`picture ${p.align}`} style={look}>
      {p.link && safe(p.link) ? (
        <a href={p.link} rel="noopener">
          {img}
        </a>
      ) : (
        img
      )}
    </div>
  )
}

const inputs: Record<string, JSX.IntrinsicElements['input']> = {
  name: { type: 'text', autocomplete: 'given-name' },
  email: { type: 'email', autocomplete: 'email' },
  phone: { type: 'tel', autocomplete: 'tel' },
  number: { type: 'text', inputMode: 'decimal' },
  date: { type: 'date' },
  text: { type: 'text', autocomplete: 'off' },
}
function DrawnField({ field: f, around, style }: { field: Field; around: Around; style: Record<string, string | undefined> }) {
  const fault = around.faults[f.key]
  const value = around.answers[f.key] ?? ''
  const put = (e: { currentTarget: { value: string } }) => around.answer(f.key, e.currentTarget.value)
  const told = [fault && f.id + '-fault', f.help && f.id + '-help'].filter(Boolean).join(' ') || undefined
  const own = {
    id: f.id,
    name: f.key,
    required: f.required,
    'aria-invalid': fault ? ('true' as const) : undefined,
    'aria-describedby': told,
  }
  const label = f.bare ? 'bare' : undefined
  const grouped = /^(choices?|stars|scale|order)$/.test(f.ask)
  let input: JSX.Element | null
  if (f.ask === 'consent')
    input = (
      <label class="consent">
        <input {...own} type="checkbox" checked={value === 'yes'} onChange={e => around.answer(f.key, e.currentTarget.checked ? 'yes' : '')} />
        <span>{f.label}</span>
      </label>
    )
  else if (!inputs[f.ask]) {
    const Asked = parts.play?.Asked
    input = Asked ? <Asked field={f} around={around} own={own} /> : null
  } else input = <input {...inputs[f.ask]} {...own} value={value} placeholder={f.hint} maxLength={f.ask === 'email' ? 254 : 2000} onInput={put} />
  return (
    <div data-block={f.id} class={`field start${around.kit.field.line ? ' line' : ''}`} style={style}>
      {!grouped && f.ask !== 'consent' && (
        <label class={label} for={f.id}>
          {f.label}
        </label>
      )}
      {f.unit && f.ask === 'number' ? (
        <div class="united">
          {input}
          <span>{f.unit}</span>
        </div>
      ) : (
        input
      )}
      {f.help && (
        <div class="help" id={f.id + '-help'}>
          {f.help}
        </div>
      )}
      {fault && (
        <span class="fault" dir="auto" id={f.id + '-fault'}>
          {fault}
        </span>
      )}
    </div>
  )
}

/** Where a button that leads away leads; empty for one that does not. */
const leadsTo = ({ press: p }: Button, around: Around): string =>
  (p.carry || p.do !== 'open' ? parts.extras?.leadsTo(p, around) : undefined) ?? (p.do === 'open' && safe(p.address) ? p.address! : '')

function DrawnButton({ button: b, around, style }: { button: Button; around: Around; style: Record<string, string | undefined> }) {
  const { press, sending, frame, color, kit } = around
  if (b.press.do === 'back' && !around.walk.canGoBack && !around.still) return null
  const plain = b.quiet || b.line
  const look = {
    'data-block': b.id,
    class: ['button', b.quiet && 'quiet', b.line && 'lined', b.narrow && 'narrow', (b.narrow || b.quiet) && b.align, b.stir, b.hover && 'turns']
      .filter(Boolean)
      .join(' '),
    style: {
      ...style,
      '--fill': color(b.fill, frame.accent),
      '--on-fill': color(b.ink, plain ? (b.quiet ? frame.ink : frame.accent) : frame.accent_ink),
      '--hover': color(b.hover),
      '--round': (b.corners ?? kit.button.corners) + 'px',
      '--weight': b.quiet ? 500 : kit.button.weight,
      '--case': kit.button.capital ? 'uppercase' : 'none',
      '--size': (b.size || (b.quiet ? 15 : 16.5)) + 'px',
    },
  }
  const href = leadsTo(b, around)
  if (href)
    return (
      <a
        {...look}
        href={href}
        rel="noopener"
        target={b.press.new_tab ? '_blank' : undefined}
        download={b.press.do === 'file' ? (b.press.file_name ?? '') : undefined}
        onClick={() => press(b)}
      >
        {b.words}
      </a>
    )
  const sends = b.press.do === 'send'
  // The first that sends is the form's own, so that Enter presses it.
  return (
    <button
      {...look}
      type={sends ? 'submit' : 'button'}
      aria-disabled={(sends && sending) || undefined}
      onClick={sends ? undefined : () => press(b)}
      value={b.id}
    >
      {sends && sending ? around.say('sending', 'Sending…') : b.words}
    </button>
  )
}
