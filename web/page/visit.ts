import type { Memory as SentMemory } from '../kinds/choose'
import type { DecideAnswer, DecideRequest } from '../kinds/visitor'
import type { Context, Told } from './context'
import { id, keep, openMemory, seconds } from './memory'

// Fetched by the loader once the page is there. It says that a page is being
// looked at, asks what may show, and fetches the watcher when there is something
// to watch. Whatever goes wrong, the page goes on as if it were not there.

const passed = 'gobbet:pass'
const patience = 4000 // ms for which a link to a piece's own page waits for the piece to open here

/** Begins for a site, whose line was read at came, in ms of the page's own clock; own is the address of a piece's own page. */
export function start(base: string, site: string, came: number, own?: string) {
  // A page that has the line twice is looked at once.
  if (!Array.isArray(window.gobbet)) return
  const api = base + '/v1/sites/' + encodeURIComponent(site)
  const memory = openMemory(site)
  const pass = readPass()
  const unwatched = !!pass || (navigator as { globalPrivacyControl?: boolean }).globalPrivacyControl === true
  const context: Context = {
    base,
    api,
    site,
    memory,
    id,
    keep,
    seconds,
    own: !!own,
    unwatched,
    silent: !!pass,
    token: pass ?? undefined,
    events: [],
    look() {},
  } as unknown as Context
  const data: NonNullable<Told['data']> = {}
  let kind: string | undefined
  let view = 0
  let at = ''
  const called: string[] = []
  let cookies: string[] = []
  let watched: ReturnType<Awaited<ReturnType<typeof fetchWatcher>>['begin']> | undefined

  const request = (asked = own): DecideRequest => ({
    url: location.href,
    title: document.title,
    width: innerWidth,
    language: navigator.language,
    clock: seconds(),
    offset: -new Date().getTimezoneOffset(),
    kind,
    data,
    own: asked,
    cookies: cookiesNamed(cookies),
    memory: context.arrival as SentMemory,
  })
  const ask = async (piece = own): Promise<DecideAnswer> => {
    const asked = request(piece)
    const r = await fetch(api + '/decide', { method: 'POST', body: JSON.stringify(asked) })
    if (!r.ok) throw new Error((await r.json()).title)
    const answer: DecideAnswer = await r.json()
    if (piece === own) context.request = asked
    // Cookies go along only once a rule is known to name them.
    const more = (answer.cookies ?? []).filter(name => !cookies.includes(name))
    cookies = answer.cookies ?? []
    return Object.keys(cookiesNamed(more)).length ? ask(piece) : answer
  }
  const decide = async () => {
    const mine = ++view
    const answer = await ask()
    if (mine !== view) return
    context.answer = answer
    context.look()
    if (!answer.placements.length && (!answer.watch || unwatched)) {
      // Events of an earlier page may still wait to be sent.
      if (!watched && !unwatched && memory.unsent()) (await fetchWatcher(base + answer.watcher)).sendLeft(context)
      return watched?.update(answer)
    }
    const { begin } = await fetchWatcher(base + answer.watcher)
    if (mine !== view) return
    if (watched) watched.update(answer)
    else watched = begin(context, answer)
    for (const piece of called.splice(0)) watched.call(piece)
  }
  const go = () => decide().catch(e => console.info('Gobbet: ' + e.message))
  const leave = () => {
    view++
    at = ''
    watched?.end()
    watched = undefined
    context.events.splice(0)
  }
  const open = () => {
    const now = here()
    if (now === at) return
    if (at) leave()
    at = now
    context.began = came || performance.now()
    came = 0
    context.arrival = memory.arrive()
    go()
  }

  let timer = 0
  const tell = (told: Told) => {
    try {
      if (told.event) {
        context.events.push({ name: String(told.event), value: told.value })
        watched?.happened()
      }
      if (told.show) {
        const piece = String(told.show)
        if (watched) watched.call(piece)
        else if (called.length < 20) called.push(piece)
      }
      if (told.kind) kind = String(told.kind).slice(0, 200)
      if (Array.isArray(told.tags)) memory.change(m => void (m.tags = context.arrival.tags = told.tags!.map(t => String(t).slice(0, 100)).slice(0, 20)))
      for (const [name, is] of Object.entries(told.data ?? {}).slice(0, 60)) {
        if (typeof is === 'string') data[name.slice(0, 100)] = is.slice(0, 500)
        else if (typeof is === 'boolean' || Number.isFinite(is)) data[name.slice(0, 100)] = is
        else delete data[name]
        // The latest sixty are kept, as the server takes no more.
        for (const old of Object.keys(data).slice(0, -60)) delete data[old]
      }
      // What is told after the page was judged has it judged anew.
      if ((told.data || told.kind || told.tags) && at) {
        clearTimeout(timer)
        timer = setTimeout(go, 50) as unknown as number
      }
    } catch {}
  }
  /** Opens here what has a page of its own. */
  const bring = async (piece: string) => {
    const answer = await ask(piece)
    const { begin } = await fetchWatcher(base + answer.watcher)
    watched ||= begin(context, context.answer!)
    if (!(await watched.bring(answer.placements[0]))) throw 0
  }
  addEventListener('click', e => {
    const pages = context.answer?.pages
    const link = e.target instanceof Element && e.target.closest<HTMLAnchorElement>('a[href],[data-gobbet-open]')
    if (!pages || !link || e.defaultPrevented || e.button || e.metaKey || e.ctrlKey || e.shiftKey || e.altKey || link.target) return
    const { href } = link
    const piece = link.dataset.gobbetOpen ?? (href.startsWith(pages) && href.slice(pages.length).split(/[?#]/)[0])
    if (!piece) return
    e.preventDefault()
    // The link leads there itself, and is followed where the piece cannot open here.
    const late = new Promise((_, no) => setTimeout(no, patience))
    Promise.race([bring(piece), late]).catch(() => href && location.assign(href))
  })
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
    if (at && here() !== at) leave()
    setTimeout(open, 60)
  }
  for (const move of ['pushState', 'replaceState'] as const) {
    const before = history[move]
    history[move] = function (this: History, ...args: Parameters<History['pushState']>) {
      before.apply(this, args)
      moved()
    }
  }
  addEventListener('popstate', moved)
  addEventListener('pageshow', e => {
    if (!e.persisted) return
    leave()
    open()
  })
  open()
  if (pass) import(/* @vite-ignore */ base + '/v1/inspector.js').then(m => m.open(context, pass, request)).catch(() => {})
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

const fetchWatcher = (address: string): Promise<typeof import('./watcher')> => import(/* @vite-ignore */ address)
