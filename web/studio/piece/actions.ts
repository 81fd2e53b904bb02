import type { PieceName } from '../../kinds/studio'
import type { Action } from '../parts/keys/actions'
import { confirm } from '../parts/look/Confirm'
import { toast } from '../parts/look/toast'
import { counted } from '../parts/words/say'
import { api, type Trouble } from '../server/api'
import { outdated, refreshPieces } from '../server/queries'

// What can be done with pieces, one or several at once: the menus of the board,
// its bar for what is selected and the head of a piece draw from it.

export interface Piece {
  id: string
  name: string
  state: string
  /** When a pause is planned to begin. */
  pauses_at?: string | null
}

export interface On {
  site: number
  pieces: readonly Piece[]
}

const live = (p: Piece) => p.state === 'live'
const paused = (p: Piece) => p.state === 'paused'

/** The pieces in a sentence: “Spring letter”, or 3 pieces. */
export const named = (pieces: readonly Piece[]) => (pieces.length === 1 ? `“${pieces[0].name}”` : counted(pieces.length, 'piece'))

/** Runs something on the server for pieces, and shows what went wrong. */
async function run(site: number, pieces: readonly { id: string }[], how: () => Promise<unknown>) {
  try {
    await how()
    return true
  } catch (e) {
    const { faults, message } = e as Trouble
    toast(faults?.[0]?.message ?? message, true)
    return false
  } finally {
    refreshPieces(site)
    for (const p of pieces) outdated('piece', site, p.id)
  }
}

/** Makes a copy as a draft, and gives its id; undefined where that failed. */
export async function duplicatePiece(site: number, piece: Pick<Piece, 'id' | 'name'>): Promise<string | undefined> {
  let id: string | undefined
  await run(site, [], async () => {
    id = (await api('POST /sites/:site/pieces', { site }, { body: { name: `${piece.name.slice(0, 113)} (copy)`, copy_of: piece.id } })).id
  })
  return id
}

export const pausePieces = async (site: number, pieces: readonly Piece[], until = '') => {
  const some = pieces.filter(live)
  if (!(await run(site, some, () => api('POST /sites/:site/pause', { site }, { body: { pieces: some.map(p => p.id), from: '', until } })))) return
  toast(`${named(some)} paused.`, false, { name: 'Resume', run: () => resumePieces(site, some) })
}

const planned = (p: Piece) => live(p) && !!p.pauses_at

export const resumePieces = async (site: number, pieces: readonly Piece[]) => {
  let back: string[] = []
  const done = await run(site, pieces, async () => {
    back = (await api('POST /sites/:site/resume', { site }, { body: { pieces: pieces.map(p => p.id) } })).pieces
  })
  if (!done) return
  const left = pieces.length - back.length
  if (left) toast(`${counted(left, 'piece')} stayed paused: its schedule has ended, its page’s address is taken, or as many as may be are live.`, true)
  else toast(pieces.every(planned) ? `${named(pieces)} stays live: the planned pause is cancelled.` : `${named(pieces)} live again, as before.`)
}

export const deletePieces = async (site: number, pieces: readonly Piece[]) => {
  const gone: Piece[] = []
  const done = await run(site, pieces, async () => {
    for (const p of pieces) {
      await api('DELETE /sites/:site/pieces/:piece', { site, piece: p.id })
      gone.push(p)
    }
  })
  if (done || gone.length) toast(`${named(gone)} deleted, and kept for 30 days.`, false, { name: 'Undo', run: () => restorePieces(site, gone) })
}

/** Brings deleted pieces back, and says in which state they come. */
export const restorePieces = async (site: number, pieces: readonly { id: string }[]) => {
  const back: PieceName[] = []
  await run(site, pieces, async () => {
    for (const p of pieces) back.push(await api('POST /sites/:site/pieces/:piece/restore', { site, piece: p.id }))
  })
  if (!back.length) return
  const stopped = back.filter(p => p.state !== 'draft').length
  const how = !stopped
    ? `as ${back.length === 1 ? 'a draft' : 'drafts'}`
    : stopped === back.length
      ? `paused: resume or launch to show ${back.length === 1 ? 'it' : 'them'} again`
      : `${counted(stopped, 'piece')} of them paused`
  toast(`${back.length === 1 ? `“${back[0].name}”` : counted(back.length, 'piece')} restored, ${how}.`)
}

/** Those of several pieces at once. */
export const pieceActions: Record<'pause' | 'resume' | 'delete', Action<On>> = {
  pause: {
    name: 'Pause',
    applies: on => on.pieces.some(live),
    run: ({ site, pieces }) => pausePieces(site, pieces),
  },
  resume: {
    name: on => (on.pieces.some(paused) ? 'Resume' : 'Cancel the planned pause'),
    applies: on => on.pieces.some(p => paused(p) || planned(p)),
    run: ({ site, pieces }) =>
      resumePieces(
        site,
        pieces.filter(p => paused(p) || planned(p)),
      ),
  },
  delete: {
    name: 'Delete',
    applies: on => on.pieces.length > 0,
    run: ({ site, pieces }) => {
      const some = pieces.filter(live)
      if (!some.length) return void deletePieces(site, pieces)
      confirm({
        title: `Pause and delete ${named(pieces)}?`,
        text: `${named(some)} ${some.length === 1 ? 'is' : 'are'} live and will disappear from your site. Deleted pieces can be restored for 30 days.`,
        verb: 'Delete',
        run: async () => {
          await run(site, some, () => api('POST /sites/:site/pause', { site }, { body: { pieces: some.map(p => p.id), from: '', until: '' } }))
          deletePieces(site, pieces)
        },
      })
    },
  },
}
