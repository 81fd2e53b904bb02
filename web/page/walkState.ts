import type { Block, Drawing, Field, Scene } from '../kinds/piece'
import type { AdvanceAnswer } from '../kinds/visitor'
import type { DrawnPart, SentStep } from '../kinds/walk'
import { flat } from './paint'

// Where a visitor is on the way through a piece: what is drawn goes by this
// alone. How it changes is in walk.ts, which is fetched once it may.

/** What a walk is doing. */
export type Doing =
  /** The visitor is asked: the scene can be answered and left. */
  | 'asking'
  /** The server is asked what comes next. */
  | 'sending'
  /** What was right, or was drawn, is to be read before it goes on. */
  | 'telling'
  /** What was drawn is being shown. */
  | 'turning'
  /** The visitor has gone out by the last edge. */
  | 'over'

export type Answers = Record<string, string>

/** A step of a walk, and when it was taken, in ms since 1970. */
export type Step = SentStep & { at: number }

/** A scene that a conversation came to, and what was said there. */
export interface Turn {
  scene: Scene
  said?: string
}

export interface WalkState {
  doing: Doing
  scene: Scene
  /** How often the scene has changed. */
  moves: number
  /** By the keys of fields: those of all scenes so far. */
  answers: Answers
  /** What is wrong with answers, by their keys, and what else went wrong. */
  faults: Answers
  trouble: string
  values: Record<string, number>
  tallies: NonNullable<AdvanceAnswer['tallies']>
  /** What was right of the scene's answers. */
  marks: NonNullable<AdvanceAnswer['marks']>
  /** What was drawn, by the keys of draws. */
  drawn: Record<string, DrawnPart>
  /** Scenes that were withheld and have come, by their ids. */
  earned: Record<string, Scene>
  /** The scenes behind, the latest last, and whether the visitor may go back there. */
  behind: string[]
  canGoBack: boolean
  /** What a conversation has come to; the last is where it is. */
  turns: Turn[]
}

/** Whether a device shows a block. */
export const shows = ({ hide }: Block, phone: boolean) => !hide || (hide === 'phone') !== phone

/** The fields of a scene that a device shows. */
export const fieldsOf = (scene: Scene, phone: boolean) => flat(scene.blocks).filter((b): b is Field => b.kind === 'field' && shows(b, phone))

/** Answers with those that a scene begins with: a slider stands somewhere from the start, and that is its answer until it is moved. */
export function begunWith(answers: Answers, scene: Scene, phone: boolean): Answers {
  for (const f of fieldsOf(scene, phone)) if (f.ask === 'slider' && !(f.key in answers)) answers = { ...answers, [f.key]: f.start || f.least || '0' }
  return answers
}

/** Where every walk begins. */
export function firstState(drawing: Drawing, phone: boolean): WalkState {
  const scene = drawing.scenes[0]
  return {
    doing: 'asking',
    scene,
    moves: 0,
    answers: begunWith({}, scene, phone),
    faults: {},
    trouble: '',
    values: {},
    tallies: {},
    marks: {},
    drawn: {},
    earned: {},
    behind: [],
    canGoBack: false,
    turns: [{ scene }],
  }
}

/** With an answer, which takes back what was wrong with the one before. */
export function answered<S extends WalkState>(s: S, key: string, value: string): S {
  const { [key]: _, ...faults } = s.faults
  return { ...s, answers: { ...s.answers, [key]: value }, faults }
}

/** Every scene that is known by now. */
export const scenesOf = (drawing: Drawing, s: WalkState): Scene[] => [...drawing.scenes.filter(one => !s.earned[one.id]), ...Object.values(s.earned)]
