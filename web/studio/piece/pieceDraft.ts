import { hashKey } from '@tanstack/react-query'
import type { Fault } from '../../kinds/fault'
import type { Piece } from '../../kinds/piece'
import type { Note } from '../../kinds/settle'
import type { PieceInfo, Saved } from '../../kinds/studio'
import type { Copies, Copy } from '../parts/forms/copies'
import type { Trouble } from '../server/api'

// A piece being worked on, from the first change until the server has the last.
//
//	saved ──edited──▶ unsaved ──send──▶ saving ──sent──▶ saved
//	                     ▲                 │
//	                     └──edited─────────┤ (sent goes back to unsaved where more was changed meanwhile)
//	                                       ├─refused──▶ faulty   until it is edited
//	                                       ├─cut off──▶ away     tried again by itself
//	                                       ├─overtaken▶ stale    until one of the two is chosen
//	                                       └─not there▶ gone     until it is restored or given up
//
// It draws nothing and knows no clock, no server and no storage but those it is
// given, so that all of this is tested by tables. It lives as long as it has
// something to send, whichever screen is open.

/** How a draft stands with the server. */
export type Standing = 'saved' | 'saving' | 'unsaved' | 'faulty' | 'away' | 'stale' | 'gone'

/** What screens show of a draft. */
export interface DraftState {
  site: number
  id: string
  doc: Piece | null
  /** The version on the server that doc was changed from. */
  version: number
  standing: Standing
  faults: Fault[]
  notes: Note[]
  phrase: string
  canUndo: boolean
  canRedo: boolean
  /** Work found in this browser that was made on an older version, the newest first. */
  leftovers: Copy<Piece>[]
}

export const nothing: DraftState = {
  site: 0,
  id: '',
  doc: null,
  version: 0,
  standing: 'saved',
  faults: [],
  notes: [],
  phrase: '',
  canUndo: false,
  canRedo: false,
  leftovers: [],
}

/** What a draft is given to work with. */
export interface Surroundings {
  /** Sends a document that was changed from a version; fails with Trouble. A document that is there already counts as saved. */
  send(version: number, doc: Piece): Promise<Saved>
  /** The piece as the server has it now. */
  fetch(): Promise<PieceInfo>
  /** Brings a deleted piece back. */
  restore(): Promise<unknown>
  copies: Copies<Piece>
  /** Told after the server has taken a document. */
  onSaved(doc: Piece, saved: Saved): void
  now(): number
  /** Runs something after some milliseconds, unless what it returns is called first. */
  later(ms: number, run: () => void): () => void
}

const soon = 500 // ms from the last change to sending
const retry = 3000 // ms between tries while the server is away
const burst = 1000 // ms within which changes that belong together are one step of undo
const mostSteps = 500 // documents that undo goes back over

/** Whether two documents say the same, in whatever order of names: the server writes them in its own. */
export const same = (a: Piece, b: Piece) => a === b || hashKey([a]) === hashKey([b])

export class PieceDraft {
  state: DraftState
  private listeners = new Set<(state: DraftState) => void>()
  /** What the server has at state.version. */
  private base: Piece | null = null
  /** What was sent and not answered: it may have arrived. */
  private unanswered: Piece | null = null
  private steps: Piece[] = []
  private step = 0
  private run = { of: '', at: Number.NEGATIVE_INFINITY }
  private cancel = () => {}
  private sending: Promise<void> | null = null
  /** Whether this browser has what the server does not. */
  private kept = true

  constructor(
    site: number,
    id: string,
    private readonly around: Surroundings,
  ) {
    this.state = { ...nothing, site, id }
  }

  subscribe(listener: (state: DraftState) => void): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  /** Whether nothing of it would be lost with this window. */
  get safe() {
    return this.state.standing === 'saved' || this.kept
  }

  /** Whether it has nothing more to do. */
  get idle() {
    return this.state.standing === 'saved' && !this.sending && !this.state.leftovers.length
  }

  /** The piece as the server has it, with what this browser kept of work that was not sent, the newest first. */
  open(info: PieceInfo, copies: readonly Copy<Piece>[] = []) {
    this.take(info)
    const unsent = copies.filter(copy => !same(copy.doc, info.draft))
    for (const copy of copies) if (!unsent.includes(copy)) this.around.copies.remove(copy.key)
    const [newest] = unsent
    // What was sent and not answered may be what the server has now: it is sent
    // again first, and the server tells.
    const goesOn = newest && (newest.version === info.version || newest.sent)
    this.set({ leftovers: goesOn ? unsent.slice(1) : unsent })
    if (!goesOn) return
    this.set({ version: Number(newest.version) })
    this.unanswered = newest.sent ?? null
    // One step of its own: undo leads to what the server has, and redo back.
    this.steps = [info.draft, newest.doc]
    this.step = 1
    this.show(newest.doc)
    this.around.copies.remove(newest.key)
    this.plan(0)
  }

  /** The piece as it was loaded anew; what is not saved here stays. */
  arrived(info: PieceInfo) {
    if (info.version <= this.state.version || this.sending || this.state.standing !== 'saved') return
    if (same(info.draft, this.state.doc!)) this.set({ version: info.version, notes: info.notes, phrase: info.phrase })
    else this.take(info)
  }

  /** Changes the document. What is changed within a second and belongs to the same is undone together. */
  edit(next: Piece, belongsTo = '') {
    if (!this.state.doc || next === this.state.doc) return
    const now = this.around.now()
    const goesOn = belongsTo && belongsTo === this.run.of && now - this.run.at <= burst
    this.run = { of: belongsTo, at: now }
    this.steps = [...this.steps.slice(0, goesOn ? this.step : this.step + 1), next].slice(-mostSteps)
    this.step = this.steps.length - 1
    this.show(next)
  }

  undo = () => this.goTo(this.step - 1)

  redo = () => this.goTo(this.step + 1)

  private goTo(step: number) {
    if (!this.steps[step]) return
    this.step = step
    this.run = { of: '', at: Number.NEGATIVE_INFINITY }
    this.show(this.steps[step])
  }

  /** Sends what is not saved yet, and settles once the server has all of it or refuses it. */
  async save(): Promise<void> {
    await this.push()
    if (this.state.standing === 'unsaved') return this.save()
  }

  /** Sends what there is now; what is changed meanwhile goes later. */
  private async push(): Promise<void> {
    this.cancel()
    if (this.sending) return this.sending
    const { doc, standing } = this.state
    if (!doc || !['unsaved', 'faulty', 'away'].includes(standing)) return
    if (!this.unanswered && standing === 'unsaved' && same(doc, this.base!)) return this.settle()
    this.sending = this.send(this.unanswered ?? doc).finally(() => {
      this.sending = null
    })
    return this.sending
  }

  private async send(doc: Piece) {
    this.set({ standing: 'saving' })
    this.unanswered = doc
    this.keep()
    try {
      this.sent(doc, await this.around.send(this.state.version, doc))
    } catch (e) {
      this.refused(e as Trouble)
    }
  }

  private sent(doc: Piece, saved: Saved) {
    this.unanswered = null
    this.base = doc
    const all = this.state.doc === doc
    this.set({ version: saved.version, notes: saved.notes, phrase: saved.phrase, faults: [], standing: all ? 'saved' : 'unsaved' })
    this.keep()
    if (!all) this.plan(soon)
    this.around.onSaved(doc, saved)
  }

  private refused(trouble: Trouble) {
    const { status, faults = [], message } = trouble
    const again = this.unanswered !== this.state.doc
    const decided = status >= 400 && status < 500 && status !== 401 && status !== 408 && status !== 429
    if (decided) this.unanswered = null
    if (status === 404) this.set({ standing: 'gone' })
    else if (status === 409) this.set({ standing: 'stale' })
    else if (decided && again) {
      this.set({ standing: 'unsaved' })
      this.plan(0)
    } else if (decided) this.set({ standing: 'faulty', faults: faults.length ? faults : [{ at: '', message }] })
    else {
      this.set({ standing: 'away' })
      if (status !== 401) this.plan(retry)
    }
    this.keep()
  }

  /** The server answers again, or somebody has signed in again. */
  back() {
    if (this.state.standing === 'away') this.plan(0)
  }

  /** Gives up what is here for what the server has. */
  async takeTheirs() {
    const theirs = await this.around.fetch()
    this.around.copies.forget()
    this.take(theirs)
  }

  /** Puts what is here over what the server has. */
  async keepMine() {
    const theirs = await this.around.fetch()
    this.base = theirs.draft
    this.set({ version: theirs.version, notes: theirs.notes, phrase: theirs.phrase, standing: 'unsaved' })
    this.keep()
    await this.save()
  }

  /** Brings a piece back that was deleted elsewhere, with what is here. */
  async restore() {
    await this.around.restore()
    await this.keepMine()
  }

  /** Gives up what is here; nothing is sent any more. */
  discard() {
    this.cancel()
    this.unanswered = null
    this.around.copies.forget()
    if (this.base) this.set({ doc: this.base, standing: 'saved', faults: [] })
  }

  /** Takes up the newest work found from an older version, or throws it away. */
  takeLeftover(take: boolean) {
    const [newest, ...leftovers] = this.state.leftovers
    if (!newest) return
    this.set({ leftovers })
    if (take) this.edit(newest.doc)
    this.around.copies.remove(newest.key)
  }

  private take(info: PieceInfo) {
    this.cancel()
    this.unanswered = null
    this.base = info.draft
    this.steps = [info.draft]
    this.step = 0
    this.run = { of: '', at: Number.NEGATIVE_INFINITY }
    this.set({ doc: info.draft, version: info.version, notes: info.notes, phrase: info.phrase, standing: 'saved', faults: [], canUndo: false, canRedo: false })
  }

  /** Another document in its place, whether by an edit or by going back. */
  private show(doc: Piece) {
    const { standing } = this.state
    const waits = standing === 'stale' || standing === 'gone' || standing === 'saving'
    this.set({ doc, canUndo: this.step > 0, canRedo: this.step < this.steps.length - 1, standing: waits ? standing : 'unsaved' })
    this.keep()
    if (!waits) this.plan(soon)
  }

  private settle() {
    this.set({ standing: 'saved', faults: [] })
    this.keep()
  }

  /** Keeps in this browser what the server does not have yet, and nothing else. */
  private keep() {
    const { doc, version, standing } = this.state
    if (standing === 'saved') {
      this.around.copies.forget()
      this.kept = true
    } else this.kept = this.around.copies.keep({ version, doc: doc!, at: this.around.now(), ...(this.unanswered && { sent: this.unanswered }) })
  }

  private plan(ms: number) {
    this.cancel()
    this.cancel = this.around.later(ms, () => void this.push())
  }

  private set(change: Partial<DraftState>) {
    this.state = { ...this.state, ...change }
    for (const listener of this.listeners) listener(this.state)
  }
}
