import { describe, expect, test } from 'vitest'
import type { Piece } from '../kinds/piece'
import type { PieceInfo } from '../kinds/studio'
import type { Copy } from '../studio/parts/forms/copies'
import { PieceDraft } from '../studio/piece/pieceDraft'

// The draft of a piece: what is edited is saved, kept, undone, and never lost
// to another window, a slow network or none.

const doc = (name: string) => ({ name, split: { variants: [] } }) as unknown as Piece
const infoOf = (version: number, name: string) => ({ id: 'p', version, draft: doc(name), notes: [], phrase: `phrase of ${name}` }) as unknown as PieceInfo

/** A server, a clock and a browser's storage, in memory. */
function world(version = 1, name = 'A') {
  const server = { version, doc: doc(name), deleted: false }
  const w = {
    server,
    time: 0,
    timers: [] as { at: number; run: () => void }[],
    copies: new Map<string, Copy<Piece>>(),
    room: true,
    saves: [] as string[],
    /** What becomes of the next requests: 'lost' arrives without an answer, 'cut' does not arrive. */
    fate: [] as ('ok' | 'lost' | 'cut' | number)[],
    /** Holds back the answers until it is called. */
    held: null as null | (() => void),
    hold: false,
    draft: null as unknown as PieceDraft,
    begin(key = 'mine') {
      w.draft = new PieceDraft(1, 'p', {
        async send(from, sent) {
          const fate = w.fate.shift() ?? 'ok'
          if (w.hold) await new Promise<void>(go => (w.held = go))
          if (fate === 'cut') throw { status: 0, message: 'away' }
          if (typeof fate === 'number') throw { status: fate, message: 'no', faults: [{ at: 'name', message: 'Too long.' }] }
          if (server.deleted) throw { status: 404, message: 'gone' }
          if (from !== server.version && JSON.stringify(server.doc) !== JSON.stringify(sent)) throw { status: 409, message: 'stale' }
          if (from === server.version) {
            server.version++
            server.doc = sent
            w.saves.push(sent.name)
          }
          if (fate === 'lost') throw { status: 0, message: 'away' }
          return { version: server.version, notes: [], phrase: `phrase of ${sent.name}`, edited: true }
        },
        fetch: async () => infoOf(server.version, server.doc.name),
        restore: async () => {
          server.deleted = false
        },
        copies: {
          keep: copy => w.room && !!w.copies.set(key, { ...copy, key }),
          forget: () => w.copies.delete(key),
          remove: other => w.copies.delete(other),
        },
        onSaved: () => {},
        now: () => w.time,
        later(ms, run) {
          const timer = { at: w.time + ms, run }
          w.timers.push(timer)
          return () => (w.timers = w.timers.filter(t => t !== timer))
        },
      })
      return w.draft
    },
    /** Lets time pass, with all that it begins. */
    async pass(ms: number) {
      const end = w.time + ms
      for (;;) {
        const next = w.timers.filter(t => t.at <= end).sort((a, b) => a.at - b.at)[0]
        if (!next) break
        w.time = next.at
        w.timers = w.timers.filter(t => t !== next)
        next.run()
        await w.settle()
      }
      w.time = end
    },
    settle: () => new Promise(done => setTimeout(done)),
    edit: (name: string, of = '') => w.draft.edit(doc(name), of),
    get name() {
      return w.draft.state.doc?.name
    },
    get standing() {
      return w.draft.state.standing
    },
  }
  w.begin().open(infoOf(version, name))
  return w
}

describe('saving', () => {
  test('what is edited is sent a moment later, once, and kept until then', async () => {
    const w = world()
    w.edit('B')
    w.edit('C')
    expect([w.standing, w.copies.get('mine')?.doc.name]).toEqual(['unsaved', 'C'])
    await w.pass(499)
    expect(w.saves).toEqual([])
    await w.pass(1)
    expect([w.saves, w.standing, w.copies.size, w.draft.state.version, w.draft.idle]).toEqual([['C'], 'saved', 0, 2, true])
  })

  test('what is edited while a save is under way goes after it', async () => {
    const w = world()
    w.hold = true
    w.edit('B')
    await w.pass(500)
    w.edit('C')
    expect(w.standing).toBe('saving')
    w.hold = false
    w.held!()
    await w.settle()
    expect([w.standing, w.copies.get('mine')?.doc.name]).toEqual(['unsaved', 'C'])
    await w.pass(500)
    expect([w.saves, w.standing]).toEqual([['B', 'C'], 'saved'])
  })

  test('saving at once waits for all of it', async () => {
    const w = world()
    w.hold = true
    w.edit('B')
    await w.pass(500)
    w.edit('C')
    const done = w.draft.save()
    w.hold = false
    w.held!()
    await done
    expect([w.saves, w.standing]).toEqual([['B', 'C'], 'saved'])
  })

  test('an edit that was undone before it was sent is none', async () => {
    const w = world()
    w.edit('B')
    w.draft.undo()
    await w.pass(1000)
    expect([w.saves, w.standing, w.copies.size]).toEqual([[], 'saved', 0])
  })

  test('an edit undone while it is sent is sent back', async () => {
    const w = world()
    w.hold = true
    w.edit('B')
    await w.pass(500)
    w.draft.undo()
    w.hold = false
    w.held!()
    await w.settle()
    await w.pass(1000)
    expect([w.saves, w.standing]).toEqual([['B', 'A'], 'saved'])
  })

  test.each([
    [422, 'faulty'],
    [413, 'faulty'],
    [500, 'away'],
    [503, 'away'],
    [429, 'away'],
    [401, 'away'],
    [404, 'gone'],
    [409, 'stale'],
  ] as const)('a refusal of %i leaves it %s, and in this browser', async (status, standing) => {
    const w = world()
    w.fate = [status]
    w.edit('B')
    await w.pass(500)
    expect([w.standing, w.copies.get('mine')?.doc.name]).toEqual([standing, 'B'])
  })

  test('a fault stands at its place until it is mended', async () => {
    const w = world()
    w.fate = [422]
    w.edit('B')
    await w.pass(5000)
    expect(w.draft.state.faults).toEqual([{ at: 'name', message: 'Too long.' }])
    w.edit('C')
    await w.pass(500)
    expect([w.draft.state.faults, w.standing, w.saves]).toEqual([[], 'saved', ['C']])
  })
})

describe('a network that fails', () => {
  test('is tried again until it works', async () => {
    const w = world()
    w.fate = ['cut', 'cut']
    w.edit('B')
    await w.pass(500)
    expect(w.standing).toBe('away')
    await w.pass(6000)
    expect([w.saves, w.standing]).toEqual([['B'], 'saved'])
  })

  test('is tried at once when it is back; who is signed out is not tried by itself', async () => {
    const w = world()
    w.fate = [401]
    w.edit('B')
    await w.pass(60_000)
    expect(w.saves).toEqual([])
    w.draft.back()
    await w.pass(0)
    expect([w.saves, w.standing]).toEqual([['B'], 'saved'])
  })

  test('whose answer was lost has not changed the piece in another window, whatever is typed meanwhile', async () => {
    const w = world()
    w.fate = ['lost']
    w.edit('B')
    await w.pass(500)
    w.edit('C')
    await w.pass(3000)
    expect([w.saves, w.standing, w.name]).toEqual([['B', 'C'], 'saved', 'C'])
  })

  test('nor after a reload', async () => {
    const w = world()
    w.fate = ['lost']
    w.edit('B')
    await w.pass(500)
    w.edit('C')
    const left = [w.copies.get('mine')!]
    w.begin('next').open(infoOf(w.server.version, w.server.doc.name), left)
    await w.pass(1000)
    expect([w.saves, w.standing, w.name, w.copies.size, w.draft.state.leftovers.length]).toEqual([['B', 'C'], 'saved', 'C', 0, 0])
  })

  test('what it refuses at last does not hold back what was mended meanwhile', async () => {
    const w = world()
    w.fate = ['cut', 422]
    w.edit('B')
    await w.pass(500)
    w.edit('C')
    await w.pass(3000)
    expect([w.saves, w.standing]).toEqual([['C'], 'saved'])
  })

  test('a window without room for a copy is not safe to close', () => {
    const w = world()
    w.room = false
    w.edit('B')
    expect(w.draft.safe).toBe(false)
  })
})

describe('undo', () => {
  test('goes back step by step, and forward', async () => {
    const w = world()
    for (const name of ['B', 'C', 'D']) w.edit(name)
    w.draft.undo()
    w.draft.undo()
    expect(w.name).toBe('B')
    w.draft.redo()
    expect([w.name, w.draft.state.canUndo, w.draft.state.canRedo]).toEqual(['C', true, true])
    await w.pass(500)
    expect(w.saves).toEqual(['C'])
  })

  test('what is typed in quick succession is one step', () => {
    const w = world()
    w.edit('B', 'name')
    w.edit('BC', 'name')
    w.time += 1001
    w.edit('BCD', 'name')
    w.draft.undo()
    expect(w.name).toBe('BC')
    w.draft.undo()
    expect([w.name, w.draft.state.canUndo]).toEqual(['A', false])
  })

  test('typing on after going back leaves no future, and is a step of its own', () => {
    const w = world()
    w.edit('B', 'name')
    w.time += 2000
    w.edit('BC', 'name')
    w.draft.undo()
    w.edit('BD', 'name')
    expect([w.name, w.draft.state.canRedo]).toEqual(['BD', false])
    w.draft.undo()
    expect(w.name).toBe('B')
  })

  test('goes back over a save', async () => {
    const w = world()
    w.edit('B')
    await w.pass(500)
    w.draft.undo()
    await w.pass(500)
    expect([w.saves, w.name, w.standing]).toEqual([['B', 'A'], 'A', 'saved'])
  })

  test('at the ends there is nothing', () => {
    const w = world()
    w.draft.undo()
    w.draft.redo()
    expect([w.name, w.standing]).toEqual(['A', 'saved'])
  })

  test('goes back over 499 steps of however many', () => {
    const w = world()
    for (let i = 0; i < 1000; i++) w.edit(`step ${i}`)
    let steps = 0
    while (w.draft.state.canUndo && steps++ < 2000) w.draft.undo()
    expect([steps, w.name]).toEqual([499, 'step 500'])
  })
})

describe('two windows', () => {
  /** Another window has saved before this one did. */
  const overtaken = async () => {
    const w = world()
    Object.assign(w.server, { version: 2, doc: doc('Theirs') })
    w.edit('Mine')
    await w.pass(500)
    expect(w.standing).toBe('stale')
    return w
  }

  test('theirs is taken, with nothing sent after it', async () => {
    const w = await overtaken()
    await w.draft.takeTheirs()
    await w.pass(10_000)
    expect([w.name, w.standing, w.saves, w.copies.size, w.draft.state.canUndo]).toEqual(['Theirs', 'saved', [], 0, false])
    w.edit('On')
    await w.pass(500)
    expect([w.saves, w.standing]).toEqual([['On'], 'saved'])
  })

  test('mine is kept, with what was typed while the question stood', async () => {
    const w = await overtaken()
    w.edit('Mine and more')
    await w.pass(10_000)
    expect([w.standing, w.copies.get('mine')?.doc.name]).toEqual(['stale', 'Mine and more'])
    await w.draft.keepMine()
    expect([w.saves, w.server.doc.name, w.standing]).toEqual([['Mine and more'], 'Mine and more', 'saved'])
  })

  test('both wrote the same: there is nothing to choose', async () => {
    const w = world()
    Object.assign(w.server, { version: 2, doc: doc('Same') })
    w.edit('Same')
    await w.pass(500)
    expect([w.standing, w.draft.state.version]).toEqual(['saved', 2])
  })

  test('what arrives newer is taken where nothing is unsaved, and never else', async () => {
    const w = world()
    w.draft.arrived(infoOf(3, 'Newer'))
    expect([w.name, w.draft.state.version]).toEqual(['Newer', 3])
    w.draft.arrived(infoOf(2, 'Older'))
    expect(w.name).toBe('Newer')
    w.edit('Mine')
    w.draft.arrived(infoOf(4, 'Newest'))
    expect(w.name).toBe('Mine')
  })

  test('a newer version that says the same leaves undo as it is', async () => {
    const w = world()
    w.edit('B')
    await w.pass(500)
    w.draft.arrived(infoOf(7, 'B'))
    expect([w.draft.state.version, w.draft.state.canUndo]).toEqual([7, true])
  })

  test('a deleted piece comes back with what is here, or goes with it', async () => {
    const w = world()
    w.server.deleted = true
    w.edit('Mine')
    await w.pass(500)
    expect(w.standing).toBe('gone')
    await w.draft.restore()
    expect([w.standing, w.saves]).toEqual(['saved', ['Mine']])
    w.server.deleted = true
    w.edit('More')
    await w.pass(500)
    w.draft.discard()
    await w.pass(10_000)
    expect([w.standing, w.copies.size, w.name, w.saves]).toEqual(['saved', 0, 'Mine', ['Mine']])
  })
})

describe('what a window left', () => {
  const left = (key: string, version: number, name: string, at: number): Copy<Piece> => ({ key, version, doc: doc(name), at })

  test('goes on by itself from the same version', async () => {
    const w = world()
    w.copies.set('old', left('old', 1, 'Left', 5))
    w.begin().open(infoOf(1, 'A'), [...w.copies.values()])
    expect([w.name, w.standing, [...w.copies.keys()]]).toEqual(['Left', 'unsaved', ['mine']])
    await w.pass(0)
    expect([w.saves, w.copies.size]).toEqual([['Left'], 0])
    // What was found is a step of its own.
    w.draft.edit(doc('More'))
    const names = [w.draft.undo, w.draft.undo, w.draft.redo].map(step => (step(), w.name))
    expect(names).toEqual(['Left', 'A', 'Left'])
  })

  test('is offered from an older one, and each of several by itself', async () => {
    const w = world(3, 'C')
    for (const copy of [left('two', 1, 'Two', 9), left('one', 2, 'One', 5)]) w.copies.set(copy.key, copy)
    w.begin().open(infoOf(3, 'C'), [...w.copies.values()])
    expect([w.name, w.draft.state.leftovers.map(l => l.doc.name)]).toEqual(['C', ['Two', 'One']])
    w.draft.takeLeftover(false)
    expect([w.name, [...w.copies.keys()]]).toEqual(['C', ['one']])
    w.draft.takeLeftover(true)
    expect([w.name, w.draft.state.canUndo, w.draft.state.leftovers.length]).toEqual(['One', true, 0])
    await w.pass(500)
    expect([w.saves, w.copies.size]).toEqual([['One'], 0])
    w.draft.undo()
    expect(w.name).toBe('C')
  })

  test('is forgotten where the server has it', () => {
    const w = world()
    w.copies.set('old', left('old', 7, 'A', 5))
    w.begin().open(infoOf(9, 'A'), [...w.copies.values()])
    expect([w.copies.size, w.draft.state.leftovers.length, w.standing]).toEqual([0, 0, 'saved'])
  })
})
