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

  private stops() {
    const all = [...(this.piece.hold()?.querySelectorAll<HTMLElement>(controls) ?? [])]
    return all.filter(e => !(e as HTMLButtonElement).disabled && e.getClientRects().length)
  }

  /** Goes to the close button of a piece that opens, or to its first control; and the piece is read from its top. */
  first() {
    const hold = this.piece.hold()
    const to = hold?.querySelector<HTMLElement>('[data-close]') ?? this.stops()[0] ?? hold
    to?.focus({ preventScroll: true })
    this.top()
  }

  /** Has the piece seen from its top. */
  top() {
    this.piece.hold()?.querySelector('.frame')?.scrollTo(0, 0)
  }

  /** Beyond the last stop of a dialog comes the first, and before the first the last. */
  around(first: boolean) {
    // The browser itself goes there as the dialog opens.
    if (!up.includes(this)) return
    const all = this.stops()
    const to = (first ? all[0] : all.at(-1)) ?? this.piece.hold()
    // Of the choices of a group the one that is taken stands for all.
    const taken = to instanceof HTMLInputElement && to.type === 'radio' && all.find(e => e instanceof HTMLInputElement && e.name === to.name && e.checked)
    ;(taken || to)?.focus()
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
