import { keepPreviousData, QueryClient, queryOptions, useInfiniteQuery, useQueries, useQuery } from '@tanstack/react-query'
import { useParams } from 'react-router'
import type { Format } from '../../kinds/piece'
import type { Card, Me, ReachDraft, SavedReach, SiteInfo, SplitCuts, TryClause } from '../../kinds/studio'
import { addressOf, api, type Query, Trouble } from './api'

// Everything that comes from the server, and how long it stays fresh.

export const client = new QueryClient({
  defaultOptions: { queries: { staleTime: 5_000, retry: (n, e) => n < 3 && e instanceof Trouble && e.away, retryDelay: 1_000 } },
})

/**
 * Has what was asked under a key asked anew, for it is not so any more. A first
 * answer that is on its way is given up: it may be from before.
 */
export async function outdated(...queryKey: unknown[]) {
  await client.cancelQueries({ queryKey, predicate: q => q.state.data === undefined && q.state.fetchStatus !== 'idle' })
  await client.invalidateQueries({ queryKey })
}

export const useMe = () => useQuery({ queryKey: ['me'], queryFn: () => api('GET /me', {}), staleTime: 60_000 })

/** The site that the address names. It may be used wherever Layout has let the screen through. */
export function useSite(): SiteInfo {
  const id = Number(useParams().site)
  const site = useMe().data?.sites.find(s => s.id === id)
  if (!site) throw new Error('This site is not one of yours.')
  return site
}

/** Gives what the site calls data of its own; undefined: it has no name but that its pages send it under. */
export function useCalled(): (name: string) => string | undefined {
  const called = useSite().settings.data ?? {}
  // Visitors' pages send names, and constructor would be one that every object has.
  return name => (Object.hasOwn(called, name) ? called[name] : undefined)
}

/** The id of the piece that the address names. */
export const usePieceID = (): string => useParams().piece ?? ''

/** Gives the address of a place of the site: '/board', '/pieces/ab12/compose'. */
export function useAddress(): (place: string) => string {
  const { site } = useParams()
  return place => `/sites/${site}${place}`
}

/** The comparison of a piece's variants in parts of the visitors. */
export function useSplitCuts(id: string, by: SplitCuts['by']) {
  const site = useSite().id
  return useQuery({
    queryKey: ['split', site, id, 'cuts', by],
    queryFn: ({ signal }) => api('GET /sites/:site/pieces/:piece/split/cuts', { site, piece: id }, { query: { by }, signal }),
    placeholderData: keepPreviousData,
  })
}

/** How many visitors a test of a piece takes that finds a lift. */
export function usePlan(id: string, lift: number, goal: string) {
  const site = useSite().id
  return useQuery({
    queryKey: ['plan', site, id, lift, goal],
    queryFn: ({ signal }) => api('GET /sites/:site/pieces/:piece/plan', { site, piece: id }, { query: { lift }, signal }),
    placeholderData: keepPreviousData,
  })
}

/** What the site's pieces brought and cost; the range and the cuts are those of the address. */
export function useSiteResults(query: Query<'GET /sites/:site/results'>) {
  const site = useSite().id
  return useQuery({
    queryKey: ['results', site, query],
    queryFn: ({ signal }) => api('GET /sites/:site/results', { site }, { query, signal }),
    placeholderData: keepPreviousData,
    refetchInterval: 30_000,
  })
}

/** The events behind a number of Results. */
export function useBehind(query: Query<'GET /sites/:site/results/behind'>) {
  const site = useSite().id
  return useInfiniteQuery({
    queryKey: ['behind', site, query],
    queryFn: ({ pageParam, signal }) => api('GET /sites/:site/results/behind', { site }, { query: { ...query, before: pageParam }, signal }),
    initialPageParam: '',
    getNextPageParam: page => page.next || undefined,
  })
}

/** What is not as usual on the site, and what was left out of the counts. */
export function useAlerts() {
  const site = useSite().id
  return useQuery({
    queryKey: ['alerts', site],
    queryFn: ({ signal }) => api('GET /sites/:site/alerts', { site }, { signal }),
    refetchInterval: 60_000,
  })
}

/** What is asked for a card's drawing: it is asked once, for as long as it is the same. */
export const cardDrawing = (site: number, card: Pick<Card, 'id' | 'drawn'>) =>
  queryOptions({
    queryKey: ['drawing', site, card.id, card.drawn],
    queryFn: ({ signal }) => api('GET /sites/:site/pieces/:piece/drawing', { site, piece: card.id }, { signal }),
    staleTime: Infinity,
  })

/** The board, with what it counts; asked anew every few seconds while it is looked at. */
export function useBoard() {
  const site = useSite().id
  return useQuery({ queryKey: ['board', site], queryFn: ({ signal }) => api('GET /sites/:site/board', { site }, { signal }), refetchInterval: 5_000 })
}

/** The names of the site's pieces. */
export function usePieceNames() {
  const site = useSite().id
  return useQuery({ queryKey: ['piece-names', site], queryFn: () => api('GET /sites/:site/pieces', { site }), staleTime: 30_000 })
}

/** A page of the site as it is now, to look elements up in. */
const pageQuery = (site: number, path: string) => ({
  queryKey: ['page', site, path],
  queryFn: async ({ signal }: { signal: AbortSignal }) => {
    const r = await fetch(addressOf('GET /sites/:site/page', { site }, { path }), { signal })
    if (!r.ok) throw new Error('The page could not be loaded.')
    const doc = new DOMParser().parseFromString(await r.text(), 'text/html')
    // away: nothing answered; missing: the site says that there is no such page.
    return { path, doc, state: r.headers.get('X-Gobbet-Page') as 'away' | 'missing' | null }
  },
  retry: false as const,
  staleTime: 60_000,
})

/** A page of the site, asked for while it is looked at. */
export const usePage = (path: string, enabled: boolean) => useQuery({ ...pageQuery(useSite().id, path), enabled })

/** Several pages of the site. */
export function usePages(paths: string[]) {
  const site = useSite().id
  return useQueries({ queries: paths.map(path => pageQuery(site, path)) })
}

/** Has everything that lists the site's pieces asked anew. */
export function refreshPieces(site: number) {
  for (const key of ['board', 'piece-names', 'deleted', 'order', 'rehearsal', 'kit-uses']) outdated(key, site)
}

export function useDeleted(enabled: boolean) {
  const site = useSite().id
  return useQuery({ queryKey: ['deleted', site], queryFn: () => api('GET /sites/:site/deleted', { site }), enabled, staleTime: 0 })
}

export function useFixedWords() {
  const site = useSite().id
  return useQuery({ queryKey: ['words'], queryFn: ({ signal }) => api('GET /sites/:site/words', { site }, { signal }), staleTime: Infinity })
}

export function useHealth() {
  const site = useSite().id
  return useQuery({
    queryKey: ['health', site],
    queryFn: ({ signal }) => api('GET /sites/:site/health', { site }, { signal }),
    refetchInterval: 30_000,
  })
}

/** Puts a site as the server answered it into the cache. */
export const setSite = (now: SiteInfo) => client.setQueryData<Me>(['me'], me => me && { ...me, sites: me.sites.map(s => (s.id === now.id ? now : s)) })

export function usePiece(id: string) {
  const site = useSite().id
  return useQuery({
    queryKey: ['piece', site, id],
    queryFn: () => api('GET /sites/:site/pieces/:piece', { site, piece: id }),
    staleTime: Infinity,
    // Another window may have changed it meanwhile.
    refetchOnWindowFocus: 'always',
  })
}

/** How far visitors came in a piece over some days, and what they answered; 0 days are all. */
export function usePlayed(id: string, days: number) {
  const site = useSite().id
  return useQuery({
    queryKey: ['played', site, id, days],
    queryFn: ({ signal }) => api('GET /sites/:site/pieces/:piece/played', { site, piece: id }, { query: { days }, signal }),
    placeholderData: before => before,
    refetchInterval: 5_000,
  })
}

export function useSplit(id: string) {
  const site = useSite().id
  return useQuery({
    queryKey: ['split', site, id],
    queryFn: ({ signal }) => api('GET /sites/:site/pieces/:piece/split', { site, piece: id }, { signal }),
    refetchInterval: 5_000,
  })
}

export const useFacts = () => useQuery({ queryKey: ['facts'], queryFn: () => api('GET /facts', {}), staleTime: Infinity })

export function usePictures() {
  const site = useSite().id
  return useQuery({ queryKey: ['pictures', site], queryFn: () => api('GET /sites/:site/pictures', { site }) })
}

/** What visitors answered, page by page. */
export function useAnswers(id: string, query: Record<string, string>) {
  const site = useSite().id
  return useInfiniteQuery({
    queryKey: ['answers', site, id, query],
    queryFn: ({ pageParam, signal }) => api('GET /sites/:site/pieces/:piece/answers', { site, piece: id }, { query: { ...query, from: pageParam }, signal }),
    initialPageParam: '',
    getNextPageParam: last => last.next || undefined,
    placeholderData: before => before,
  })
}

/** Which leads are asked for; days are YYYY-MM-DD in the site's zone, empty values ask for all. */
export interface LeadFilter {
  q: string
  piece: string
  source: string
  from: string
  to: string
}

export const noFilter: LeadFilter = { q: '', piece: '', source: '', from: '', to: '' }

/** A page of leads, after the place where another ended. */
export function usePeople(filter: LeadFilter, after: string) {
  const site = useSite().id
  return useQuery({
    queryKey: ['people', site, filter, after],
    queryFn: ({ signal }) => api('GET /sites/:site/people', { site }, { query: { ...filter, after }, signal }),
    refetchInterval: 5_000,
    placeholderData: before => before,
  })
}

/** The name of each format. */
export const formats: Record<Format, string> = {
  popup: 'Popup',
  fly_in: 'Fly-in',
  chat: 'Chat',
  bar: 'Floating bar',
  full: 'Full screen',
  sheet: 'Side sheet',
  inline: 'Inline',
}

/** The templates, and the usual frame of each format. */
export function useTemplates() {
  const site = useSite().id
  return useQuery({ queryKey: ['templates', site], queryFn: () => api('GET /sites/:site/templates', { site }), staleTime: 60_000 })
}

export function useVersions(id: string) {
  const site = useSite().id
  return useQuery({
    queryKey: ['versions', site, id],
    queryFn: ({ signal }) => api('GET /sites/:site/pieces/:piece/versions', { site, piece: id }, { signal }),
    gcTime: 0,
    staleTime: 0,
  })
}

export function useFiles() {
  const site = useSite().id
  return useQuery({ queryKey: ['files', site], queryFn: () => api('GET /sites/:site/files', { site }) })
}

export function useSnippets() {
  const site = useSite().id
  return useQuery({ queryKey: ['snippets', site], queryFn: () => api('GET /sites/:site/snippets', { site }), staleTime: 60_000 })
}

export function usePools() {
  const site = useSite().id
  return useQuery({ queryKey: ['pools', site], queryFn: () => api('GET /sites/:site/pools', { site }) })
}

/** The codes of a pool with who has which, page by page. */
export function usePoolCodes(pool: string, search: string) {
  const site = useSite().id
  return useInfiniteQuery({
    queryKey: ['codes', site, pool, search],
    queryFn: ({ pageParam, signal }) => api('GET /sites/:site/pools/:id/codes', { site, id: pool }, { query: { q: search, after: pageParam }, signal }),
    initialPageParam: '',
    getNextPageParam: last => last.next || undefined,
    placeholderData: before => before,
  })
}

export function useKitUses() {
  const site = useSite().id
  return useQuery({ queryKey: ['kit-uses', site], queryFn: () => api('GET /sites/:site/kit/uses', { site }) })
}

/** What a reach would have done on recorded visits. Asked anew as it changes; what is overtaken is given up. */
export function useRehearsal(draft: ReachDraft | null, days: number) {
  const site = useSite().id
  return useQuery({
    queryKey: ['rehearsal', site, draft, days],
    queryFn: ({ signal }) => api('POST /sites/:site/rehearse', { site }, { body: { ...draft!, days }, signal }),
    enabled: !!draft,
    placeholderData: keepPreviousData,
    // While the log is still being read there is more each time.
    refetchInterval: query => (query.state.data?.since ? 3_000 : false),
    retry: (n, e) => n < 20 && e instanceof Trouble && e.status === 503,
    staleTime: 30_000,
  })
}

/** Recorded values of a fact that hold a text. */
export function useValues(fact: string, search: string, enabled = true) {
  const site = useSite().id
  return useQuery({
    queryKey: ['values', site, fact, search],
    queryFn: ({ signal }) => api('POST /sites/:site/values', { site }, { body: { fact, search, clause: null }, signal }),
    enabled: enabled && !!fact,
    placeholderData: keepPreviousData,
    staleTime: 60_000,
  })
}

/** Recorded values that a condition passes. */
export function useMatches(clause: TryClause | null) {
  const site = useSite().id
  return useQuery({
    queryKey: ['matches', site, clause],
    queryFn: ({ signal }) => api('POST /sites/:site/values', { site }, { body: { fact: '', search: '', clause }, signal }),
    enabled: !!clause,
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: 60_000,
  })
}

export function useReaches() {
  const site = useSite().id
  return useQuery({ queryKey: ['reaches', site], queryFn: () => api('GET /sites/:site/reaches', { site }) })
}

/** Takes in the saved reaches as an answer has them. */
export const setReaches = (site: number, reaches: SavedReach[]) => client.setQueryData(['reaches', site], reaches)

export function useOrder() {
  const site = useSite().id
  return useQuery({ queryKey: ['order', site], queryFn: ({ signal }) => api('GET /sites/:site/order', { site }, { signal }) })
}

export function useVisitors(rule: ReachDraft['rule'], enabled: boolean) {
  const site = useSite().id
  return useQuery({
    queryKey: ['visitors', site, rule],
    queryFn: ({ signal }) => api('POST /sites/:site/visitors', { site }, { body: { rule }, signal }),
    enabled,
    placeholderData: keepPreviousData,
    retry: false,
  })
}
