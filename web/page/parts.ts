// The parts of the page script, each fetched when it is needed, and what each gives.

/** Parts that only some pieces need, by the names by which drawings ask for them. */
export interface PieceParts {
  extras: typeof import('./extras')
  play: typeof import('./play')
  draw: typeof import('./draw')
  chat: typeof import('./chat')
  frames: typeof import('./frames')
}

/** All parts that are fetched after the first. */
export interface Parts extends PieceParts {
  watcher: typeof import('./watcher')
  renderer: typeof import('./renderer')
  /** What visitors do in a piece, and the walk that it takes on. */
  walk: typeof import('./acts')
  sending: typeof import('./sending')
  clicks: typeof import('./clicks')
  links: typeof import('./links')
  cost: typeof import('./cost')
}
