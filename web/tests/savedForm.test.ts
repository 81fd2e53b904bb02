import { describe, expect, test } from 'vitest'
import type { Copy } from '../studio/parts/forms/copies'
import { SavedForm } from '../studio/parts/forms/savedForm'

// A form of something the server has: nothing that is typed is lost, and no
// other window's work undone.

interface Values {
  name: string
  hosts: string
  goals: { name: string }[]
  called: Record<string, string>
}

const begun: Values = { name: 'Shop', hosts: 'a.example.com', goals: [{ name: 'Order' }], called: { plan: '' } }

function world() {
  const w = {
    server: { values: structuredClone(begun), version: 1 },
    copies: new Map<string, Copy<Values>>(),
    fate: [] as unknown[],
    hold: null as null | Promise<void>,
    begin(key = 'mine') {
      w.form = new SavedForm<Values>(structuredClone(w.server), {
        async send(version, values) {
          await w.hold
          const fate = w.fate.shift()
          if (fate && fate !== 'lost') throw fate
          if (version !== w.server.version) throw { status: 409, message: 'stale' }
          w.save({ ...values, name: values.name.trim() })
          if (fate === 'lost') throw { status: 0, message: 'The server is not answering.' }
          return structuredClone(w.server)
        },
        fetch: async () => structuredClone(w.server),
        copies: { keep: c => !!w.copies.set(key, structuredClone({ ...c, key })), forget: () => w.copies.delete(key), remove: k => w.copies.delete(k) },
        now: () => 0,
      })
      return w
    },
    /** As another window does. */
    save(change: Partial<Values>) {
      w.server = { values: { ...w.server.values, ...change }, version: w.server.version + 1 }
    },
    form: null as unknown as SavedForm<Values>,
    get values() {
      return w.form.form.getValues()
    },
    get standing() {
      return w.form.standing
    },
  }
  return w.begin()
}

describe('typing and saving', () => {
  test('what is typed is kept, and gone once it is saved', async () => {
    const w = world()
    w.form.form.setValue('name', ' Shed ')
    expect([w.standing.changed, w.copies.get('mine')?.doc.name]).toEqual([true, ' Shed '])
    expect(await w.form.submit()).toBe(true)
    expect([w.values.name, w.standing, w.copies.size]).toEqual(['Shed', { changed: false, stale: false, busy: false, saved: true, wrong: '' }, 0])
    w.form.form.setValue('name', 'Barn')
    expect(w.standing.saved).toBe(false)
  })

  test('what is typed while a save is under way stays, and is saved next', async () => {
    const w = world()
    let go = () => {}
    w.hold = new Promise<void>(done => (go = done))
    w.form.form.setValue('name', 'Shed')
    const saving = w.form.submit()
    w.form.form.setValue('hosts', 'b.example.com')
    go()
    await saving
    expect([w.values, w.server.values.name, w.standing.changed, w.standing.saved]).toEqual([{ ...begun, name: 'Shed', hosts: 'b.example.com' }, 'Shed', true, false])
    await w.form.submit()
    expect([w.server.values.hosts, w.standing.changed]).toEqual(['b.example.com', false])
  })

  test('what is typed into the very field that is being saved stays too', async () => {
    const w = world()
    let go = () => {}
    w.hold = new Promise<void>(done => (go = done))
    w.form.form.setValue('name', 'Shed')
    const saving = w.form.submit()
    w.form.form.setValue('name', 'Sheds')
    go()
    await saving
    expect([w.values.name, w.server.values.name, w.standing.changed]).toEqual(['Sheds', 'Shed', true])
  })

  test('typing back is no change, and letting go brings back what the server has', () => {
    const w = world()
    w.form.form.setValue('name', 'Shed')
    w.form.form.setValue('name', 'Shop')
    expect([w.standing.changed, w.copies.size]).toEqual([false, 0])
    w.form.form.setValue('goals', [])
    w.form.discard()
    expect([w.values, w.standing.changed]).toEqual([begun, false])
  })

  test('a fault stands at its field: of a list, of a line of a text, of the whole', async () => {
    const w = world()
    w.form.form.setValue('hosts', 'a.example.com\n\n nonsense')
    const faults = [
      { at: 'goals[0].name', message: 'needs a name' },
      { at: 'hosts[1]', message: 'is not a host' },
      { at: 'elsewhere', message: 'Something else.' },
    ]
    w.fate = [{ status: 422, message: 'Wrong.', faults }]
    expect(await w.form.submit()).toBe(false)
    const at = (name: 'hosts' | 'goals.0.name') => w.form.form.getFieldState(name).error?.message
    expect([at('goals.0.name'), at('hosts'), w.standing.wrong]).toEqual(['needs a name', '“nonsense” is not a host', 'Something else.'])
    expect(w.standing.changed).toBe(true)
  })

  test('a network that fails loses nothing; an answer that is lost is no conflict', async () => {
    const w = world()
    w.form.form.setValue('name', 'Shed')
    w.fate = [{ status: 0, message: 'The server is not answering.' }, 'lost']
    expect(await w.form.submit()).toBe(false)
    expect([w.values.name, w.standing.wrong, w.standing.changed]).toEqual(['Shed', 'The server is not answering.', true])
    await w.form.submit()
    expect(w.server.values.name).toBe('Shed')
    await w.form.submit()
    expect([w.standing.changed, w.standing.stale]).toEqual([false, false])
  })
})

describe('two windows', () => {
  test('that change different fields undo nothing of each other', async () => {
    const w = world()
    w.form.form.setValue('name', 'Shed')
    w.save({ hosts: 'b.example.com' })
    expect(await w.form.submit()).toBe(true)
    expect(w.server.values).toEqual({ ...begun, name: 'Shed', hosts: 'b.example.com' })
    expect([w.values, w.standing.stale]).toEqual([w.server.values, false])
  })

  test('that change different parts of one field undo nothing of each other either', async () => {
    const w = world()
    w.form.form.setValue('called.plan', 'The plan')
    w.save({ called: { basket: 'The basket', plan: '' } })
    expect(await w.form.submit()).toBe(true)
    expect(w.server.values.called).toEqual({ plan: 'The plan', basket: 'The basket' })
    expect([w.values, w.standing.changed]).toEqual([w.server.values, false])
    w.form.form.setValue('called.plan', 'Mine')
    w.save({ called: { basket: '', plan: 'Theirs' } })
    expect(await w.form.submit()).toBe(false)
    expect(w.standing.stale).toBe(true)
    w.form.keepMine()
    expect(w.values.called).toEqual({ basket: '', plan: 'Mine' })
  })

  test('that change the same ask: theirs', async () => {
    const w = world()
    w.form.form.setValue('name', 'Mine')
    w.save({ name: 'Theirs' })
    expect(await w.form.submit()).toBe(false)
    expect([w.standing.stale, w.values.name, w.server.values.name]).toEqual([true, 'Mine', 'Theirs'])
    w.form.discard()
    expect([w.standing.stale, w.standing.changed, w.values.name]).toEqual([false, false, 'Theirs'])
  })

  test('or mine', async () => {
    const w = world()
    w.form.form.setValue('name', 'Mine')
    w.save({ name: 'Theirs', hosts: 'b.example.com' })
    await w.form.submit()
    w.form.keepMine()
    expect([w.standing.stale, w.standing.changed]).toEqual([false, true])
    expect(await w.form.submit()).toBe(true)
    expect(w.server.values).toEqual({ ...begun, name: 'Mine', hosts: 'b.example.com' })
  })

  test('what arrives is taken in around what was typed', () => {
    const w = world()
    w.form.form.setValue('name', 'Mine')
    w.save({ goals: [] })
    w.form.arrived(structuredClone(w.server))
    expect([w.values.name, w.values.goals, w.standing.stale]).toEqual(['Mine', [], false])
    w.save({ name: 'Theirs' })
    w.form.arrived(structuredClone(w.server))
    expect(w.standing.stale).toBe(true)
    // Typed as they have it: there is nothing to choose any more.
    w.form.form.setValue('name', 'Theirs')
    w.form.discard()
    expect([w.values.name, w.standing.stale]).toEqual(['Theirs', false])
  })
})

describe('a reload', () => {
  test('finds what was typed, and what others saved since around it', () => {
    const w = world()
    w.form.form.setValue('name', 'Mine')
    const left = w.copies.get('mine')!
    w.save({ hosts: 'b.example.com' })
    w.begin('next')
    w.form.adopt(left)
    expect([w.values, w.standing.changed, w.standing.stale, [...w.copies.keys()]]).toEqual([
      { ...begun, name: 'Mine', hosts: 'b.example.com' },
      true,
      false,
      ['next'],
    ])
  })

  test('asks where both changed the same, and forgets what was saved after all', () => {
    const w = world()
    w.form.form.setValue('name', 'Mine')
    const left = w.copies.get('mine')!
    w.save({ name: 'Theirs' })
    w.begin('next').form.adopt(left)
    expect([w.values.name, w.standing.stale]).toEqual(['Mine', true])
    w.form.discard()
    expect([w.values.name, w.copies.size]).toEqual(['Theirs', 0])
    w.save({ name: 'Mine' })
    w.begin('third').form.adopt(left)
    expect([w.values.name, w.standing.changed, w.standing.stale]).toEqual(['Mine', false, false])
  })
})
