import { spawn } from 'node:child_process'
import { mkdirSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { ports } from '../playwright.config'

/** Where the tests' own demo keeps its database and log. */
export const home = join(tmpdir(), `gobbet-e2e-${process.getuid?.()}`)

/** Starts the demo afresh, waits until it says where it is, and ends it after the tests. */
export default async function start() {
  mkdirSync(home, { recursive: true, mode: 0o755 })
  const demo = spawn('../bin/gobbet', ['demo', '--fresh', '--home', home, '--port', String(ports.studio), '--shop-port', String(ports.shop)])
  let said = ''
  const ended = new Promise<void>(resolve => demo.once('exit', () => resolve()))
  await new Promise<void>((ready, failed) => {
    demo.stdout.on('data', text => {
      said += text
      if (said.includes('Sign in')) ready()
    })
    demo.stderr.on('data', text => {
      said += text
    })
    demo.once('exit', () => failed(new Error(`The demo did not start:\n${said}`)))
  })
  return async () => {
    demo.kill('SIGINT')
    await ended
  }
}
