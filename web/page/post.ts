import type { Asked } from '../kinds/asked'

/** Asks a site's server, or tells it something. */
export const post = <P extends keyof Asked>(api: string, path: P, body: Asked[P]['body']) => fetch(api + path, { method: 'POST', body: JSON.stringify(body) })
