import { createStore } from 'zustand/vanilla'
import type { Fault } from '../../kinds/fault'
import type { Problem } from '../../kinds/problem'
import type { Routes } from '../../kinds/routes'

/** What the server is asked, by method and path: 'GET /sites/:site/board'. */
export type Route = keyof Routes

type PathOf<R> = R extends `${string} ${infer P}` ? P : never
type Named<P> = P extends `${string}:${infer N}/${infer Rest}` ? N | Named<Rest> : P extends `${string}:${infer N}` ? N : never

/** The named parts of a route's path. */
export type Params<R extends Route> = { [N in Named<PathOf<R>>]: string | number }

/** What the address of a route may hold. */
export type Query<R extends Route> = NonNullable<Routes[R]['query']>

type Given<R extends Route> = { signal?: AbortSignal } & (Routes[R]['query'] extends undefined ? { query?: undefined } : { query?: Routes[R]['query'] }) &
  (Routes[R]['body'] extends undefined ? { body?: undefined } : { body: Routes[R]['body'] })

// What has a body cannot be asked without one.
type Rest<R extends Route> = Routes[R]['body'] extends undefined ? [given?: Given<R>] : [given: Given<R>]

/** A request that failed, in the server's words; status 0: there was no answer. */
export class Trouble extends Error {
  constructor(
    readonly status: number,
    readonly problem: Pick<Problem, 'title'> & Partial<Problem>,
  ) {
    super(problem.title)
  }
  get faults(): Fault[] {
    return this.problem.faults ?? []
  }
  /** The server, or the database behind it, cannot be reached; asking again later may work. */
  get away() {
    return this.status === 0 || this.status >= 502
  }
}

/** Why the server cannot be reached, as the last request saw it; empty: it can. */
export const away = createStore<{ why: string }>(() => ({ why: '' }))

/** The address of a route, such as that of a file to be downloaded. */
export function addressOf<R extends Route>(route: R, params: Params<R>, query?: Routes[R]['query']): string {
  const path = route.slice(route.indexOf(' ') + 1).replace(/:(\w+)/g, (_, name: keyof Params<R>) => encodeURIComponent(params[name]))
  const asked = new URLSearchParams(Object.entries(query ?? {}).flatMap(([name, value]) => (value === undefined ? [] : [[name, String(value)]])))
  return `/api${path}${asked.size ? `?${asked}` : ''}`
}

const methodOf = (route: Route) => route.slice(0, route.indexOf(' '))

/** Asks the server. Bodies are JSON, or a file as it is. */
export async function api<R extends Route>(route: R, params: Params<R>, ...[given]: Rest<R>): Promise<Routes[R]['out']> {
  const body = given?.body as unknown
  let response: Response
  try {
    response = await fetch(addressOf(route, params, given?.query), {
      method: methodOf(route),
      signal: given?.signal,
      headers: body === undefined || body instanceof Blob ? {} : { 'Content-Type': 'application/json' },
      body: body === undefined || body instanceof Blob ? (body as Blob | undefined) : JSON.stringify(body),
    })
  } catch (e) {
    if (given?.signal?.aborted) throw e
    return fail(new Trouble(0, { title: 'The server is not answering.' }))
  }
  if (!response.ok) {
    const problem = await response.json().catch(() => ({ title: 'Something went wrong.' }))
    return fail(new Trouble(response.status, problem))
  }
  if (away.getState().why) away.setState({ why: '' })
  return response.status === 204 ? (undefined as Routes[R]['out']) : response.json()
}

/** What takes a file. */
export type Upload = { [R in Route]: Routes[R]['body'] extends Blob ? R : never }[Route]

/** Uploads a file, and tells how much of it has been sent, 0 to 1. */
export function upload<R extends Upload>(
  route: R,
  params: Params<R>,
  given: { query?: Routes[R]['query']; file: Blob; onProgress: (share: number) => void },
): Promise<Routes[R]['out']> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open(methodOf(route), addressOf(route, params, given.query))
    request.responseType = 'json'
    request.upload.onprogress = e => e.lengthComputable && given.onProgress(e.loaded / e.total)
    const failed = (trouble: Trouble) => {
      if (trouble.away) away.setState({ why: trouble.message })
      reject(trouble)
    }
    request.onload = () => {
      if (request.status < 400) return resolve(request.response as Routes[R]['out'])
      failed(new Trouble(request.status, request.response ?? { title: 'Something went wrong.' }))
    }
    request.onerror = () => failed(new Trouble(0, { title: 'The server is not answering.' }))
    request.send(given.file)
  })
}

function fail(trouble: Trouble): never {
  if (trouble.away) away.setState({ why: trouble.message })
  throw trouble
}
