import { createContext, useContext } from 'react'

// An upload takes a while, and ends where it began, whatever is on the screen by
// then. A screen on which pictures and files are chosen says how it remembers.

/** Remembers where one is; what it gives runs a change there, and says whether there is still such a place. */
export type Remember = () => (run: () => void) => boolean

export const LandingContext = createContext<Remember>(() => run => {
  run()
  return true
})

export const useRemember = () => useContext(LandingContext)

export const nowhere = 'What it was uploaded for is gone. It is in the library.'
