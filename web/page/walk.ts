import type { Button, Drawing, Field, Scene } from '../kinds/piece'
import type { AdvanceAnswer, StepIn } from '../kinds/visitor'
import type { Host, Went } from './host'
import { flat } from './paint'

// A visitor's way through the scenes of a piece. Where the page can tell by
// itself what comes next it goes there at once, and tells the server meanwhile;
// what is to be earned comes from the server alone.

const away = 'That did not reach us. Your words are kept: please try again.'
const again = 3000 // ms until what did not reach the server is sent again
const mostTries = 8

type Step = StepIn & { at: number }
export type Said = Record<string, string>

/** What is wrong with a field that has to be answered, and is not. */
export const missing = (f: Field) => f.message || (f.ask === 'consent' ? 'Please tick this to go on.' : 'Please fill this in.')

export class Walk {
  scene: Scene
  /** By the keys of fields: those of all scenes so far. */
  answers: Said = {}
  faults: Said = {}
  trouble = ''
  /** The server is being asked what comes next. */
  busy = false
  values: Record<string, number> = {}
  marks: NonNullable<AdvanceAnswer['marks']> = {}
  tallies: NonNullable<AdvanceAnswer['tallies']> = {}
  /** Scenes that were withheld and have come, by their ids. */
  private come: Record<string, Scene> = {}
  /** The scenes behind, the latest last. */
  private behind: string[] = []
  /** What was right is shown; this comes after. */
  private after?: string
  /** What the server does not know yet, of which the first is step `known`. */
  private steps: Step[] = []
  private known = 0
  private line: Promise<unknown> = Promise.resolve()
  private tries = 0

  constructor(
    private drawing: Drawing,
    private host: Host,
    private phone: boolean,
    /** Something has changed; moved says that it is the scene. */
    private changed: (moved: boolean) => void,
    /** The visitor has gone out by the last edge. */
    private over: () => void,
  ) {
    this.scene = drawing.scenes[0]
    this.begin()
  }

  /** A slider stands somewhere from the start, and that is its answer until it is moved. */
  private begin() {
    for (const f of this.fields) if (f.ask === 'slider') this.answers = { [f.key]: f.start || f.least || '0', ...this.answers }
  }

  /** A scene as far as it is known. */
  find(id: string): Scene | undefined {
    return this.come[id] ?? this.drawing.scenes.find(s => s.id === id)
  }

  /** The fields of the scene that this device shows. */
  get fields(): Field[] {
    return this.blocks.filter((b): b is Field => b.kind === 'field')
  }

  /** A field of any scene that is known. */
  field(key: string): Field | undefined {
    for (const s of [...this.drawing.scenes, ...Object.values(this.come)]) for (const b of flat(s.blocks)) if (b.kind === 'field' && b.key === key) return b
  }

  private get blocks() {
    return flat(this.scene.blocks).filter(b => !b.hide || (b.hide === 'phone') !== this.phone)
  }

  answer(key: string, value: string) {
    this.answers = { ...this.answers, [key]: value }
    const { [key]: _, ...faults } = this.faults
    this.faults = faults
    this.changed(false)
  }

  /** The button that takes the scene's answers along, if it has one. */
  get sender(): Button | undefined {
    return this.blocks.find((b): b is Button => b.kind === 'button' && b.press.do === 'send')
  }

  /** Whether there is a scene to go back to. */
  get canGoBack(): boolean {
    const before = this.find(this.behind.at(-1) ?? '')
    return !!before && this.scene.kind !== 'result' && !this.after && !flat(before.blocks).some(b => b.kind === 'field' && b.reveal)
  }

  back() {
    const to = this.behind.at(-1)
    if (this.busy || !to || !this.canGoBack) return
    this.behind.pop()
    this.steps.push({ scene: to, back: true, at: Date.now() })
    this.show(to)
  }

  /** Leaves the scene by a block: with its answers, or without them. */
  async leave(press: string, takes: boolean, late = false): Promise<boolean> {
    if (this.busy) return false
    if (this.after !== undefined) {
      const to = this.after
      this.after = undefined
      this.marks = {}
      this.show(to)
      return true
    }
    const values: Said = {}
    if (takes && !late) {
      for (const f of this.fields) values[f.key] = (f.ask === 'hidden' ? this.host.found?.(f.from ?? '') : this.answers[f.key]) ?? ''
      const faults = this.fields.filter(f => f.required && f.ask !== 'hidden' && !values[f.key].trim()).map(f => [f.key, missing(f)])
      if (faults.length) return this.refuse(Object.fromEntries(faults))
    }
    this.steps.push({ scene: this.scene.id, press, values: takes ? values : undefined, late: late || undefined, at: Date.now() })
    const to = this.local(press)
    if (to !== undefined) {
      if (takes) void this.tell()
      this.show(to)
      return true
    }
    this.busy = true
    this.trouble = ''
    this.changed(false)
    const went = await this.tell()
    this.busy = false
    if (!went.ok) this.undo(went)
    this.changed(false)
    return went.ok
  }

  /** Where the page can tell by itself that this leads; empty for out of the piece. */
  private local(press: string): string | undefined {
    const { asks, edges } = this.scene
    if (asks || edges?.some(e => e.when?.length)) return this.host.advance ? undefined : ''
    const to = edges?.find(e => !e.block || e.block === press)?.to ?? ''
    return to && (!this.find(to) || this.find(to)!.withheld) && this.host.advance ? undefined : to
  }

  /** Tells the server what it does not know yet, one request at a time. */
  private tell(): Promise<Went> {
    const asked = this.line.then(async (): Promise<Went> => {
      const steps = this.steps.slice()
      if (!steps.length || !this.host.advance) return { ok: true }
      const now = Date.now()
      const went = await this.host.advance(
        steps.map(({ at, ...s }) => ({ ...s, ago: now - at })),
        this.known,
      )
      if (went.ok && went.answer) {
        this.steps.splice(0, steps.length)
        this.known = went.answer.steps
        this.tries = 0
        this.take(went.answer, steps.at(-1)!)
      } else if (!this.busy && went.faults) this.undo(went)
      else if (!this.busy && this.tries++ < mostTries) setTimeout(() => this.steps.length && !this.busy && this.tell(), again)
      return went
    })
    this.line = asked.catch(() => {})
    return asked
  }

  /** Takes in where the server says the walk is. */
  private take(a: AdvanceAnswer, last: Step) {
    for (const s of a.scenes ?? []) this.come[s.id] = s
    this.values = { ...this.values, ...a.values }
    this.tallies = a.tallies ?? {}
    // The visitor has gone on meanwhile.
    if (this.steps.length) return
    const to = a.closes ? '' : a.scene
    if (a.marks && Object.keys(a.marks).length && this.scene.id === last.scene) {
      this.marks = a.marks
      this.after = to
      this.changed(false)
    } else if (to !== this.scene.id) this.show(to)
    else this.changed(false)
  }

  /** Takes back what the server refused, and says why where it was asked. */
  private undo(went: Went) {
    const [, at] = /^steps\[(\d+)\]/.exec(went.faults?.[0]?.at ?? '') ?? []
    const from = at === undefined ? this.steps.length - 1 : Number(at)
    const [step] = this.steps.splice(Math.max(0, from))
    if (step && step.scene !== this.scene.id) this.show(step.scene)
    const faults = Object.fromEntries(
      (went.faults ?? []).flatMap(f => {
        const [, key] = /\.values\.(.+)$/.exec(f.at) ?? []
        return key ? [[key, f.message]] : []
      }),
    )
    this.refuse(faults)
    if (!Object.keys(faults).length) this.trouble = went.title ?? away
    this.changed(false)
  }

  private refuse(faults: Said): false {
    this.faults = faults
    this.changed(false)
    this.host.refused?.()
    return false
  }

  private show(id: string) {
    const scene = this.find(id)
    if (!id || !scene) return this.over()
    if (this.scene.id !== id) {
      const at = this.behind.lastIndexOf(id)
      if (at >= 0) this.behind.length = at
      else this.behind.push(this.scene.id)
    }
    this.scene = scene
    this.begin()
    this.faults = {}
    this.trouble = ''
    this.changed(true)
  }

  /** Goes on with a walk that an earlier page began. */
  resume(a: AdvanceAnswer) {
    for (const s of a.scenes ?? []) this.come[s.id] = s
    const path = a.path ?? []
    this.known = a.steps
    this.answers = a.answers ?? {}
    this.values = a.values ?? {}
    this.tallies = a.tallies ?? {}
    this.behind = path.slice(0, -1).filter((id, i) => path.indexOf(id) === i && id !== a.scene)
    this.scene = this.find(a.scene) ?? this.scene
    this.begin()
  }

  /** Asks again how everyone has voted. */
  async recount() {
    if (this.busy || this.steps.length || !this.host.advance) return
    const went = await this.host.advance([], this.known)
    if (went.ok && went.answer && !this.steps.length) {
      this.tallies = went.answer.tallies ?? {}
      this.changed(false)
    }
  }
}
