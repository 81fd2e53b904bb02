import { keepPreviousData, QueryClient, useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { useParams } from 'react-router'
import type { Format } from '../kinds/piece'
import type {
  Alerts,
  AnswerTable,
  BehindRows,
  Board,
  CodePage,
  DeletedPiece,
  FactBook,
  FileInfo,
  Health,
  KitUse,
  LeadPage,
  Me,
  Order,
  PictureInfo,
  PieceInfo,
  PieceName,
  Played,
  PoolInfo,
  ReachDraft,
  RecordedVisitor,
  Rehearsal,
  SavedReach,
  SiteInfo,
  SiteResults,
  SnippetInfo,
  SplitCuts,
  SplitPlan,
  SplitResult,
  TemplateList,
  TryClause,
  ValuesAnswer,
  VersionInfo,
} from '../kinds/studio'
import { api, Trouble } from './api'

// Everything that comes from the server, and how long it stays fresh.

export const client = new QueryClient({
  defaultOptions: { queries: { staleTime: 5_000, retry: (n, e) => n < 3 && e instanceof Trouble && e.away, retryDelay: 1_000 } },
})

export const useMe = () => useQuery({ queryKey: ['me'], queryFn: () => api<Me>('GET', '/me'), staleTime: 60_000 })

/** The site that the address names. It may be used wherever Layout has let the screen through. */
export function useSite(): SiteInfo {
  const id = Number(useParams().site)
  const site = useMe().data?.sites.find(s => s.id === id)
  if (!site) throw new Error('This site is not one of yours.')
  return site
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
    queryFn: ({ signal }) => api<SplitCuts>('GET', `/sites/${site}/pieces/${id}/split/cuts?by=${by}`, undefined, signal),
    placeholderData: keepPreviousData,
  })
}

/** How many visitors a test of a piece takes that finds a lift. */
export function usePlan(id: string, lift: number, goal: string) {
  const site = useSite().id
  return useQuery({
    queryKey: ['plan', site, id, lift, goal],
    queryFn: ({ signal }) => api<SplitPlan>('GET', `/sites/${site}/pieces/${id}/plan?lift=${lift}`, undefined, signal),
    placeholderData: keepPreviousData,
  })
}

/** What the site's pieces brought and cost; the range and the cuts are those of the address. */
export function useSiteResults(query: string) {
  const site = useSite().id
  return useQuery({
    queryKey: ['results', site, query],
    queryFn: ({ signal }) => api<SiteResults>('GET', `/sites/${site}/results?${query}`, undefined, signal),
    placeholderData: keepPreviousData,
    refetchInterval: 30_000,
  })
}

/** The events behind a number of Results. */
export function useBehind(query: string) {
  const site = useSite().id
  return useInfiniteQuery({
    queryKey: ['behind', site, query],
    queryFn: ({ pageParam, signal }) => api<BehindRows>('GET', `/sites/${site}/results/behind?${query}&before=${pageParam}`, undefined, signal),
    initialPageParam: '',
    getNextPageParam: page => page.next || undefined,
  })
}

/** What is not as usual on the site, and what was left out of the counts. */
export function useAlerts() {
  const site = useSite().id
  return useQuery({
    queryKey: ['alerts', site],
    queryFn: ({ signal }) => api<Alerts>('GET', `/sites/${site}/alerts`, undefined, signal),
    refetchInterval: 60_000,
  })
}

/** The board, with what it counts; asked anew every few seconds while it is looked at. */
export function useBoard() {
  const site = useSite().id
  return useQuery({ queryKey: ['board', site], queryFn: ({ signal }) => api<Board>('GET', `/sites/${site}/board`, undefined, signal), refetchInterval: 5_000 })
}

/** The names of the site's pieces. */
export function usePieceNames() {
  const site = useSite().id
  return useQuery({ queryKey: ['piece-names', site], queryFn: () => api<PieceName[]>('GET', `/sites/${site}/pieces`), staleTime: 30_000 })
}

/** A page of the site as it is now, to look elements up in; asked for while a selector is looked at. */
export function usePage(path: string, enabled: boolean) {
  const site = useSite().id
  return useQuery({
    queryKey: ['page', site, path],
    queryFn: async ({ signal }) => {
      const r = await fetch(`/api/sites/${site}/page?path=${encodeURIComponent(path)}`, { signal })
      if (!r.ok) throw new Error('The page could not be loaded.')
      return new DOMParser().parseFromString(await r.text(), 'text/html')
    },
    enabled,
    retry: false,
    staleTime: 60_000,
  })
}

/** Has everything that lists the site's pieces asked anew. */
export function refreshPieces(site: number) {
  for (const key of ['board', 'piece-names', 'deleted', 'order', 'rehearsal', 'kit-uses']) client.invalidateQueries({ queryKey: [key, site] })
}

export function useDeleted(enabled: boolean) {
  const site = useSite().id
  return useQuery({ queryKey: ['deleted', site], queryFn: () => api<DeletedPiece[]>('GET', `/sites/${site}/deleted`), enabled, staleTime: 0 })
}

export function useHealth() {
  const site = useSite().id
  return useQuery({
    queryKey: ['health', site],
    queryFn: ({ signal }) => api<Health>('GET', `/sites/${site}/health`, undefined, signal),
    refetchInterval: 30_000,
  })
}

/** Puts a site as the server answered it into the cache. */
export const setSite = (now: SiteInfo) => client.setQueryData<Me>(['me'], me => me && { ...me, sites: me.sites.map(s => (s.id === now.id ? now : s)) })

export function usePiece(id: string) {
  const site = useSite().id
  return useQuery({
    queryKey: ['piece', site, id],
    queryFn: () => api<PieceInfo>('GET', `/sites/${site}/pieces/${id}`),
    staleTime: Infinity,
    refetchOnWindowFocus: false,
  })
}

/** How far visitors came in a piece over some days, and what they answered; 0 days are all. */
export function usePlayed(id: string, days: number) {
  const site = useSite().id
  return useQuery({
    queryKey: ['played', site, id, days],
    queryFn: ({ signal }) => api<Played>('GET', `/sites/${site}/pieces/${id}/played?days=${days}`, undefined, signal),
    placeholderData: before => before,
    refetchInterval: 5_000,
  })
}

export function useSplit(id: string) {
  const site = useSite().id
  return useQuery({
    queryKey: ['split', site, id],
    queryFn: ({ signal }) => api<SplitResult>('GET', `/sites/${site}/pieces/${id}/split`, undefined, signal),
    refetchInterval: 5_000,
  })
}

export const useFacts = () => useQuery({ queryKey: ['facts'], queryFn: () => api<FactBook>('GET', '/facts'), staleTime: Infinity })

export function usePictures() {
  const site = useSite().id
  return useQuery({ queryKey: ['pictures', site], queryFn: () => api<PictureInfo[]>('GET', `/sites/${site}/pictures`) })
}

/** What visitors answered, page by page. */
export function useAnswers(id: string, query: Record<string, string>) {
  const site = useSite().id
  return useInfiniteQuery({
    queryKey: ['answers', site, id, query],
    queryFn: ({ pageParam, signal }) =>
      api<AnswerTable>('GET', `/sites/${site}/pieces/${id}/answers?${new URLSearchParams({ ...query, from: pageParam })}`, undefined, signal),
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
  const query = new URLSearchParams({ ...filter, after })
  return useQuery({
    queryKey: ['people', site, filter, after],
    queryFn: ({ signal }) => api<LeadPage>('GET', `/sites/${site}/people?${query}`, undefined, signal),
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
  return useQuery({ queryKey: ['templates', site], queryFn: () => api<TemplateList>('GET', `/sites/${site}/templates`), staleTime: 60_000 })
}

export function useVersions(id: string) {
  const site = useSite().id
  return useQuery({
    queryKey: ['versions', site, id],
    queryFn: ({ signal }) => api<VersionInfo[]>('GET', `/sites/${site}/pieces/${id}/versions`, undefined, signal),
    gcTime: 0,
    staleTime: 0,
  })
}

export function useFiles() {
  const site = useSite().id
  return useQuery({ queryKey: ['files', site], queryFn: () => api<FileInfo[]>('GET', `/sites/${site}/files`) })
}

export function useSnippets() {
  const site = useSite().id
  return useQuery({ queryKey: ['snippets', site], queryFn: () => api<SnippetInfo[]>('GET', `/sites/${site}/snippets`), staleTime: 60_000 })
}

export function usePools() {
  const site = useSite().id
  return useQuery({ queryKey: ['pools', site], queryFn: () => api<PoolInfo[]>('GET', `/sites/${site}/pools`) })
}

/** The codes of a pool with who has which, page by page. */
export function usePoolCodes(pool: string, search: string) {
  const site = useSite().id
  return useInfiniteQuery({
    queryKey: ['codes', site, pool, search],
    queryFn: ({ pageParam, signal }) =>
      api<CodePage>('GET', `/sites/${site}/pools/${pool}/codes?${new URLSearchParams({ q: search, after: pageParam })}`, undefined, signal),
    initialPageParam: '',
    getNextPageParam: last => last.next || undefined,
    placeholderData: before => before,
  })
}

export function useKitUses() {
  const site = useSite().id
  return useQuery({ queryKey: ['kit-uses', site], queryFn: () => api<KitUse[]>('GET', `/sites/${site}/kit/uses`) })
}

/** What a reach would have done on recorded visits. Asked anew as it changes; what is overtaken is given up. */
export function useRehearsal(draft: ReachDraft | null, days: number) {
  const site = useSite().id
  return useQuery({
    queryKey: ['rehearsal', site, draft, days],
    queryFn: ({ signal }) => api<Rehearsal>('POST', `/sites/${site}/rehearse`, { ...draft, days }, signal),
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
    queryFn: ({ signal }) => api<ValuesAnswer>('POST', `/sites/${site}/values`, { fact, search, clause: null }, signal),
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
    queryFn: ({ signal }) => api<ValuesAnswer>('POST', `/sites/${site}/values`, { fact: '', search: '', clause }, signal),
    enabled: !!clause,
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: 60_000,
  })
}

export function useReaches() {
  const site = useSite().id
  return useQuery({ queryKey: ['reaches', site], queryFn: () => api<SavedReach[]>('GET', `/sites/${site}/reaches`) })
}

/** Takes in the saved reaches as an answer has them. */
export const setReaches = (site: number, reaches: SavedReach[]) => client.setQueryData(['reaches', site], reaches)

export function useOrder() {
  const site = useSite().id
  return useQuery({ queryKey: ['order', site], queryFn: ({ signal }) => api<Order>('GET', `/sites/${site}/order`, undefined, signal) })
}

export function useVisitors(rule: ReachDraft['rule'], enabled: boolean) {
  const site = useSite().id
  return useQuery({
    queryKey: ['visitors', site, rule],
    queryFn: ({ signal }) => api<RecordedVisitor[]>('POST', `/sites/${site}/visitors`, { rule }, signal),
    enabled,
    placeholderData: keepPreviousData,
    retry: false,
  })
}
