import { execFileSync } from 'node:child_process'
import { readdirSync } from 'node:fs'
import { join } from 'node:path'
import { type APIRequestContext, expect, type Locator, type Page, request } from '@playwright/test'
import type { Format, Piece } from '../kinds/piece'
import type { Part, Settings } from '../kinds/settings'
import type {
  Board,
  CodesAnswer,
  InspectLink,
  LeadPage,
  Me,
  PictureInfo,
  PieceInfo,
  RecordedVisitor,
  Rehearsal,
  SiteInfo,
  SplitResult,
  StateChange,
  TemplateList,
} from '../kinds/studio'
import type { Kit } from '../kinds/style'
import { ports } from '../playwright.config'
import { home } from './start'

export const studio = `http://127.0.0.1:${ports.studio}`
export const shop = `http://127.0.0.1:${ports.shop}`
export const pages = `http://127.0.0.1:${ports.pages}`
export const email = 'mara@quillfern.test'
export const password = 'ash and celadon'

let cookies: Awaited<ReturnType<APIRequestContext['storageState']>>['cookies'] | undefined

/** Signs a page in as the API does; the way of a newcomer goes through the screen. */
export async function signIn(page: Page) {
  cookies ??= (await (await Api.open()).context.storageState()).cookies
  await page.context().addCookies(cookies)
}

/** The studio's API, signed in. */
// Which part of the settings each belongs to.
const partOf: Record<keyof Settings, Part> = {
  limits: 'limits',
  exit: 'limits',
  goals: 'goals',
  currency: 'goals',
  record: 'recording',
  keep_months: 'recording',
  data_layer: 'recording',
  channels: 'sources',
  team: 'team',
  data: 'data',
  language: 'language',
  words: 'language',
}

export class Api {
  private constructor(
    readonly context: APIRequestContext,
    readonly site: number,
  ) {}

  static async open() {
    const context = await request.newContext({ baseURL: studio })
    const signed = await context.post('/api/session', { data: { email, password } })
    const me: Me = await signed.json()
    return new Api(context, me.sites[0].id)
  }

  private async say<T>(method: string, path: string, data?: unknown): Promise<T> {
    const r = await this.context.fetch(`/api/sites/${this.site}${path}`, { method, data })
    expect(r.ok(), `${method} ${path}: ${await r.text()}`).toBeTruthy()
    return r.status() === 204 ? (undefined as T) : r.json()
  }

  board = () => this.say<Board>('GET', '/board')
  people = (q: string) => this.say<LeadPage>('GET', `/people?q=${encodeURIComponent(q)}`)
  piece = (id: string) => this.say<PieceInfo>('GET', `/pieces/${id}`)
  make = (name: string, format: Format = 'popup', template = '') => this.say<PieceInfo>('POST', '/pieces', { name, format, template })
  save = (id: string, version: number, draft: Piece) => this.say<{ version: number }>('PUT', `/pieces/${id}`, { version, draft })
  launch = (id: string, version: number) => this.say<PieceInfo>('POST', `/pieces/${id}/launch`, { version })
  settings = async (change: Partial<Settings>) => {
    const now = await this.siteNow()
    const settings = { ...now.settings, ...change }
    const changed = new Set(Object.keys(change).map(key => partOf[key as keyof Settings]))
    for (const part of changed) await this.say<SiteInfo>('PUT', `/settings/${part}`, { version: now.settings_versions[part], settings })
  }
  siteNow = async () => ((await (await this.context.get('/api/me')).json()) as Me).sites[0]
  pictures = () => this.say<PictureInfo[]>('GET', '/pictures')
  templates = () => this.say<TemplateList>('GET', '/templates')
  pool = (id: string, codes: string[]) => this.say<CodesAnswer>('PUT', `/pools/${id}`, { name: id, codes })
  remove = (id: string) => this.say<void>('DELETE', `/pieces/${id}`)
  kit = async (): Promise<Kit> => (await this.siteNow()).kit
  setKit = async (kit: Kit) => this.say<SiteInfo>('PUT', '/kit', { version: (await this.siteNow()).kit_version, kit })
  visitors = (rule: Piece['rule']) => this.say<RecordedVisitor[]>('POST', '/visitors', { rule })
  rehearse = (p: PieceInfo, days = 28) =>
    this.say<Rehearsal>('POST', '/rehearse', { piece: p.id, format: p.draft.format, rule: p.draft.rule, caps: p.draft.caps, schedule: p.draft.schedule, days })
  inspect = async (id: string, path: string) => (await this.say<InspectLink>('POST', `/pieces/${id}/inspect`, { path })).url
  split = (id: string) => this.say<SplitResult>('GET', `/pieces/${id}/split`)
  pause = (...pieces: string[]) => this.say<StateChange>('POST', '/pause', pieces.length ? { pieces } : { all: true })

  /** A live piece that shows at once on a page of its own, but for what change says; a page it gives back is taken instead. */
  async live(name: string, change: (p: Piece) => unknown = () => {}, format: Format = 'popup', data = {}, template = '') {
    const made = await this.make(name, format, template)
    let path = `/e2e/${made.id}`
    made.draft.rule = { all: [{ fact: 'page.path', op: 'is', value: path }] }
    const other = change(made.draft)
    if (typeof other === 'string') {
      made.draft.rule = JSON.parse(JSON.stringify(made.draft.rule).replaceAll(path, other))
      path = other
    }
    const saved = await this.save(made.id, 1, made.draft)
    await this.launch(made.id, saved.version)
    await this.decided(path, made.id, data)
    return { id: made.id, url: shop + path, end: () => this.pause(made.id) }
  }

  /** Waits until the server decides with a launch. */
  private async decided(path: string, piece: string, told: object) {
    await expect(async () => {
      const r = await this.context.post('/v1/sites/quillfern/decide', { headers: { Origin: shop }, data: { url: shop + path, memory: {}, data: told } })
      expect((await r.json()).placements.map((p: { piece: string }) => p.piece)).toContain(piece)
    }).toPass({ timeout: 5000 })
  }
}

/** Choices with these labels, kept as core/piece makes ids of labels. */
export const choices = (...labels: string[]) => labels.map(label => ({ id: label.toLowerCase().replace(/[^a-z0-9]+/g, '_'), label }))

/** A condition added to a piece's rule. */
export const and = (p: Piece, ...rules: Piece['rule'][]) => {
  p.rule = { all: [p.rule, ...rules] }
}

/** Lets time pass in which nothing may come: there is nothing to wait for. */
export const meanwhile = (page: Page, milliseconds: number) => page.waitForTimeout(milliseconds)

/** Waits until what moves in an element has come to rest. */
export const rested = (at: Locator) =>
  at.evaluate(async e => {
    const ends = e.getAnimations({ subtree: true }).filter(a => a.effect?.getComputedTiming().endTime !== Infinity)
    await Promise.allSettled(ends.map(a => a.finished))
  })

/** The database under the running demo, to be stopped and started on the port it has. */
export function database() {
  const versions = '/usr/lib/postgresql'
  const ctl = join(versions, readdirSync(versions).sort().at(-1)!, 'bin/pg_ctl')
  const data = join(home, 'pg')
  const run = (...command: string[]) => {
    const [program, ...args] = process.getuid?.() === 0 ? ['runuser', '-u', 'postgres', '--', ...command] : command
    return execFileSync(program, args, { cwd: '/', stdio: ['ignore', 'pipe', 'ignore'] }).toString()
  }
  const port = run('cat', join(data, 'postmaster.pid')).split('\n')[3].trim()
  return {
    stop: () => void run(ctl, '-D', data, '-m', 'fast', '-w', 'stop'),
    start: () => {
      const settings = `-p ${port} -c listen_addresses=127.0.0.1 -c unix_socket_directories=''`
      const [program, ...args] = [
        ...(process.getuid?.() === 0 ? ['runuser', '-u', 'postgres', '--'] : []),
        ctl,
        '-D',
        data,
        '-w',
        '-l',
        join(data, 'server.log'),
        '-o',
        settings,
        'start',
      ]
      // The server outlives pg_ctl: it gets no pipe of ours to hold open.
      execFileSync(program, args, { cwd: '/', stdio: 'ignore' })
    },
  }
}

/** A picture of one pixel. */
export const dot = Buffer.from('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==', 'base64')
