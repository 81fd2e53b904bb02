import { hashKey } from '@tanstack/react-query'
import { createFormControl, type DefaultValues, type FieldValues, type Path, type PathValue } from 'react-hook-form'
import type { Trouble } from '../../server/api'
import type { Copies, Copy } from './copies'

// A form of something the server has: what is typed stays until it is saved or
// let go, over another screen, a reload, a failing network, and another window
// that saves meanwhile. What others changed elsewhere in it is taken in; only
// where both changed the same field is anybody asked.

/** What the server has, and at which version. */
export interface OnServer<T> {
  values: T
  version: number | string
}

/** How a form stands with the server. */
export interface FormStanding {
  /** There is something to save. */
  changed: boolean
  /** Another window changed the same. */
  stale: boolean
  busy: boolean
  /** It was saved, and nothing was typed since. */
  saved: boolean
  /** What is wrong as a whole, rather than with one field. */
  wrong: string
}

export interface FormSurroundings<T> {
  /** Saves what was changed from a version, and gives what the server has then; fails with Trouble. */
  send(version: number | string, values: T): Promise<OnServer<T>>
  fetch(): Promise<OnServer<T>>
  copies: Copies<T>
  now(): number
}

interface KeptForm<T> extends Copy<T> {
  /** What it was changed from. */
  base?: T
}

const equal = (a: unknown, b: unknown) => hashKey([a]) === hashKey([b]) // in whichever order their parts are
const mostTries = 3 // saves after others saved other fields meanwhile

type Named = Readonly<Record<string, unknown>>
const named = (v: unknown): v is Named => typeof v === 'object' && v !== null && !Array.isArray(v)

/** What was changed here from a base, on top of what others have by now. Where both changed the same it is mine, and a clash. */
function onTop(mine: unknown, base: unknown, theirs: unknown): { is: unknown; clash: boolean } {
  if (equal(mine, base)) return { is: theirs, clash: false }
  if (equal(theirs, base) || equal(mine, theirs)) return { is: mine, clash: false }
  if (!named(mine) || !named(base) || !named(theirs)) return { is: mine, clash: true }
  const parts = Object.keys({ ...theirs, ...mine }).map(k => [k, onTop(mine[k], base[k], theirs[k])] as const)
  return { is: Object.fromEntries(parts.filter(([, p]) => p.is !== undefined).map(([k, p]) => [k, p.is])), clash: parts.some(([, p]) => p.clash) }
}

export class SavedForm<T extends FieldValues> {
  readonly form = createFormControl<T>()
  standing: FormStanding = { changed: false, stale: false, busy: false, saved: false, wrong: '' }
  private listeners = new Set<() => void>()
  private base: T
  private version: number | string
  /** What the server has by now, where that could not be taken in. */
  private newest: OnServer<T>

  constructor(
    onServer: OnServer<T>,
    private readonly around: FormSurroundings<T>,
  ) {
    this.newest = onServer
    this.base = structuredClone(onServer.values)
    this.version = onServer.version
    this.form.reset(this.base as DefaultValues<T>)
    this.form.subscribe({ formState: { values: true }, callback: () => this.typed() })
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  /** Something was typed, or put there. */
  private typed() {
    const changed = !equal(this.values(), this.base)
    this.set({ changed, saved: this.standing.saved && !changed })
    this.keep()
    if (!changed && this.standing.stale) this.take(this.newest)
  }

  /** What the server has, as it was loaded anew. */
  arrived(onServer: OnServer<T>) {
    if (onServer.version === this.version || this.standing.busy) return
    this.merge(onServer)
  }

  /** Takes in what another window saved; where both changed the same it waits for a choice. */
  private merge(onServer: OnServer<T>) {
    this.newest = onServer
    if (onTop(this.values(), this.base, onServer.values).clash) this.set({ stale: true })
    else this.keepMine()
  }

  /** What a window that is gone left, on top of what the server has. */
  adopt(copy: KeptForm<T>) {
    if (this.standing.changed) return
    const now = { values: this.base, version: this.version }
    this.base = { ...this.base, ...(copy.base ?? this.base) }
    this.version = copy.version
    this.put({ ...this.base, ...copy.doc })
    this.around.copies.remove(copy.key)
    if (now.version !== copy.version) this.merge(now)
    this.typed()
  }

  /** Changes what is in the form, whichever fields it has. */
  edit(how: (values: T) => T) {
    const next = how(this.values())
    for (const k of this.keys()) this.form.setValue(k, next[k] as PathValue<T, Path<T>>, { shouldDirty: true })
    this.typed()
  }

  /** Saves what was typed, and says whether that worked. */
  async submit(): Promise<boolean> {
    if (this.standing.busy || this.standing.stale) return false
    this.set({ busy: true, wrong: '' })
    this.form.clearErrors()
    try {
      for (let tries = 0; tries < mostTries && !this.standing.stale; tries++) if (await this.send()) return true
    } catch (e) {
      this.refused(e as Trouble)
    } finally {
      this.set({ busy: false })
    }
    return false
  }

  private async send(): Promise<boolean> {
    const sent = structuredClone(this.values())
    try {
      const onServer = await this.around.send(this.version, sent)
      // What was typed while it was on its way is not saved yet.
      this.take(onServer, onTop(this.values(), sent, onServer.values).is as T)
      this.set({ saved: !this.standing.changed })
      return true
    } catch (e) {
      if ((e as Trouble).status !== 409) throw e
      this.merge(await this.around.fetch())
      return false
    }
  }

  private refused(trouble: Trouble) {
    let placed = 0
    for (const { at, message } of trouble.faults ?? []) {
      const path = this.pathOf(at)
      if (!path) continue
      placed++
      if (!this.form.getFieldState(path.field).error) this.form.setError(path.field, { type: 'server', message: path.said + message })
    }
    this.set({
      wrong:
        placed && placed === trouble.faults?.length ? 'Fix what is marked above.' : (trouble.faults?.find(f => !this.pathOf(f.at))?.message ?? trouble.message),
    })
  }

  /** The field that a fault is of: goals[1].name is goals.1.name, and origins[1] the second line of a text. */
  private pathOf(at: string): { field: Path<T>; said: string } | undefined {
    const parts = at.replaceAll('[', '.').replaceAll(']', '').split('.')
    let value: unknown = this.values()
    for (const [i, part] of parts.entries()) {
      if (value === null || typeof value !== 'object' || !(part in value)) return undefined
      value = (value as Record<string, unknown>)[part]
      if (typeof value !== 'string') continue
      const line = value
        .split('\n')
        .map(l => l.trim())
        .filter(Boolean)[Number(parts[i + 1])]
      return { field: parts.slice(0, i + 1).join('.') as Path<T>, said: line ? `“${line}” ` : '' }
    }
    return { field: parts.join('.') as Path<T>, said: '' }
  }

  /** Lets go of what was typed. */
  discard() {
    this.take(this.newest)
    this.form.clearErrors()
    this.set({ wrong: '' })
  }

  /** Goes on with what is here, over what another window saved. */
  keepMine() {
    this.take(this.newest, onTop(this.values(), this.base, this.newest.values).is as T)
  }

  private take(onServer: OnServer<T>, values: T = onServer.values) {
    this.newest = onServer
    this.version = onServer.version
    this.base = structuredClone(onServer.values)
    this.set({ stale: false })
    this.put(values)
    this.typed()
  }

  private put(values: T) {
    this.form.reset(this.base as DefaultValues<T>)
    for (const k of this.keys()) if (!equal(values[k], this.base[k])) this.form.setValue(k, values[k] as PathValue<T, Path<T>>, { shouldDirty: true })
  }

  private values = () => this.form.getValues()
  private keys = () => Object.keys(this.base) as Path<T>[]

  private keep() {
    if (this.standing.changed) this.around.copies.keep({ version: this.version, doc: this.values(), base: this.base, at: this.around.now() } as KeptForm<T>)
    else this.around.copies.forget()
  }

  private set(change: Partial<FormStanding>) {
    this.standing = { ...this.standing, ...change }
    for (const listener of this.listeners) listener()
  }
}
