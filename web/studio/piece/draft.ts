import { hashKey } from '@tanstack/react-query'
import { type Draft, produce } from 'immer'
import { temporal } from 'zundo'
import { create, useStore } from 'zustand'
import type { Fault } from '../../kinds/fault'
import type { Piece } from '../../kinds/piece'
import type { Note } from '../../kinds/settle'
import type { PieceInfo } from '../../kinds/studio'
import { api, type Trouble, useAway } from '../api'
import { client, outdated } from '../queries'

// The piece being worked on. One store holds its document, with undo; every
// change is kept in this browser at once and sent soon after. The version it
// was changed from goes along, so that two windows cannot overwrite each other.

/** How the draft stands with the server. */
export type Standing = 'saved' | 'saving' | 'unsaved' | 'faulty' | 'away' | 'stale' | 'gone'

interface Work {
  site: number
  id: string
  doc: Piece | null
  /** The version on the server that doc was changed from. */
  version: number
  standing: Standing
  faults: Fault[]
  notes: Note[]
  phrase: string
  /** Work found in this browser that was made on an older version. */
  leftover: Kept | null
}

interface Kept {
  version: number
  doc: Piece
  at: number
}

const soon = 500 // ms from the last change to saving
const retry = 3000 // ms between tries while the server is away
const burst = 1000 // ms within which changes are one step of undo

const begun: Work = { site: 0, id: '', doc: null, version: 0, standing: 'saved', faults: [], notes: [], phrase: '', leftover: null }

// What the change under way belongs to; a run of changes to one thing, such as
// typing, is one step of undo.
let run = ''

export const useDraft = create<Work>()(
  temporal((): Work => begun, {
    partialize: ({ doc }) => ({ doc }),
    equality: (a, b) => a.doc === b.doc,
    limit: 500,
    handleSet: handle => {
      let last = 0
      let lastRun = ''
      return ((...args: Parameters<typeof handle>) => {
        const now = Date.now()
        if (!run || run !== lastRun || now - last > burst) handle(...args)
        last = now
        lastRun = run
      }) as typeof handle
    },
  }),
)

type Past = ReturnType<typeof useDraft.temporal.getState>

export const useHistory = <T>(what: (past: Past) => T) => useStore(useDraft.temporal, what)

const keyOf = (site: number, id: string) => `gobbet-draft:${site}:${id}`
const storeKey = () => keyOf(useDraft.getState().site, useDraft.getState().id)

function readKept(key = storeKey()): Kept | null {
  try {
    const kept = JSON.parse(localStorage.getItem(key) ?? 'null')
    return kept?.doc?.split?.variants ? kept : null
  } catch {
    return null
  }
}

function keep() {
  const { doc, version } = useDraft.getState()
  try {
    localStorage.setItem(storeKey(), JSON.stringify({ version, doc, at: Date.now() }))
  } catch {
    // No room or no storage: the draft lives in this window until it is sent.
  }
}

/** Whether two documents say the same, in whatever order of names: the server writes them in its own. */
const same = (a: Piece, b: Piece) => hashKey([a]) === hashKey([b])

const forget = () => localStorage.removeItem(storeKey())

/** Opens a piece as the server has it, or as this browser kept it when it was not sent yet. */
export function openDraft(site: number, info: PieceInfo) {
  clearTimeout(timer)
  // What was changed a moment ago may still be on its way: the version it gets
  // is the one to go on from.
  if (sending && sent === keyOf(site, info.id)) {
    sending.then(() => openDraft(site, client.getQueryData<PieceInfo>(['piece', site, info.id]) ?? info))
    return
  }
  useDraft.setState({ ...begun, site, id: info.id, doc: info.draft, version: info.version, notes: info.notes, phrase: info.phrase })
  const kept = readKept()
  if (kept && !same(kept.doc, info.draft)) {
    if (kept.version === info.version) {
      useDraft.setState({ doc: kept.doc, standing: 'unsaved' })
      plan(0)
    } else useDraft.setState({ leftover: kept })
  } else forget()
  useDraft.temporal.getState().clear()
}

/** Changes the document; changes in quick succession that belong to the same thing are undone together. */
export function change(how: (doc: Draft<Piece>) => void, belongsTo = '') {
  const { doc } = useDraft.getState()
  if (!doc) return
  replace(produce(doc, how), belongsTo)
}

/** Puts another document in its place. */
export function replace(next: Piece, belongsTo = '') {
  if (next === useDraft.getState().doc) return
  run = belongsTo
  useDraft.setState({ doc: next })
  run = ''
}

/** Takes up, or throws away, work found from an older version. */
export function takeLeftover(take: boolean) {
  const { leftover } = useDraft.getState()
  useDraft.setState({ leftover: null, ...(take && leftover ? { doc: leftover.doc } : {}) })
  if (!take) forget()
}

// Whatever changes the document, undo too, keeps it and plans to send it.
useDraft.subscribe((now, before) => {
  if (now.doc === before.doc || now.id !== before.id || !before.doc) return
  keep()
  if (now.standing !== 'stale' && now.standing !== 'gone') {
    useDraft.setState({ standing: 'unsaved' })
    plan(soon)
  }
})

let timer = 0
let sending: Promise<void> | null = null
let sent = '' // the piece under way, by its key

function plan(ms: number) {
  clearTimeout(timer)
  timer = window.setTimeout(() => save(), ms)
}

/** Sends what is not saved yet, and settles once the server has it or refuses it. */
export async function save(): Promise<void> {
  clearTimeout(timer)
  if (sending) {
    await sending
    return save()
  }
  const { standing, doc } = useDraft.getState()
  if (!doc || standing === 'saved' || standing === 'stale' || standing === 'gone') return
  sending = send().finally(() => {
    sending = null
  })
  await sending
}

async function send() {
  const { site, id, doc, version } = useDraft.getState()
  if (!doc) return
  const here = () => useDraft.getState().id === id
  const mine = keyOf(site, id)
  sent = mine
  useDraft.setState({ standing: 'saving' })
  try {
    const saved = await api('PUT /sites/:site/pieces/:piece', { site, piece: id }, { body: { version, draft: doc } })
    client.setQueryData<PieceInfo>(
      ['piece', site, id],
      info => info && { ...info, draft: doc, version: saved.version, notes: saved.notes, phrase: saved.phrase, edited: saved.edited },
    )
    outdated('board', site)
    if (!here()) {
      // Somebody has gone to another screen. What they changed last waits in
      // this browser, and goes on from the version that is there now.
      const kept = readKept(mine)
      if (kept?.version !== version) return
      if (same(kept.doc, doc)) localStorage.removeItem(mine)
      else localStorage.setItem(mine, JSON.stringify({ ...kept, version: saved.version }))
      return
    }
    const all = useDraft.getState().doc === doc
    useDraft.setState({ version: saved.version, notes: saved.notes, phrase: saved.phrase, faults: [], standing: all ? 'saved' : 'unsaved' })
    if (all) forget()
    else {
      keep()
      plan(soon)
    }
  } catch (e) {
    if (!here()) return
    const trouble = e as Trouble
    if (trouble.status === 404) useDraft.setState({ standing: 'gone' })
    else if (trouble.status === 409) useDraft.setState({ standing: 'stale' })
    else if (trouble.status === 422 || trouble.status === 413)
      useDraft.setState({ standing: 'faulty', faults: trouble.faults.length ? trouble.faults : [{ at: '', message: trouble.message }] })
    else if (trouble.status === 401) location.assign('/sign-in')
    else {
      useDraft.setState({ standing: 'away' })
      plan(retry)
    }
  }
}

/** Loads what the other window saved, giving up what is here. */
export function takeTheirs() {
  const { site, id } = useDraft.getState()
  forget()
  outdated('piece', site, id)
}

/** Restores a piece that was deleted elsewhere, with what is here. */
export async function restore() {
  const { site, id } = useDraft.getState()
  await api('POST /sites/:site/pieces/:piece/restore', { site, piece: id })
  await keepMine()
}

/** Gives up what is here. */
export function giveUp() {
  forget()
  useDraft.setState({ standing: 'saved' })
}

/** Puts what is here over what the other window saved. */
export async function keepMine() {
  const { site, id } = useDraft.getState()
  const theirs = await api('GET /sites/:site/pieces/:piece', { site, piece: id })
  useDraft.setState({ version: theirs.version, standing: 'unsaved' })
  plan(0)
}

// Back from being away: send at once rather than at the next try.
useAway.subscribe((now, before) => {
  if (before.away && !now.away && useDraft.getState().standing === 'away') plan(0)
})

/** What is wrong at a place of the document, as the server last said. */
export const useFault = (at: string) => useDraft(s => s.faults.find(f => f.at === at)?.message)
