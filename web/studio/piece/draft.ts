import { type Draft, produce } from 'immer'
import { create } from 'zustand'
import type { Piece } from '../../kinds/piece'
import type { PieceInfo } from '../../kinds/studio'
import { copiesOf, leftCopies } from '../parts/forms/copies'
import { api, away, Trouble } from '../server/api'
import { client, outdated } from '../server/queries'
import { type DraftState, nothing, PieceDraft } from './pieceDraft'

export type { Standing } from './pieceDraft'

// The drafts of this window: the one that is on the screen, and those that were
// left with something to send.

const patience = 30_000 // ms within which a save is answered

const drafts = new Map<string, PieceDraft>()
const keyOf = (site: number, id: string) => `${site}:${id}`

let wanted = '' // the piece that is on the screen, or will be once it is opened
let shown: PieceDraft | null = null
let unsubscribe = () => {}

/** The draft on the screen. */
export const useDraft = create<DraftState>(() => nothing)

function begin(site: number, id: string): PieceDraft {
  const at = { site, piece: id }
  return new PieceDraft(site, id, {
    async send(version, draft) {
      try {
        return await api('PUT /sites/:site/pieces/:piece', at, { body: { version, draft }, signal: AbortSignal.timeout(patience) })
      } catch (e) {
        // Whoever is not signed in any more is asked to, and comes back to what is kept here.
        if (e instanceof Trouble && e.status === 401) outdated('me')
        throw e
      }
    },
    fetch: async () => {
      const info = await api('GET /sites/:site/pieces/:piece', at)
      client.setQueryData(['piece', site, id], info)
      return info
    },
    restore: () => api('POST /sites/:site/pieces/:piece/restore', at),
    copies: copiesOf(`draft:${keyOf(site, id)}`),
    onSaved(draft, { version, notes, phrase, edited }) {
      client.setQueryData<PieceInfo>(['piece', site, id], info => info && { ...info, draft, version, notes, phrase, edited })
      outdated('board', site)
    },
    now: Date.now,
    later(ms, run) {
      const timer = setTimeout(run, ms)
      return () => clearTimeout(timer)
    },
  })
}

/** Puts a piece on the screen as the server has it, with what this browser has of it that was not sent. */
export async function openDraft(site: number, info: PieceInfo) {
  const key = keyOf(site, info.id)
  wanted = key
  const there = drafts.get(key)
  there?.arrived(info)
  there?.back()
  if (there && there === shown) return
  const left = there ? [] : await leftCopies<Piece>(`draft:${key}`, doc => Array.isArray(doc.split?.variants))
  const draft = drafts.get(key) ?? begin(site, info.id)
  if (!drafts.has(key)) {
    drafts.set(key, draft)
    draft.open(info, left)
  }
  if (wanted !== key) return release(draft)
  unsubscribe()
  shown = draft
  useDraft.setState(draft.state, true)
  unsubscribe = draft.subscribe(state => useDraft.setState(state, true))
}

/** Takes the draft off the screen. What it has to send it sends. */
export function closeDraft() {
  const draft = shown
  wanted = ''
  shown = null
  unsubscribe()
  useDraft.setState(nothing, true)
  if (draft) release(draft)
}

/** Sends what a draft still has; once that is done, what the server has is what there is. */
async function release(draft: PieceDraft) {
  await draft.save()
  const key = keyOf(draft.state.site, draft.state.id)
  if (draft.idle && key !== wanted && drafts.get(key) === draft) drafts.delete(key)
}

/**
 * The draft on the screen, for what goes on after one may have gone elsewhere:
 * it names the piece it began with.
 */
export function draftHere(): PieceDraft {
  if (!shown) throw new Error('No piece is open.')
  return shown
}

// The draft that commands change while they are run for one that may be off the screen.
let meant: PieceDraft | null = null

/** Runs commands on a draft, whatever is on the screen. */
export function inDraft(draft: PieceDraft, run: () => void) {
  const before = meant
  meant = draft
  try {
    run()
  } finally {
    meant = before
  }
}

/** The document that commands change. */
export const docHere = () => (meant ?? draftHere()).state.doc!

/** Changes the document; changes in quick succession that belong to the same thing are undone together. */
export const change = (how: (doc: Draft<Piece>) => void, belongsTo = '') => changeIn(meant ?? shown, how, belongsTo)

/** Changes the document of a draft, on the screen or not. */
export function changeIn(draft: PieceDraft | null, how: (doc: Draft<Piece>) => void, belongsTo = '') {
  const doc = draft?.state.doc
  if (doc) draft.edit(produce(doc, how), belongsTo)
}

/** Puts another document in its place. */
export const replace = (next: Piece, belongsTo = '') => (meant ?? shown)?.edit(next, belongsTo)

export const undo = () => shown?.undo()
export const redo = () => shown?.redo()

/** Sends what is not saved yet, and settles once the server has it or refuses it. */
export const save = async () => shown?.save()

// Back from being away: send at once rather than at the next try.
away.subscribe((now, before) => {
  if (before.why && !now.why) for (const draft of drafts.values()) draft.back()
})

/** What is wrong at a place of the document, as the server last said. */
export const useFault = (at: string) => useDraft(s => s.faults.find(f => f.at === at)?.message)
