import type { Clause, Rule } from '../kinds/reach'
import type { Happening, Pair } from '../kinds/visitor'
import type { Life } from './life'

// Watches a page for the moments that rules wait for. At any time each moment
// has come or has not; a rule over them then holds or does not, as the Go core
// judges the same moments. What came when is kept, for the record of the stay.

const seconds = 'moment.seconds_on_page'
const onSite = 'moment.seconds_on_site'
const percent = 'moment.scroll_percent'
const pixels = 'moment.scroll_pixels'
const idle = 'moment.idle_seconds'
const exit = 'moment.exit_intent'
const click = 'moment.click'
const seen = 'moment.seen'
const leaving = 'moment.leaving_to'
const event = 'moment.event'

const idleEnds = 250 // ms for which idling that was ended can still be waited for, together with what ended it
const longestClock = 3_600_000 // ms
const settles = 200 // ms after a change of the page, to look at it once
const leastIdle = 5 // seconds, for the record
const mostIds = 50
const mostHappened = 60
/** How fast upward, in px a ms, a move counts as heading for the exit: by touch, and with a pointer. */
const speeds = { calm: [2.6, 0.5], normal: [1.6, 0.1], eager: [0.9, 0.02] }

export type Moments = Record<string, number | boolean | string[]>

/** How a visitor stayed, in seconds that the page was in view. */
export interface Stay {
  seconds: number
  /** When each tenth of the page was first reached. */
  marks: (number | null)[]
  exit: number | null
  idles: Pair[]
  happened: Happening[]
}

/** Says whether a rule over moments alone holds, given those that have come. */
export function holds(rule: Rule, come: Moments): boolean {
  if ('all' in rule) return rule.all.every(r => holds(r, come))
  if ('any' in rule) return rule.any.some(r => holds(r, come))
  if ('not' in rule) return !holds(rule.not, come)
  if ('saved' in rule) return false // a remainder has none
  const now = come[rule.fact]
  if (typeof now === 'number') return now >= Number(rule.value)
  if (Array.isArray(now)) return rule.value == null ? now.length > 0 : now.includes(rule.value as string)
  return now === true
}

export const clauses = (rule: Rule): Clause[] =>
  'all' in rule ? rule.all.flatMap(clauses) : 'any' in rule ? rule.any.flatMap(clauses) : 'not' in rule ? clauses(rule.not) : 'saved' in rule ? [] : [rule]

/** The selector of an element with an id. */
const nameOf = (e: Element) => '#' + CSS.escape(e.id)

/**
 * Watches a page from now on (but for clicks, where they are handed to it), for as
 * long as its life, and calls back whenever a moment comes while the page is
 * visible; not before it has returned.
 */
export function watch(o: { start: number; began: number; exit?: 'calm' | 'eager'; handed?: boolean }, tell: () => void, life: Life) {
  const come: Moments = {}
  const { on } = life
  const now = () => performance.now()
  const inView = () => life.phase === 'visible'
  const touch = matchMedia('(pointer: coarse)').matches
  const [fling, rush] = speeds[o.exit ?? 'normal']
  let asked: Clause[] = []
  let ready = false
  const changed = () => ready && inView() && tell()
  let last = o.began
  let visible = 0
  const stay: Stay = { seconds: 0, marks: [], exit: null, idles: [], happened: [] }

  const second = () => {
    const t = now()
    if (!document.hidden) visible += t - last
    last = t
    return Math.floor(visible / 1000)
  }
  const set = (fact: string, value: number | boolean) => {
    if (come[fact] === value) return false
    come[fact] = value
    return true
  }
  const note = (fact: string, about: string) => {
    if (stay.happened.length >= mostHappened) return
    const kind = fact.slice('moment.'.length)
    if (!stay.happened.some(h => h[0] === kind && h[1] === about)) stay.happened.push([kind, about.slice(0, 200), second()])
  }
  const add = (fact: string, about: string) => {
    note(fact, about)
    const list = (come[fact] ||= []) as string[]
    if (list.includes(about)) return
    list.push(about)
    changed()
  }

  // Idling counts, like staying, only while the page is in view.
  let still = 0
  let ending = false
  const rested = () => Math.floor((visible - still) / 1000)
  const move = () => {
    second()
    if (rested() >= leastIdle && stay.idles.length < mostIds) stay.idles.push([Math.floor(still / 1000), rested()])
    still = visible
    // The idling itself ends a little later: what ends it may be waited for together with it.
    if (Number(come[idle]) > 0 && !ending) {
      ending = true
      life.after(idleEnds, () => {
        ending = false
        beat()
      })
    }
  }
  on(window, 'pointermove pointerdown keydown scroll wheel touchstart', move)

  // The clock is set to the next second that a rule waits for; where none waits, nothing ticks.
  let stopClock = () => {}
  const setClock = () => {
    stopClock()
    if (!inView()) return
    const dues = asked.flatMap(c => {
      const at = Math.ceil(Number(c.value)) * 1000
      if (Number(come[c.fact] ?? 0) >= Number(c.value)) return []
      return c.fact === seconds ? at - visible : c.fact === idle ? at - (visible - still) : c.fact === onSite ? at + o.start * 1000 - Date.now() : []
    })
    if (dues.length) stopClock = life.after(Math.min(Math.max(1, Math.ceil(Math.min(...dues))), longestClock), beat)
  }
  const beat = () => {
    let news = set(seconds, second())
    news = set(onSite, Math.max(0, Math.floor(Date.now() / 1000 - o.start))) || news
    news = set(idle, rested()) || news
    if (news) changed()
    setClock()
  }

  let exits = 0
  const leave = () => {
    stay.exit ??= second()
    exits++
    set(exit, true)
    changed()
  }
  let lastY = scrollY
  let lastT = now()
  /** Looks at how far the page is scrolled; tried says that someone would have scrolled on. */
  const measure = (tried?: boolean) => {
    const room = document.documentElement.scrollHeight - innerHeight
    // A page that fits its window is all there is once someone tries to go on.
    const depth = room > 1 ? (scrollY / room) * 100 : tried ? 100 : 0
    const to = Math.max(Number(come[percent] || 0), Math.min(100, Math.round(depth)))
    while (stay.marks.length < Math.floor(to / 10)) stay.marks.push(second())
    const news = set(percent, to)
    if (set(pixels, Math.max(Number(come[pixels] || 0), Math.round(scrollY))) || news) changed()
    const t = now()
    if (touch && t > lastT && t - lastT < 400 && (lastY - scrollY) / (t - lastT) > fling) leave()
    lastY = scrollY
    lastT = t
  }
  // The layout is looked at once a frame at most.
  let awaited = false
  let tried = false
  const scrolled = ({ type }: Event) => {
    tried ||= type === 'wheel' || type === 'touchmove'
    if (awaited) return
    awaited = true
    requestAnimationFrame(() => {
      awaited = false
      if (!life.over) measure(tried)
      tried = false
    })
  }
  on(window, 'scroll resize wheel touchmove', scrolled)

  let hid = false
  on(document, 'visibilitychange', () => {
    // What was seen until now counts; what is hidden from now on does not.
    if (document.hidden) visible += now() - last
    last = now()
    if (document.hidden) {
      hid = true
      return stopClock()
    }
    if (hid && touch) leave()
    beat()
    // What came while it was hidden.
    changed()
  })
  if (!touch) {
    let y = 0
    let at = 0
    // Out over the top edge at speed, not creeping along it.
    on(document, 'mousemove mouseout', (e: MouseEvent) => {
      const t = now()
      if (e.type === 'mouseout' && !e.relatedTarget && e.clientY <= 4 && (y - e.clientY) / (t - at || 1) > rush) leave()
      y = e.clientY
      at = t
    })
  }

  const near = (target: EventTarget | null, selector: string) => {
    try {
      return target instanceof Element && target.closest(selector)
    } catch {
      return null // not a selector: it never comes
    }
  }
  const clicked = (e: Event) => {
    const named = near(e.target, '[id]')
    note(click, named ? nameOf(named) : '')
    const link = near(e.target, 'a[href]') as HTMLAnchorElement | null
    const out = link && link.origin !== location.origin && /^http/.test(link.protocol)
    if (out) note(leaving, link.hostname)
    for (const c of asked) {
      const about = String(c.value ?? '')
      if (c.fact === click && near(e.target, about || '*')) add(click, about)
      if (c.fact === leaving && out && (link.href.startsWith(about) || link.hostname === about)) add(leaving, about)
    }
  }

  if (!o.handed) on(document, 'click', clicked)

  const eyes = new Map<Element, string[]>()
  const lookAt = (met: IntersectionObserverEntry[]) => {
    for (const m of met) {
      if (!m.isIntersecting) continue
      for (const about of eyes.get(m.target) ?? []) {
        if (asked.some(c => c.fact === seen && c.value === about)) add(seen, about)
        else note(seen, about)
      }
      if (asked.some(c => c.fact === seen && c.value == null)) add(seen, '')
    }
  }
  const eye = life.observer(new IntersectionObserver(lookAt))
  const observe = (selector: string, most: number, about = (_: Element) => selector) => {
    try {
      for (const element of [...document.querySelectorAll(selector)].slice(0, most)) {
        const known = eyes.get(element) ?? []
        if (known.includes(about(element))) continue
        eyes.set(element, [...known, about(element)])
        eye.unobserve(element)
        eye.observe(element)
      }
    } catch {}
  }
  const heard = new Set<string>()

  // What a page that draws itself adds later is looked at too.
  const waiters = new Set<() => void>()
  let news = false
  const growth = life.observer(
    new MutationObserver(() => {
      if (news) return
      news = true
      life.after(settles, () => {
        news = false
        for (const one of waiters) one()
      })
    }),
  )
  /** Calls back, until told otherwise, a moment after the page got other elements. */
  const grows = (does: () => void) => {
    if (life.over) return () => {}
    if (!waiters.size) growth.observe(document.documentElement, { childList: true, subtree: true })
    waiters.add(does)
    return () => {
      waiters.delete(does)
      if (!waiters.size) growth.disconnect()
    }
  }
  let stopLooking = () => {}
  const look = () => {
    for (const c of asked) if (c.fact === seen && c.value) observe(String(c.value), mostIds)
  }

  measure()
  beat()
  ready = true
  return {
    come,
    /** How often the visitor has headed for the exit. */
    exits: () => exits,
    /** What has come, without any exit that was headed for before. */
    since: (before: number): Moments => (exits > before ? come : { ...come, [exit]: false }),
    /** Says which rules wait. What came before still holds. */
    rules(next: Rule[]) {
      asked = next.flatMap(clauses)
      observe('[id]', mostIds, nameOf)
      look()
      stopLooking()
      if (asked.some(c => c.fact === seen && c.value)) stopLooking = grows(look)
      for (const c of asked) {
        const about = String(c.value ?? '')
        // An event of the page's own, dispatched under that name.
        if (c.fact === event && about && !heard.has(about)) {
          heard.add(about)
          on(window, about, () => add(event, about))
        }
      }
      setClock()
    },
    happened: (name: string) => add(event, name),
    grows,
    /** Takes a click that is handed to it. */
    clicked,
    /** Brings what has come up to the second, where nothing waits for it. */
    beat,
    stay(): Stay {
      const idles = rested() >= leastIdle && stay.idles.length < mostIds ? [...stay.idles, [Math.floor(still / 1000), rested()] as Pair] : stay.idles
      return { ...stay, idles, seconds: second() }
    },
  }
}
