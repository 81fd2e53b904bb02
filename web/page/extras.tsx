/** @jsxImportSource preact */
import { Component, type ComponentType } from 'preact'
import type { Block, Box, Button, Code, Columns, Divider, Drawing, HTML, Icon, Links, List, Timer, Video } from '../kinds/piece'
import type { Around } from './blocks'
import { DrawnBlock, type Given, give, Written } from './borrowed'
import { extrasStyle } from './extrasStyle'
import { caption, Looping, Pause } from './looping'
import { Mark } from './mark'
import { safe } from './safe'

// Blocks that not every piece holds. Their script is fetched where one is needed,
// and is drawn with by the renderer's own Preact, which it is given.

interface Props<B> {
  block: B
  around: Around
}

type Style = Record<string, string | undefined>

/** Of a block that is an element of its own, with where it stands. */
interface Whole<B> extends Props<B> {
  style: Style
}

const second = 1000

function DrawnVideo({ block: v, around }: Props<Video>) {
  const look = { aspectRatio: `100 / ${v.ratio}`, borderRadius: v.corners + 'px' }
  const still = !v.file && !v.address
  return (
    <div class={still ? 'picture none' : 'picture'} style={look}>
      {still ? (
        'Choose a video'
      ) : v.file && v.plays ? (
        <>
          <Looping src={`${around.base}/v1/files/${v.file}/video`} still={around.still} label={v.title} cues={v.cues} style={{ objectFit: 'cover' }} />
          {!around.still && <Pause say={around.say} />}
        </>
      ) : v.file ? (
        // biome-ignore lint/a11y/useMediaCaption: captions come as cues, below
        <video
          ref={e => caption(e, v.cues)}
          src={`${around.base}/v1/files/${v.file}/video`}
          aria-label={v.title}
          controls={!around.still}
          playsInline
          preload="metadata"
          style={{ objectFit: 'cover' }}
        />
      ) : around.still ? (
        <div class="picture none" style={{ height: '100%' }}>
          ▶ {v.title || v.address}
        </div>
      ) : (
        <iframe
          src={/^https:\/\//.test(v.address!) ? v.address : undefined}
          title={v.title || around.say('video', 'Video')}
          sandbox="allow-scripts allow-same-origin allow-presentation"
          allow="fullscreen; encrypted-media"
          referrerPolicy="no-referrer"
          loading="lazy"
        />
      )}
    </div>
  )
}

/** Where a button leads that does not just open an address; empty for one that leads nowhere. */
function leadsTo(p: Button['press'], { base, said }: Around): string {
  if (p.do === 'mail' && p.address) return 'mailto:' + p.address
  if (p.do === 'call' && p.address) return 'tel:' + p.address.replace(/[^+\d]/g, '')
  if (p.do === 'file') return `${base}/v1/files/${p.file}/${encodeURIComponent(p.file_name || 'file')}`
  if (p.do !== 'open' || !safe(p.address)) return ''
  // With the answers so far.
  const [before, hash] = p.address!.split('#')
  const more = new URLSearchParams(Object.entries(said).filter(([, v]) => v)).toString()
  return before + (more ? (before.includes('?') ? '&' : '?') + more : '') + (hash ? '#' + hash : '')
}

/** Whether a timer at whose end the piece closes has run out already; since is when the visitor first saw the piece, in ms since 1970. */
function isOver({ scenes }: Drawing, since = Number.NaN): boolean {
  const ran = (b: Block): boolean => {
    if ('blocks' in b) return b.blocks.some(ran)
    if (b.kind !== 'timer' || b.at_zero !== 'close') return false
    return (b.to ? Date.parse(b.to) : since + (b.minutes ?? 0) * 60_000) <= Date.now()
  }
  return scenes[0].blocks.some(ran)
}

class DrawnTimer extends Component<Props<Timer>, { now: number }> {
  state = { now: Date.now() }
  tick = 0
  over = false
  componentDidMount() {
    if (!this.props.around.still) this.tick = setInterval(() => this.setState({ now: Date.now() }), second) as unknown as number
  }
  componentWillUnmount() {
    clearInterval(this.tick)
  }
  componentDidUpdate() {
    const { block: t, around } = this.props
    if (this.left() > 0 || this.over || around.still) return
    this.over = true
    clearInterval(this.tick)
    if (t.at_zero === 'close') around.close()
    if (t.at_zero === 'next') around.leave(t.id, false)
  }
  left() {
    const { block: t, around } = this.props
    const end = t.to ? Date.parse(t.to) : around.since() + (t.minutes ?? 0) * 60 * second
    return Math.max(0, Math.floor((end - this.state.now) / second))
  }
  render({ block: t, around }: Props<Timer>) {
    const left = this.left()
    if (!left && !around.still) {
      if (t.at_zero === 'hide') return null
      if (t.at_zero === 'words') return <div style={{ fontSize: t.size + 'px' }}>{t.words}</div>
    }
    const days = Math.floor(left / 86400)
    const parts = [
      [days, 'day'],
      [Math.floor(left / 3600) % 24, 'hour'],
      [Math.floor(left / 60) % 60, 'minute'],
      [left % 60, 'second'],
    ] as const
    const shown = parts.filter(([, unit]) => days || unit !== 'day')
    const two = new Intl.NumberFormat(around.language, { minimumIntegerDigits: 2 })
    const as = (unit: string, unitDisplay: 'long' | 'short' | 'narrow') => new Intl.NumberFormat(around.language, { style: 'unit', unit, unitDisplay })
    /** The unit alone, as the language writes it beside so many. */
    const named = (n: number, unit: string, how: 'short' | 'narrow') => {
      const all = as(unit, how).formatToParts(n)
      return all
        .filter(p => p.type === 'unit')
        .map(p => p.value)
        .join(' ')
    }
    const say = shown.map(([n, unit]) => as(unit, 'long').format(n)).join(' ')
    const box = t.boxed ? { background: 'color-mix(in srgb, currentColor 10%, transparent)', borderRadius: '8px', padding: '.2em .45em' } : {}
    return (
      <div
        role="timer"
        aria-label={say}
        style={{
          display: 'flex',
          gap: t.boxed ? '8px' : '.35em',
          justifyContent: t.align,
          fontSize: t.size + 'px',
          fontWeight: 700,
          lineHeight: 1.1,
          fontVariantNumeric: 'tabular-nums',
        }}
      >
        {shown.map(([n, unit]) => (
          <span key={unit} aria-hidden="true" style={{ ...box, textAlign: 'center' }}>
            {two.format(n)}
            <small
              style={{
                display: t.boxed ? 'block' : 'inline',
                fontSize: t.boxed ? '12px' : '.62em',
                fontWeight: 600,
                marginInlineStart: t.boxed ? 0 : '.12em',
              }}
            >
              {named(n, unit, t.boxed ? 'short' : 'narrow')}
            </small>
          </span>
        ))}
      </div>
    )
  }
}

class DrawnCode extends Component<Props<Code>, { code: string | null | undefined; copied: boolean; trouble: string }> {
  hold: HTMLElement | null = null
  state = { code: this.props.block.pool || this.props.block.draw ? undefined : this.props.block.code, copied: false, trouble: '' }
  componentDidMount() {
    const { block: c, around } = this.props
    if (!c.pool && !c.draw) return
    if (around.still) this.setState({ code: 'YOUR-CODE' })
    else this.ask()
  }
  ask = () => {
    const { block: c, around } = this.props
    const again = !!this.state.trouble
    around.code(c.pool, c.draw).then(
      // Who asked again has the keyboard where the code is.
      code => this.setState({ code, trouble: '' }, () => again && this.hold?.querySelector('button')?.focus()),
      said => this.setState({ trouble: (typeof said === 'string' && said) || around.say('no_code', 'Your code could not be fetched.') }),
    )
  }
  held = (e: HTMLElement | null) => {
    this.hold = e
  }
  copy = () => {
    if (this.props.around.still) return
    navigator.clipboard?.writeText(this.state.code ?? '').then(
      () => this.setState({ copied: true }),
      () => {},
    )
  }
  render({ block: c, around }: Props<Code>) {
    const code = c.pool || c.draw ? this.state.code : c.code
    // What was won has no code.
    if (code === '' && c.draw) return null
    if (code === null) return <div role="status">{this.props.around.say('given', 'All codes have been given out.')}</div>
    if (this.state.trouble)
      return (
        <div role="status" dir="auto">
          {this.state.trouble}{' '}
          <button type="button" class="button quiet" style={{ paddingInline: 0 }} onClick={this.ask}>
            {this.props.around.say('retry', 'Try again')}
          </button>
        </div>
      )
    const ink = around.color(c.color, around.frame.ink)
    return (
      <div ref={this.held}>
        <div
          style={{
            display: 'flex',
            flexWrap: 'wrap',
            alignItems: 'center',
            justifyContent: 'space-between',
            gap: '8px 14px',
            padding: '8px 8px 8px 16px',
            border: `2px dashed color-mix(in srgb, ${ink} 55%, transparent)`,
            borderRadius: '8px',
            background: around.color(c.background) || undefined,
            color: ink,
          }}
        >
          <b style={{ fontSize: c.size + 'px', letterSpacing: '.06em', overflowWrap: 'anywhere' }}>{code ?? '…'}</b>
          <button
            type="button"
            class="button narrow"
            style={{
              '--fill': around.color(around.frame.accent),
              '--on-fill': around.color(around.frame.accent_ink),
              '--round': around.kit.button.corners + 'px',
              '--weight': 650,
              '--size': '15px',
              '--case': 'none',
              minHeight: '40px',
              padding: '6px 18px',
            }}
            onClick={this.copy}
          >
            {this.state.copied ? c.copied : c.words}
          </button>
        </div>
        <span role="status" class="bare">
          {this.state.copied ? c.copied : ''}
        </span>
        {c.apply && code && safe(c.apply) && (
          <a
            href={c.apply.replaceAll('{code}', encodeURIComponent(code))}
            rel="noopener"
            style={{ display: 'inline-block', marginTop: '8px', color: 'inherit' }}
          >
            {c.apply_words || around.say('use', 'Use it now')}
          </a>
        )}
      </div>
    )
  }
}

function DrawnLinks({ block: l }: Props<Links>) {
  return (
    <div style={{ display: 'flex', flexWrap: 'wrap', flexDirection: l.named ? 'column' : 'row', gap: '6px 12px', justifyContent: l.align }}>
      {l.items.map(item => (
        <a
          key={item.label}
          href={safe(item.address) ? item.address : undefined}
          aria-label={l.named ? undefined : item.label}
          rel="noopener"
          style={{
            display: 'inline-flex',
            alignItems: 'center',
            gap: '10px',
            minHeight: '44px',
            minWidth: '44px',
            color: 'inherit',
            textDecoration: 'none',
            fontWeight: 600,
          }}
        >
          <Mark path={item.path} size={l.size} />
          {l.named && item.label}
        </a>
      ))}
    </div>
  )
}

/** An element as [tag, attributes, children…], or a text, as core/markup writes it. */
type Markup = string | [string, Record<string, string>, ...Markup[]]

function made(n: Markup): Node {
  if (typeof n === 'string') return document.createTextNode(n)
  const [tag, attributes, ...children] = n
  const e = document.createElement(tag)
  for (const [name, value] of Object.entries(attributes)) {
    if (name === 'style') e.style.cssText = value
    else e.setAttribute(name, value)
  }
  e.append(...children.map(made))
  return e
}

class DrawnHTML extends Component<Props<HTML>> {
  place: HTMLElement | null = null
  componentDidMount() {
    this.put()
  }
  componentDidUpdate(before: Props<HTML>) {
    if (before.block.html !== this.props.block.html || before.block.tree !== this.props.block.tree) this.put()
  }
  put() {
    const { block, around } = this.props
    this.place?.replaceChildren(...(block.tree ? block.tree.map(n => made(n as Markup)) : (around.clean?.(block.html) ?? [])))
  }
  render() {
    return (
      <div
        ref={e => {
          this.place = e
        }}
        style={{ overflowWrap: 'anywhere' }}
      />
    )
  }
}

function DrawnList({ block: b, around, style }: Whole<List>) {
  const Items = b.marker === 'number' ? 'ol' : 'ul'
  return (
    <Items data-block={b.id} class={b.marker} style={{ ...style, '--size': b.size + 'px', '--mark': around.color(b.mark, around.frame.accent) }}>
      {b.items.map((item, i) => (
        <li key={i}>
          <span>
            <Written words={item} around={around} />
          </span>
        </li>
      ))}
    </Items>
  )
}

const DrawnIcon = ({ block: b, style }: Whole<Icon>) => (
  <span data-block={b.id} class={'icon ' + b.align} style={style}>
    <Mark path={b.path} size={b.size} />
  </span>
)

const DrawnDivider = ({ block: b, around, style }: Whole<Divider>) => (
  <hr
    data-block={b.id}
    class="divider"
    style={{
      ...style,
      width: b.width + '%',
      height: b.thick + 'px',
      background: around.color(b.color) || 'color-mix(in srgb, var(--ink) 22%, transparent)',
    }}
  />
)

function DrawnBox({ block: b, around, style }: Whole<Box>) {
  const background = around.color(b.background)
  return (
    <div
      data-block={b.id}
      class="box"
      style={{
        ...style,
        gap: b.gap + 'px',
        padding: b.padding && (background || b.border?.width) ? b.padding + 'px' : undefined,
        borderRadius: b.corners + 'px',
        background: background || undefined,
        border: b.border?.width ? `${b.border.width}px solid ${around.color(b.border.color, around.frame.ink)}` : undefined,
      }}
    >
      {b.blocks.map(one => (
        <DrawnBlock key={one.id} block={one} around={around} />
      ))}
    </div>
  )
}

function DrawnColumns({ block: c, around, style }: Whole<Columns>) {
  return (
    <div data-block={c.id} class={`columns ${c.lined === 'end' ? 'last' : (c.lined ?? '')}${c.keep ? '' : ' folds'}`} style={{ ...style, gap: c.gap + 'px' }}>
      {c.blocks.map((one, i) => (
        <DrawnBlock key={one.id} block={one} around={around} width={(c.widths?.[i] ?? 100 / c.blocks.length) + ' 1 0'} />
      ))}
    </div>
  )
}

type Drawn = Record<string, ComponentType<{ block: Block; around: Around }>>
type DrawnWhole = Record<string, ComponentType<{ block: Block; around: Around; style: Style }>>

/** All of it, drawn with this renderer: the blocks that stand in an element of the renderer's, and those that are one. */
export function make(given: Given) {
  give(given)
  return {
    blocks: { video: DrawnVideo, timer: DrawnTimer, code: DrawnCode, links: DrawnLinks, html: DrawnHTML } as unknown as Drawn,
    whole: { list: DrawnList, icon: DrawnIcon, divider: DrawnDivider, box: DrawnBox, columns: DrawnColumns } as unknown as DrawnWhole,
    style: extrasStyle,
    playSound,
    leadsTo,
    isOver,
  }
}

// Each note: its pitch in Hz, when it begins and how long it rings, in seconds.
const notes: Record<string, [number, number, number][]> = {
  chime: [
    [880, 0, 0.5],
    [1318.5, 0.12, 0.7],
  ],
  knock: [
    [190, 0, 0.09],
    [160, 0.14, 0.1],
  ],
}

/** Plays a sound, softly; nothing to who has not pressed anything on the page yet. */
export function playSound(sound: string) {
  if (!notes[sound] || !navigator.userActivation?.hasBeenActive) return
  try {
    const air = new AudioContext()
    let over = 0
    for (const [pitch, begins, rings] of notes[sound]) {
      const at = air.currentTime + begins
      const tone = air.createOscillator()
      const loud = air.createGain()
      tone.type = sound === 'knock' ? 'triangle' : 'sine'
      tone.frequency.value = pitch
      loud.gain.setValueAtTime(0.0001, at)
      loud.gain.exponentialRampToValueAtTime(0.09, at + 0.01)
      loud.gain.exponentialRampToValueAtTime(0.0001, at + rings)
      tone.connect(loud).connect(air.destination)
      tone.start(at)
      tone.stop(at + rings)
      over = Math.max(over, begins + rings)
    }
    setTimeout(() => air.close(), 1000 * over + 200)
  } catch {}
}
