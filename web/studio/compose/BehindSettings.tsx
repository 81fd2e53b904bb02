import type { Behind, Frame } from '../../kinds/piece'
import { ChooseFile } from './ChooseFile'
import { ChoosePicture } from './ChoosePicture'
import { Choice, Colour, Line, Link, Num, Pick, Row } from './controls'
import { Focus } from './Focus'

const nothing = 'nothing'

/** What lies behind the blocks. */
export function BehindSettings({ frame, set }: { frame: Frame; set(how: (f: Frame) => void): void }) {
  const b = frame.behind
  const kind = b?.gradient?.length ? 'gradient' : b?.video !== undefined ? 'video' : b?.picture !== undefined ? 'picture' : nothing
  const change = (how: (b: Behind) => void) =>
    set(f => {
      const next = { ...f.behind }
      how(next)
      f.behind = next
    })
  return (
    <>
      <Choice
        label="Behind it"
        k="behind"
        value={kind}
        options={[
          [nothing, 'the background colour'],
          ['picture', 'a picture'],
          ['gradient', 'a gradient'],
          ['video', 'a video'],
        ]}
        onChange={to =>
          set(f => {
            if (to === nothing) delete f.behind
            else if (to === 'gradient') f.behind = { gradient: ['@accent', '@ink'], angle: 135 }
            else if (to === 'picture') f.behind = { picture: '', side: 'start' }
            else f.behind = { video: '', shade: 30 }
          })
        }
      />
      {kind === 'picture' && <ChoosePicture value={b?.picture ?? ''} onChoose={p => change(n => void (n.picture = p.hash))} />}
      {kind === 'video' && <ChooseFile value={b?.video ?? ''} video onChoose={f => change(n => void (n.video = f.hash))} />}
      {kind === 'gradient' && (
        <>
          {b!.gradient!.map((_, i, all) => (
            <Colour key={i} k={`behind.gradient.${i}`} label={i === 0 ? 'From' : i < all.length - 1 ? 'Over' : 'To'} />
          ))}
          <Row label="">
            {() => (
              <Link
                onClick={() =>
                  change(n => {
                    const [from, ...rest] = n.gradient!
                    n.gradient = rest.length > 1 ? [from, rest[1]] : [from, '@background', rest[0]]
                  })
                }
              >
                {b!.gradient!.length > 2 ? 'Without the one between' : 'A colour between'}
              </Link>
            )}
          </Row>
          <Num k="behind.angle" label="Angle" unit="°" min={0} max={360} />
        </>
      )}
      {(kind === 'picture' || kind === 'video') && (
        <>
          <Pick
            k="behind.side"
            label="Stands"
            options={[
              ['', 'behind everything'],
              ['start', 'beside, at the start'],
              ['end', 'beside, at the end'],
              ['top', 'above'],
            ]}
          />
          {b?.side ? (
            <Num k="behind.share" label="Takes" unit="%" min={15} max={70} usual={42} />
          ) : (
            <Num k="behind.shade" label="Covered by" unit="% colour" min={0} max={95} usual={0} />
          )}
          <Focus k="behind" hash={b?.picture} />
          {kind === 'picture' && <Line k="behind.alt" label="Says, to those who cannot see it" max={500} optional hint="nothing: mere decoration" />}
        </>
      )}
    </>
  )
}
