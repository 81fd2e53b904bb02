import type { Clause, Rule } from '../kinds/reach'

// Watches a page for the moments that rules wait for. At any time each moment
// has come or has not; a rule over them then holds or does not, as the Go core
// judges the same moments.

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

const tick = 250 // ms
const fling = 1.6 // px per ms upward, on touch
const rush = 0.1 // px per ms upward, with a pointer

export type Moments = Record<string, number | boolean | string[]>

/** Says whether a rule over moments alone holds, given those that have come. */
export function holds(rule: Rule, come: Moments): boolean {
  if ('all' in rule) return rule.all.every(r => holds(r, come))
  if ('any' in rule) return rule.any.some(r => holds(r, come))
  if ('not' in rule) return !holds(rule.not, come)
  const now = come[rule.fact]
  if (typeof now === 'number') return now >= Number(rule.value)
  if (Array.isArray(now)) return rule.value == null ? now.length > 0 : now.includes(rule.value as string)
  return now === true
}

const clauses = (rule: Rule): Clause[] =>
  'all' in rule ? rule.all.flatMap(clauses) : 'any' in rule ? rule.any.flatMap(clauses) : 'not' in rule ? clauses(rule.not) : [rule]

/** Watches for what some rules wait for, and calls back whenever a moment comes. */
export function watch(rules: Rule[], visitStart: number, changed: (come: Moments) => void): { happened: (name: string) => void } {
  const asked = rules.flatMap(clauses)
  const come: Moments = {}
  const wants = (...facts: string[]) => asked.some(c => facts.includes(c.fact))
  const abouts = (fact: string) => asked.filter(c => c.fact === fact && c.value != null).map(c => String(c.value))
  const on = (target: EventTarget, names: string, does: (e: any) => void) => {
    for (const name of names.split(' ')) target.addEventListener(name, does, { passive: true, capture: true })
  }
  const now = () => performance.now()
  const tell = () => changed(come)
  const set = (fact: string, value: number | boolean) => {
    if (come[fact] === value) return
    come[fact] = value
    tell()
  }
  const add = (fact: string, about: string) => {
    const list = (come[fact] ||= []) as string[]
    if (list.includes(about)) return
    list.push(about)
    tell()
  }
  const touch = matchMedia('(pointer: coarse)').matches

  if (wants(seconds, onSite, idle)) {
    let last = now()
    let visible = 0
    let still = last
    if (wants(idle))
      on(window, 'pointermove pointerdown keydown scroll wheel touchstart', () => {
        still = now()
        if (come[idle]) set(idle, 0)
      })
    setInterval(() => {
      const t = now()
      if (!document.hidden) visible += t - last
      last = t
      if (wants(seconds)) set(seconds, Math.floor(visible / 1000))
      if (wants(onSite)) set(onSite, Math.max(0, Math.floor(Date.now() / 1000 - visitStart)))
      if (wants(idle)) set(idle, Math.floor((t - still) / 1000))
    }, tick)
  }

  if (wants(percent, pixels) || (wants(exit) && touch)) {
    let lastY = scrollY
    let lastT = now()
    const scrolled = (e?: Event) => {
      const room = document.documentElement.scrollHeight - innerHeight
      // A page that fits its window is all there is once someone tries to go on.
      const depth = room > 1 ? (scrollY / room) * 100 : e?.type === 'wheel' || e?.type === 'touchmove' ? 100 : 0
      set(percent, Math.max(Number(come[percent] || 0), Math.min(100, Math.round(depth))))
      set(pixels, Math.max(Number(come[pixels] || 0), Math.round(scrollY)))
      const t = now()
      if (touch && wants(exit) && t > lastT && t - lastT < 400 && (lastY - scrollY) / (t - lastT) > fling) set(exit, true)
      lastY = scrollY
      lastT = t
    }
    on(window, 'scroll resize wheel touchmove', scrolled)
    scrolled()
  }

  if (wants(exit)) {
    if (touch) {
      let left = false
      on(document, 'visibilitychange', () => {
        if (document.hidden) left = true
        else if (left) set(exit, true)
      })
    } else {
      let lastY = 0
      let lastT = 0
      // Out over the top edge at speed, not creeping along it.
      on(document, 'mousemove mouseout', (e: MouseEvent) => {
        const t = now()
        if (e.type === 'mouseout' && !e.relatedTarget && e.clientY <= 4 && (lastY - e.clientY) / (t - lastT || 1) > rush) set(exit, true)
        lastY = e.clientY
        lastT = t
      })
    }
  }

  const near = (target: EventTarget | null, selector: string) => {
    try {
      return target instanceof Element && target.closest(selector)
    } catch {
      return null // not a selector: it never comes
    }
  }
  if (wants(click, leaving))
    on(document, 'click', (e: Event) => {
      for (const c of asked) {
        const about = String(c.value ?? '')
        if (c.fact === click && near(e.target, about || '*')) add(click, about)
        const link = c.fact === leaving && (near(e.target, 'a[href]') as HTMLAnchorElement | null)
        if (link && link.origin !== location.origin && (link.href.startsWith(about) || link.hostname === about)) add(leaving, about)
      }
    })
  for (const selector of abouts(seen)) {
    try {
      const eye = new IntersectionObserver(met => met.some(m => m.isIntersecting) && add(seen, selector))
      for (const element of document.querySelectorAll(selector)) eye.observe(element)
    } catch {}
  }
  return { happened: name => add(event, name) }
}
