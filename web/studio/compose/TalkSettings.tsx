import type { Frame } from '../../kinds/piece'
import { ChoosePicture } from './ChoosePicture'
import { Colour, Line, Link, More, Pick, Row } from './controls'
import { changeFrame } from './view'

/** How a conversation is drawn, and the launcher it waits behind. */
export function TalkSettings({ frame, launcher }: { frame: Frame; launcher: boolean }) {
  const { talk } = frame
  const set = (how: (t: NonNullable<Frame['talk']>) => void) => changeFrame(f => how((f.talk ??= {})))
  return (
    <>
      {launcher && (
        <More name="Launcher" open>
          <Line k="tab.words" label="Teaser" max={60} hint="Which one suits you?" />
          <Colour k="tab.fill" label="Background" usual={frame.accent} />
          <Colour k="tab.ink" label="Text" usual={frame.accent_ink} />
        </More>
      )}
      <More name="Conversation" open>
        <Line k="talk.name" label="Name" max={60} optional hint="Who speaks" />
        {talk?.picture ? (
          <Row label="Picture">{() => <Link onClick={() => set(t => void delete t.picture)}>Use a drawn face instead</Link>}</Row>
        ) : (
          <Pick
            k="talk.face"
            label="Face"
            options={[
              ['', 'a cup'],
              ['leaf', 'a leaf'],
              ['wave', 'waves'],
              ['sun', 'a sun'],
              ['star', 'a star'],
            ]}
          />
        )}
        <Pick
          k="talk.pace"
          label="Typing pace"
          options={[
            ['', 'none'],
            ['calm', 'calm'],
            ['brisk', 'brisk'],
          ]}
        />
        <Line k="talk.hint" label="Placeholder" max={100} optional hint="Or type an answer…" />
      </More>
      <More name="Own picture">
        <ChoosePicture value={talk?.picture ?? ''} onChoose={p => set(t => void (t.picture = p.hash))} fault={undefined} />
      </More>
    </>
  )
}
