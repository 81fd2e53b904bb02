// Where the keyboard is while a piece stands on the page: where it goes when the
// piece opens and its scene changes, how it gets round in it, and back.

const controls = 'a[href], button, input, select, textarea, video[controls], iframe'

/** What the keyboard needs to know of a piece. */
export interface Held {
  /** The element that holds it, once it is drawn. */
  hold(): HTMLElement | null
  /** The page waits for it. */
  modal(): boolean
  /** It lies over the page, which goes on. */
  over(): boolean
  /** The page has the keyboard in something that may lie beneath. */
  beside(what: Element): void
  close(): void
}

/** What the keyboard can be in, in order. */
export const stops = (hold: HTMLElement | null) =>
  [...(hold?.querySelectorAll<HTMLElement>(controls) ?? [])].filter(e => !(e as HTMLButtonElement).disabled && e.getClientRects().length)

// Those that are up, the last that came last.
const up: Keyboard[] = []

export class Keyboard {
  /** What the page had before. */
  private before = document.activeElement as HTMLElement | null
  private listening?: AbortController

  constructor(private piece: Held) {}

  private get root() {
    return this.piece.hold()?.getRootNode() as ShadowRoot | undefined
  }

  /** Whether the piece is up. */
  get up() {
    return up.includes(this)
  }

  /** Whether it is in the piece. */
  get inside() {
    return !!this.root?.activeElement
  }

  /** The piece is up. */
  opens() {
    up.push(this)
    this.listening = new AbortController()
    const { signal } = this.listening
    const escape = (e: KeyboardEvent) => e.key === 'Escape' && !e.isComposing
    document.addEventListener(
      'keydown',
      e => {
        if (escape(e) && (this.piece.modal() || this.inside)) this.closes(e)
      },
      { capture: true, signal },
    )
    // From the page it closes the last that came, unless the page has a use for it.
    window.addEventListener(
      'keydown',
      e => {
        if (escape(e) && !e.defaultPrevented && up.findLast(one => one.piece.over()) === this) this.closes(e)
      },
      { signal },
    )
    document.addEventListener('focusin', e => this.moved(e), { signal })
    if (this.piece.modal()) this.first()
  }

  private closes(e: KeyboardEvent) {
    e.stopImmediatePropagation()
    // An input method's Escape is its own; anything else of the browser's is not wanted.
    e.preventDefault()
    this.piece.close()
  }

  private moved({ target, relatedTarget }: FocusEvent) {
    const host = this.root?.host
    if (target === host) {
      if (relatedTarget instanceof HTMLElement && relatedTarget !== host) this.before = relatedTarget
      return
    }
    // What lies over the page never hides wholly what the page has the keyboard in.
    if (this.piece.over() && target instanceof Element) this.piece.beside(target)
  }

  /** Goes to the close button of a piece that opens, or to its first control; and the piece is read from its top. */
  first() {
    const hold = this.piece.hold()
    const to = hold?.querySelector<HTMLElement>('[data-close]') ?? stops(hold)[0] ?? hold
    to?.focus({ preventScroll: true })
    this.top()
  }

  /** Has the piece seen from its top. */
  top() {
    this.piece.hold()?.querySelector('.frame')?.scrollTo(0, 0)
  }

  /** The piece is up no more. Gives whether the keyboard was in it. */
  closed(): boolean {
    const had = this.piece.modal() || this.inside
    this.listening?.abort()
    const at = up.indexOf(this)
    if (at >= 0) up.splice(at, 1)
    return had
  }

  /** Gives the page back what it had. */
  back() {
    if (this.before?.isConnected) this.before.focus({ preventScroll: true })
  }
}
