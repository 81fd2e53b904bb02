/** @jsxImportSource preact */
import { Component, createRef } from 'preact'
import type { Block, Button, Drawing, Field, Format, Frame, Kit, Scene } from '../kinds/piece'
import { type Around, DrawnBlock, fitted, sounds } from './blocks'
import type { Host } from './host'
import { families, flat, formatOn, modal, on, type PageLook, paint, phoneWidth, placeOf, usualKit } from './paint'

const away = 'That did not reach us. Your words are kept: please try again.'

interface Props {
  host: Host
  drawing: Drawing
  /** Shows this scene and does nothing: for the studio. */
  still?: string
  /** Drawn as on a phone, or not; by the window where it is left out. */
  phone?: boolean
  page?: PageLook
}

interface State {
  scene: string
  answers: Record<string, string>
  faults: Record<string, string>
  trouble: string
  sending: boolean
  phone: boolean
  /** The tab is there, and the piece is not. */
  shut: boolean
  closing: boolean
  leaving: boolean
}

const focusables = 'a[href], button:not([disabled]), input, select, textarea, video[controls], iframe'
const shadows: Record<string, string> = { none: 'none', soft: '0 2px 14px rgb(0 0 0 / .16)', deep: '0 18px 60px rgb(0 0 0 / .28), 0 2px 8px rgb(0 0 0 / .12)' }
const goes = 180 // ms for a piece to leave

/** A piece: its frame, and one scene at a time in it. */
export class DrawnPiece extends Component<Props, State> {
  state: State = {
    scene: '',
    answers: {},
    faults: {},
    trouble: '',
    sending: false,
    phone: innerWidth <= phoneWidth,
    shut: this.props.still === undefined && !!this.props.drawing.frame.tab?.words && !this.props.drawing.frame.tab.after,
    closing: !this.props.drawing.frame.close.after,
    leaving: false,
  }
  hold = createRef<HTMLDivElement>()
  before = document.activeElement as HTMLElement | null
  done = false
  timer = 0

  get phone() {
    return this.props.phone ?? this.state.phone
  }

  get format(): Format {
    return formatOn(this.phone, this.props.drawing)
  }

  get modal() {
    return modal(this.format)
  }

  get kit(): Kit {
    return this.props.drawing.kit ?? usualKit
  }

  get scene(): Scene {
    const { drawing, still } = this.props
    const id = still ?? this.state.scene
    return drawing.scenes.find(s => s.id === id) ?? drawing.scenes[0]
  }

  componentDidMount() {
    if (this.props.still !== undefined) return
    if (!this.state.shut) this.opened()
    document.addEventListener('keydown', this.keys, true)
    addEventListener('resize', this.sized)
  }

  opened() {
    const { close, sound } = this.props.drawing.frame
    if (sound) sounds.play?.(sound)
    const { after } = close
    if (after && !this.state.closing) this.timer = setTimeout(() => this.setState({ closing: true }), after * 1000) as unknown as number
    if (this.modal) this.hold.current?.focus({ preventScroll: true })
  }

  componentWillUnmount() {
    clearTimeout(this.timer)
    document.removeEventListener('keydown', this.keys, true)
    removeEventListener('resize', this.sized)
    this.giveBack()
  }

  giveBack() {
    if (this.props.still === undefined && this.modal) this.before?.focus?.({ preventScroll: true })
  }

  sized = () => this.setState({ phone: innerWidth <= phoneWidth })

  // Escape closes; Tab stays within a piece that makes the page wait, as the dialog pattern has it.
  keys = (e: KeyboardEvent) => {
    const hold = this.hold.current
    if (!hold || this.state.leaving) return
    const root = hold.getRootNode() as ShadowRoot
    const inside = root.activeElement
    if (e.key === 'Escape' && (this.modal || inside)) {
      e.stopPropagation()
      this.close()
    }
    if (e.key !== 'Tab' || !this.modal) return
    const stops = [...hold.querySelectorAll<HTMLElement>(focusables)]
    const at = stops.indexOf(inside as HTMLElement)
    const next = e.shiftKey ? (at <= 0 ? stops.length - 1 : -1) : at === stops.length - 1 || !inside ? 0 : -1
    if (next < 0 || !stops.length) return
    e.preventDefault()
    stops[next].focus()
  }

  close = () => this.end(this.done ? 'done' : 'closed')

  end(how: 'closed' | 'done') {
    if (this.state.leaving) return
    const { host, drawing } = this.props
    const { tab, leave } = drawing.frame
    if (how === 'closed' && tab?.words && tab.after) {
      host.ended(how, true)
      this.giveBack()
      return this.setState({ shut: true })
    }
    host.ended(how)
    if (leave === 'none' || this.format === 'inline' || matchMedia('(prefers-reduced-motion: reduce)').matches) return host.gone?.()
    this.setState({ leaving: true })
    setTimeout(() => host.gone?.(), goes)
  }

  answer = (key: string, value: string) => {
    const { [key]: _, ...faults } = this.state.faults
    this.setState({ answers: { ...this.state.answers, [key]: value }, faults })
  }

  press = (button: Button) => {
    const { press } = button
    const { host, drawing } = this.props
    if (button.counts && press.do !== 'send') {
      this.done = true
      host.converted()
    }
    switch (press.do) {
      case 'scene':
        return this.go(press.scene)
      case 'next':
        return this.go(drawing.scenes[drawing.scenes.indexOf(this.scene) + 1]?.id)
      case 'close':
        return this.close()
      case 'never':
        host.never?.()
        return this.close()
      case 'copy':
        return void navigator.clipboard?.writeText(press.text ?? '').catch(() => {})
      case 'scroll':
        this.close()
        try {
          document.querySelector(press.target!)?.scrollIntoView({ behavior: 'smooth', block: 'start' })
        } catch {}
        return
      case 'piece':
        this.end('done')
        host.other?.(press.piece!)
    }
  }

  go(scene?: string) {
    if (!scene || !this.props.drawing.scenes.some(s => s.id === scene)) return this.end('done')
    this.setState({ scene, faults: {}, trouble: '' }, () => {
      this.hold.current?.querySelector('.frame')?.scrollTo(0, 0)
      if (this.format !== 'inline') this.hold.current?.focus({ preventScroll: true })
    })
  }

  send = async () => {
    const scene = this.scene
    const blocks = flat(scene.blocks).filter(b => !b.hide || (b.hide === 'phone') !== this.phone)
    const button = blocks.find((b): b is Button => b.kind === 'button' && b.press.do === 'send')
    if (!button || this.state.sending || this.props.still !== undefined) return
    const answers: Record<string, string> = {}
    const fields = blocks.filter((b): b is Field => b.kind === 'field')
    for (const f of fields) answers[f.key] = (f.ask === 'hidden' ? this.props.host.found?.(f.from ?? '') : this.state.answers[f.key]) ?? ''
    const missing = fields.filter(f => f.required && f.ask !== 'hidden' && !answers[f.key].trim())
    if (missing.length)
      return this.fault(
        Object.fromEntries(missing.map(f => [f.key, f.message || (f.ask === 'consent' ? 'Please tick this to go on.' : 'Please fill this in.')])),
      )
    this.setState({ sending: true, trouble: '', faults: {} })
    const sent = await this.props.host.send(scene.id, answers, button.counts)
    this.setState({ sending: false })
    if (sent.ok) {
      this.done = true
      return this.go(button.press.scene)
    }
    const faults = Object.fromEntries((sent.faults ?? []).map(f => [f.at.replace('answers.', ''), f.message]))
    this.fault(faults)
    if (!sent.faults) this.setState({ trouble: sent.title ?? away })
  }

  fault(faults: Record<string, string>) {
    this.setState({ faults }, () => this.hold.current?.querySelector<HTMLElement>('[aria-invalid]')?.focus())
  }

  color = (c?: string, otherwise?: string): string => {
    if (c === '@page') return this.props.page?.ink ?? '#26232b'
    return paint(this.kit, c, otherwise ? this.color(otherwise) : '')
  }

  around(): Around {
    const { drawing, host, still, page } = this.props
    const { answers, faults, sending } = this.state
    const frame = this.frameOf(page)
    const { scenes } = drawing
    return {
      frame,
      kit: this.kit,
      phone: this.phone,
      base: host.base,
      answers,
      faults,
      sending,
      still: still !== undefined,
      step: scenes.indexOf(this.scene) + 1,
      steps: scenes.length,
      answer: this.answer,
      press: still === undefined ? this.press : () => {},
      go: scene => this.go(scene),
      close: this.close,
      since: () => host.since?.() ?? Date.now(),
      code: pool => host.code?.(pool) ?? Promise.resolve('YOUR-CODE'),
      color: this.color,
    }
  }

  /** The frame on this device, with what it takes from the page. */
  frameOf(page?: PageLook): Frame {
    const f = on(this.phone, this.props.drawing.frame)
    if (f.accent !== '@page') return f
    return {
      ...f,
      accent: (page?.accent ?? this.kit.colors[2].value) as string,
      accent_ink: f.accent_ink === '@page' ? (page?.accentInk ?? '#ffffff') : f.accent_ink,
    }
  }

  render({ host, still, page }: Props, { trouble, shut, closing, leaving }: State) {
    const around = this.around()
    const { frame, kit, phone } = around
    const { format, scene, color } = this
    const place = placeOf(format, frame.place)
    const title = flat(scene.blocks).find(b => b.kind === 'heading')
    const name =
      title?.kind === 'heading'
        ? plain(title.text)
            .replace(/\{[^}]*\}/g, '')
            .trim() || scene.name
        : scene.name
    const [font, heading] = families(kit, frame, page)
    const behind = frame.behind
    const side = format === 'bar' ? '' : (behind?.side ?? '')
    const enter = frame.enter ?? 'rise'
    const variables = {
      '--width': frame.width + 'px',
      '--pad': frame.padding + 'px',
      '--padding': frame.padding + 'px',
      '--gap': (frame.gap || 16) + 'px',
      '--corners': (frame.corners < 0 ? kit.corners : frame.corners) + 'px',
      '--background': frame.background === '@page' ? 'transparent' : color(frame.background),
      '--ink': color(frame.ink),
      '--accent': color(frame.accent),
      '--accent-ink': color(frame.accent_ink),
      '--font': font,
      '--heading': heading,
      '--veil': color(frame.veil.color),
      '--veil-opacity': frame.veil.opacity / 100,
      '--border': frame.border?.width ? `${frame.border.width}px solid ${color(frame.border.color, frame.ink)}` : 'none',
      '--shadow': shadows[frame.shadow ?? (format === 'inline' ? 'none' : 'deep')],
      '--field-corners': kit.field.corners + 'px',
      '--field-line': color(frame.ink),
      '--close': color(frame.close.color, frame.ink),
      '--share': (behind?.share || 42) + '%',
      '--part': (behind?.share || 42) / 100,
      '--tab': color(frame.tab?.fill, frame.accent),
      '--on-tab': color(frame.tab?.ink, frame.accent_ink),
      '--enter': enter,
      '--leave': frame.leave ?? 'fade',
    }
    const live = still === undefined
    const bar = format === 'bar' ? ` ${place}${host.flows && live ? ' flows' : ''}` : ''
    const layer = `layer ${format}${bar} ${live ? 'moving' : 'still'}${leaving ? ' leaving' : ''}`
    const close = live ? this.close : undefined
    const tab = frame.tab?.words ? (
      <button type="button" class={'tab ' + (frame.tab.place ?? 'bottom_end')} onClick={() => this.setState({ shut: false }, () => this.opened())}>
        {frame.tab.words}
      </button>
    ) : null
    if (shut)
      return (
        <div class={layer + ' shut'} style={variables}>
          {tab}
        </div>
      )
    return (
      <div class={layer} style={variables}>
        {this.modal && frame.veil.opacity > 0 && (
          // biome-ignore lint/a11y/useKeyWithClickEvents: Escape closes too
          // biome-ignore lint/a11y/noStaticElementInteractions: a press beside the dialog; the close mark is the control
          <div class="veil" onClick={frame.veil.closes ? close : undefined} />
        )}
        <div class={'place ' + place}>
          {/* biome-ignore lint/a11y/useAriaPropsSupportedByRole: a dialog has it, and a region is given none */}
          <div
            class={frame.close.shown && !frame.close.place ? 'hold closes' : 'hold'}
            ref={this.hold}
            {...(format === 'bar' || format === 'inline' ? { role: 'region' as const } : { role: 'dialog' as const, 'aria-modal': this.modal })}
            aria-label={name}
            tabIndex={-1}
            dir="auto"
          >
            {frame.close.shown && closing && (
              <button
                class={`close ${frame.close.look ?? ''} ${frame.close.place ?? ''}`}
                data-close
                type="button"
                aria-label={frame.close.look === 'words' ? undefined : frame.close.label || 'Close'}
                onClick={close}
              >
                {frame.close.look === 'words' ? (
                  frame.close.label || 'Close'
                ) : (
                  <svg viewBox="0 0 16 16" aria-hidden="true">
                    <path d="M2 2 14 14M14 2 2 14" stroke="currentColor" stroke-width="2" stroke-linecap="round" />
                  </svg>
                )}
              </button>
            )}
            <div class={`frame ${side}`} data-frame>
              <Behind frame={frame} side={side} base={host.base} color={color} still={!live} />
              <div class="body">
                <form
                  class="scene"
                  noValidate
                  key={scene.id}
                  onSubmit={e => {
                    e.preventDefault()
                    this.send()
                  }}
                >
                  {scene.blocks.map((b: Block) => (
                    <DrawnBlock key={b.id} block={b} around={around} />
                  ))}
                  {trouble && (
                    <span class="fault" role="alert">
                      {trouble}
                    </span>
                  )}
                  {frame.credit && <div class="credit">Made with Gobbet</div>}
                </form>
              </div>
            </div>
          </div>
        </div>
        {!live && frame.tab?.words && !phone && tab}
      </div>
    )
  }
}

const plain = (w: string | { text: string }[]) => (typeof w === 'string' ? w : w.map(s => s.text).join(''))

/** What lies behind the blocks, or stands beside them. */
function Behind({ frame, side, base, color, still }: { frame: Frame; side: string; base: string; color: (c?: string) => string; still: boolean }) {
  const b = frame.behind
  if (!b || !(b.gradient?.length || b.picture || b.video)) return null
  const style = b.gradient?.length ? { background: `linear-gradient(${b.angle ?? 0}deg, ${b.gradient.map(c => color(c)).join(', ')})` } : {}
  return (
    <div class={'behind' + (side ? ' beside' : '')} style={style}>
      {b.picture && <img src={`${base}/v1/pictures/${b.picture}`} alt={b.alt ?? ''} style={fitted(b.fit, b.focus)} draggable={false} />}
      {b.video && (
        <video
          src={`${base}/v1/files/${b.video}/video`}
          autoPlay={!still && !matchMedia('(prefers-reduced-motion: reduce)').matches}
          muted
          loop
          playsInline
          tabIndex={-1}
          style={fitted(b.fit, b.focus)}
        />
      )}
      {!side && (b.picture || b.video) && <i style={{ opacity: (b.shade ?? 0) / 100 }} />}
    </div>
  )
}
