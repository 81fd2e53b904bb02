import { expect, test } from 'vitest'
import { signInFor, whereTo } from '../studio/frame/whereTo'

const origin = 'http://studio.example.com'
const after = (search: string, hash = '') => whereTo({ search, origin, hash })

test('who signs in comes to where they wanted to go', () => {
  for (const place of ['/', '/sites/1/board', '/sites/1/pieces/a1/compose?block=frame&x=%26', '/sites/1/settings#limits'])
    expect(after(signInFor(place).slice('/sign-in'.length))).toBe(place)
  expect(after('?to=%2Fsites%2F1%2Fsettings', '#limits')).toBe('/sites/1/settings#limits')
})

test('and to nowhere else', () => {
  for (const elsewhere of [
    'http://elsewhere.test/',
    '//elsewhere.test/',
    '/\\elsewhere.test',
    '/\t/elsewhere.test',
    'javascript:alert(1)',
    'data:text/html,x',
    '',
    'board',
    '/sign-in?to=/sign-in',
    '//[',
  ])
    expect(after(`?to=${encodeURIComponent(elsewhere)}`), elsewhere).toBe('/')
  expect(after('')).toBe('/')
})
