import { useSearchParams } from 'react-router'

/** Changes what an address asks; an empty value takes it out. */
export type Ask = (change: Record<string, string>, how?: { replace: boolean }) => void

/**
 * What the address asks of a screen, such as its filters. Changes are made of
 * the address as it is, not as the screen was last drawn: of two quick ones
 * neither is lost.
 */
export function useAsked(): [URLSearchParams, Ask, clear: () => void] {
  const [asked, setAsked] = useSearchParams()
  const ask: Ask = (change, how) => {
    const next = new URLSearchParams(location.search)
    for (const [key, value] of Object.entries(change)) value ? next.set(key, value) : next.delete(key)
    setAsked(next, how)
  }
  return [asked, ask, () => setAsked({}, { replace: true })]
}
