import { spawn } from 'node:child_process'
import { mkdirSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { portsOf, worker, workers } from '../playwright.config'

/** Where a worker's own demo keeps its database and log. */
const homeOf = (worker: number) => join(tmpdir(), `gobbet-e2e-${process.getuid?.()}-${worker}`)
export const home = homeOf(worker)

/** Starts the demos afresh, waits until they say where they are, and ends them after the tests. */
export default async function start() {
  const ends = await Promise.all(Array.from({ length: workers }, (_, i) => demo(i)))
  return async () => {
    await Promise.all(ends.map(end => end()))
  }
}

async function demo(worker: number) {
  const ports = portsOf(worker)
  mkdirSync(homeOf(worker), { recursive: true, mode: 0o755 })
  const demo = spawn('../bin/gobbet', [
    'demo',
    '--fresh',
    '--home',
    homeOf(worker),
    '--port',
    String(ports.studio),
    '--shop-port',
    String(ports.shop),
    '--pages-port',
    String(ports.pages),
  ])
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
