import type { Button, Drawing, Field, Scene } from '../kinds/piece'
import type { AdvanceAnswer } from '../kinds/visitor'
import type { SentStep } from '../kinds/walk'
import type { Host, Went } from './host'
import { flat } from './paint'

// A visitor's way through the scenes of a piece. Where the page can tell by
// itself what comes next it goes there at once, and tells the server meanwhile;
// what is to be earned comes from the server alone.

const away = 'That did not reach us. Your words are kept: please try again.'
const again = 3000 // ms until what did not reach the server is sent again
const mostTries = 8

export type Step = SentStep & { at: number }
export type Said = Record<string, string>

/** What is wrong with a field that has to be answered, and is not. */
export const missing = (f: Field) => f.message || (f.ask === 'consent' ? 'Please tick this to go on.' : 'Please fill this in.')

/** The way through a form and its thanks; what is played goes further (played.ts). */
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
  /** Whether there is a scene to go back to. */
  canGoBack = false
  tallies: NonNullable<AdvanceAnswer['tallies']> = {}
  /** Scenes that were withheld and have come, by their ids. */
  protected come: Record<string, Scene> = {}
  /** What the server does not know yet, of which the first is step `known`. */
  protected steps: Step[] = []
  protected known = 0
  protected line: Promise<unknown> = Promise.resolve()
  protected tries = 0

  constructor(
    protected drawing: Drawing,
    protected host: Host,
    protected phone: boolean,
    /** Something has changed; moved says that it is the scene. */
    protected changed: (moved: boolean) => void,
    /** The visitor has gone out by the last edge. */
    protected over: () => void,
  ) {
    this.scene = drawing.scenes[0]
    this.begin()
  }

  /** A scene begins. */
  protected begin() {}
  /** The scene is left for another. */
  protected leaves(_to: string) {}
  /** Goes on from what was told about the answers; false where nothing was. */
  protected onward(): boolean {
    return false
  }
  /** Whether what the server says of the answers is to be read before going on. */
  protected marked(_a: AdvanceAnswer, _last: Step, _to: string): boolean {
    return false
  }
  back() {}
  resume(_a: AdvanceAnswer) {}

  /** A scene as far as it is known. */
  find(id: string): Scene | undefined {
    return this.come[id] ?? this.drawing.scenes.find(s => s.id === id)
  }

  /** The fields of the scene that this device shows. */
  get fields(): Field[] {
    return this.blocks.filter((b): b is Field => b.kind === 'field')
  }

  protected get blocks() {
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

  /** Leaves the scene by a block: with its answers, or without them. */
  async leave(press: string, takes: boolean, late = false): Promise<boolean> {
    if (this.busy) return false
    if (this.onward()) return true
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
  protected local(press: string): string | undefined {
    const { asks, edges } = this.scene
    if (asks || edges?.some(e => e.when?.length)) return this.host.advance ? undefined : ''
    const to = edges?.find(e => !e.block || e.block === press)?.to ?? ''
    return to && (!this.find(to) || this.find(to)!.withheld) && this.host.advance ? undefined : to
  }

  /** Tells the server what it does not know yet, one request at a time. */
  protected tell(): Promise<Went> {
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
  protected take(a: AdvanceAnswer, last: Step) {
    for (const s of a.scenes ?? []) this.come[s.id] = s
    this.values = { ...this.values, ...a.values }
    this.tallies = a.tallies ?? {}
    // The visitor has gone on meanwhile.
    if (this.steps.length) return
    const to = a.closes ? '' : a.scene
    if (this.marked(a, last, to)) return
    if (to !== this.scene.id) this.show(to)
    else this.changed(false)
  }

  /** Takes back what the server refused, and says why where it was asked. */
  protected undo(went: Went) {
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

  protected refuse(faults: Said): false {
    this.faults = faults
    this.changed(false)
    this.host.refused?.()
    return false
  }

  protected show(id: string) {
    const scene = this.find(id)
    if (!id || !scene) return this.over()
    this.leaves(id)
    this.scene = scene
    this.begin()
    this.faults = {}
    this.trouble = ''
    this.changed(true)
  }
}
