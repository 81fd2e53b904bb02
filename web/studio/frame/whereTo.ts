/** The address of the sign-in for who wants to go to a place of the studio. */
export const signInFor = (place: string) => `/sign-in?to=${encodeURIComponent(place)}`

/** Where one goes once signed in: the place that was asked for, if it is one of the studio's, or the first screen. */
export function whereTo({ search, origin, hash }: Pick<Location, 'search' | 'origin' | 'hash'>): string {
  const asked = new URLSearchParams(search).get('to') ?? ''
  if (!asked.startsWith('/')) return '/'
  try {
    const to = new URL(asked, origin)
    // What the server led here keeps its hash, of which the server knows nothing.
    return to.origin === origin && to.pathname !== '/sign-in' ? to.pathname + to.search + (to.hash || hash) : '/'
  } catch {
    return '/'
  }
}
