import type { Button, Scene } from '../kinds/piece'
import type { AdvanceAnswer } from '../kinds/visitor'
import type { Went } from './host'
import { flat } from './paint'
import type { Walk as Base } from './walk'

// The walk through a conversation: it remembers every scene it came to, and
// what the visitor said on it.

export type Talking = InstanceType<ReturnType<typeof talkingOver>>

/** A scene that was come to, and what was said there. */
export interface Turn {
  scene: Scene
  said?: string
}

export const talkingOver = (Walk: typeof Base) =>
  class extends Walk {
    turns: Turn[] = []
    private undoing = false

    /** Where it is now. */
    get turn(): Turn {
      if (!this.turns.length) this.turns.push({ scene: this.scene })
      return this.turns.at(-1)!
    }

    /** Every scene that is known by now. */
    get scenes(): Scene[] {
      return [...this.drawing.scenes, ...Object.values(this.come)]
    }

    protected show(id: string) {
      const before = this.scene
      super.show(id)
      if (this.scene === before) return
      this.turn // what was there before is a turn as well
      const at = this.undoing ? this.turns.findLastIndex(t => t.scene === this.scene) : -1
      if (at >= 0) this.turns.length = at + 1
      else this.turns.push({ scene: this.scene })
    }

    /** What was said ahead of the server, and is refused, is unsaid. */
    protected undo(went: Went) {
      this.undoing = true
      super.undo(went)
      this.undoing = false
    }

    /** Notes what the visitor says on the scene they are at. */
    says(words: string) {
      this.turn.said = words
    }

    /** Nothing comes of it: the line can be said again. */
    unsays() {
      this.turn.said = undefined
    }

    resume(a: AdvanceAnswer) {
      super.resume(a)
      const path = a.path?.length ? a.path : [a.scene]
      this.turns = path.flatMap((id, i) => {
        const scene = this.find(id)
        return scene ? [{ scene, said: path[i + 1] ? this.saidAt(scene, path[i + 1]) : undefined }] : []
      })
      if (this.turns.at(-1)?.scene !== this.scene) this.turns.push({ scene: this.scene })
    }

    /** What was said on a scene that led to another, as far as that can be told. */
    private saidAt(scene: Scene, to: string): string | undefined {
      const blocks = flat(scene.blocks)
      const answers = blocks.flatMap(b => {
        if (b.kind !== 'field' || b.ask === 'hidden' || !this.answers[b.key]) return []
        return [labelled(b.choices, this.answers[b.key])]
      })
      if (answers.length) return answers.join(', ')
      const edge = scene.edges?.find(e => e.to === to)
      return blocks.find((b): b is Button => b.kind === 'button' && b.id === edge?.block)?.words
    }
  }

/** An answer as a person reads it: choices by their labels. */
export const labelled = (choices: readonly { id: string; label: string }[] | undefined, answer: string) =>
  choices?.length
    ? answer
        .split('\n')
        .map(id => choices.find(c => c.id === id)?.label ?? id)
        .join(', ')
    : answer
