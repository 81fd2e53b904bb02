import type { Choice, Field } from '../kinds/piece'
import type { AdvanceAnswer } from '../kinds/visitor'
import { flat } from './paint'
import type { Walk as Base, Step } from './walk'

// The walk through what is played: back and on again, told what was right,
// resumed where an earlier page left it.

export type Played = InstanceType<ReturnType<typeof walkOver>>

export const walkOver = (Walk: typeof Base) =>
  class extends Walk {
    /** What was right is shown; this comes after. */
    after?: string
    /** The scenes behind, the latest last. */
    behind: string[] = []

    /** A slider stands somewhere from the start, and that is its answer until it is moved. */
    protected begin() {
      for (const f of this.fields) if (f.ask === 'slider') this.answers = { [f.key]: f.start || f.least || '0', ...this.answers }
      this.canGoBack = this.mayGoBack()
    }

    protected leaves(to: string) {
      if (this.scene.id === to) return
      const at = this.behind.lastIndexOf(to)
      if (at >= 0) this.behind.length = at
      else this.behind.push(this.scene.id)
    }

    private mayGoBack() {
      const before = this.find(this.behind?.at(-1) ?? '')
      return !!before && this.scene.kind !== 'result' && !flat(before.blocks).some(b => b.kind === 'field' && b.reveal)
    }

    back() {
      const to = this.behind.at(-1)
      if (this.busy || !to || !this.canGoBack || this.after) return
      this.behind.pop()
      this.steps.push({ scene: to, back: true, at: Date.now() })
      this.show(to)
    }

    protected marked(a: AdvanceAnswer, last: Step, to: string) {
      if (!a.marks || !Object.keys(a.marks).length || this.scene.id !== last.scene) return false
      this.marks = a.marks
      this.after = to
      this.canGoBack = false
      this.changed(false)
      return true
    }

    protected onward() {
      const to = this.after
      if (to === undefined) return false
      this.after = undefined
      this.marks = {}
      this.show(to)
      return true
    }

    /** The choices of a field of any scene that is known. */
    choices(key: string): Choice[] {
      for (const s of [...this.drawing.scenes, ...Object.values(this.come)])
        for (const b of flat(s.blocks)) if (b.kind === 'field' && b.key === key) return (b as Field).choices ?? []
      return []
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
