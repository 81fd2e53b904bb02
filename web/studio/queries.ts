import { keepPreviousData, QueryClient, useInfiniteQuery, useQuery } from '@tanstack/react-query'
import type { Format } from '../kinds/piece'
import type {
  AnswerTable,
  Board,
  DeletedPiece,
  FactBook,
  FileInfo,
  Health,
  KeepsakeInfo,
  KitUse,
  LeadPage,
  Me,
  Order,
  PictureInfo,
  PieceInfo,
  Played,
  PoolInfo,
  ReachDraft,
  RecordedVisitor,
  Rehearsal,
  SavedReach,
  SiteInfo,
  SplitResult,
  StartList,
  TryClause,
  ValuesAnswer,
  VersionInfo,
} from '../kinds/studio'
import { api, Trouble } from './api'

// Everything that comes from the server, and how long it may be taken as it was.

export const client = new QueryClient({
  defaultOptions: { queries: { staleTime: 5_000, retry: (n, e) => n < 3 && e instanceof Trouble && e.away, retryDelay: 1_000 } },
})

export const useMe = () => useQuery({ queryKey: ['me'], queryFn: () => api<Me>('GET', '/me'), staleTime: 60_000 })

/** The site worked on: the account's first, until there are several to choose from. */
export function useSite(): SiteInfo {
  const me = useMe().data
  if (!me?.sites.length) throw new Error('This account has no site.')
  return me.sites[0]
}

export function useBoard() {
  const site = useSite().id
  return useQuery({ queryKey: ['board', site], queryFn: ({ signal }) => api<Board>('GET', `/sites/${site}/board`, undefined, signal), refetchInterval: 5_000 })
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

/** Takes in a site as an answer has it. */
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

export function usePeople(search: string, piece: string, from: string) {
  const site = useSite().id
  const query = new URLSearchParams({ q: search, piece, from })
  return useQuery({
    queryKey: ['people', site, search, piece, from],
    queryFn: ({ signal }) => api<LeadPage>('GET', `/sites/${site}/people?${query}`, undefined, signal),
    refetchInterval: 5_000,
    placeholderData: before => before,
  })
}

/** What each format is called. */
export const formats: Record<Format, string> = {
  popup: 'Popup',
  fly_in: 'Fly-in',
  chat: 'Chat',
  bar: 'Floating bar',
  full: 'Full screen',
  sheet: 'Side sheet',
  inline: 'Inline',
}

/** The starting points, and the frame each format usually has. */
export function useStarts() {
  const site = useSite().id
  return useQuery({ queryKey: ['starts', site], queryFn: () => api<StartList>('GET', `/sites/${site}/starts`), staleTime: 60_000 })
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

export function useKeepsakes() {
  const site = useSite().id
  return useQuery({ queryKey: ['keepsakes', site], queryFn: () => api<KeepsakeInfo[]>('GET', `/sites/${site}/keepsakes`), staleTime: 60_000 })
}

export function usePools() {
  const site = useSite().id
  return useQuery({ queryKey: ['pools', site], queryFn: () => api<PoolInfo[]>('GET', `/sites/${site}/pools`) })
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
