import { QueryClient, useQuery } from '@tanstack/react-query'
import type { Board, FactBook, LeadPage, Me, PictureInfo, PieceInfo, SiteInfo, SplitResult } from '../kinds/studio'
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

export function usePiece(id: string) {
  const site = useSite().id
  return useQuery({
    queryKey: ['piece', site, id],
    queryFn: () => api<PieceInfo>('GET', `/sites/${site}/pieces/${id}`),
    staleTime: Infinity,
    refetchOnWindowFocus: false,
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
