import { expect, test } from 'vitest'
import type { Drawing } from '../kinds/piece'
import type { Kit } from '../kinds/style'
import { fill } from '../page/fill'
import { formatOn, modal, on, paint, placeOf } from '../page/paint'
import { safe } from '../page/safe'
import { usualKit } from '../kinds/usualKit'
import { random } from './random'

// What the page's scripts make of words, addresses and colours, without a page.

test('merge fields are filled, with what stands there otherwise', () => {
  const answers = { name: 'Niamh  Corr', email: 'n@example.com', colour: ' ' }
  for (const [text, want] of [
    ['Thank you, {first name|friend}', 'Thank you, Niamh'],
    ['Thank you, {first name}.', 'Thank you, Niamh.'],
    ['{name} <{email}>', 'Niamh  Corr <n@example.com>'],
    ['Hello, {nickname}!', 'Hello!'],
    ['Hello {nickname|you}!', 'Hello you!'],
    ['Your {colour|favourite} glaze', 'Your favourite glaze'],
    ['{ First Name }', 'Niamh'],
    ['{constructor|nothing}', 'nothing'],
    ['{__proto__|nothing}', 'nothing'],
    ['{toString|nothing}', 'nothing'],
    ['{}', '{}'],
    ['{a{b|x}c}', '{axc}'],
    ['{' + 'x'.repeat(41) + '}', '{' + 'x'.repeat(41) + '}'],
  ])
    expect(fill(text, answers), text).toBe(want)
  // What a visitor answers is never filled in again.
  expect(fill('{name}', { name: '{email}', email: 'secret@example.com' })).toBe('{email}')
})

test('filling ends quickly and never fails, whatever is written', () => {
  const int = random(11)
  const bits = ['{', '}', '|', ',', ' ', 'name', 'first name', '\n', '$&', '$1', '\\', 'é', '{{', '}}']
  for (let i = 0; i < 3000; i++) {
    const text = Array.from({ length: int(40) }, () => bits[int(bits.length)]).join('')
    const filled = fill(text, { name: '$& {email} $1' })
    expect(typeof filled).toBe('string')
    // Without fields nothing changes.
    if (!text.includes('{')) expect(filled).toBe(text)
  }
  // As long as a text may be; what goes through it again and again would not come back.
  for (const tedious of [', '.repeat(5000) + '{x', '{a|'.repeat(3000), ' '.repeat(10_000), '{'.repeat(10_000)])
    expect(fill(tedious, {}).length).toBeGreaterThan(0)
})

test('an address that could run is none', () => {
  for (const good of ['https://example.com', 'HTTP://example.com/a?b#c', 'mailto:a@example.com', 'tel:+353 1', '/shop', '/'])
    expect(safe(good), good).toBe(true)
  for (const bad of [
    '',
    undefined,
    'javascript:alert(1)',
    'JaVaScRiPt:alert(1)',
    ' javascript:alert(1)',
    '\tjavascript:alert(1)',
    'java\nscript:alert(1)',
    '\u0000javascript:alert(1)',
    'data:text/html,x',
    'vbscript:x',
    'file:///etc/passwd',
    '//evil.test',
    'blob:https://example.com/x',
    'https:',
    'https:example.com',
    'x https://example.com',
    '#top',
    'shop',
  ])
    expect(safe(bad), String(bad)).toBe(false)
})

test('colours are the kit’s, their own, the page’s, or what stands for them', () => {
  const kit: Kit = { ...usualKit, colors: [...usualKit.colors, { id: 'glaze', name: 'Glaze', value: '#123456' }] }
  expect(paint(kit, '@glaze')).toBe('#123456')
  expect(paint(kit, '#abcdef')).toBe('#abcdef')
  expect(paint(kit, '@gone', '#000001')).toBe('#000001')
  expect(paint(kit, '@page', '#000002')).toBe('#000002')
  expect(paint(kit, undefined, '#000003')).toBe('#000003')
  expect(paint(kit, '')).toBe('')
})

test('phones get their own format and looks; a place that a format has not is its usual one', () => {
  const d = { format: 'popup', phone_format: 'bar' } as Drawing
  expect([formatOn(true, d), formatOn(false, d), formatOn(true, { format: 'sheet' })]).toEqual(['bar', 'popup', 'sheet'])
  expect(['popup', 'full', 'sheet', 'fly_in', 'bar', 'inline'].map(f => modal(f as Drawing['format']))).toEqual([true, true, true, false, false, false])
  const thing = { size: 30, align: 'start', phone: { size: 20 } }
  expect(on(true, thing)).toMatchObject({ size: 20, align: 'start' })
  expect(on(false, thing)).toBe(thing)
  expect(on(true, { size: 1 } as { size: number; phone?: object })).toEqual({ size: 1 })
  expect([
    placeOf('popup', 'bottom'),
    placeOf('popup', 'top_start'),
    placeOf('fly_in', 'top_start'),
    placeOf('bar'),
    placeOf('full', 'top'),
    placeOf('sheet', 'start'),
  ]).toEqual(['bottom', 'center', 'top_start', 'top', 'center', 'start'])
})
