/** @jsxImportSource preact */
import type { Video } from '../kinds/piece'
import type { Say } from './words'

// Videos that play by themselves, without sound and without end. They can be paused,
// and stand still where less motion is asked for until someone has them play.

const calm = () => matchMedia('(prefers-reduced-motion: reduce)').matches

/** Gives a video its captions. A file of them would need the page's leave to be fetched. */
export function caption(video: HTMLVideoElement | null, cues: Video['cues']) {
  if (!video || !cues || video.textTracks.length) return
  const track = video.addTextTrack('captions', '', document.documentElement.lang)
  // A cue's text is markup of its own kind.
  for (const { from, to, text } of cues) track.addCue(new VTTCue(from, to, text.replace(/&/g, '&amp;').replace(/</g, '&lt;')))
  track.mode = 'showing'
}

interface Props {
  src: string
  cues?: Video['cues']
  still: boolean
  label?: string
  style?: Record<string, string | undefined>
}

export const Looping = ({ src, cues, still, label, style }: Props) => (
  <video
    ref={e => caption(e, cues)}
    src={src}
    aria-label={label}
    autoPlay={!still && !calm()}
    muted
    loop
    playsInline
    preload="metadata"
    tabIndex={-1}
    style={style}
  />
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
