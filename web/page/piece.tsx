/** @jsxImportSource preact */
import { Component, createRef } from 'preact'
import type { Block, Button, Drawing, Format, Frame, Scene } from '../kinds/piece'
import type { Kit } from '../kinds/style'
import type { Acts } from './acts'
import { type Around, DrawnBlock, parts } from './blocks'
import { fill } from './fill'
import type { Host } from './host'
import { Keyboard } from './keyboard'
import { families, flat, formatOn, modal, on, type PageLook, paint, placeOf } from './paint'
import type { WalkEvent } from './walk'
import { answered, firstState, scenesOf, shows } from './walkState'
import { known, plain, sayIn } from './words'

interface Props {
  host: Host
  drawing: Drawing
  /** Shows this scene and does nothing: for the studio. */
  still?: string
  /** Drawn as on a phone. */
  phone?: boolean
  page?: PageLook
}

interface State {
  /** The tab is there, and the piece is not. */
  shut: boolean
  closing: boolean
  leaving: boolean
  broken?: boolean
}

const shadows: Record<string, string> = { none: 'none', soft: '0 2px 14px rgb(0 0 0 / .16)', deep: '0 18px 60px rgb(0 0 0 / .28), 0 2px 8px rgb(0 0 0 / .12)' }
const goes = 180 // ms for a piece to leave

/** Keeps the page from scrolling, without a shift of what stands on it; gives how to let it go. */
function holdScroll() {
  const { style } = document.documentElement
  const { overflow, scrollbarGutter } = style
  if (innerWidth > document.documentElement.clientWidth) style.scrollbarGutter = 'stable'
  style.overflow = 'hidden'
  return () => {
    style.overflow = overflow
    style.scrollbarGutter = scrollbarGutter
  }
}

/** Whether a piece is drawn as a conversation. */
const talks = (format: Format, drawing: Drawing) => (format === 'chat' || (format === 'inline' && !!drawing.frame.talk)) && !!parts.chat

/** A piece: its frame, and in it the scene that its walk is at. */
export class DrawnPiece extends Component<Props, State> {
  state: State = {
    shut:
      this.props.still === undefined &&
      (this.format === 'chat'
        ? !parts.chat?.wasOpen(this.props.host.id)
        : this.format !== 'inline' && !!this.props.drawing.frame.tab?.words && (!!this.props.host.folded || !this.props.drawing.frame.tab.after)),
    closing: !this.props.drawing.frame.close.after,
    leaving: false,
  }
  hold = createRef<HTMLDivElement>()
  layer: HTMLElement | null = null
  letScroll = () => {}
  keyboard = new Keyboard({
    hold: () => this.hold.current,
    modal: () => this.modal,
    over: () => !!this.props.host.top && !this.modal,
    beside: what => this.act(acts => acts.uncover(what)),
    close: () => this.close(),
  })
  /** What is told to those who hear: of late, the last last. */
  told: { text: string; key: number }[] = []
  done = false
  say = sayIn(this.props.host.words)
  /** What numbers are written in: the page's language, whatever the words are in. */
  get language() {
    return known(document.documentElement.lang) ?? this.props.host.language
  }
  walk = firstState(this.props.drawing, this.phone)
  /** What carries out what is done here, once its script has come; and what was done before. */
  acts?: Acts
  waiting: ((acts: Acts) => void)[] = []
  /** Among that is that the scene was left. */
  leaves = false
  fetching = false
  parts = parts
  /** It is open, and was not closed yet. */
  up = false
  timer = 0

  get phone() {
    return !!this.props.phone
  }

  get format(): Format {
    return formatOn(this.phone, this.props.drawing)
  }

  get modal() {
    return modal(this.format)
  }

  get kit(): Kit {
    return this.props.drawing.kit!
  }

  get scene(): Scene {
    const { drawing, still } = this.props
    return still === undefined ? this.walk.scene : (drawing.scenes.find(s => s.id === still) ?? drawing.scenes[0])
  }

  get talking() {
    return talks(this.format, this.props.drawing)
  }

  constructor(props: Props) {
    super(props)
    if (props.still === undefined) this.begin()
  }

  begin() {
    if (!parts.walk) return
    this.acts = new parts.walk.Acts(this)
    this.leaves = false
    for (const does of this.waiting.splice(0)) does(this.acts)
  }

  /** Fetches what carries out what is done here, once. */
  ready = () => {
    const { load } = this.props.host
    if (this.acts || this.fetching || !load) return
    this.fetching = true
    load('walk')
      .then(
        walk => {
          parts.walk = walk
          this.begin()
        },
        () => {
          this.waiting = []
          if (this.leaves) this.walk = { ...this.walk, trouble: this.say('away', 'That did not reach us. Your words are kept: please try again.') }
        },
      )
      .finally(() => {
        this.fetching = this.leaves = false
        this.setState({})
      })
  }

  /** Does something, as soon as it can be done. */
  act(does: (acts: Acts) => void) {
    if (this.props.still !== undefined) return
    if (this.acts) return does(this.acts)
    this.waiting.push(does)
    this.setState({})
    this.ready()
  }

  tell = (e: WalkEvent) => {
    if (this.acts || e.is !== 'answered') return this.act(acts => acts.tell(e))
    this.walk = answered(this.walk, e.key, e.value)
    this.setState({})
    this.ready()
  }

  leave = (press: string, takes: boolean, late?: boolean) => {
    const at = Date.now()
    this.leaves = !this.acts
    this.act(acts => acts.leave(press, takes, late, at))
  }

  press = (button: Button) => {
    const { press, counts } = button
    const at = Date.now()
    if (counts && press.do !== 'send') {
      this.done = true
      this.props.host.converted()
    }
    if (press.do === 'never') this.props.host.never?.()
    if (press.do === 'close' || press.do === 'never') this.close()
    else if (/^(next|back|copy|scroll|piece)$/.test(press.do)) this.act(acts => acts.press(button, at))
  }

  componentDidMount() {
    if (this.props.still !== undefined) return
    const { opens } = this.props.host
    if (!this.state.shut) opens && this.modal ? opens(() => this.opened()) : this.opened()
    // What has nothing to answer or press through is not walked.
    const walks = flat(this.scene.blocks).some(b => b.kind === 'field' || b.kind === 'draw' || (b.kind === 'button' && /^(send|next)$/.test(b.press.do)))
    if (walks) (window.requestIdleCallback ?? setTimeout)(this.ready)
  }

  rise = (layer: HTMLElement | null) => {
    this.layer = layer
    if (layer && !(layer instanceof HTMLDialogElement)) this.lift(layer)
  }

  // The browser's top layer: over everything, whatever the page does to its own
  // elements. A dialog makes the rest of the page inert, too.
  lift(layer: HTMLElement) {
    if (!this.props.host.top) return
    try {
      if (layer instanceof HTMLDialogElement) layer.showModal()
      else layer.showPopover()
    } catch {
      // A browser without one shows it where it stands.
      layer.setAttribute('open', '')
    }
  }

  opened() {
    this.up = true
    const { close, sound } = this.props.drawing.frame
    if (sound) parts.extras?.playSound(sound)
    const { after } = close
    if (after && !this.state.closing) this.timer = setTimeout(() => this.setState({ closing: true }), after * 1000) as unknown as number
    if (this.modal) {
      if (this.props.host.top) this.letScroll = holdScroll()
      if (this.layer instanceof HTMLDialogElement) this.lift(this.layer)
    }
    this.keyboard.opens()
  }

  componentWillUnmount() {
    clearTimeout(this.timer)
    this.acts?.stop()
    if (this.up && this.giveBack()) this.keyboard.back()
  }

  // Nothing half drawn stays on the page.
  componentDidCatch(why: unknown) {
    this.giveBack()
    this.setState({ broken: true })
    this.props.host.failed?.(why)
  }

  /** Lets the page go. Gives whether the keyboard was in the piece. */
  giveBack(): boolean {
    this.letScroll()
    this.letScroll = () => {}
    const had = this.keyboard.closed()
    if (this.layer instanceof HTMLDialogElement) this.layer.close()
    return had
  }

  close = () => this.end(this.done ? 'done' : 'closed')

  end(how: 'closed' | 'done') {
    if (!this.up) return
    this.up = false
    const { host, drawing } = this.props
    const { tab, leave } = drawing.frame
    if (this.format === 'chat') parts.chat?.wasOpen(host.id, false)
    if (this.format === 'chat' || (how === 'closed' && tab?.words && tab.after)) {
      const had = this.giveBack()
      host.ended(how, true)
      return this.setState({ shut: true }, () => had && this.layer?.querySelector('button')?.focus({ preventScroll: true }))
    }
    if (this.giveBack()) this.keyboard.back()
    host.ended(how)
    if (leave === 'none' || this.format === 'inline' || matchMedia('(prefers-reduced-motion: reduce)').matches) return host.gone?.()
    this.setState({ leaving: true })
    setTimeout(() => host.gone?.(), goes)
  }

  /** What the close button says. Pieces are made with the English word, which is no one's choice. */
  closes = (label?: string) => (label && label !== 'Close' ? label : this.say('close', 'Close'))

  /** The button that takes the scene's answers along, if it has one. */
  get sender(): Button | undefined {
    return flat(this.scene.blocks).find((b): b is Button => b.kind === 'button' && b.press.do === 'send' && shows(b, this.phone))
  }

  color = (c?: string, otherwise?: string): string => {
    if (c === '@page') return this.props.page?.ink ?? '#26232b'
    return paint(this.kit, c, otherwise ? this.color(otherwise) : '')
  }

  surroundings(): Around {
    const { drawing, host, still, page } = this.props
    const { walk, scene, sender, tell } = this
    const { answers } = walk
    const scenes = scenesOf(drawing, walk)
    const { play } = parts
    const values = play?.valuesOf(drawing, answers, walk.values, this.language) ?? walk.values
    const live = drawing.live ?? []
    return {
      frame: this.frameOf(page),
      kit: this.kit,
      phone: this.phone,
      base: host.base,
      answers,
      said: {
        ...answers,
        ...play?.labelsOf(drawing, answers),
        ...parts.draw?.labelsOf(scenes, answers),
        ...Object.fromEntries(
          Object.entries(values).map(([name, x]) => [
            name,
            play?.written(
              x,
              live.find(f => f.name === name),
              this.language,
            ) ?? '',
          ]),
        ),
      },
      values,
      live,
      marks: walk.marks,
      tallies: walk.tallies,
      faults: walk.faults,
      sending: walk.doing === 'sending' || this.leaves,
      still: still !== undefined,
      scene: scene.id,
      drawing,
      scenes,
      walk,
      tell,
      announce: text => {
        this.acts?.announce(text)
        this.setState({})
      },
      say: this.say,
      language: this.language,
      clean: host.clean,
      sender,
      answer: (key, value) => tell({ is: 'answered', key, value }),
      press: still === undefined ? this.press : () => {},
      leave: this.leave,
      close: this.close,
      since: () => host.since?.() ?? Date.now(),
      code: (pool, draw) => host.code?.(scene.id, pool, draw) ?? Promise.resolve('YOUR-CODE'),
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

  render({ host, still, page }: Props, { shut, closing, leaving, broken }: State) {
    if (broken) return null
    const around = this.surroundings()
    const { frame, kit, phone } = around
    const { format, scene, color } = this
    const { trouble } = this.walk
    const Clock = parts.play?.Clock
    const { frames } = parts
    const place = placeOf(format, frame.place)
    const { chat } = parts
    const { talking } = this
    // A conversation has one name, whatever scene it is at.
    const title = flat((talking ? this.props.drawing.scenes[0] : scene).blocks).find(b => b.kind === 'heading')
    const named = title?.kind === 'heading' ? fill(plain(title.text), around.said).trim() : ''
    const name = (talking && (frame.talk?.name || frame.tab?.words)) || named || (talking ? '' : scene.name)
    const [font, heading] = families(kit, frame, page)
    const side = format === 'bar' ? '' : (frame.behind?.side ?? '')
    // Outside a frame that reaches the window's edge nobody would find it.
    const closeAt = frame.close.place === 'outside' && !/popup|fly/.test(format) ? '' : (frame.close.place ?? '')
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
      '--backdrop': color(frame.backdrop.color),
      '--backdrop-opacity': frame.backdrop.opacity / 100,
      '--border': frame.border?.width ? `${frame.border.width}px solid ${color(frame.border.color, frame.ink)}` : 'none',
      '--shadow': shadows[frame.shadow ?? (format === 'inline' ? 'none' : 'deep')],
      '--field-corners': kit.field.corners + 'px',
      '--field-line': color(frame.ink),
      '--close': color(frame.close.color, frame.ink),
      ...frames?.variables(frame, color),
      '--enter': enter,
      '--leave': frame.leave ?? 'fade',
    }
    const live = still === undefined
    const bar = format === 'bar' ? ` ${place}${host.flows && live ? ' flows' : ''}` : ''
    const layer = `layer ${format}${bar} ${live ? 'moving' : 'still'}${leaving ? ' leaving' : ''}`
    const raised = live && host.top ? ({ ref: this.rise, popover: 'manual' } as const) : {}
    const close = live ? this.close : undefined
    const open = () => {
      if (format === 'chat') parts.chat?.wasOpen(host.id, true)
      this.props.host.opened?.()
      this.setState({ shut: false }, () => {
        this.opened()
        if (format === 'chat') this.hold.current?.focus({ preventScroll: true })
      })
    }
    const tab =
      format === 'chat' && chat ? (
        <chat.Launcher around={around} place={place} open={open} />
      ) : (
        frames && format !== 'inline' && frame.tab?.words && <frames.Tab tab={frame.tab} open={open} />
      )
    if (shut)
      return (
        <div key="shut" {...raised} class={layer + ' shut'} style={variables}>
          {tab}
        </div>
      )
    const dialog = live && host.top && this.modal
    const Layer = (dialog ? 'dialog' : 'div') as 'div'
    const asks = dialog
      ? {
          ref: this.rise,
          'aria-label': name,
          tabIndex: -1,
          onCancel: (e: Event) => {
            e.preventDefault()
            this.close()
          },
          // A browser may close it without asking.
          onClose: () => this.close(),
        }
      : raised
    // biome-ignore-start lint/a11y: where the keyboard leaves a dialog, it is led round
    const guard = (first: boolean) => dialog && <span key={'guard' + first} class="bare" tabIndex={0} onFocus={() => this.keyboard.around(first)} />
    // biome-ignore-end lint/a11y: see above
    return (
      <Layer key="open" {...asks} class={layer} style={variables}>
        {guard(false)}
        {this.modal && frame.backdrop.opacity > 0 && (
          // biome-ignore lint/a11y/useKeyWithClickEvents: Escape closes too
          // biome-ignore lint/a11y/noStaticElementInteractions: a press beside the dialog; the close mark is the control
          <div class="backdrop" onClick={frame.backdrop.closes ? close : undefined} />
        )}
        <div class={`place ${place} ${closeAt}`}>
          <div
            class={frame.close.shown && !closeAt ? 'hold closes' : 'hold'}
            ref={this.hold}
            {...(dialog
              ? {}
              : format === 'bar' || format === 'inline'
                ? { role: 'region' as const, 'aria-label': name }
                : { role: 'dialog' as const, 'aria-modal': this.modal, 'aria-label': name })}
            tabIndex={-1}
            dir="auto"
          >
            {frame.close.shown && closing && !talking && (
              <button
                class={`close ${frame.close.look ?? ''} ${closeAt}`}
                data-close
                type="button"
                aria-label={frame.close.look === 'words' ? undefined : this.closes(frame.close.label)}
                onClick={close}
              >
                {frame.close.look === 'words' ? (
                  this.closes(frame.close.label)
                ) : (
                  <svg viewBox="0 0 16 16" aria-hidden="true">
                    <path d="M2 2 14 14M14 2 2 14" stroke="currentColor" stroke-width="2" stroke-linecap="round" />
                  </svg>
                )}
              </button>
            )}
            <div class={`frame ${side}`} data-frame>
              {frames && <frames.Behind frame={frame} side={side} base={host.base} color={color} still={!live} say={this.say} />}
              {talking && chat && (
                <chat.Conversation
                  around={around}
                  name={name}
                  close={format === 'chat' ? (close ?? (() => {})) : undefined}
                  closes={this.closes(frame.close.label)}
                />
              )}
              {!talking && (
                <div class="body">
                  <form
                    class="scene"
                    noValidate
                    tabIndex={-1}
                    key={scene.id}
                    onSubmit={e => {
                      e.preventDefault()
                      const by = (e as SubmitEvent).submitter as HTMLButtonElement | null
                      if (by || around.sender) this.leave(by?.value || around.sender!.id, true)
                    }}
                  >
                    {Clock && scene.limit && <Clock key={scene.id} seconds={scene.limit} extends={scene.extends} around={around} />}
                    {scene.blocks.map((b: Block) => (
                      <DrawnBlock key={b.id} block={b} around={around} />
                    ))}
                    {trouble && (
                      <span class="fault" dir="auto" role="alert">
                        {trouble}
                      </span>
                    )}
                    {frame.credit && <div class="credit">Made with Gobbet</div>}
                  </form>
                </div>
              )}
            </div>
          </div>
        </div>
        {live && (
          <div class="bare" role="status">
            {this.told.map(t => (
              <p key={t.key}>{t.text}</p>
            ))}
          </div>
        )}
        {!live && (frame.tab?.words || format === 'chat') && (!phone || format === 'chat') && tab}
        {guard(true)}
      </Layer>
    )
  }
}
