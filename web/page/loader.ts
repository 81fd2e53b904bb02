import type { Placement } from '../kinds/choose'
import type { AnswersRequest, DecideAnswer, EventIn } from '../kinds/visitor'
import type { Sent } from './host'
import { id, openMemory } from './memory'
import { openOutbox } from './outbox'
import { holds, watch } from './watch'

// The one line on the site loads this. It asks what may show, watches for the
// moments that are left, and fetches the renderer and a design only when
// needed. Whatever goes wrong, the page goes on as if it were not there.

declare global {
  interface Window {
    gobbet?: { event: (name: string) => void }
  }
}

function start(script: HTMLScriptElement, site: string) {
  const base = new URL(script.src).origin
  const api = base + '/v1/sites/' + encodeURIComponent(site)
  const memory = openMemory(site)
  const arrival = memory.arrive()
  const unwatched = (navigator as { globalPrivacyControl?: boolean }).globalPrivacyControl === true
  const track = openOutbox(api + '/events', site, () => ({ visitor: arrival.visitor, visit: arrival.visit.id }))
  const say = (what: string, p: Placement) => dispatchEvent(new CustomEvent('gobbet:' + what, { detail: { piece: p.piece, variant: p.variant } }))
  const did = (what: EventIn['kind'], p: Placement, counted?: boolean) => {
    memory.note(what, p.piece, p.variant)
    if (!counted && !unwatched) track(what, p.piece, p.variant)
    say(what, p)
  }
  const taken = new Set<string>()
  const queued: string[] = []
  let happened = (name: string): void => {
    queued.push(name)
  }
  window.gobbet = { event: name => happened(String(name)) }

  async function decide() {
    const r = await fetch(api + '/decide', {
      method: 'POST',
      body: JSON.stringify({ url: location.href, title: document.title, width: innerWidth, language: navigator.language, memory: arrival }),
    })
    if (!r.ok) return console.info('Gobbet: ' + (await r.json()).title)
    const answer: DecideAnswer = await r.json()
    const left = answer.placements
    if (!left.length) return
    const renderer = base + answer.renderer
    let fetched: ReturnType<typeof fetchRenderer> | undefined
    const load = () => (fetched ||= fetchRenderer(renderer))
    const check = (come = {}) => {
      for (const p of left.filter(p => !p.waiting || holds(p.waiting, come))) {
        left.splice(left.indexOf(p), 1)
        show(p, load).catch(() => {})
      }
    }
    check()
    const rules = left.flatMap(p => p.waiting ?? [])
    if (!rules.length) return
    happened = watch(rules, arrival.start, check).happened
    queued.forEach(happened)
    // Most moments are a while off; the renderer may come while nothing else does.
    ;(window.requestIdleCallback ?? setTimeout)(() => load().catch(() => {}))
  }

  async function show(p: Placement, load: () => ReturnType<typeof fetchRenderer>) {
    const before = (k = memory.read().pieces![p.piece]) => k?.times_shown || 0
    // Another tab may have shown it meanwhile; and each slot holds one a page view.
    if (taken.has(p.slot) || before() !== (arrival.pieces![p.piece]?.times_shown || 0)) return
    taken.add(p.slot)
    const [{ show: draw }, drawing] = await Promise.all([load(), fetch(api + '/designs/' + p.design).then(r => (r.ok ? r.json() : Promise.reject(r.status)))])
    draw({
      drawing,
      base,
      converted: () => did('converted', p),
      send: (scene, answers, counts) => send(p, scene, answers, counts),
      ended: how => (how === 'closed' ? did('closed', p) : say('done', p)),
    })
    did('shown', p)
  }

  // The same answers keep their id when they are sent again, so that they count once.
  const ids = new Map<string, string>()

  async function send(p: Placement, scene: string, answers: Record<string, string>, counts: boolean): Promise<Sent> {
    const same = p.piece + scene + JSON.stringify(answers)
    if (!ids.has(same)) ids.set(same, id())
    const { visit, visitor } = arrival
    const request: AnswersRequest = {
      id: ids.get(same)!,
      piece: p.piece,
      variant: p.variant,
      design: p.design,
      scene,
      visitor,
      visit: visit.id,
      page: location.pathname,
      landing: visit.landing,
      referrer: visit.referrer,
      answers,
      unwatched,
    }
    try {
      const r = await fetch(api + '/answers', { method: 'POST', body: JSON.stringify(request) })
      if (r.ok) {
        memory.change(m => {
          m.lead = true
        })
        // The server counts this conversion itself, with the answers.
        if (counts) did('converted', p, true)
        return { ok: true }
      }
      const problem = await r.json()
      return { ok: false, faults: problem.faults, title: r.status < 500 ? problem.title : undefined }
    } catch {
      return { ok: false }
    }
  }

  decide().catch(() => {})
}

const fetchRenderer = (address: string): Promise<typeof import('./renderer')> => import(/* @vite-ignore */ address)

try {
  const script = document.currentScript as HTMLScriptElement | null
  const site = script?.dataset.site
  if (script && site && !window.gobbet) start(script, site)
} catch {}
