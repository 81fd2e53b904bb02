import { create } from 'zustand'
import type { Fault } from '../kinds/fault'
import type { Problem } from '../kinds/problem'

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
    return fail(new Trouble(0, { title: 'The server is not answering.' }))
  }
  if (!response.ok) {
    const problem = await response.json().catch(() => ({ title: 'Something went wrong.' }))
    return fail(new Trouble(response.status, problem))
  }
  if (useAway.getState().away) useAway.setState({ away: '' })
  return response.status === 204 ? (undefined as T) : response.json()
}

/** Uploads a file, and tells how much of it has been sent, 0 to 1. */
export function upload<T>(path: string, file: Blob, onProgress: (share: number) => void, method = 'POST'): Promise<T> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open(method, '/api' + path)
    request.responseType = 'json'
    request.upload.onprogress = e => e.lengthComputable && onProgress(e.loaded / e.total)
    const failed = (trouble: Trouble) => {
      if (trouble.away) useAway.setState({ away: trouble.message })
      reject(trouble)
    }
    request.onload = () => {
      if (request.status < 400) return resolve(request.response as T)
      failed(new Trouble(request.status, request.response ?? { title: 'Something went wrong.' }))
    }
    request.onerror = () => failed(new Trouble(0, { title: 'The server is not answering.' }))
    request.send(file)
  })
}

function fail(trouble: Trouble): never {
  if (trouble.away) useAway.setState({ away: trouble.message })
  throw trouble
}
