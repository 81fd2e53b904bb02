import type { Scene } from '../kinds/piece'
import type { AdvanceAnswer } from '../kinds/visitor'
import type { DrawnPart } from '../kinds/walk'
import type { Walk as Base, Step } from './walk'

// The walk through scenes with prize draws: what was drawn is shown before the
// walk goes on.

export type Drawing = InstanceType<ReturnType<typeof drawingOver>>

export const drawingOver = (Walk: typeof Base) =>
  class extends Walk {
    /** What was drawn, by the keys of draws. */
    drawn: Record<string, DrawnPart> = {}
    /** It is being shown. */
    turning = false
    /** Where it goes after that: what the server said. */
    next?: { a: AdvanceAnswer; last: Step; to: string }

    /** Every scene that is known by now. */
    get scenes(): Scene[] {
      return [...this.drawing.scenes, ...Object.values(this.come)]
    }

    protected marked(a: AdvanceAnswer, last: Step, to: string) {
      if (!a.drawn || this.scene.id !== last.scene) return super.marked(a, last, to)
      this.drawn = { ...this.drawn, ...a.drawn }
      for (const [key, { part }] of Object.entries(a.drawn)) this.answers = { ...this.answers, [key]: part }
      this.turning = true
      this.next = { a, last, to }
      this.changed(false)
      return true
    }

    /** What was drawn has been seen: goes on, unless nothing comes after it. */
    settled() {
      this.turning = false
      if (this.next?.to) this.goOn()
    }

    private goOn() {
      const { a, last, to } = this.next!
      this.next = undefined
      if (!super.marked(a, last, to)) this.show(to)
    }

    protected onward() {
      if (this.turning) return true
      if (!this.next) return super.onward()
      this.goOn()
      return true
    }
  }
