/** @jsxImportSource preact */
import { Component, createRef } from 'preact'
import type { Button, Drawing, Scene } from '../kinds/piece'
import { DrawnBlock } from './blocks'
import type { Host } from './host'

const fonts = {
  sans: 'system-ui, -apple-system, "Segoe UI", Roboto, "Helvetica Neue", Arial, sans-serif',
  serif: 'Georgia, "Iowan Old Style", "Times New Roman", serif',
}

const away = 'That did not reach us. Your words are kept: please try again.'

interface Props {
  host: Host
  drawing: Drawing
  /** Shows this scene and does nothing: for the studio. */
  still?: string
}

interface State {
  scene: string
  answers: Record<string, string>
  faults: Record<string, string>
  trouble: string
  sending: boolean
}

const focusables = 'a[href], button:not([disabled]), input'

/** A piece: its frame, and one scene at a time in it. */
export class DrawnPiece extends Component<Props, State> {
  state: State = { scene: '', answers: {}, faults: {}, trouble: '', sending: false }
  frame = createRef<HTMLDivElement>()
  before = document.activeElement as HTMLElement | null
  done = false

  get modal() {
    return this.props.drawing.format === 'popup'
  }

  get scene(): Scene {
    const { drawing, still } = this.props
    const id = still ?? this.state.scene
    return drawing.scenes.find(s => s.id === id) ?? drawing.scenes[0]
  }

  componentDidMount() {
    if (this.props.still !== undefined) return
    if (this.modal) this.frame.current?.focus({ preventScroll: true })
    document.addEventListener('keydown', this.keys, true)
  }

  componentWillUnmount() {
    document.removeEventListener('keydown', this.keys, true)
    if (this.props.still === undefined && this.modal) this.before?.focus?.({ preventScroll: true })
  }

  // Escape closes; Tab stays within a popup, as the dialog pattern has it.
  keys = (e: KeyboardEvent) => {
    const frame = this.frame.current
    if (!frame) return
    const root = frame.getRootNode() as ShadowRoot
    const inside = root.activeElement
    if (e.key === 'Escape' && (this.modal || inside)) {
      e.stopPropagation()
      this.close()
    }
    if (e.key !== 'Tab' || !this.modal) return
    const stops = [...frame.querySelectorAll<HTMLElement>(focusables)]
    const at = stops.indexOf(inside as HTMLElement)
    const next = e.shiftKey ? (at <= 0 ? stops.length - 1 : -1) : at === stops.length - 1 || !inside ? 0 : -1
    if (next < 0 || !stops.length) return
    e.preventDefault()
    stops[next].focus()
  }

  close = () => this.end(this.done ? 'done' : 'closed')

  end(how: 'closed' | 'done') {
    this.props.host.ended(how)
  }

  answer = (key: string, value: string) => {
    const { [key]: _, ...faults } = this.state.faults
    this.setState({ answers: { ...this.state.answers, [key]: value }, faults })
  }

  press = (button: Button) => {
    const { press } = button
    if (button.counts && press.do !== 'send') {
      this.done = true
      this.props.host.converted()
    }
    if (press.do === 'scene') this.go(press.scene)
    if (press.do === 'close') this.close()
  }

  go(scene?: string) {
    if (!scene || !this.props.drawing.scenes.some(s => s.id === scene)) return this.end('done')
    this.setState({ scene, faults: {}, trouble: '' }, () => {
      this.frame.current?.scrollTo(0, 0)
      this.frame.current?.focus({ preventScroll: true })
    })
  }

  send = async () => {
    const scene = this.scene
    const button = scene.blocks.find((b): b is Button => b.kind === 'button' && b.press.do === 'send')
    if (!button || this.state.sending || this.props.still !== undefined) return
    const answers: Record<string, string> = {}
    for (const b of scene.blocks) if (b.kind === 'field') answers[b.key] = this.state.answers[b.key] ?? ''
    const missing = scene.blocks.flatMap(b => (b.kind === 'field' && b.required && !answers[b.key].trim() ? [[b.key, 'Please fill this in.']] : []))
    if (missing.length) return this.fault(Object.fromEntries(missing))
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
    this.setState({ faults }, () => this.frame.current?.querySelector<HTMLElement>('[aria-invalid]')?.focus())
  }

  render({ drawing, host, still }: Props, { answers, faults, trouble, sending }: State) {
    const { frame, format } = drawing
    const scene = this.scene
    const title = scene.blocks.find(b => b.kind === 'heading')
    const variables = {
      '--width': frame.width + 'px',
      '--padding': frame.padding + 'px',
      '--corners': frame.corners + 'px',
      '--background': frame.background,
      '--ink': frame.ink,
      '--accent': frame.accent,
      '--font': fonts[frame.font],
      '--veil': frame.veil.color,
      '--veil-opacity': frame.veil.opacity / 100,
    }
    const around = { frame, base: host.base, answers, faults, sending, answer: this.answer, press: still === undefined ? this.press : () => {} }
    return (
      <div class={`layer ${format}${still === undefined ? ' moving' : ''}`} style={variables}>
        {this.modal && frame.veil.opacity > 0 && (
          // biome-ignore lint/a11y/useKeyWithClickEvents: Escape closes too
          // biome-ignore lint/a11y/noStaticElementInteractions: a press beside the dialog; the close mark is the control
          <div class="veil" onClick={frame.veil.closes && still === undefined ? this.close : undefined} />
        )}
        <div class="place">
          <div
            class="frame"
            data-frame
            ref={this.frame}
            role="dialog"
            aria-modal={this.modal}
            aria-label={title?.kind === 'heading' ? title.text.replace(/\{[^}]*\}/g, '').trim() : scene.name}
            tabIndex={-1}
          >
            {frame.close.shown && (
              <button class="close" data-close type="button" aria-label={frame.close.label || 'Close'} onClick={still === undefined ? this.close : undefined}>
                <svg viewBox="0 0 16 16" aria-hidden="true">
                  <path d="M2 2 14 14M14 2 2 14" stroke="currentColor" stroke-width="2" stroke-linecap="round" />
                </svg>
              </button>
            )}
            <form
              class="scene"
              noValidate
              key={scene.id}
              onSubmit={e => {
                e.preventDefault()
                this.send()
              }}
            >
              {scene.blocks.map(b => (
                <DrawnBlock key={b.id} block={b} around={around} />
              ))}
              {trouble && (
                <span class="fault" role="alert">
                  {trouble}
                </span>
              )}
            </form>
          </div>
        </div>
      </div>
    )
  }
}
