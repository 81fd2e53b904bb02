import type { Memory as SentMemory } from '../kinds/choose'
import type { DecideAnswer, DecideRequest } from '../kinds/visitor'
import type { Told } from '../package/index'
import type { Context } from './context'
import { type Life, openLife, phaseOf, request } from './life'
import { id, keep, openMemory, seconds } from './memory'
import type { Parts } from './parts'

// Fetched by the loader once the page is there. It begins a page view when the
// page is looked at, asks what may show, and fetches the watcher when there is
// something to watch. Whatever goes wrong, the page goes on as if it were not there.

const passed = 'gobbet:pass'
const mostKept = 20_000 // letters that browsers go on sending for a page that was left
const addressSettles = 60 // ms until a page that moved is taken to have arrived
const tellSettles = 50 // ms, to gather what the page tells

/** A page view: from when its address is first looked at to when it is left. */
interface View {
  address: string
  life: Life
  /** How often it was asked what may show: only the last answer counts. */
  asked: number
  watched?: ReturnType<Parts['watcher']['begin']>
}

/** Begins for a site, whose line was read at came, in ms of the page's own clock; own is the address of a piece's own page. */
export function start(base: string, site: string, came: number, own?: string) {
  // A page that has the line twice is looked at once.
  if (!Array.isArray(window.gobbet)) return
  const api = base + '/v1/sites/' + encodeURIComponent(site)
  const memory = openMemory(site)
  const pass = readPass()
  const unwatched = !!pass || (navigator as { globalPrivacyControl?: boolean }).globalPrivacyControl === true
  let sending: ReturnType<Context['sending']> | undefined
  const context: Context = {
    base,
    api,
    site,
    memory,
    id,
    keep,
    seconds,
    load: part => import(/* @vite-ignore */ base + context.answer![part as 'watcher']),
    post(path, body, until) {
      const text = JSON.stringify(body)
      return request(api + path, { method: 'POST', body: text, keepalive: !until && text.length < mostKept }, until)
    },
    sending() {
      sending ||= context.load('sending').then(m => m.openSending(context))
      // Tried again with what comes next.
      sending.catch(() => {
        sending = undefined
      })
      return sending
    },
    own: !!own,
    unwatched,
    silent: !!pass,
    token: pass ?? undefined,
    events: [],
    look() {},
  } as Partial<Context> as Context
  const data: NonNullable<Told['data']> = {}
  let kind: string | undefined
  let view: View | undefined
  const called: string[] = []
  let cookies: string[] = []
  let linked = false

  const requestOf = (asked = own): DecideRequest => ({
    url: location.href,
    title: document.title,
    width: innerWidth,
    language: navigator.language,
    page_language: document.documentElement.lang || undefined,
    clock: seconds(),
    offset: -new Date().getTimezoneOffset(),
    kind,
    data,
    own: asked,
    cookies: cookiesNamed(cookies),
    memory: context.arrival as SentMemory,
  })
  const ask = async (life: Life, piece = own): Promise<DecideAnswer> => {
    const asked = requestOf(piece)
    const r = await context.post('/decide', asked, life.signal)
    if (!r.ok) throw new Error((await r.json()).title)
    const answer: DecideAnswer = await r.json()
    if (piece === own) context.request = asked
    // Cookies go along only once a rule is known to name them.
    const more = (answer.cookies ?? []).filter(name => !cookies.includes(name))
    cookies = answer.cookies ?? []
    return Object.keys(cookiesNamed(more)).length ? ask(life, piece) : answer
  }
  const decide = async (of: View) => {
    const { life } = of
    const mine = ++of.asked
    await life.visible()
    const answer = await ask(life)
    await life.visible()
    if (mine !== of.asked) return
    context.answer = answer
    context.look()
    if (answer.pages && !linked) {
      linked = true
      context.load('links').then(
        m => m.openLinks(context, bring),
        () => {
          linked = false
        },
      )
    }
    const { placements, watch } = answer
    const nothing = !placements.length && (!watch || unwatched)
    // Answers of those who are not counted wait to be sent as well.
    if (nothing && (of.watched || pass || !memory.unsent())) return of.watched?.update(answer)
    // What an earlier page could not send.
    if (nothing) return void (await context.sending()).soon()
    const { begin } = await context.load('watcher')
    await life.visible()
    if (mine !== of.asked) return
    if (of.watched) of.watched.update(answer)
    else of.watched = begin(context, life, answer)
    for (const piece of called.splice(0)) of.watched.call(piece)
  }
  const judge = () => {
    const of = view
    if (of) decide(of).catch(e => of.life.over || console.info('Gobbet: ' + e.message))
  }
  const leave = () => {
    view?.life.end()
    view = undefined
    context.events.splice(0)
  }
  // A page view begins when it is looked at: not while it is prerendered, nor behind another tab.
  const open = () => {
    const address = here()
    if (address === view?.address) return
    if (view) leave()
    if (phaseOf(document) !== 'visible') {
      came = 0
      return
    }
    view = { address, life: openLife(), asked: 0 }
    context.began = came || performance.now()
    came = 0
    context.arrival = memory.arrive()
    judge()
  }

  let stopTelling = () => {}
  const tell = (told: Told) => {
    try {
      if (told.event) {
        context.events.push({ name: String(told.event), value: told.value })
        view?.watched?.happened()
      }
      if (told.show) {
        const piece = String(told.show)
        if (view?.watched) view.watched.call(piece)
        else if (called.length < 20) called.push(piece)
      }
      if (told.kind) kind = String(told.kind).slice(0, 200)
      if (Array.isArray(told.tags)) {
        const tags = told.tags.map(t => String(t).slice(0, 100)).slice(0, 20)
        memory.change(m => void (m.tags = tags))
        if (view) context.arrival.tags = tags
      }
      for (const [name, is] of Object.entries(told.data ?? {}).slice(0, 60)) {
        if (typeof is === 'string') data[name.slice(0, 100)] = is.slice(0, 500)
        else if (typeof is === 'boolean' || Number.isFinite(is)) data[name.slice(0, 100)] = is
        else delete data[name]
        // The latest sixty are kept, as the server takes no more.
        for (const old of Object.keys(data).slice(0, -60)) delete data[old]
      }
      // What is told after the page was judged has it judged anew.
      if ((told.data || told.kind || told.tags) && view) {
        stopTelling()
        stopTelling = view.life.after(tellSettles, judge)
      }
    } catch {}
  }
  /** Opens here what has a page of its own. */
  const bring = async (piece: string) => {
    const of = view!
    const answer = await ask(of.life, piece)
    const { begin } = await context.load('watcher')
    of.watched ||= begin(context, of.life, context.answer!)
    return of.watched.bring(answer.placements[0])
  }
  if (own && location.search === '?again') {
    context.anew = true
    history.replaceState(history.state, '', location.origin + location.pathname)
  }
  const early = window.gobbet
  window.gobbet = { push: tell, event: name => tell({ event: name }) }
  early.forEach(tell)

  // A page that swaps its own content is a new page view for each address. The
  // old one ends at once, so that what happens from now on counts for the new.
  const moved = () => {
    if (view && here() !== view.address) leave()
    setTimeout(open, addressSettles)
  }
  for (const move of ['pushState', 'replaceState'] as const) {
    const before = history[move]
    history[move] = function (this: History, ...args: Parameters<History['pushState']>) {
      before.apply(this, args)
      moved()
    }
  }
  addEventListener('popstate', moved)
  addEventListener('pagehide', leave)
  for (const back of ['visibilitychange', 'prerenderingchange']) document.addEventListener(back, open)
  // From the back-forward cache.
  addEventListener('pageshow', e => e.persisted && open())
  open()
  if (pass) import(/* @vite-ignore */ base + '/v1/inspector.js').then(m => m.open(context, pass, requestOf)).catch(() => {})
}

const here = () => location.pathname + location.search + (/^#[!/]/.test(location.hash) ? location.hash : '')

function cookiesNamed(names: string[]) {
  const found: Record<string, string> = {}
  for (const one of names.length ? document.cookie.split(/; */) : []) {
    const [name, value = ''] = one.split(/=(.*)/s)
    if (names.includes(name)) found[name] = value.slice(0, 500)
  }
  return found
}

/** A signed link opens the inspector, which stays for this tab's pages of the site. */
function readPass(): string | null {
  try {
    const given = /^#gobbet=([\w.-]{20,})$/.exec(location.hash)?.[1]
    if (given) {
      sessionStorage.setItem(passed, given)
      history.replaceState(history.state, '', location.href.split('#')[0])
    }
    return given ?? sessionStorage.getItem(passed)
  } catch {
    return null
  }
}

// For what tries the watch alone.
export { openLife }
