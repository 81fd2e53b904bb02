import type { Block, Button, Scene } from '../kinds/piece'
import { fill } from './fill'
import { flat } from './paint'
import type { DrawnPiece } from './piece'
import { type WalkEvent, walkOn } from './walk'
import { fieldsOf, shows } from './walkState'
import { plain } from './words'

// What visitors do in a piece, and what becomes of it: fetched once they may do
// something. Until then a piece keeps what they do.

const apart = 12 // px between a piece and what has the keyboard beside it
const heard = 8000 // ms until what was told has been heard

/** What is done in one piece, from when its script is here. */
export class Acts {
  /** The keyboard was in the scene that is left. */
  private held = false
  private walker: ReturnType<typeof walkOn>

  constructor(private piece: DrawnPiece) {
    const { host, drawing } = piece.props
    this.walker = walkOn(piece.walk, drawing, piece.phone, {
      advance: host.advance,
      lasts: host.lasts,
      say: piece.say,
      language: piece.language,
      changed: (state, moved) => {
        piece.walk = state
        this.changed(moved)
      },
      happened: what => {
        if (what === 'end') return piece.end('done')
        if (what === 'seeFault') return piece.setState({}, () => piece.hold.current?.querySelector<HTMLElement>('[aria-invalid]')?.focus())
        // The server counts this conversion itself, with the answers.
        piece.done = true
        host.converted(true)
      },
    })
    if (host.resumed) this.tell({ is: 'resumed', ...host.resumed })
  }

  tell(e: WalkEvent) {
    if (e.is === 'left' || e.is === 'wentBack') this.held = this.piece.keyboard.inside
    this.walker.tell(e)
  }

  /** Leaves the scene by a block. */
  leave(press: string, takes: boolean, late: boolean | undefined, at: number) {
    const { piece } = this
    const by = flat(piece.scene.blocks).find(b => b.id === (press || piece.sender?.id))
    const counts = takes && !!by && 'counts' in by && by.counts
    const hidden = fieldsOf(piece.scene, piece.phone).filter(f => f.ask === 'hidden')
    const found = Object.fromEntries(hidden.map(f => [f.key, this.found(f.from ?? '')]))
    this.tell({ is: 'left', press, takes, late, counts, hidden: found, at })
  }

  /** What a hidden field asks for: query.NAME, data.NAME or path. */
  private found(from: string): string {
    const { data } = this.piece.props.host
    if (!data) return ''
    const [kind, name] = from.split(/\.(.*)/s)
    const is = kind === 'path' ? location.pathname : kind === 'query' ? new URLSearchParams(location.search).get(name) : data[name]
    return String(is ?? '').slice(0, 500)
  }

  /** Does what a button is for, where that is more than to close or to lead away. */
  press({ id, press }: Button, at: number) {
    const { piece } = this
    switch (press.do) {
      case 'next':
        return this.leave(id, false, undefined, at)
      case 'back':
        return this.tell({ is: 'wentBack', at })
      case 'copy':
        return void navigator.clipboard?.writeText(press.text ?? '').catch(() => {})
      case 'scroll':
        piece.close()
        try {
          document.querySelector(press.target!)?.scrollIntoView({ behavior: 'smooth', block: 'start' })
        } catch {}
        return
      case 'piece':
        piece.end('done')
        piece.props.host.other?.(press.piece!)
    }
  }

  private changed(moved: boolean) {
    const { piece } = this
    const { keyboard, talking, scene, walk } = piece
    // What comes by itself does not take the keyboard from the page.
    const moves = moved && !talking && (piece.modal || this.held || keyboard.inside)
    if (moved && piece.up && !talking) this.announce(this.wordsOf(scene))
    if (moved) this.held = false
    const marks = walk.doing === 'telling' ? piece.parts.play?.saidOf(walk.marks, piece.say) : ''
    if (marks) this.announce(marks)
    piece.setState({}, () => {
      if (!moved) return
      keyboard.top()
      const hold = piece.hold.current
      if (moves) (hold?.querySelector<HTMLElement>('.scene') ?? hold)?.focus({ preventScroll: true })
    })
  }

  /** Tells those who hear what is new. */
  announce(text: string) {
    const { piece } = this
    const last = piece.told.at(-1)
    if (!text || last?.text === text) return
    const one = { text, key: (last?.key ?? 0) + 1 }
    piece.told = [...piece.told, one].slice(-3)
    // Once it was heard it is not met again by those who read on.
    setTimeout(() => {
      piece.told = piece.told.filter(t => t !== one)
      if (piece.up) piece.setState({})
    }, heard)
  }

  /** What a scene says. */
  private wordsOf(scene: Scene): string {
    const { said, phone } = this.piece.surroundings()
    const words = (b: Block) => ((b.kind === 'heading' || b.kind === 'text') && shows(b, phone) ? [fill(plain(b.text), said)] : [])
    return flat(scene.blocks).flatMap(words).join(' ')
  }

  /** Moves the page, where the piece hides wholly what the page has the keyboard in. */
  uncover(what: Element) {
    const mine = this.piece.hold.current?.getBoundingClientRect()
    const its = what.getBoundingClientRect()
    if (!mine || its.left < mine.left || its.right > mine.right || its.top < mine.top || its.bottom > mine.bottom) return
    const below = mine.top > innerHeight - mine.bottom
    scrollBy(0, below ? its.bottom - mine.top + apart : its.top - mine.bottom - apart)
  }

  /** Nobody looks on any more. */
  stop() {
    this.walker.stop()
  }
}
