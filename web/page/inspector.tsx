/** @jsxImportSource preact */
import { render } from 'preact'
import type { DecideRequest, Inspected, Inspection } from '../kinds/visitor'
import type { Context } from './context'
import type { Went } from './host'
import { type Life, openLife } from './life'
import type { Step } from './walkState'
import { clauses, holds, type Moments, watch } from './watch'

// The inspector: for those who hold a signed link, it says on the page itself
// how each piece stands, and what it still waits for. It counts nothing.

interface Look {
  answer: Inspection | null
  trouble: string
  /** Why a piece could not be shown anyway. */
  unshown: string
  come: Moments
  shown: Map<string, number>
  /** What is left of the site's minimum time between pieces, in seconds. */
  quiet?: { minimum: number; left: number }
  /** Pieces that wait for their place to be out of view. */
  roomless: Set<string>
  folded: boolean
  open: Set<string>
}

export function open(context: Context, token: string, request: () => DecideRequest) {
  const element = document.createElement('gobbet-inspector')
  const root = element.attachShadow({ mode: 'open' })
  const sheet = new CSSStyleSheet()
  sheet.replaceSync(style)
  root.adoptedStyleSheets = [sheet]
  document.body.append(element)
  const look: Look = { answer: null, trouble: '', unshown: '', come: {}, shown: new Map(), roomless: new Set(), folded: false, open: new Set() }
  let eyes: ReturnType<typeof watch> | undefined
  let life: Life | undefined
  let arrival: unknown
  // What showed before this script had come is known of too.
  const draw = () => {
    const ofThisView = [...(context.shown ?? [])].filter(([, at]) => at >= context.began)
    look.shown = new Map(ofThisView.map(([piece, at]) => [piece, (at - context.began) / 1000]))
    const minimum = context.answer?.quiet ?? 0
    const left = minimum - (context.seconds() - (context.memory.read().shown ?? 0))
    look.roomless = new Set(context.roomless)
    look.quiet = minimum && left > 0 ? { minimum, left: Math.min(left, minimum) } : undefined
    render(<Panel look={look} change={draw} showAnyway={showAnyway} forget={forget} leave={leave} />, root)
  }

  const ask = async () => {
    if (arrival !== context.arrival) {
      // A page view of its own.
      arrival = context.arrival
      life?.end()
      life = openLife()
      eyes = watch({ start: context.arrival.start, began: context.began, exit: context.answer?.exit }, draw, life)
      for (const { name } of context.events) eyes.happened(name)
      look.come = eyes.come
    }
    try {
      const r = await context.post('/inspect', { token, view: request() }, life!.signal)
      const said = await r.json()
      look.trouble = r.ok ? '' : said.title
      if (r.status === 403) sessionStorage.removeItem('gobbet:pass')
      if (r.ok) {
        look.answer = { ...said, pieces: nearestFirst(said) }
        eyes?.rules((said as Inspection).pieces.flatMap(p => p.waiting ?? []))
        if (!look.open.size) look.open.add(key((said as Inspection).pieces.find(p => p.id === said.piece) ?? said.pieces[0]))
      }
    } catch {
      look.trouble = 'Gobbet does not answer just now.'
    }
    draw()
  }
  addEventListener('gobbet:shown', draw)
  context.look = () => void ask()
  // The site's own events reach the inspector as they reach rules.
  let heard = 0
  setInterval(() => {
    eyes?.beat()
    if (look.quiet || look.roomless.size || context.roomless?.size) draw()
    for (heard = Math.min(heard, context.events.length); heard < context.events.length; heard++) eyes?.happened(context.events[heard].name)
  }, 250)

  const showAnyway = async (p: Inspected) => {
    look.unshown = ''
    try {
      const { show } = await context.load('renderer')
      const { words, said_in: language } = context.answer!
      const table = words ? await fetch(context.base + words).then(r => r.json()) : undefined
      const stands = await show({
        language,
        words: table,
        id: p.id,
        drawing: p.drawing,
        base: context.base,
        phone: context.answer!.phone,
        load: context.load,
        converted() {},
        code: () => Promise.resolve('YOUR-CODE'),
        advance: steps(p),
        ended() {},
      })
      if (!stands) look.unshown = `This page has no place for “${p.name}”: what it is inserted at is not here.`
    } catch {
      look.unshown = `“${p.name}” could not be drawn.`
    }
    draw()
  }
  /** Goes on with a piece that is only looked at: all steps are taken anew each time, and nothing is stored. */
  const steps = (p: Inspected) => {
    const all: Step[] = []
    const walk = { id: crypto.randomUUID(), piece: p.id, variant: p.variant, design: p.design, visitor: context.arrival.visitor }
    return async (next: Step[], from: number): Promise<Went> => {
      all.splice(from, Number.POSITIVE_INFINITY, ...next)
      const r = await context.post('/advance', { walk, from: 0, steps: all.map(({ at: _, ...s }) => s), pass: context.token }).catch(() => undefined)
      if (!r) return { ok: false }
      const said = await r.json()
      return r.ok ? { ok: true, answer: said } : { ok: false, faults: said.faults, title: said.title }
    }
  }
  const forget = () => {
    for (const name of Object.keys(localStorage)) if (name.startsWith('gobbet:' + context.site)) localStorage.removeItem(name)
    location.reload()
  }
  const leave = () => {
    sessionStorage.removeItem('gobbet:pass')
    location.reload()
  }
  if (context.arrival) void ask()
}

/** The piece that is looked for first, then those nearest to showing; what is not for this page view last. */
const nearestFirst = ({ piece, pieces }: Inspection): Inspected[] => {
  const rank = (p: Inspected) => (p.id === piece ? 0 : p.verdict === 'no' ? 4 : p.held ? 3 : p.verdict === 'waits' ? 2 : 1)
  return [...pieces].sort((a, b) => rank(a) - rank(b))
}

const key = (p?: Inspected) => (p ? p.id + (p.draft ? ' draft' : '') : '')
const minutes = (s: number) => `${Math.floor(s / 60)}:${String(Math.floor(s % 60)).padStart(2, '0')}`
const marks = { yes: '✓', no: '✗', waits: '◔' }

type Standing = { mark: 'yes' | 'no' | 'waits'; says: string }

function standing(p: Inspected, { answer, come, shown, quiet, roomless }: Look): Standing {
  const at = p.draft ? undefined : shown.get(p.id)
  if (at !== undefined) return { mark: 'yes', says: `Shown at ${minutes(at)} of this page view.` }
  if (p.verdict === 'no') return { mark: 'no', says: 'Not on this page view.' }
  if (p.held) return { mark: 'no', says: p.held }
  const other = answer?.pieces.find(o => o.id !== p.id && !o.draft && o.slot === p.slot && shown.has(o.id))
  if (other) return { mark: 'no', says: `“${other.name}” has its place on the page.` }
  if (!p.draft && roomless.has(p.id))
    return { mark: 'waits', says: 'Waits until its place is out of view, or keeps room for it: nothing moves under the reader.' }
  if (quiet && p.interrupts && (p.verdict === 'yes' || (p.waiting && holds(p.waiting, come))))
    return { mark: 'waits', says: `Held back by the site's minimum of ${quiet.minimum} s between pieces: tried again in ${quiet.left} s.` }
  if (p.verdict === 'yes' || (p.waiting && holds(p.waiting, come)))
    return { mark: 'yes', says: p.draft ? 'Would show now, if it were live.' : 'Its rule holds: it shows, unless another piece has its place.' }
  return { mark: 'waits', says: 'Waits for its moment.' }
}

interface Acts {
  look: Look
  change(): void
  showAnyway(p: Inspected): void
  forget(): void
  leave(): void
}

function Panel({ look, change, showAnyway, forget, leave }: Acts) {
  const { answer, trouble, unshown, come } = look
  return (
    <aside class={look.folded ? 'panel folded' : 'panel'} aria-label="Gobbet inspector">
      <header>
        <i class="mark" aria-hidden="true" />
        <b>Inspector</b>
        <span class="clock">
          {minutes(Number(come['moment.seconds_on_page'] ?? 0))} · {Number(come['moment.scroll_percent'] ?? 0)} % scrolled
        </span>
        <button
          type="button"
          aria-expanded={!look.folded}
          onClick={() => {
            look.folded = !look.folded
            change()
          }}
        >
          {look.folded ? 'Unfold' : 'Fold'}
        </button>
      </header>
      {!look.folded && (
        <>
          {trouble && <p class="trouble">{trouble}</p>}
          {unshown && <p class="trouble">{unshown}</p>}
          {!answer && !trouble && <p class="quiet">Asking how each piece stands…</p>}
          {answer && !answer.pieces.length && <p class="quiet">There is no piece on this site yet.</p>}
          <ul>
            {answer?.pieces.map(p => {
              const s = standing(p, look)
              const on = look.open.has(key(p))
              return (
                <li key={key(p)} data-piece={p.id} data-draft={p.draft || undefined} data-mark={s.mark}>
                  <button
                    type="button"
                    class="piece"
                    aria-expanded={on}
                    onClick={() => {
                      if (on) look.open.delete(key(p))
                      else look.open.add(key(p))
                      change()
                    }}
                  >
                    <b class={s.mark}>{marks[s.mark]}</b>
                    <span>
                      <strong>{p.name}</strong> {p.draft && <em>draft</em>}
                      <small>{s.says}</small>
                    </span>
                  </button>
                  {on && (
                    <div class="lines">
                      {p.lines.map(l => {
                        const mark = l.waiting ? (holds(l.waiting, come) ? 'yes' : 'waits') : l.verdict
                        return (
                          <p key={l.at} style={{ paddingInlineStart: l.depth * 16 + 'px' }} class={l.group ? 'group' : ''} data-line={mark}>
                            <b class={mark}>{marks[mark]}</b>
                            <span>
                              {l.phrase} {l.waiting && <i>{progress(l.waiting, come)}</i>}
                              {!l.group && !l.waiting && l.verdict === 'no' && <i>it is {l.actual === null ? 'not known' : String(l.actual)}</i>}
                            </span>
                          </p>
                        )
                      })}
                      {!p.lines.length && <p class="quiet">No condition: for everyone, at once.</p>}
                      <button type="button" class="act" onClick={() => showAnyway(p)}>
                        Show it anyway
                      </button>
                    </div>
                  )}
                </li>
              )
            })}
          </ul>
          <footer>
            <button type="button" class="act" onClick={forget}>
              Forget me
            </button>
            <button type="button" class="act" onClick={leave}>
              Leave the inspector
            </button>
            <small>Nothing you do here is counted.</small>
          </footer>
        </>
      )}
    </aside>
  )
}

/** How far a counted moment has come. */
function progress(rule: NonNullable<Inspected['waiting']>, come: Moments): string {
  const [one, ...more] = clauses(rule)
  const now = one && come[one.fact]
  return !more.length && typeof now === 'number' ? `now ${now}` : ''
}

const style = `
:host { all: initial; }
*, *::before, *::after { box-sizing: border-box; margin: 0; }
.panel { position: fixed; inset-inline-start: 14px; inset-block-end: 14px; z-index: 2147483600; width: 340px; max-width: calc(100vw - 28px); max-height: min(72vh, 620px); display: flex; flex-direction: column; background: #fffdf9; color: #241a2e; border: 1px solid #b9ab96; border-radius: 10px; box-shadow: 0 14px 44px rgb(36 26 46 / .3); font: 13.5px/1.4 system-ui, -apple-system, "Segoe UI", sans-serif; font-variant-numeric: tabular-nums; }
.panel.folded { width: auto; }
header { display: flex; align-items: center; gap: 9px; padding: 9px 10px 9px 12px; background: #241a2e; color: #f2eaf2; border-radius: 9px 9px 0 0; }
.folded header { border-radius: 9px; }
.mark { width: 16px; height: 16px; background: #f2b58b; border-radius: 4px; mask: radial-gradient(circle 6px at calc(100% - 2px) 2px, #0000 98%, #000); }
.clock { color: #c9bcd0; font-size: 12px; margin-inline-start: auto; }
button { font: inherit; color: inherit; background: none; border: 0; padding: 2px 6px; border-radius: 5px; cursor: pointer; text-align: start; }
button:focus-visible { outline: 2px solid #e07a3f; outline-offset: 1px; }
header button { color: #f2b58b; font-size: 12.5px; }
ul { list-style: none; padding: 4px 0; overflow: auto; flex: 1; min-height: 0; }
li { border-bottom: 1px solid #e0d6c6; } li:last-child { border: 0; }
.piece { display: flex; gap: 9px; width: 100%; padding: 8px 12px; align-items: baseline; }
.piece:hover { background: #f6f1e7; }
.piece small { display: block; color: #63576d; font-size: 12.5px; }
.piece strong { font-weight: 650; } em { font-style: normal; font-size: 11.5px; font-weight: 600; background: #fbe9dc; color: #8f4518; border-radius: 4px; padding: 0 5px; }
b.yes { color: #35633f; } b.no { color: #a8402d; } b.waits { color: #b3541e; } b { font-weight: 700; }
.lines { padding: 0 12px 10px 33px; display: grid; gap: 3px; }
.lines p { display: flex; gap: 8px; align-items: baseline; font-size: 13px; } .lines i { font-style: normal; color: #63576d; } .group span { color: #63576d; font-style: italic; }
.act { justify-self: start; color: #6a2a5b; font-weight: 600; padding: 4px 8px; border: 1px solid #b9ab96; margin-top: 5px; font-size: 12.5px; }
.act:hover { background: #f3e6ee; }
footer { border-top: 1px solid #e0d6c6; padding: 5px 12px 9px; display: flex; gap: 8px; flex-wrap: wrap; align-items: center; } footer small { color: #63576d; font-size: 12px; }
.quiet, .trouble { padding: 12px; color: #63576d; } .trouble { color: #a8402d; font-weight: 600; } .lines .quiet { padding: 0; }
`
