/** @jsxImportSource preact */
import { Component, type ComponentType, type JSX } from 'preact'
import type { Block, Choice, Drawing, Field, Progress, Tally, Value } from '../kinds/piece'
import type { Around } from './blocks'
import { type Given, give } from './borrowed'
import { flat } from './paint'
import { playStyle } from './playStyle'
import { valuesOf, written } from './values'
import type { Say } from './words'

// What asks in other ways than forms do, and what is told for it: choices,
// sliders, orders, values, tallies. Their script is fetched where a piece has
// them, and is drawn with by the renderer's own Preact, which it is given.

/** What every kind of input has. */
interface Own {
  id: string
  name: string
  required: boolean
  'aria-invalid'?: 'true'
  'aria-describedby'?: string
}

interface AskedProps {
  field: Field
  around: Around
  own: Own
}

const star = 'M12 3l2.8 5.8 6.2.8-4.5 4.4 1.1 6.3L12 17.3 6.4 20.3l1.1-6.3L3 9.6l6.2-.8z'
const steps = (from: number, to: number): Choice[] => Array.from({ length: to - from + 1 }, (_, i) => ({ id: String(from + i), label: String(from + i) }))
const lines = (s: string) => (s ? s.split('\n') : [])

// Each visitor's own order, the same as long as the page lasts.
const orders = new Map<string, string[]>()

function shuffled(f: Field, choices: Choice[], still: boolean): Choice[] {
  if (!f.shuffle || still) return choices
  if (!orders.has(f.key))
    orders.set(
      f.key,
      choices
        .map(c => [crypto.getRandomValues(new Uint32Array(1))[0], c.id] as const)
        .sort((a, b) => a[0] - b[0])
        .map(([, id]) => id),
    )
  const order = orders.get(f.key)!
  return [...choices].sort((a, b) => order.indexOf(a.id) - order.indexOf(b.id))
}

/** The part of a field that is answered. */
function Asked({ field: f, around, own }: AskedProps): JSX.Element {
  const value = around.answers[f.key] ?? ''
  const put = (e: { currentTarget: { value: string } }) => around.answer(f.key, e.currentTarget.value)
  switch (f.ask) {
    case 'long':
      return <textarea {...own} value={value} placeholder={f.hint} rows={3} maxLength={10000} onInput={put} />
    case 'dropdown':
      return (
        <select {...own} value={value} onChange={put}>
          <option value="">{f.hint || '…'}</option>
          {f.choices?.map(c => (
            <option key={c.id} value={c.id}>
              {c.label}
            </option>
          ))}
        </select>
      )
    case 'slider':
      return <Slider field={f} around={around} own={own} />
    case 'order':
      return <Order field={f} around={around} own={own} />
  }
  return <Group field={f} around={around} own={own} />
}

/** Choices of which one or several are taken. */
function Group({ field: f, around, own }: AskedProps) {
  const taken = lines(around.answers[f.key] ?? '')
  const several = f.ask === 'choices'
  const rated = f.ask === 'stars' || f.ask === 'scale'
  const choices = f.ask === 'stars' ? steps(1, 5) : f.ask === 'scale' ? steps(0, 10) : shuffled(f, f.choices ?? [], around.still)
  const mark = around.marks[f.key]
  const right = mark && lines(mark.answer ?? '')
  const advances = f.advances && !several && !mark
  // A group is required, and none of its choices is wrong before one was made.
  const { required: _, 'aria-invalid': invalid, 'aria-describedby': described, ...each } = own
  const take = (id: string, on: boolean) => {
    around.answer(
      f.key,
      several
        ? (f.choices ?? [])
            .map(c => c.id)
            .filter(x => (x === id ? on : taken.includes(x)))
            .join('\n')
        : id,
    )
  }
  return (
    <fieldset
      class={f.ask}
      {...(several ? {} : ({ role: 'radiogroup', 'aria-required': f.required } as const))}
      aria-invalid={invalid}
      aria-describedby={described}
      disabled={!!mark}
    >
      <legend class={f.bare ? 'bare' : undefined}>{f.label}</legend>
      <div class={'options ' + (f.look ?? '')}>
        {choices.map((c, i) => {
          const said = right ? (right.includes(c.id) ? 'right' : taken.includes(c.id) ? 'wrong' : '') : ''
          return (
            <label key={c.id} class={[f.ask === 'stars' && Number(c.id) <= Number(taken[0]) && 'on', said].filter(Boolean).join(' ') || undefined}>
              {f.look === 'pictures' && !rated && (
                <span class="pictured">{c.picture && <img src={`${around.base}/v1/pictures/${c.picture}`} alt="" draggable={false} />}</span>
              )}
              <input
                {...each}
                id={f.id + '-' + i}
                type={(several ? 'checkbox' : 'radio') as 'radio'}
                value={c.id}
                aria-label={f.ask === 'stars' ? around.say('of', '{n} of {all}', { n: c.id, all: 5 }) : undefined}
                checked={taken.includes(c.id)}
                onChange={e => take(c.id, e.currentTarget.checked)}
                // A press goes on at once. Arrow keys only move: Enter goes on.
                onClick={e => {
                  if (!advances || e.detail === 0) return
                  take(c.id, true)
                  around.leave(f.id, true)
                }}
              />
              {f.ask === 'stars' ? (
                <svg viewBox="0 0 24 24" aria-hidden="true">
                  <path d={star} />
                </svg>
              ) : (
                c.label
              )}
              {f.look && <i class={several ? 'square' : 'ring'} aria-hidden="true" />}
              {said && (
                <span class="bare"> ({(said === 'right' ? around.say('right', 'Right.') : around.say('wrong', 'Not quite.')).replace(/[.。]$/, '')})</span>
              )}
            </label>
          )
        })}
      </div>
      {advances && (
        <button type="submit" class="onward" value={f.id}>
          {around.say('continue', 'Continue')}
        </button>
      )}
      <Marked field={f} around={around} />
    </fieldset>
  )
}

/** What was right, as it is told. */
const saidOf = (marks: Around['marks'], say: Say) =>
  Object.values(marks)
    .map(m => `${m.right ? say('right', 'Right.') : say('wrong', 'Not quite.')} ${m.explanation ?? ''}`.trim())
    .join(' ')

/** Says whether the answer was right, once it is known. */
function Marked({ field: f, around }: { field: Field; around: Around }) {
  const mark = around.marks[f.key]
  if (!mark) return null
  return (
    <div class={mark.right ? 'mark right' : 'mark wrong'}>
      <b>{mark.right ? '✓ ' + around.say('right', 'Right.') : '✗ ' + around.say('wrong', 'Not quite.')}</b> {mark.explanation}
    </div>
  )
}

function Slider({ field: f, around, own }: AskedProps) {
  const value = around.answers[f.key] ?? (f.start || f.least || '0')
  const least = Number(f.least)
  const most = Number(f.most)
  const part = (100 * (Number(value) - least)) / (most - least)
  const say = `${written(Number(value), {}, around.language)}${f.unit ? ' ' + f.unit : ''}`
  return (
    <div class="slider">
      <output for={own.id}>{say}</output>
      <input
        {...own}
        required={undefined}
        type="range"
        min={f.least}
        max={f.most}
        step={f.step || 1}
        value={value}
        aria-valuetext={say}
        style={{ '--part': part + '%' }}
        onInput={e => around.answer(f.key, e.currentTarget.value)}
      />
      <Marked field={f} around={around} />
    </div>
  )
}

/** Choices to be put in order, by buttons that move them up and down. */
class Order extends Component<AskedProps, { said: string }> {
  state = { said: '' }
  list: HTMLElement | null = null
  componentDidMount() {
    const { field: f, around } = this.props
    // The order it begins in is an answer as well.
    if (!around.still && !around.answers[f.key])
      around.answer(
        f.key,
        shuffled(f, f.choices ?? [], false)
          .map(c => c.id)
          .join('\n'),
      )
  }
  move(id: string, by: number) {
    const { field: f, around } = this.props
    const ids = lines(around.answers[f.key] ?? '')
    const at = ids.indexOf(id)
    const to = at + by
    if (at < 0 || to < 0 || to >= ids.length) return
    ids.splice(at, 1)
    ids.splice(to, 0, id)
    around.answer(f.key, ids.join('\n'))
    const button = (by: number) => this.list?.querySelector<HTMLElement>(`[data-move="${id} ${by}"]:not(:disabled)`)
    this.setState({ said: `${f.choices?.find(c => c.id === id)?.label}: ${around.say('of', '{n} of {all}', { n: to + 1, all: ids.length })}` }, () =>
      (button(by) ?? button(-by))?.focus(),
    )
  }
  render({ field: f, around, own }: AskedProps) {
    const ids = lines(around.answers[f.key] ?? '')
    const choices = ids.length ? ids.flatMap(id => f.choices?.find(c => c.id === id) ?? []) : (f.choices ?? [])
    const done = !!around.marks[f.key]
    const button = (c: Choice, by: number, off: boolean) => (
      <button
        type="button"
        data-move={`${c.id} ${by}`}
        aria-label={by < 0 ? around.say('up', 'Move {what} up', { what: c.label }) : around.say('down', 'Move {what} down', { what: c.label })}
        disabled={off || done}
        onClick={() => this.move(c.id, by)}
      >
        {by < 0 ? '↑' : '↓'}
      </button>
    )
    return (
      <fieldset class="order" aria-describedby={own['aria-describedby']}>
        <legend class={f.bare ? 'bare' : undefined}>{f.label}</legend>
        <ol
          ref={e => {
            this.list = e
          }}
        >
          {choices.map((c, i) => (
            <li key={c.id}>
              <span class="says">{c.label}</span>
              {button(c, -1, !i)}
              {button(c, 1, i === choices.length - 1)}
            </li>
          ))}
        </ol>
        <span class="bare" role="status">
          {this.state.said}
        </span>
        <Marked field={f} around={around} />
      </fieldset>
    )
  }
}

/** What a formula comes to. */
function DrawnValue({ block: v, around }: { block: Value; around: Around }) {
  const value = around.values[v.formula]
  const how = around.live.find(f => f.name === v.formula)
  const says = value === undefined ? (around.still ? written(0, how, around.language) : '…') : written(value, how, around.language)
  return (
    <div class="value">
      {v.label && (
        <div class="of" id={v.id + '-of'}>
          {v.label}
        </div>
      )}
      <output aria-live="polite" aria-labelledby={v.label && v.id + '-of'} style={{ fontSize: v.size + 'px' }}>
        {says}
      </output>
    </div>
  )
}

/** So many votes, in the plural of the language. */
function counted({ say, language }: Around, n: number): string {
  const forms = say('votes', 'one={n} vote|other={n} votes').split('|')
  const plural = new Intl.PluralRules(language).select(n)
  const form = forms.find(f => f.startsWith(plural + '=')) ?? forms.at(-1)!
  return form.slice(form.indexOf('=') + 1).replace('{n}', written(n, {}, language))
}

const recounts = 6000 // ms between two looks at a poll
const mostRecounts = 100

/** How everyone has answered so far, as bars. */
class DrawnTally extends Component<{ block: Tally; around: Around }> {
  tick = 0
  left = mostRecounts
  componentDidMount() {
    if (!this.props.around.still)
      this.tick = setInterval(() => {
        if (document.hidden) return
        if (this.left-- > 0) this.props.around.tell({ is: 'recounting' })
        else clearInterval(this.tick)
      }, recounts) as unknown as number
  }
  componentWillUnmount() {
    clearInterval(this.tick)
  }
  render({ block: t, around }: { block: Tally; around: Around }) {
    const choices = around.scenes.flatMap(s => flat(s.blocks)).find((b): b is Field => b.kind === 'field' && b.key === t.key)?.choices ?? []
    const tally = around.still
      ? { votes: Object.fromEntries(choices.map((c, i) => [c.id, 5 - Math.min(4, i)])), all: choices.reduce((n, _, i) => n + 5 - Math.min(4, i), 0) }
      : around.tallies[t.key]
    if (!tally) return <div role="status">{around.say('soon', 'The result shows once more have voted.')}</div>
    const fill = around.color(t.color, around.frame.accent)
    const mine = lines(around.answers[t.key] ?? '')
    return (
      <div class="tally">
        {choices.map(c => {
          const votes = tally.votes[c.id] ?? 0
          const part = tally.all ? (100 * votes) / tally.all : 0
          return (
            <div key={c.id}>
              <span class="says">
                {c.label}
                {mine.includes(c.id) && <b> · {around.say('yours', 'your answer')}</b>}
              </span>
              <span>{t.counts ? written(votes, {}, around.language) : written(Math.round(part), { style: 'percent' }, around.language)}</span>
              <i style={{ background: fill, width: part + '%' }} />
            </div>
          )
        })}
        <div class="all">{counted(around, tally.all)}</div>
      </div>
    )
  }
}

const warning = 20 // seconds that are left as it is said that time runs out, or half of all where that is less
const mostExtended = 10 // see core/piece

/** The time that is left for a scene; at its end the scene is left without answers. */
class Clock extends Component<{ seconds: number; extends?: boolean; around: Around }, { left: number; again: number }> {
  state = { left: this.props.seconds, again: 0 }
  ends = Date.now() + this.props.seconds * 1000
  tick = 0
  warned = false
  /** A time as it is said. */
  time = (left: number, unitDisplay: 'long' | 'narrow' = 'long') =>
    new Intl.NumberFormat(this.props.around.language, { style: 'unit', unit: 'second', unitDisplay }).format(left)
  componentDidMount() {
    const { seconds, around } = this.props
    if (around.still) return
    around.announce(around.say('time', 'Time for this: {time}.', { time: this.time(seconds) }))
    this.tick = setInterval(() => {
      const left = Math.max(0, Math.ceil((this.ends - Date.now()) / 1000))
      this.setState({ left })
      if (left && !this.warned && left <= Math.min(warning, seconds / 2)) {
        this.warned = true
        around.announce(around.say('left', 'Time left: {time}.', { time: this.time(left) }))
      }
      if (left || Object.keys(this.props.around.marks).length) return
      clearInterval(this.tick)
      this.props.around.leave('', true, true)
    }, 250) as unknown as number
  }
  componentWillUnmount() {
    clearInterval(this.tick)
  }
  more = () => {
    const { seconds, around } = this.props
    if (this.state.again >= mostExtended) return
    this.ends += seconds * 1000
    this.warned = false
    const left = Math.ceil((this.ends - Date.now()) / 1000)
    this.setState({ left, again: this.state.again + 1 })
    around.announce(around.say('left', 'Time left: {time}.', { time: this.time(left) }))
  }
  render({ seconds, extends: longer, around }: Clock['props'], { left, again }: Clock['state']) {
    return (
      <div class="clock">
        <div role="timer" aria-label={this.time(left)}>
          <i style={{ width: Math.min(100, (100 * left) / seconds) + '%' }} />
          <span aria-hidden="true">{this.time(left, 'narrow')}</span>
        </div>
        {longer && (
          <button type="button" aria-disabled={again >= mostExtended || undefined} onClick={this.more}>
            {around.say('more', 'More time')}
          </button>
        )}
      </div>
    )
  }
}

function DrawnProgress({ block: p, around }: { block: Progress; around: Around }) {
  // Questions count, where there are any.
  const { scenes } = around.drawing
  const questions = scenes.filter(s => s.kind === 'question')
  const counted = questions.length ? questions : scenes
  const steps = counted.length
  const here = counted.findIndex(s => s.id === around.scene)
  const step = here < 0 ? steps : here + 1
  const part = p.value || Math.round((100 * step) / steps)
  const fill = around.color(p.color, around.frame.accent)
  const track = `color-mix(in srgb, ${fill} 20%, transparent)`
  const far = p.value ? written(part, { style: 'percent' }, around.language) : around.say('of', '{n} of {all}', { n: step, all: steps })
  if (p.look === 'words') return <div style={{ fontSize: '14px' }}>{far}</div>
  const discs = p.look === 'dots' || p.look === 'bites'
  const bite = 'radial-gradient(circle 6.5px at 94% 8%, #0000 94%, #000)'
  return (
    <div
      role="progressbar"
      aria-label={around.say('progress', 'Progress')}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={part}
      aria-valuetext={far}
      style={{ display: 'flex', gap: '6px', justifyContent: p.look === 'dots' ? 'center' : undefined }}
    >
      {discs ? (
        Array.from({ length: steps }, (_, i) => {
          const done = i < step
          const size = p.look === 'bites' ? '16px' : '10px'
          return (
            <i
              key={i}
              style={{
                width: size,
                height: size,
                borderRadius: '50%',
                background: done ? fill : track,
                maskImage: p.look === 'bites' && done ? bite : undefined,
              }}
            />
          )
        })
      ) : (
        <div style={{ flex: 1, height: '8px', borderRadius: '4px', background: track, overflow: 'hidden' }}>
          <div style={{ width: part + '%', height: '100%', background: fill }} />
        </div>
      )}
    </div>
  )
}

/** Answers as a person reads them: choices by their labels. */
function labelsOf(drawing: Drawing, answers: Record<string, string>): Record<string, string> {
  const labels: Record<string, string> = {}
  for (const s of drawing.scenes)
    for (const b of flat(s.blocks))
      if (b.kind === 'field' && b.choices?.length && answers[b.key])
        labels[b.key] = lines(answers[b.key])
          .map(id => b.choices!.find(c => c.id === id)?.label ?? id)
          .join(', ')
  return labels
}

type Drawn = Record<string, ComponentType<{ block: Block; around: Around }>>

/** All of it, drawn with this renderer. */
export function make(given: Given) {
  give(given)
  const blocks = { value: DrawnValue, tally: DrawnTally, progress: DrawnProgress } as unknown as Drawn
  return { Asked, Clock, blocks, saidOf, valuesOf, written, labelsOf, style: playStyle }
}
