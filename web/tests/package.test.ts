import { expect, test } from 'vitest'
import { on, start, tell } from '../package/index'

// The package for pages that are bundled, where there is no page yet.

test('on a server nothing is done, and nothing throws but an origin that is none', () => {
  start({ origin: 'https://gobbet.example.com', site: 'quillfern' })
  tell({ event: 'basket' })
  on('shown', () => {})()
  expect(() => start({ origin: 'gobbet', site: 'quillfern' })).toThrow()
})
