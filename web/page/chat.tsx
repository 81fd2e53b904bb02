/** @jsxImportSource preact */
import { Component, type JSX } from 'preact'
import type { Block, Button, Field, Scene, Talk } from '../kinds/piece'
import type { Around } from './blocks'
import { DrawnBlock, type Given, give } from './borrowed'
import { chatStyle } from './chatStyle'
import { labelled } from './labels'
import { flat, on } from './paint'

// Conversations: the scenes of a piece as lines that are said in turns. What is
// asked is answered by a press or typed. Fetched where a piece is one.

/** Faces that ship: plain shapes of the product's own, in the piece's colours. */
const faces: Record<NonNullable<Talk['face']>, string> = {
  cup: 'M6 7h11v7a5 5 0 0 1-5 5h-1a5 5 0 0 1-5-5zM17 9h1.5a2.5 2.5 0 0 1 0 5H17M9 4v1M13 4v1',
  leaf: 'M5 19C4 10 10 5 20 5c0 9-5 14-13 13M5 19c3-5 6-7 10-9',
  wave: 'M3 9c3-4 6-4 9 0s6 4 9 0M3 16c3-4 6-4 9 0s6 4 9 0',
  sun: 'M12 8a4 4 0 1 0 0 8 4 4 0 0 0 0-8M12 3v2M12 19v2M3 12h2M19 12h2M6 6l1.4 1.4M16.6 16.6 18 18M18 6l-1.4 1.4M6 18l1.4-1.4',
  star: 'M12 4l2.3 5 5.4.6-4 3.7 1.1 5.4-4.8-2.7-4.8 2.7 1.1-5.4-4-3.7 5.4-.6z',
}

function Face({ talk, base }: { talk?: Talk; base: string }) {
  if (talk?.picture) return <img class="face" src={`${base}/v1/pictures/${talk.picture}`} alt="" draggable={false} />
  return (
    <span class="face" aria-hidden="true">
      <svg viewBox="0 0 24 24" aria-hidden="true" fill="none" stroke="currentColor" stroke-width="1.8" stroke-linecap="round" stroke-linejoin="round">
        <path d={faces[talk?.face ?? 'cup']} />
      </svg>
    </span>
  )
}

/** The tab at the edge that opens a conversation: a face and its question. */
function Launcher({ around, place, open }: { around: Around; place: string; open(): void }) {
  const { frame, base, color, still } = around
  const { tab, talk } = frame
  return (
    <button
      type="button"
      style={{ '--tab': color(tab?.fill, frame.accent), '--on-tab': color(tab?.ink, frame.accent_ink) }}
      class={`launcher ${place}`}
      onClick={still ? undefined : open}
      tabIndex={still ? -1 : undefined}
    >
      <Face talk={talk} base={base} />
      <span>{tab?.words || around.say('ask', 'Ask us')}</span>
    </button>
  )
}

const asks = (b: Block): b is Field => b.kind === 'field' && b.ask !== 'hidden'
const typed = /^(text|email|name|phone|number)$/
const leads = (b: Block): b is Button => b.kind === 'button' && b.press.do !== 'send'
/** Blocks that say nothing in a conversation. */
const mute = /^(progress|space|divider)$/

/** How a scene is answered. */
interface Reply {
  /** What is said before it. */
  lines: Block[]
  /** One question with answers to press, or one that is typed. */
  choice?: Field
  line?: Field
  /** Anything else is filled in where it stands. */
  card: Block[]
  sender?: Button
  buttons: Button[]
}

function replyOf(scene: Scene, phone: boolean): Reply {
  const shown = scene.blocks.map(b => on(phone, b)).filter(b => !(b.hide && (b.hide === 'phone') === phone) && !mute.test(b.kind))
  const all = flat(shown)
  const fields = all.filter(asks)
  const sender = all.find((b): b is Button => b.kind === 'button' && b.press.do === 'send')
  const one = fields.length === 1 && shown.includes(fields[0]) && !all.some(b => b.kind === 'draw') ? fields[0] : undefined
  const choice = one?.ask === 'choice' && one.look !== 'pictures' ? one : undefined
  const line = one && typed.test(one.ask) ? one : undefined
  const filled = !choice && !line && (fields.length > 0 || all.some(b => b.kind === 'draw'))
  const part = (b: Block) => asks(b) || b.kind === 'button'
  return {
    lines: filled ? shown.filter(b => b.kind === 'heading' || b.kind === 'text') : shown.filter(b => !part(b)),
    choice,
    line,
    card: filled ? shown.filter(b => b.kind !== 'heading' && b.kind !== 'text' && !leads(b)) : [],
    sender,
    buttons: all.filter(leads),
  }
}

const words = (b: Block): number => ('text' in b ? (typeof b.text === 'string' ? b.text.length : b.text.reduce((n, s) => n + s.text.length, 0)) : 60)
const paces = { calm: [420, 20, 1900], brisk: [220, 9, 900] } as const

/** How long a line takes to be typed, in ms. */
function takes(talk: Talk | undefined, line: Block): number {
  const pace = talk?.pace && paces[talk.pace]
  return pace && !matchMedia('(prefers-reduced-motion: reduce)').matches ? Math.min(pace[2], pace[0] + pace[1] * words(line)) : 0
}

interface Props {
  around: Around
  name: string
  /** How it can be made small; none where it stands in the page. */
  close?: () => void
  closes: string
}

interface State {
  /** How many lines of the present scene are said by now. */
  said: number
  /** Kind words after what could not be understood, each with what was typed. */
  retries: { typed: string; say: string }[]
  typed: string
}

const again = 3000 // ms until a line that goes on by itself, and did not arrive, is sent again
const mostTurns = 60
const longest = 2000 // characters of an answer, as the server has it

class Conversation extends Component<Props, State> {
  state: State = { said: this.linesOf().length, retries: [], typed: '' }
  log: HTMLElement | null = null
  input: HTMLInputElement | null = null
  timer = 0
  scene = this.at()
  /** The keyboard was in what is gone now. */
  held = false
  /** It waits in the log until there is something to answer. */
  waits = false
  /** What was typed, or pressed, and is on its way. */
  sent = ''
  trouble = ''

  get focused() {
    return (this.log?.getRootNode() as ShadowRoot | undefined)?.activeElement
  }
  at(): Scene {
    const { around } = this.props
    return around.still ? (around.drawing.scenes.find(s => s.id === around.scene) ?? around.walk.scene) : around.walk.scene
  }
  linesOf() {
    return replyOf(this.at(), this.props.around.phone).lines
  }

  componentDidMount() {
    const { around } = this.props
    if (around.still) return
    // What was said on another page needs no telling again.
    if (around.walk.turns.length < 2) this.begin()
    else this.down()
    this.passOn()
  }
  componentWillUnmount() {
    clearTimeout(this.timer)
  }
  componentWillUpdate() {
    const at = this.focused
    this.waits &&= at === this.log
    this.held = this.waits || !!at?.closest?.('.reply, .composer')
  }
  componentDidUpdate(_: Props, before: State) {
    const { around } = this.props
    if (around.still) return
    if (this.scene !== this.at()) {
      this.scene = this.at()
      this.setState({ retries: [] })
      this.begin()
    }
    // A fault of what was typed is said, and asked again.
    const { line } = replyOf(this.scene, around.phone)
    const fault = (line && around.faults[line.key]) || ''
    const { said } = around.walk.turns.at(-1)!
    if (fault && !around.sending && said !== undefined) {
      const typed = said
      around.tell({ is: 'said' })
      this.retry(typed, `${fault} ${around.say('again', 'Could you try once more?')}`)
    }
    const { trouble } = around.walk
    if (trouble && !this.trouble && this.scene.passes) this.timer = setTimeout(() => this.passOn(), again) as unknown as number
    this.trouble = trouble
    if (trouble && said !== undefined) {
      around.tell({ is: 'said' })
      // What did not arrive is theirs to send again, unless they have begun anew.
      const { sent } = this
      this.setState(s => ({ typed: s.typed || sent }))
    }
    if (before.said !== this.state.said || before.retries !== this.state.retries || this.held) this.down()
    if (this.held && (this.waits || !this.focused)) this.here()
  }

  /** Puts the keyboard where the visitor answers. */
  here() {
    const next = this.input ?? this.log?.querySelector<HTMLElement>('.reply :is(button, input, a[href])')
    // While nothing can be answered it waits in the log.
    this.waits = !next
    ;(next ?? this.log)?.focus({ preventScroll: true })
  }
  down() {
    this.log?.scrollTo({ top: this.log.scrollHeight })
  }

  /** Says the lines of the present scene, one after the other. */
  begin() {
    clearTimeout(this.timer)
    const { talk } = this.props.around.frame
    const lines = this.linesOf()
    const say = (n: number) => {
      this.setState({ said: n })
      if (n < lines.length) this.timer = setTimeout(() => say(n + 1), takes(talk, lines[n])) as unknown as number
      else this.passOn()
    }
    const first = lines.findIndex(b => takes(talk, b) > 0)
    say(first < 0 ? lines.length : first)
  }
  /** Goes on by itself where there is nothing to answer. */
  passOn() {
    const scene = this.at()
    if (!scene.passes) return
    const on = () => {
      const { around } = this.props
      if (this.at() !== scene) return
      if (around.sending) this.timer = setTimeout(on, 60) as unknown as number
      else around.leave('', false)
    }
    const lines = this.linesOf()
    this.timer = setTimeout(on, takes(this.props.around.frame.talk, lines.at(-1) ?? scene.blocks[0]) / 2) as unknown as number
  }

  retry(typed: string, say: string) {
    this.setState(s => ({ retries: [...s.retries, { typed, say }].slice(-8), typed: '' }))
  }

  /** Empties the line, and keeps what was said in case that it does not arrive. */
  leaves(words: string) {
    this.sent = this.state.typed || words
    this.setState({ typed: '' })
  }
  /** Takes an answer that was pressed or typed. */
  give(field: Field, value: string, sender?: Button) {
    const { around } = this.props
    const words = labelled(field.choices, value)
    this.leaves(words)
    around.tell({ is: 'said', words })
    around.answer(field.key, value)
    around.leave(sender?.id ?? field.id, true)
  }
  press(button: Button) {
    const { around } = this.props
    if (button.press.do === 'next') around.tell({ is: 'said', words: button.words })
    this.leaves(button.words)
    around.press(button)
  }
  /** All is said, and nothing is on its way. */
  ready() {
    const { walk, sending } = this.props.around
    return this.state.said >= this.linesOf().length && walk.turns.at(-1)!.said === undefined && !sending
  }
  send = (e: Event) => {
    e.preventDefault()
    const { around } = this.props
    const typed = this.state.typed.trim()
    const reply = replyOf(this.at(), around.phone)
    if (around.still || !this.ready()) return
    if (typed.length > longest) return this.retry('', around.say('shorter', 'This is too long. Could you say it in fewer words?'))
    if (reply.line) {
      if (!typed && reply.line.required) return this.retry('', around.say('first', 'Please type an answer first.'))
      return this.give(reply.line, typed, reply.sender)
    }
    if (!typed) return
    const options = [...(reply.choice?.choices ?? []).map(c => ({ label: c.label, take: () => this.give(reply.choice!, c.id, reply.sender) }))]
    for (const b of reply.buttons) if (b.press.do === 'next' || b.press.do === 'close') options.push({ label: b.words, take: () => this.press(b) })
    const found = meant(typed, options)
    if (found) return found.take()
    this.retry(
      typed,
      options.length
        ? around.say('unclear', 'I did not catch that. Please choose one of these, or type it as it stands there.')
        : around.say('buttons', 'I cannot read that here. Please press one of the buttons.'),
    )
  }

  render({ around, name, close, closes }: Props, { said, retries, typed }: State) {
    const { frame, base, phone } = around
    const { talk } = frame
    const scene = this.at()
    const reply = replyOf(scene, phone)
    const turns = around.still ? [] : around.walk.turns.slice(0, -1).slice(-mostTurns)
    const mine = around.still ? undefined : around.walk.turns.at(-1)!.said
    const typing = !around.still && (said < reply.lines.length || (around.sending && !reply.card.length))
    const ready = said >= reply.lines.length && mine === undefined
    const bubble = (words: string, key: string) => (
      <div key={key} class="mine">
        <span class="bare">{around.say('you', 'You')}: </span>
        {words}
      </div>
    )
    const lines = (blocks: Block[], key: string) =>
      blocks.length ? (
        <div key={key} class="theirs">
          <Face talk={talk} base={base} />
          <div class="lines">
            {blocks.map(b => (
              <DrawnBlock key={b.id} block={b} around={around} />
            ))}
          </div>
        </div>
      ) : null
    // The words of a question stand there before its answer, and go on standing there after it.
    const asked = ({ choice, line }: Reply, key: string) => {
      const question = choice ?? line
      return question && !question.bare ? (
        <div key={key} class="theirs">
          <span class="face none" aria-hidden="true" />
          <div class="lines">
            <p>{question.label}</p>
          </div>
        </div>
      ) : null
    }
    const option = (b: Button) => (
      <div key={b.id} class="option" onClickCapture={b.press.do === 'next' ? () => around.tell({ is: 'said', words: b.words }) : undefined}>
        <DrawnBlock block={{ ...b, quiet: false, line: true, narrow: true, above: 0 } as Block} around={around} />
      </div>
    )
    const options = (reply.choice || reply.buttons.length > 0) && (
      <div class="reply options-row">
        {reply.choice && (
          <fieldset data-block={reply.choice.id}>
            <legend class="bare">{reply.choice.label}</legend>
            {reply.choice.choices?.map(c => (
              <button key={c.id} type="button" class="pick" onClick={() => !around.still && this.ready() && this.give(reply.choice!, c.id, reply.sender)}>
                {c.label}
              </button>
            ))}
          </fieldset>
        )}
        {reply.buttons.map(option)}
      </div>
    )
    const card = reply.card.length > 0 && (
      <form
        class="reply filled"
        noValidate
        onSubmit={e => {
          e.preventDefault()
          const by = (e as SubmitEvent).submitter as HTMLButtonElement | null
          around.leave(by?.value || reply.sender?.id || '', true)
        }}
      >
        {reply.card.map(b => (
          <DrawnBlock key={b.id} block={b} around={around} />
        ))}
      </form>
    )
    const composes = !!(reply.line || reply.choice)
    return (
      <div class="talk">
        <div class="head">
          <Face talk={talk} base={base} />
          <b>{talk?.name || name}</b>
          {close && (
            <button type="button" class="small" data-close aria-label={closes} onClick={around.still ? undefined : close}>
              <svg viewBox="0 0 16 16" aria-hidden="true">
                <path d="M3 8h10" stroke="currentColor" stroke-width="2" stroke-linecap="round" />
              </svg>
            </button>
          )}
        </div>
        {/* biome-ignore-start lint/a11y/noNoninteractiveTabindex: what scrolls is scrolled from the keyboard */}
        <div
          class="log"
          role="log"
          aria-label={talk?.name || name}
          tabIndex={0}
          ref={e => {
            this.log = e
          }}
        >
          {turns.map((t, i) => {
            const then = replyOf(t.scene, phone)
            return [lines(then.lines, `t${i}`), asked(then, `a${i}`), t.said && bubble(t.said, `s${i}`)]
          })}
          {lines(reply.lines.slice(0, around.still ? undefined : said), 'now')}
          {said >= reply.lines.length && asked(reply, 'asked')}
          {retries.map((r, i) => [
            r.typed && bubble(r.typed, `r${i}`),
            <div key={`k${i}`} class="theirs">
              <span class="face none" aria-hidden="true" />
              <div class="lines">
                <p dir="auto">{r.say}</p>
              </div>
            </div>,
          ])}
          {mine !== undefined && bubble(mine, 'mine')}
          {around.walk.trouble && (
            <span class="fault" dir="auto" role="alert">
              {around.walk.trouble}
            </span>
          )}
          {typing && (
            <div key="typing" class="typing" aria-hidden="true">
              <i />
              <i />
              <i />
            </div>
          )}
          {(ready || around.still) && card}
          {(ready || around.still) && options}
        </div>
        {/* biome-ignore-end lint/a11y/noNoninteractiveTabindex: see above */}
        {composes && (
          <form class="composer" noValidate onSubmit={this.send} data-block={reply.line?.id}>
            <input
              {...inputs[reply.line?.ask ?? 'text']}
              aria-label={reply.line?.label ?? reply.choice!.label}
              placeholder={reply.line?.hint || talk?.hint || around.say('type', 'Or type an answer…')}
              value={typed}
              maxLength={longest}
              required={reply.line?.required}
              ref={e => {
                this.input = e
              }}
              onInput={e => this.setState({ typed: e.currentTarget.value })}
            />
            <button
              type="submit"
              aria-label={reply.sender?.words ?? around.say('send', 'Send')}
              aria-disabled={!around.still && !this.ready()}
              data-block={reply.sender?.id}
            >
              <svg viewBox="0 0 20 20" aria-hidden="true" fill="none" stroke="currentColor" stroke-width="2" stroke-linecap="round" stroke-linejoin="round">
                <path d="M4 10h12M11 5l5 5-5 5" />
              </svg>
            </button>
          </form>
        )}
      </div>
    )
  }
}

const inputs: Record<string, JSX.IntrinsicElements['input']> = {
  name: { type: 'text', autocomplete: 'given-name' },
  email: { type: 'email', autocomplete: 'email' },
  phone: { type: 'tel', autocomplete: 'tel' },
  number: { type: 'text', inputMode: 'decimal' },
  text: { type: 'text', autocomplete: 'off' },
}

const plain = (s: string) =>
  s
    .toLowerCase()
    .replace(/[\p{P}\p{S}]/gu, ' ')
    .replace(/\s+/g, ' ')
    .trim()

/** Which of several is meant: the same words, the beginning of one alone, or one whose words are all there. */
function meant<T extends { label: string }>(typed: string, options: T[]): T | undefined {
  const said = plain(typed).slice(0, 200)
  if (!said) return options.find(o => o.label.trim() === typed)
  const same = options.find(o => plain(o.label) === said)
  if (same) return same
  const begins = options.filter(o => plain(o.label).startsWith(said))
  if (begins.length === 1) return begins[0]
  const within = options.filter(o => plain(o.label) && ` ${said} `.includes(` ${plain(o.label)} `))
  if (within.length === 1) return within[0]
  const number = /^\d{1,2}$/.test(said) ? options[Number(said) - 1] : undefined
  return number
}

/** Whether a conversation was open on the page before, in this tab; and notes that it is. */
function wasOpen(id: string, now?: boolean): boolean {
  try {
    const key = 'gobbet:open:' + id
    if (now !== undefined) now ? sessionStorage.setItem(key, '1') : sessionStorage.removeItem(key)
    return !!sessionStorage.getItem(key)
  } catch {
    return false
  }
}

/** All of it, drawn with this renderer. */
export function make(given: Given) {
  give(given)
  return { Conversation, Launcher, wasOpen, style: chatStyle }
}
