import type { Placement } from '../kinds/choose'
import type { Drawing } from '../kinds/piece'
import type { DecideAnswer, EventIn, WalkRef } from '../kinds/visitor'
import type { Happening } from '../package/index'
import type { Context } from './context'
import type { Life } from './life'
import type { Words } from './words'

// One piece on one page view, from when it may show until it has gone.

/** Where a piece is on a page view. */
export type State =
  /** It waits for its moment. */
  | 'waiting'
  /** Its moment fell into the site's quiet time, and is tried again when that ends. */
  | 'resting'
  /** It is fetched and drawn. */
  | 'coming'
  /** It is on the page. */
  | 'standing'
  /** It was closed, and its tab stays. */
  | 'folded'
  /** It has gone: it was closed, or done with, or the page took it away. */
  | 'gone'
  /** It does not show on this page view. */
  | 'passed'
  /** It would show, to a visitor who is held back: that is counted, and nothing is drawn. */
  | 'held'

/** What may follow each state. */
export const follows: Record<State, State[]> = {
  waiting: ['coming', 'resting', 'passed'],
  // Who asks for it by name need not wait.
  resting: ['waiting', 'coming', 'passed'],
  coming: ['standing', 'folded', 'held', 'passed'],
  standing: ['folded', 'gone'],
  folded: ['standing', 'gone'],
  gone: [],
  passed: [],
  held: [],
}

export type End = 'closed' | 'done' | 'lost'

// What is on the page, or on its way there, whichever page view brought it.
const standing = new Set<string>() // slots
let interrupting = 0 // when a piece that interrupts last set out, in seconds since 1970
let covering = 0 // overlays on their way
let complained = false // a drawing that failed was told of
let turn: Promise<unknown> = Promise.resolve() // of the last to be drawn

/** What pieces need of the page view that they are on. */
export interface PageView {
  context: Context
  life: Life
  answer(): DecideAnswer
  /** Slots that are taken for as long as the page view lasts. */
  taken: Set<string>
  track(what: EventIn['kind'], p: Placement, more?: Partial<EventIn>): void
  /** Tells the page. */
  say(what: Happening, p: Placement): void
  /** How often the visitor has headed for the exit. */
  exits(): number
  /** A moment may have come again. */
  check(): void
  grows(does: () => void): () => void
  /** Opens another piece. */
  open(piece: string, anyway?: boolean): void
}

const wait = (ms: number) => new Promise(done => setTimeout(done, ms))

/** Slots that pieces stand in when a page view begins. */
export const occupied = () => new Set(standing)

export class Shown {
  state: State = 'waiting'
  /** When it came, in ms of the page's clock; undefined before, and once it has converted. */
  since?: number
  /** It was fetched, and is not tried again on this page view. */
  tried = false
  /** How many exits had been headed for when its own fell into the quiet time: it waits for another. */
  exits = 0
  /** How it is counted: to who is held back, without a variant. */
  as: Placement
  /** How it ends, once it does. */
  readonly end: Promise<End>
  /** It was asked for, by name or by a click. */
  private asked = false
  /** Has it come at once, while it waits for its place to be out of view. */
  private now?: () => void
  private ended: (how: End) => void = () => {}
  private counted: Promise<void>
  private count: () => void = () => {}
  private arrival

  constructor(
    readonly p: Placement,
    private on: PageView,
  ) {
    this.as = p
    this.arrival = on.context.arrival
    this.end = new Promise(done => {
      this.ended = done
    })
    this.counted = new Promise(done => {
      this.count = done
    })
  }

  /** Goes to another state, if that may follow. */
  private to(next: State): boolean {
    if (!follows[this.state].includes(next)) return false
    this.state = next
    return true
  }

  /** How long it has stood, in ms. */
  get stood() {
    return this.since === undefined ? undefined : performance.now() - this.since
  }

  /**
   * Its moment has come, or it is asked for. Invited says that a click on what the
   * site has for it asks, and asked that it is asked for by name, whatever came
   * before. Gives whether it stands on the page.
   */
  async come(invited = false, asked = false): Promise<boolean> {
    const { p, on } = this
    const { life, taken } = on
    const held = life.over ? 'passed' : this.heldBack(invited, asked)
    if (typeof held === 'number') {
      this.to('resting')
      this.exits = on.exits()
      life.after(held, () => this.to('waiting') && on.check())
      return false
    }
    if (!this.to(held ?? 'coming') || held) return false
    this.tried = true
    this.asked = invited || asked
    if (p.slot) {
      taken.add(p.slot)
      standing.add(p.slot)
    }
    const before = interrupting
    if (p.interrupts) interrupting = on.context.seconds()
    if (p.overlay) covering++
    try {
      if (await this.draw()) return true
    } catch {
    } finally {
      if (p.overlay) covering--
    }
    if (this.state === 'coming') {
      // It never stood there: the place is another's.
      this.free()
      interrupting = before
      this.to('passed')
    }
    return false
  }

  /** It is on its way and is asked for by name: it need not wait. */
  hurry() {
    this.asked = true
    this.now?.()
  }

  /** It may not show any more, while it waits for its place to be out of view. Another answer may have it come after all. */
  drop() {
    const { now } = this
    if (!now || !this.to('passed')) return
    this.tried = false
    this.free()
    // It finds that it is over.
    now()
  }

  /** What keeps it back now that its moment has come: for good, or for some ms. Other tabs and other pieces may have changed what it may do. */
  private heldBack(invited: boolean, asked: boolean): 'passed' | number | undefined {
    const { p, on } = this
    const { context, taken } = on
    const { quiet, overlays } = on.answer()
    if (asked || context.own) return standing.has(p.slot) ? 'passed' : undefined
    const now = context.memory.read()
    const times = (m: typeof now) => m.pieces?.[p.piece]?.times_shown || 0
    if ((!!p.slot && taken.has(p.slot)) || times(now) !== times(this.arrival)) return 'passed'
    // The site's limits are for what interrupts, and not for what was asked for.
    if (invited || !p.interrupts) return undefined
    if (p.overlay && overlays && (now.visit.overlays || 0) + covering >= overlays) return 'passed'
    const left = (quiet || 0) - Math.max(0, context.seconds() - Math.max(now.shown || 0, interrupting))
    return quiet && left > 0 ? left * 1000 : undefined
  }

  private free() {
    standing.delete(this.p.slot)
    this.on.taken.delete(this.p.slot)
  }

  /** Fetches and draws it. Gives whether it stands on the page. */
  private async draw(): Promise<boolean> {
    const { p, on } = this
    const { context, life } = on
    const { said_in: language, words: at } = on.answer()
    const tells = () => context.sending().then(s => (told ||= s.walkOf(p, this.arrival, language)))
    let told: ReturnType<Awaited<ReturnType<Context['sending']>>['walkOf']> | undefined
    const begun = !context.silent && !context.anew && context.memory.begun(p.piece)
    const going = begun
      ? await tells()
          .then(t => t.goingOn(!p.slot || isOpen(p.piece)))
          .catch(() => undefined)
      : undefined
    const walk: WalkRef = going?.walk ?? { id: context.id(), piece: p.piece, variant: p.variant, design: p.design, visitor: this.arrival.visitor }
    const [{ show }, drawing, words] = await Promise.all([
      context.load('renderer'),
      life.request(`${context.api}/designs/${walk.design}`).then(r => (r.ok ? (r.json() as Promise<Drawing>) : Promise.reject(r.status))),
      // Without its table it is in English.
      at &&
        life.request(context.base + at).then(
          r => (r.ok ? (r.json() as Promise<Words>) : undefined),
          () => undefined,
        ),
    ])
    // Each piece is drawn in a task of its own, so that none is long.
    await (turn = turn.then(() => wait(0)))
    await life.visible()
    // Who is not measured, or looks on with the inspector, is not held back either.
    const held = p.held && !context.unwatched
    const stands = await show(
      {
        id: p.piece,
        drawing,
        base: context.base,
        language,
        words: words || undefined,
        phone: !!on.answer().phone,
        folded: p.folded,
        held,
        asked: () => this.asked || !!context.own,
        waits: now => {
          this.now = now
          if (now) context.roomless?.add(p.piece)
          else context.roomless?.delete(p.piece)
        },
        load(part) {
          // Who may go on will have something to send.
          if (part === 'walk') tells().catch(() => {})
          return context.load(part)
        },
        since: kept => (kept ? this.sinceWhen().read()[p.piece] : this.firstSeen()),
        code: (scene, pool, draw) => this.counted.then(tells).then(t => t.code({ walk, scene, pool, draw })),
        data: context.request.data,
        never: () => context.memory.change(m => void ((m.pieces![p.piece] ||= {}).never = true)),
        other: piece => {
          this.ended('lost')
          on.open(piece, true)
        },
        converted: counted => {
          this.note('converted', counted)
          this.since = undefined
        },
        advance: (steps, from) =>
          tells().then(
            t => t.advance(walk, steps, from),
            () => ({ ok: false }),
          ),
        // What sends keeps, too: before it is here nothing is kept.
        lasts: () => context.silent || (!!told && context.memory.lasts()),
        resumed: going,
        opened: () => void (this.to('standing') && p.slot && standing.add(p.slot)),
        ended: (how, tab) => this.ends(how, tab),
        failed: why => {
          // One is enough to know of it.
          if (!complained && !context.unwatched) context.post('/faults', { piece: p.piece, says: String(why) }).catch(() => {})
          complained = true
        },
        lost: () => {
          this.to('gone')
          this.free()
          this.ended('lost')
        },
      },
      // A place that is not there yet may come, as long as the page is the same.
      { over: () => life.over || this.state === 'passed', grows: on.grows, moves: does => life.on(window, 'scroll resize', does) },
    )
    if (!stands) return false
    if (held) {
      // It would be there now: that is all there is to say, and its place stays empty.
      this.to('held')
      standing.delete(p.slot)
      context.memory.note('shown', p.piece, '', false, false)
      this.as = { ...p, variant: '' }
      on.track('held', this.as)
      this.since = performance.now()
      return false
    }
    // What shows only its tab was shown before.
    this.to(p.folded ? 'folded' : 'standing')
    if (!p.folded) this.note('shown')
    this.count()
    return true
  }

  private ends(how: 'closed' | 'done', tab?: boolean) {
    if (!this.to(tab ? 'folded' : 'gone')) return
    // Its slot is free for others from the next page view on.
    if (!tab) standing.delete(this.p.slot)
    if (how === 'closed') this.note('closed')
    else this.on.say('done', this.p)
    if (!tab) this.ended(how)
  }

  /** Notes what happened to it, in the visitor's memory and to the server, and tells the page. */
  private note(what: 'shown' | 'closed' | 'converted', counted?: boolean) {
    const { p, on } = this
    on.context.memory.note(what, p.piece, p.variant, !!p.interrupts, !!p.overlay)
    if (what === 'shown') {
      this.since = performance.now()
      on.context.shown?.set(p.piece, this.since)
    }
    if (!counted) on.track(what, p, what === 'closed' ? { after: this.stood } : undefined)
    on.say(what, p)
  }

  private sinceWhen = () => this.on.context.keep<Record<string, number>>(`gobbet:${this.on.context.site}:since`, () => ({}))
  /** When this visitor first saw it; its timers count from then. */
  private firstSeen(): number {
    const kept = this.sinceWhen()
    const all = kept.read()
    if (!(all[this.p.piece] > 0)) {
      all[this.p.piece] = Date.now()
      kept.write(all)
    }
    return all[this.p.piece]
  }
}

/** Whether a conversation was open on the page before, in this tab (see chat.tsx). */
function isOpen(piece: string): boolean {
  try {
    return !!sessionStorage.getItem('gobbet:open:' + piece)
  } catch {
    return false
  }
}
