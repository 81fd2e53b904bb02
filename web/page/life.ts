// The life of a page view. All that a page view begins (listeners, timers,
// observers, requests) it begins here, and all of it ends in one place: when the
// page is left, or its address becomes another's.

/** Where a page view is. Nothing is decided, shown or counted but while it is visible. */
export type Phase = 'prerendered' | 'hidden' | 'visible' | 'over'

/** What may follow each phase. A page that comes back from the back-forward cache begins a view of its own. */
export const phases: Record<Phase, Phase[]> = {
  prerendered: ['hidden', 'visible', 'over'],
  hidden: ['visible', 'over'],
  visible: ['hidden', 'over'],
  over: [],
}

/** The phase of a page view that is not over, as its document has it. */
export const phaseOf = (page: { hidden: boolean; prerendering?: boolean }): Phase => (page.prerendering ? 'prerendered' : page.hidden ? 'hidden' : 'visible')

const patience = 10_000 // ms that any request may take

/** Fetches, for so long as anyone waits for it: until it takes too long, or what it is for is over. */
export function request(address: string, how: RequestInit = {}, until?: AbortSignal): Promise<Response> {
  const limit = new AbortController()
  const end = () => limit.abort()
  const timer = setTimeout(end, patience)
  until?.addEventListener('abort', end)
  if (until?.aborted) end()
  // What is read of the answer later has the same time.
  return fetch(address, { ...how, signal: limit.signal }).catch(e => {
    clearTimeout(timer)
    throw e
  })
}

export type Life = ReturnType<typeof openLife>

/** Begins the life of a page view. */
export function openLife() {
  const ended = new AbortController()
  const { signal } = ended
  const endings: (() => void)[] = []
  const timers = new Set<number>()
  /** Listens, for as long as the view lasts: to several events by their names. */
  const on = (target: EventTarget, names: string, does: (e: any) => void, passive = true) => {
    for (const name of names.split(' ')) target.addEventListener(name, does, { passive, capture: true, signal })
  }
  let awaited: [() => void, (e: Error) => void][] = []
  const look = () => {
    const over = signal.aborted
    if (!over && phaseOf(document) !== 'visible') return
    for (const [come, no] of awaited) over ? no(new Error('over')) : come()
    awaited = []
  }
  on(document, 'visibilitychange prerenderingchange', look)
  return {
    on,
    signal,
    get phase(): Phase {
      return signal.aborted ? 'over' : phaseOf(document)
    },
    get over() {
      return signal.aborted
    },
    /** Comes as soon as the page is looked at; refused if the view is over before. */
    visible: () =>
      new Promise<void>((come, no) => {
        awaited.push([come, no])
        look()
      }),
    /** Calls back after some ms, unless the view is over by then. Gives how not to. */
    after(ms: number, does: () => void) {
      if (signal.aborted) return () => {}
      const timer = setTimeout(() => {
        timers.delete(timer)
        does()
      }, ms) as unknown as number
      timers.add(timer)
      return () => {
        clearTimeout(timer)
        timers.delete(timer)
      }
    },
    /** Has an observer stop with the view. */
    observer<O extends { disconnect(): void }>(observer: O): O {
      endings.push(() => observer.disconnect())
      return observer
    },
    /** Fetches what only this view is in need of. */
    request: (address: string, how?: RequestInit) => request(address, how, signal),
    /** Calls back when the view ends: those first who asked first. */
    ends: (does: () => void) => void endings.push(does),
    end() {
      if (signal.aborted) return
      ended.abort()
      for (const timer of timers) clearTimeout(timer)
      look()
      for (const does of endings) {
        try {
          does()
        } catch {}
      }
    },
  }
}
