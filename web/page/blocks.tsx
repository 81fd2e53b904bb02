/** @jsxImportSource preact */
import type { JSX } from 'preact'
import type { Block, Button, Field, Frame, Picture } from '../kinds/piece'
import { fill } from './fill'

/** What blocks need to know of the scene they stand in. */
export interface Around {
  frame: Frame
  base: string
  answers: Record<string, string>
  faults: Record<string, string>
  sending: boolean
  answer(key: string, value: string): void
  press(button: Button): void
}

/** One block. data-block lets the studio find it. */
export function DrawnBlock({ block, around }: { block: Block; around: Around }): JSX.Element | null {
  switch (block.kind) {
    case 'heading':
      return (
        <h2 data-block={block.id} class={block.align} style={{ '--size': block.size + 'px', color: block.color || undefined }}>
          {fill(block.text, around.answers)}
        </h2>
      )
    case 'text':
      return (
        <p data-block={block.id} class={block.align} style={{ '--size': block.size + 'px', color: block.color || undefined }}>
          {fill(block.text, around.answers)}
        </p>
      )
    case 'picture':
      return <DrawnPicture picture={block} base={around.base} />
    case 'field':
      return <DrawnField field={block} around={around} />
    case 'button':
      return <DrawnButton button={block} around={around} />
    default:
      return null // of a newer Gobbet than this script
  }
}

function DrawnPicture({ picture: p, base }: { picture: Picture; base: string }) {
  const style = { width: p.width + '%', aspectRatio: `100 / ${p.ratio}`, borderRadius: p.corners + 'px' }
  if (!p.picture)
    return (
      <div data-block={p.id} class={`picture none ${p.align}`} style={style}>
        Choose a picture
      </div>
    )
  return (
    <div data-block={p.id} class={`picture ${p.align}`} style={style}>
      <img src={`${base}/v1/pictures/${p.picture}`} alt={p.alt} draggable={false} />
    </div>
  )
}

const manners = {
  name: { type: 'text', autocomplete: 'given-name' },
  email: { type: 'email', autocomplete: 'email' },
  text: { type: 'text', autocomplete: 'off' },
} as const

function DrawnField({ field: f, around }: { field: Field; around: Around }) {
  const fault = around.faults[f.key]
  return (
    <div data-block={f.id} class="start">
      <label for={f.id}>{f.label}</label>
      <input
        {...manners[f.ask]}
        id={f.id}
        name={f.key}
        value={around.answers[f.key] ?? ''}
        placeholder={f.hint}
        required={f.required}
        maxLength={f.ask === 'email' ? 254 : 2000}
        aria-invalid={fault ? 'true' : undefined}
        aria-describedby={fault ? f.id + '-fault' : undefined}
        onInput={e => around.answer(f.key, e.currentTarget.value)}
      />
      {fault && (
        <span class="fault" id={f.id + '-fault'}>
          {fault}
        </span>
      )}
    </div>
  )
}

const safe = (address: string) => /^(https?:\/\/|mailto:|tel:|\/(?!\/))/i.test(address)

function DrawnButton({ button: b, around: { frame, press, sending } }: { button: Button; around: Around }) {
  const look = {
    'data-block': b.id,
    class: b.quiet ? 'button quiet' : 'button',
    style: { '--fill': b.fill || frame.accent, '--on-fill': b.ink || (b.quiet ? frame.ink : frame.accent_ink) },
  }
  if (b.press.do === 'open' && safe(b.press.address ?? ''))
    return (
      <a {...look} href={b.press.address} rel="noopener" onClick={() => press(b)}>
        {b.words}
      </a>
    )
  const sends = b.press.do === 'send'
  return (
    <button {...look} type={sends ? 'submit' : 'button'} disabled={sends && sending} onClick={sends ? undefined : () => press(b)}>
      {sends && sending ? 'Sending…' : b.words}
    </button>
  )
}
