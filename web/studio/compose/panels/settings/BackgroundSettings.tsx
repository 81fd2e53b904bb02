import type { Behind, Frame } from '../../../../kinds/piece'
import { ChooseFile } from '../../../library/ChooseFile'
import { ChoosePicture } from '../../../library/ChoosePicture'
import { TextButton } from '../../../parts/look/TextButton'
import { Choice, Colour, Line, Num, Pick, Row } from '../controls/controls'
import { FocalPoint } from './FocalPoint'

const nothing = 'nothing'

/** The background behind the blocks. */
export function BackgroundSettings({ frame, set }: { frame: Frame; set(how: (f: Frame) => void): void }) {
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
        label="Background"
        k="behind"
        value={kind}
        options={[
          [nothing, 'Colour only'],
          ['picture', 'Picture'],
          ['gradient', 'Gradient'],
          ['video', 'Video'],
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
            <Colour key={i} k={`behind.gradient.${i}`} label={i === 0 ? 'From' : i < all.length - 1 ? 'Through' : 'To'} />
          ))}
          <Row label="">
            {() => (
              <TextButton
                onClick={() =>
                  change(n => {
                    const [from, ...rest] = n.gradient!
                    n.gradient = rest.length > 1 ? [from, rest[1]] : [from, '@background', rest[0]]
                  })
                }
              >
                {b!.gradient!.length > 2 ? 'Remove the middle colour' : 'Add a middle colour'}
              </TextButton>
            )}
          </Row>
          <Num k="behind.angle" label="Angle" unit="°" min={0} max={360} />
        </>
      )}
      {(kind === 'picture' || kind === 'video') && (
        <>
          <Pick
            k="behind.side"
            label="Position"
            options={[
              ['', 'Behind the blocks'],
              ['start', 'On the left'],
              ['end', 'On the right'],
              ['top', 'At the top'],
            ]}
          />
          {b?.side ? (
            <Num k="behind.share" label="Size" unit="%" min={15} max={70} usual={42} />
          ) : (
            <Num k="behind.shade" label="Colour overlay" unit="%" min={0} max={95} usual={0} />
          )}
          <FocalPoint k="behind" hash={b?.picture} />
          {kind === 'picture' && <Line k="behind.alt" label="Alt text" max={500} optional hint="empty: decorative" />}
        </>
      )}
    </>
  )
}
