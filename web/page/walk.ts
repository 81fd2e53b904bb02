import type { Button, Drawing, Field, Scene } from '../kinds/piece'
import type { AdvanceAnswer } from '../kinds/visitor'
import type { Told, Went } from './host'
import { labelled } from './labels'
import { plainNumber } from './numbers'
import { flat } from './paint'
import { type Answers, answered, begunWith, type Doing, fieldsOf, type Step, type Turn, type WalkState } from './walkState'
import { type Say, sayIn } from './words'

// A visitor's way through a piece, as a reducer: state × event → state, effects.
// Where the page can tell by itself what comes next it goes there at once, and
// tells the server meanwhile; what is to be earned comes from the server alone.

const again = 3000 // ms until what did not reach the server is sent again
const mostTries = 8

/** What is wrong with a field that has to be answered, and is not. */
const missing = (f: Field, say: Say) => f.message || (f.ask === 'consent' ? say('tick', 'Please tick this to go on.') : say('missing', 'Please fill this in.'))

/** What may happen on a walk. */
export type WalkEvent =
  | { is: 'answered'; key: string; value: string }
  /** The scene is left by a block: with its answers, or without them, or because its time is over. What hidden fields ask for comes with it. */
  | { is: 'left'; press: string; takes: boolean; late?: boolean; hidden?: Answers; counts?: boolean; at: number }
  | { is: 'wentBack'; at: number }
  /** Of the steps that are under way: the server has them, or will not have them, or it is not known. */
  | { is: 'replied'; answer: AdvanceAnswer }
  | { is: 'refused'; went: Went }
  | { is: 'unreached'; title?: string }
  /** It is time to send again. */
  | { is: 'due' }
  /** What was drawn has been shown. */
  | { is: 'shown' }
  /** An earlier page left the walk there; told is what it was not told any more, of the scene that it was on. */
  | { is: 'resumed'; answer: AdvanceAnswer; told?: Told }
  /** How everyone has voted is asked again, and has come. */
  | { is: 'recounting' }
  | { is: 'recounted'; tallies: WalkState['tallies'] }
  /** What is said on a conversation's scene; nothing takes it back. */
  | { is: 'said'; words?: string }

/** What follows of it, outside the walk. */
export type WalkEffect =
  /** The steps are kept, and sent, of which the first is the walk's step `from`. */
  | { do: 'send'; steps: Step[]; from: number }
  | { do: 'sendLater'; ms: number }
  | { do: 'recount'; from: number }
  /** A fault should be seen. */
  | { do: 'seeFault' }
  /** The conversion is made: with answers, so that the server counts it itself. */
  | { do: 'convert' }
  /** The visitor has gone out by the last edge. */
  | { do: 'end' }

/** From what a walk does to what, by what happens: what is not here it does not do. */
export const ways: Record<Doing, Partial<Record<WalkEvent['is'], Doing[]>>> = {
  asking: {
    left: ['asking', 'sending', 'over'],
    wentBack: ['asking'],
    // Of steps that were taken ahead of the server.
    replied: ['asking', 'telling', 'turning', 'over'],
    refused: ['asking'],
    resumed: ['asking', 'turning'],
  },
  sending: { replied: ['asking', 'sending', 'telling', 'turning', 'over'], refused: ['asking', 'sending'], unreached: ['asking', 'sending'] },
  telling: { left: ['asking', 'telling', 'over'] },
  turning: { shown: ['asking', 'telling'] },
  // A conversation that was made small can be opened again.
  over: { left: ['asking', 'sending', 'over'], refused: ['asking'] },
}

/** A walk, with what only its own transitions need to know. */
export interface Walking extends WalkState {
  /** What the server does not know yet, of which the first is step `from`; how many of it are under way, and how many were and may have come. */
  pending: Step[]
  from: number
  flying: number
  unsure: number
  /** More is to be sent once these have come. */
  more?: boolean
  /** From here on the visitor is asked again: what they leave by next takes its place. */
  retract?: number
  tries: number
  /** Where it goes once what is told has been read, empty for out of the piece, and what is told before that. */
  next: string
  nextMarks?: WalkState['marks']
  /** The scene whose time was over while the server was asked, and when that was. */
  late?: { scene: string; at: number }
  /** The step that is sent is the conversion. */
  counts?: boolean
}

export const begin = (s: WalkState): Walking => ({ ...s, pending: [], from: 0, flying: 0, unsure: 0, tries: 0, next: '' })

/** What a walk is of. */
export interface Way {
  drawing: Drawing
  phone: boolean
  /** There is a server to ask; otherwise it goes by what the page has. */
  asks: boolean
  /** What waits to be sent outlives the page. */
  lasts: boolean
  /** The fixed words, and the language that numbers are written in. */
  say: Say
  language?: string
}

const isEmpty = (o?: object) => !o || !Object.keys(o).length

/** Takes a walk on by what happened. */
export function step(before: Walking, e: WalkEvent, way: Way): [Walking, WalkEffect[]] {
  let s = { ...before }
  const effects: WalkEffect[] = []
  const away = way.say('away', 'That did not reach us. Your words are kept: please try again.')
  const find = (id: string): Scene | undefined => s.earned[id] ?? way.drawing.scenes.find(one => one.id === id)

  const fly = () => {
    // Without the walk's token only what may have come already can be sent again.
    const count = s.from === 0 && s.unsure ? s.unsure : s.pending.length
    s.flying = count
    s.more = count < s.pending.length
    effects.push({ do: 'send', steps: s.pending.slice(0, count), from: s.from })
  }
  const send = () => {
    if (!way.asks) return
    if (s.flying) s.more = true
    else fly()
  }

  const mayGoBack = () => {
    const last = find(s.behind.at(-1) ?? '')
    return !!last && s.scene.kind !== 'result' && !flat(last.blocks).some(b => b.kind === 'field' && b.reveal)
  }
  /** Goes to a scene, or out of the piece; back says that the visitor is asked there again. */
  const show = (id: string, back = false) => {
    const scene = id ? find(id) : undefined
    if (!scene) {
      if (s.doing !== 'over') effects.push({ do: 'end' })
      s.doing = 'over'
      return
    }
    if (scene.id !== s.scene.id) {
      const at = s.behind.lastIndexOf(scene.id)
      s.behind = at < 0 ? [...s.behind, s.scene.id] : s.behind.slice(0, at)
    }
    const turn = back ? s.turns.findLastIndex(t => t.scene === scene) : -1
    if (turn >= 0) s.turns = s.turns.slice(0, turn + 1)
    else if (s.scene !== scene) s.turns = [...s.turns, { scene }]
    s = { ...s, doing: 'asking', scene, moves: s.moves + 1, answers: begunWith(s.answers, scene, way.phone), faults: {}, trouble: '', marks: {}, next: '' }
    s.canGoBack = mayGoBack()
  }
  /** Tells what was right, or goes on where there is nothing to tell. */
  const tell = (marks: WalkState['marks'] | undefined, to: string) => {
    if (isEmpty(marks)) return show(to)
    s = { ...s, doing: 'telling', marks: marks!, next: to, nextMarks: undefined, canGoBack: false }
  }

  /** Where the page can tell by itself that a block leads; empty for out of the piece. */
  const local = (press: string): string | undefined => {
    const { asks, edges } = s.scene
    if (asks || edges?.some(edge => edge.when?.length)) return way.asks ? undefined : ''
    const to = edges?.find(edge => !edge.block || edge.block === press)?.to ?? ''
    return to && (!find(to) || find(to)!.withheld) && way.asks ? undefined : to
  }
  const leave = (e: Extract<WalkEvent, { is: 'left' }>) => {
    const values: Answers = {}
    if (e.takes && !e.late) {
      const fields = fieldsOf(s.scene, way.phone)
      for (const f of fields) {
        const given = (f.ask === 'hidden' ? e.hidden?.[f.key] : s.answers[f.key]) ?? ''
        values[f.key] = f.ask === 'number' ? plainNumber(given, way.language) : given
      }
      const faults = fields.filter(f => f.required && f.ask !== 'hidden' && !values[f.key].trim()).map(f => [f.key, missing(f, way.say)])
      if (faults.length) {
        s.faults = Object.fromEntries(faults)
        effects.push({ do: 'seeFault' })
        return
      }
    }
    const { press, takes, late, at } = e
    s.pending = [...s.pending.slice(0, s.retract), { scene: s.scene.id, press, values: takes ? values : undefined, late: late || undefined, at }]
    s.retract = undefined
    const to = local(press)
    // Nobody is thanked for what may be lost.
    if (to === undefined || (takes && way.asks && !way.lasts)) {
      s = { ...s, doing: 'sending', trouble: '', counts: e.counts }
      return send()
    }
    if (takes) send()
    if (e.counts) effects.push({ do: 'convert' })
    show(to)
  }

  /** Takes in where the server says that the walk is. */
  const take = (answer: AdvanceAnswer) => {
    const last = s.pending[s.flying - 1]
    s = {
      ...s,
      pending: s.pending.slice(s.flying),
      from: answer.steps,
      flying: 0,
      unsure: 0,
      tries: 0,
      retract: undefined,
      earned: withScenes(answer.scenes),
      values: { ...s.values, ...answer.values },
      tallies: answer.tallies ?? {},
    }
    // The visitor has gone on meanwhile.
    if (s.pending.length) return s.more || s.doing === 'sending' ? fly() : undefined
    if (s.counts) effects.push({ do: 'convert' })
    s.counts = undefined
    if (s.doing === 'over') return
    if (s.doing === 'sending') s.doing = 'asking'
    const to = answer.closes ? '' : answer.scene
    const same = s.scene.id === last?.scene
    if (answer.drawn && same) {
      const parts = Object.entries(answer.drawn).map(([key, { part }]) => [key, part])
      s = {
        ...s,
        doing: 'turning',
        drawn: { ...s.drawn, ...answer.drawn },
        answers: { ...s.answers, ...Object.fromEntries(parts) },
        next: to,
        nextMarks: answer.marks,
      }
    } else if (same && !isEmpty(answer.marks)) tell(answer.marks, to)
    else if (to !== s.scene.id) show(to)
  }
  const withScenes = (scenes: Scene[] = []) => ({ ...s.earned, ...Object.fromEntries(scenes.map(one => [one.id, one])) })

  /** Takes back what the server refused, and says why where it was asked. */
  const undo = ({ faults = [], title }: Went) => {
    const [, at] = /^steps\[(\d+)\]/.exec(faults[0]?.at ?? '') ?? []
    const from = at === undefined ? s.pending.length - 1 : Number(at)
    const refused = s.pending[from]
    s = { ...s, doing: 'asking', pending: s.pending.slice(0, Math.max(0, from)), flying: 0, unsure: 0, retract: undefined, counts: undefined }
    if (refused && (refused.scene !== s.scene.id || before.doing === 'over')) show(refused.scene, true)
    s.faults = Object.fromEntries(
      faults.flatMap(f => {
        const [, key] = /\.values\.(.+)$/.exec(f.at) ?? []
        return key ? [[key, f.message]] : []
      }),
    )
    if (isEmpty(s.faults)) s.trouble = title ?? away
    effects.push({ do: 'seeFault' })
  }

  switch (e.is) {
    case 'answered':
      s = answered(s, e.key, e.value)
      break
    case 'left':
      if (s.doing === 'sending') {
        if (e.late) s.late = { scene: s.scene.id, at: e.at }
      } else if (s.doing === 'telling') {
        if (!e.late) tell(s.nextMarks, s.next)
      } else if (s.doing !== 'turning') leave(e)
      break
    case 'wentBack': {
      const to = s.behind.at(-1)
      if (s.doing !== 'asking' || !s.canGoBack || !to) break
      s.pending = [...s.pending.slice(0, s.retract), { scene: to, back: true, at: e.at }]
      s.retract = undefined
      show(to)
      break
    }
    case 'replied':
      if (s.flying) take(e.answer)
      break
    case 'refused':
      if (s.flying) undo(e.went)
      break
    case 'unreached':
      if (!s.flying) break
      s.unsure = Math.max(s.unsure, s.flying)
      s.flying = 0
      if (s.doing === 'sending') s = { ...s, doing: 'asking', retract: s.pending.length - 1, trouble: e.title ?? away, counts: undefined }
      else if (s.tries++ < mostTries) effects.push({ do: 'sendLater', ms: again })
      break
    case 'due':
      if (s.pending.length && !s.flying && s.retract === undefined) fly()
      break
    case 'shown':
      if (s.doing !== 'turning') break
      // Where nothing comes after it, it stays.
      if (s.next || !isEmpty(s.nextMarks)) tell(s.nextMarks, s.next)
      else s.doing = 'telling'
      break
    case 'resumed': {
      const { answer, told } = e
      const path = answer.path ?? []
      s = { ...s, earned: withScenes(answer.scenes), from: answer.steps, values: answer.values ?? {}, tallies: answer.tallies ?? {} }
      s.scene = find(answer.scene) ?? s.scene
      s.answers = begunWith(answer.answers ?? {}, s.scene, way.phone)
      s.behind = path.slice(0, -1).filter((id, i) => path.indexOf(id) === i && id !== answer.scene)
      s.canGoBack = mayGoBack()
      s.turns = turnsOf(path.length ? path : [answer.scene])
      s.moves++
      // What was drawn is shown where it was drawn.
      const where = told?.answer.drawn && find(told.scene)
      if (where) s = { ...s, scene: where, doing: 'turning', drawn: told.answer.drawn!, next: answer.closes ? '' : answer.scene }
      break
    }
    case 'recounting':
      if (way.asks && !s.pending.length && s.doing !== 'sending') effects.push({ do: 'recount', from: s.from })
      break
    case 'recounted':
      if (!s.pending.length) s.tallies = e.tallies
      break
    case 'said':
      s.turns = [...s.turns.slice(0, -1), { ...s.turns.at(-1)!, said: e.words }]
  }
  // A time that ran out while the server was asked has run out.
  const late = s.late
  if (late && s.doing !== 'sending') {
    s.late = undefined
    if (late.scene === s.scene.id && s.doing === 'asking') {
      const [next, more] = step(s, { is: 'left', press: '', takes: true, late: true, at: late.at }, way)
      return [next, [...effects, ...more]]
    }
  }
  return [s, effects]

  function turnsOf(path: string[]): Turn[] {
    const turns = path.flatMap((id, i) => {
      const scene = find(id)
      return scene ? [{ scene, said: path[i + 1] ? saidAt(scene, path[i + 1]) : undefined }] : []
    })
    return turns.at(-1)?.scene === s.scene ? turns : [...turns, { scene: s.scene }]
  }
  /** What was said on a scene that led to another, as far as that can be told. */
  function saidAt(scene: Scene, to: string): string | undefined {
    const blocks = flat(scene.blocks)
    const said = blocks.flatMap(b => (b.kind === 'field' && b.ask !== 'hidden' && s.answers[b.key] ? [labelled(b.choices, s.answers[b.key])] : []))
    if (said.length) return said.join(', ')
    const edge = scene.edges?.find(one => one.to === to)
    return blocks.find((b): b is Button => b.kind === 'button' && b.id === edge?.block)?.words
  }
}

/** What a walk asks of whoever carries out what follows of it. */
export interface Carrier {
  /** Sends steps, of which the first is the walk's step `from`; without one, the page goes by what it has. */
  advance?(steps: Step[], from: number): Promise<Went>
  /** Whether what waits to be sent outlives the page. */
  lasts?(): boolean
  /** The fixed words, and the language that numbers are written in. */
  say?: Say
  language?: string
  changed(state: WalkState, moved: boolean): void
  happened(what: Exclude<WalkEffect['do'], 'send' | 'sendLater' | 'recount'>): void
}

/** Takes walks on: carries out what follows of each event. */
export function walkOn(first: WalkState, drawing: Drawing, phone: boolean, by: Carrier) {
  let s = begin(first)
  let timer = 0
  let gone = false
  const way: Way = {
    drawing,
    phone,
    asks: !!by.advance,
    get lasts() {
      return by.lasts?.() ?? true
    },
    say: by.say ?? sayIn(),
    language: by.language,
  }
  const send = async (steps: Step[], from: number) => {
    const went = await by.advance!(steps, from)
    if (went.ok && went.answer) tell({ is: 'replied', answer: went.answer })
    else if (went.faults || (went.title && s.doing === 'sending')) tell({ is: 'refused', went })
    else tell({ is: 'unreached', title: went.title })
  }
  const tell = (e: WalkEvent) => {
    if (gone) return
    const moves = s.moves
    const [next, effects] = step(s, e, way)
    s = next
    // What is kept is kept before anyone is thanked for it.
    for (const one of effects) if (one.do === 'send') void send(one.steps, one.from)
    by.changed(s, s.moves !== moves)
    for (const one of effects) {
      if (one.do === 'sendLater') timer = setTimeout(() => tell({ is: 'due' }), one.ms) as unknown as number
      else if (one.do === 'recount') by.advance?.([], one.from).then(went => went.ok && tell({ is: 'recounted', tallies: went.answer?.tallies ?? {} }))
      else if (one.do !== 'send') by.happened(one.do)
    }
  }
  return {
    tell,
    /** Nobody looks on any more; what is kept is sent from elsewhere. */
    stop() {
      gone = true
      clearTimeout(timer)
    },
  }
}
