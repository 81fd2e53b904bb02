import { create } from 'zustand'
import type { Fault } from '../kinds/fault'
import type { Problem } from '../kinds/problem'

/** An answer that is a problem, in the server's words; status 0 is no answer at all. */
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
  /** The server, or the database behind it, is away; asking again later may do. */
  get away() {
    return this.status === 0 || this.status >= 502
  }
}

/** Whether the server or its database is away just now, as the last request saw it. */
export const useAway = create<{ away: string }>(() => ({ away: '' }))

/** Asks the API. Bodies are JSON, or a file as it is. */
export async function api<T>(method: string, path: string, body?: unknown, signal?: AbortSignal): Promise<T> {
  let response: Response
  try {
    response = await fetch('/api' + path, {
      method,
      signal,
      headers: body === undefined || body instanceof Blob ? {} : { 'Content-Type': 'application/json' },
      body: body === undefined || body instanceof Blob ? (body as Blob | undefined) : JSON.stringify(body),
    })
  } catch (e) {
    if (signal?.aborted) throw e
    return fail(new Trouble(0, { title: 'Gobbet does not answer just now.' }))
  }
  if (!response.ok) {
    const problem = await response.json().catch(() => ({ title: 'Something went wrong.' }))
    return fail(new Trouble(response.status, problem))
  }
  if (useAway.getState().away) useAway.setState({ away: '' })
  return response.status === 204 ? (undefined as T) : response.json()
}

function fail(trouble: Trouble): never {
  if (trouble.away) useAway.setState({ away: trouble.message })
  throw trouble
}
