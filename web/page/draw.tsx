/** @jsxImportSource preact */
import { Component, type ComponentType } from 'preact'
import type { Block, DrawPart, Frame, PrizeDraw, Scene } from '../kinds/piece'
import type { DrawnPart } from '../kinds/walk'
import type { Around } from './blocks'
import { type Given, give } from './borrowed'
import { drawStyle } from './drawStyle'
import { flat } from './paint'

// Prize draws: a wheel, a scratch card, boxes to pick from. What is drawn comes
// from the server when the go is taken; here it is only shown. Fetched where a
// piece has one.

interface Props {
  draw: PrizeDraw
  around: Around
  /** What was drawn; undefined before. */
  drawn?: DrawnPart
  /** The go is being taken. */
  going: boolean
  /** What was drawn is there to see. */
  over: boolean
  take(): void
  /** It is shown now. */
  done(): void
  /** What takes the go, if pressed with the form. */
  way: string
}

const still = () => matchMedia('(prefers-reduced-motion: reduce)').matches

type RGB = [number, number, number]
const rgb = (color: string): RGB => {
  const hex = /^#(..)(..)(..)/.exec(color)
  const [r = 90, g = 90, b = 90] = hex ? hex.slice(1).map(x => Number.parseInt(x, 16)) : (color.match(/[\d.]+/g)?.map(Number) ?? [])
  return [r, g, b]
}
const mix = (a: string, b: string, part: number) => {
  const [x, y] = [rgb(a), rgb(b)]
  return `rgb(${x.map((v, i) => Math.round(v * part + y[i] * (1 - part))).join(',')})`
}
const light = (color: string) => {
  const [r, g, b] = rgb(color)
  return r * 0.299 + g * 0.587 + b * 0.114 > 140
}

/** What every part of a wheel is filled with: never as its neighbours. */
export function fills(parts: readonly DrawPart[], { accent, ink, background }: Frame, color: (c?: string) => string): string[] {
  const [a, b, ground] = [color(accent), color(ink), color(background)]
  const usual = [a, mix(a, ground, 0.14), mix(a, ground, 0.55), mix(a, ground, 0.24)]
  const dark = mix(b, a, 0.75)
  return parts.map((p, i) => color(p.fill) || (i === parts.length - 1 && i % 4 === 0 ? dark : usual[i % 4]))
}

const across = 400 // the wheel in its own measure
const from = 50 // where labels begin, from the middle
const upTo = 164

/** A label in one or two lines, and how large. */
function lettered(label: string, share: number): { lines: string[]; size: number } {
  const arc = 2 * Math.PI * 120 * share
  let size = Math.max(11, Math.min(20, arc * 0.6))
  let lines = [label]
  const room = upTo - from
  const wide = () => Math.max(...lines.map(l => l.length)) * size * 0.55
  if (wide() > room && arc > size * 2.4 && label.includes(' ')) {
    const spaces = [...label.matchAll(/ /g)].map(m => m.index)
    const at = spaces.sort((a, b) => Math.abs(a - label.length / 2) - Math.abs(b - label.length / 2))[0]
    lines = [label.slice(0, at), label.slice(at + 1)]
  }
  if (wide() > room) size = Math.max(11, (size * room) / wide())
  const most = Math.floor(room / (size * 0.55))
  return { lines: lines.map(l => (l.length > most ? l.slice(0, most - 1) + '…' : l)), size }
}

/** A button that does nothing now; it keeps the keyboard, for it may again. */
const off = (is: boolean) => ({ 'aria-disabled': is || undefined, onClick: is ? (e: Event) => e.preventDefault() : undefined })

const point = (degrees: number, r: number) => {
  const a = (degrees * Math.PI) / 180
  return `${(r * Math.cos(a)).toFixed(2)} ${(r * Math.sin(a)).toFixed(2)}`
}

const round = 900 // ms a turn, while the server draws
const falls = 4600 // ms until it rests

/** A wheel in a rim with one bite: what rests under the bite is won. */
class Wheel extends Component<Props> {
  disc: SVGElement | null = null
  moves?: Animation
  timer = 0
  componentDidMount() {
    this.componentDidUpdate({ ...this.props, going: false, drawn: undefined })
  }
  componentDidUpdate(before: Props) {
    const { going, drawn, over } = this.props
    if (going && !before.going && !still())
      this.moves = this.disc?.animate([{ transform: 'rotate(0)' }, { transform: 'rotate(360deg)' }], { duration: round, iterations: Infinity })
    if (!going && before.going && !drawn) this.moves?.cancel()
    if (drawn && !before.drawn) this.land(drawn, over)
  }
  componentWillUnmount() {
    clearTimeout(this.timer)
    this.moves?.cancel()
  }
  land({ rest }: DrawnPart, over: boolean) {
    const now = this.moves ? ((Number(this.moves.currentTime ?? 0) % round) / round) * 360 : 0
    this.moves?.cancel()
    const to = 360 * 6 - rest
    this.disc!.style.transform = `rotate(${to}deg)`
    if (over) return
    if (still()) return this.props.done()
    this.moves = this.disc!.animate([{ transform: `rotate(${now}deg)` }, { transform: `rotate(${to}deg)` }], {
      duration: falls,
      easing: 'cubic-bezier(.14,.7,.16,1)',
    })
    const done = () => {
      clearTimeout(this.timer)
      this.props.done()
    }
    this.moves.onfinish = done
    // A page nobody looks at may not be told.
    this.timer = setTimeout(done, falls + 400) as unknown as number
  }
  render({ draw: d, around, drawn, going, over, way }: Props) {
    const { color, frame } = around
    const rim = color(d.color, frame.ink)
    const ground = color(frame.background)
    const sum = d.parts.reduce((n, p) => n + p.weight, 0)
    const shares = d.parts.map(p => p.share ?? (d.even || !sum ? 1 / d.parts.length : p.weight / sum))
    const filled = fills(d.parts, frame, color)
    let at = 0
    const sectors = d.parts.map((p, i) => {
      const [begin, end] = [at, at + 360 * shares[i]]
      at = end
      if (!shares[i]) return null
      const middle = (begin + end) / 2
      // Upright as the wheel stands, or as it will once it rests.
      const stands = (middle - (drawn?.rest ?? 0) + 720) % 360
      const turned = stands > 90 && stands < 270
      const { lines, size } = lettered(p.label, shares[i])
      const path =
        shares[i] > 0.9999 ? (
          <circle r="172" fill={filled[i]} />
        ) : (
          <path d={`M0 0L${point(begin, 172)}A172 172 0 ${end - begin > 180 ? 1 : 0} 1 ${point(end, 172)}Z`} fill={filled[i]} />
        )
      return (
        <g key={p.id} class={over && drawn?.part !== p.id ? 'lost' : undefined}>
          {path}
          <g
            transform={`rotate(${turned ? middle + 180 : middle})`}
            fill={light(filled[i]) ? '#1d1a20' : '#fff'}
            font-size={size}
            font-weight="650"
            text-anchor={turned ? 'start' : 'end'}
          >
            {lines.map((l, n) => (
              <text key={n} x={turned ? -upTo : upTo} y={size * (0.35 + (n - (lines.length - 1) / 2) * 1.08)}>
                {l}
              </text>
            ))}
          </g>
        </g>
      )
    })
    return (
      <div class="wheel" style={{ width: d.size + 'px' }}>
        <svg
          class="disc"
          viewBox={`-200 -200 ${across} ${across}`}
          aria-hidden="true"
          ref={e => {
            this.disc = e
          }}
        >
          <g stroke={ground} stroke-width="2.5">
            {sectors}
          </g>
        </svg>
        <svg class="rim" viewBox={`-200 -200 ${across} ${across}`} aria-hidden="true">
          <mask id="bite">
            <path d="M-200-200H200V200H-200z" fill="#fff" />
            <circle cx="194" r="27" />
          </mask>
          <circle r="184" fill="none" stroke={rim} stroke-width="26" mask="url(#bite)" />
        </svg>
        <button type="submit" class="hub" value={way} {...off(going || !!drawn)} style={{ background: ground, color: color(frame.ink) }}>
          {d.words}
        </button>
      </div>
    )
  }
}

const cells = 12 // of the card, across and down, of which more than half are to be scratched free

/** A card to scratch. */
class Card extends Component<Props, { gone: boolean }> {
  state = { gone: this.props.over }
  canvas: HTMLCanvasElement | null = null
  free = new Set<number>()
  scratches = false
  last?: [number, number]
  componentDidMount() {
    this.cover()
    // Its letters may come after it.
    document.fonts?.ready.then(() => this.scratches || this.cover())
  }
  componentDidUpdate(before: Props) {
    const { going, drawn } = this.props
    // Refused: the card is whole again.
    if (before.going && !going && !drawn) this.cover()
    if (drawn && !before.drawn) this.scratches ? this.judge() : this.reveal()
  }
  cover() {
    const { draw: d, around } = this.props
    const c = this.canvas
    const paint = c?.getContext('2d')
    if (!c || !paint) return
    this.free.clear()
    this.scratches = false
    c.width = c.clientWidth * 2 || d.size * 2
    c.height = c.clientHeight * 2 || d.size
    const { width, height } = c
    const fill = around.color(d.color, around.frame.accent)
    paint.globalCompositeOperation = 'source-over'
    paint.fillStyle = fill
    paint.fillRect(0, 0, width, height)
    paint.fillStyle = light(fill) ? 'rgba(0,0,0,.08)' : 'rgba(255,255,255,.12)'
    for (let y = 0, row = 0; y < height + 40; y += 44, row++)
      for (let x = (row % 2) * 30; x < width + 40; x += 60) {
        paint.beginPath()
        paint.arc(x, y, 13, 0.35, Math.PI * 1.75)
        paint.arc(x + 9, y - 6, 6, Math.PI * 1.2, Math.PI * 0.8, true)
        paint.fill()
      }
    paint.fillStyle = light(fill) ? '#1d1a20' : '#fff'
    paint.font = `650 ${Math.round(Math.min(width / 13, height / 2.6))}px ${getComputedStyle(c).fontFamily}`
    paint.textAlign = 'center'
    paint.textBaseline = 'middle'
    paint.fillText(d.words, width / 2, height / 2, width * 0.9)
  }
  at(e: PointerEvent): [number, number] {
    const c = this.canvas!
    const box = c.getBoundingClientRect()
    return [((e.clientX - box.left) * c.width) / box.width, ((e.clientY - box.top) * c.height) / box.height]
  }
  down = (e: PointerEvent) => {
    const { around, drawn, going, take } = this.props
    if (around.still || this.state.gone) return
    this.scratches = true
    this.canvas!.setPointerCapture(e.pointerId)
    this.last = this.at(e)
    if (!drawn && !going) take()
    this.rub(e)
  }
  rub = (e: PointerEvent) => {
    const paint = this.canvas?.getContext('2d')
    if (!this.last || !paint) return
    const [x, y] = this.at(e)
    const { width, height } = this.canvas!
    const broad = Math.max(width / 9, height / 4)
    paint.globalCompositeOperation = 'destination-out'
    paint.lineWidth = broad
    paint.lineCap = 'round'
    paint.beginPath()
    paint.moveTo(...this.last)
    paint.lineTo(x, y + 0.1)
    paint.stroke()
    const steps = Math.ceil(Math.hypot(x - this.last[0], y - this.last[1]) / 10) || 1
    for (let s = 0; s <= steps; s++) {
      const [px, py] = [this.last[0] + ((x - this.last[0]) * s) / steps, this.last[1] + ((y - this.last[1]) * s) / steps]
      for (let dx = -broad / 2; dx <= broad / 2; dx += broad / 4)
        for (let dy = -broad / 2; dy <= broad / 2; dy += broad / 4) {
          const [cx, cy] = [Math.floor(((px + dx) / width) * cells), Math.floor(((py + dy) / height) * cells)]
          if (cx >= 0 && cy >= 0 && cx < cells && cy < cells) this.free.add(cx * cells + cy)
        }
    }
    this.last = [x, y]
    this.judge()
  }
  up = () => {
    this.last = undefined
  }
  judge() {
    if (this.props.drawn && !this.state.gone && this.free.size > (cells * cells) / 2) this.reveal()
  }
  reveal() {
    this.setState({ gone: true })
    this.props.done()
  }
  render({ draw: d, around, drawn, going, way }: Props, { gone }: { gone: boolean }) {
    const ink = around.color(around.frame.ink)
    return (
      <div class="card" style={{ width: d.size + 'px' }}>
        <div class="under" style={{ '--card': around.color(d.color, around.frame.accent), color: ink }}>
          {/* It is said aloud once it is free. */}
          <b aria-hidden="true">{drawn?.label ?? (going ? '…' : '')}</b>
          <canvas
            class={gone ? 'gone' : undefined}
            ref={e => {
              this.canvas = e
            }}
            onPointerDown={this.down}
            onPointerMove={this.rub}
            onPointerUp={this.up}
            onPointerCancel={this.up}
          />
        </div>
        <button type="submit" class="at-once" value={way} {...off(going || !!drawn)}>
          {around.say('scratch', 'Or scratch it all at once')}
        </button>
      </div>
    )
  }
}

const opens = 650 // ms for a lid

/** Boxes of which one is picked. */
class Boxes extends Component<Props, { picked: number }> {
  state = { picked: -1 }
  timer = 0
  componentDidUpdate(before: Props) {
    const { draw: d, going, drawn, done } = this.props
    if (before.going && !going && !drawn) this.setState({ picked: -1 })
    if (!drawn || before.drawn) return
    if (this.state.picked < 0) this.setState({ picked: Math.floor((d.boxes || 3) / 2) })
    this.timer = setTimeout(done, still() ? 0 : opens) as unknown as number
  }
  componentWillUnmount() {
    clearTimeout(this.timer)
  }
  render({ draw: d, around, drawn, going, take, over }: Props, { picked }: { picked: number }) {
    const fill = around.color(d.color, around.frame.accent)
    const n = d.boxes || 3
    const onFill = light(fill) ? '#1d1a20' : '#fff'
    if (over && picked < 0) picked = Math.floor(n / 2)
    return (
      <fieldset class="boxes" style={{ maxWidth: d.size + 'px', '--box': fill, '--inside': mix(fill, '#000000', 0.72), color: onFill }}>
        <legend class="bare">{d.label}</legend>
        {Array.from({ length: n }, (_, i) => {
          const open = picked === i && drawn
          return (
            <button
              key={i}
              type="button"
              class={open ? 'open' : going && picked === i ? 'going' : drawn ? 'shut' : undefined}
              aria-disabled={going || !!drawn || undefined}
              aria-label={`${d.words}: ${around.say('of', '{n} of {all}', { n: i + 1, all: n })}`}
              onClick={() => {
                if (around.still || going || drawn) return
                this.setState({ picked: i })
                take()
              }}
            >
              <span class="inside" aria-hidden="true">
                {open && <b style={{ fontSize: open.label.length > 14 ? '13px' : '16px' }}>{open.label}</b>}
              </span>
              <span class="lid" aria-hidden="true" />
              <span class="front" aria-hidden="true">
                <i>{i + 1}</i>
              </span>
            </button>
          )
        })}
      </fieldset>
    )
  }
}

const looks = { wheel: Wheel, card: Card, boxes: Boxes } as Record<PrizeDraw['look'], ComponentType<Props>>
const reads = 1800 // ms at least for what was drawn to be seen, and heard, before it goes on
const letter = 90 // ms for each of its letters, as they are read aloud

const wonOf = ({ again, nothing, label: prize }: DrawnPart, { say }: Around) =>
  again ? say('had', 'You have had your go. It was: {prize}.', { prize }) : nothing ? `${prize}.` : say('won', 'You have won: {prize}.', { prize })

/** A prize draw, and what it came to. */
class DrawnDraw extends Component<{ block: PrizeDraw; around: Around }, { over: boolean }> {
  state = { over: !!this.props.around.walk.drawn[this.props.block.key] }
  timer = 0
  componentDidMount() {
    // Drawn on an earlier page, which was left before it was seen.
    if (this.state.over) this.goOn()
  }
  componentWillUnmount() {
    clearTimeout(this.timer)
  }
  done = () => {
    if (this.state.over) return
    this.setState({ over: true })
    const { block, around } = this.props
    around.announce(wonOf(around.walk.drawn[block.key], around))
    this.goOn()
  }
  goOn() {
    const { block, around } = this.props
    const said = wonOf(around.walk.drawn[block.key], around)
    this.timer = setTimeout(() => around.tell({ is: 'shown' }), Math.max(reads, letter * said.length)) as unknown as number
  }
  render({ block: d, around }: { block: PrizeDraw; around: Around }, { over }: { over: boolean }) {
    const Look = looks[d.look]
    const drawn = around.still ? undefined : around.walk.drawn[d.key]
    const way = around.sender?.id ?? d.id
    return (
      <div class="draw">
        <Look draw={d} around={around} drawn={drawn} going={around.sending} over={over} way={way} take={() => around.leave(way, true)} done={this.done} />
        <div class="says">{over && drawn && wonOf(drawn, around)}</div>
        {!drawn && d.look === 'wheel' && (
          <p class="bare">
            {around.say('prizes', 'What there is to win: {list}.', { list: new Intl.ListFormat(around.language).format(d.parts.map(p => p.label)) })}
          </p>
        )}
        {(d.statement || (around.still && d.odds)) && <div class="odds">{d.statement || 'The odds are written here, from the weights.'}</div>}
      </div>
    )
  }
}

/** What was drawn, by its labels. */
function labelsOf(scenes: Scene[], answers: Record<string, string>): Record<string, string> {
  const labels: Record<string, string> = {}
  for (const s of scenes)
    for (const b of flat(s.blocks))
      if (b.kind === 'draw') {
        const label = b.parts.find(p => p.id === answers[b.key])?.label
        if (label) labels[b.key] = label
      }
  return labels
}

/** All of it, drawn with this renderer. */
export function make(given: Given) {
  give(given)
  const blocks = { draw: DrawnDraw } as unknown as Record<string, ComponentType<{ block: Block; around: Around }>>
  return { blocks, labelsOf, style: drawStyle }
}
