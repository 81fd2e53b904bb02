/** @jsxImportSource preact */
import type { Say } from './words'

// Videos that play by themselves, without sound and without end. They can be paused,
// and stand still where less motion is asked for until someone has them play.

const calm = () => matchMedia('(prefers-reduced-motion: reduce)').matches

interface Props {
  src: string
  still: boolean
  label?: string
  style?: Record<string, string | undefined>
}

export const Looping = ({ src, still, label, style }: Props) => (
  <video src={src} aria-label={label} autoPlay={!still && !calm()} muted loop playsInline preload="metadata" tabIndex={-1} style={style} />
)

/** Pauses the first video beside it, and has it play again. */
export function Pause({ say }: { say: Say }) {
  const shows = (button: HTMLElement, plays: boolean) => {
    button.setAttribute('aria-label', plays ? say('pause', 'Pause') : say('play', 'Play'))
    button.textContent = plays ? '❚❚' : '▶'
  }
  return (
    <button
      type="button"
      class="pause"
      ref={e => {
        if (e && !e.textContent) shows(e, !calm())
      }}
      onClick={e => {
        const video = e.currentTarget.parentElement!.querySelector('video')!
        const plays = video.paused
        if (plays) video.play().catch(() => {})
        else video.pause()
        shows(e.currentTarget, plays)
      }}
    />
  )
}
