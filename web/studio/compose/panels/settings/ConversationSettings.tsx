import type { Frame } from '../../../../kinds/piece'
import { ChoosePicture } from '../../../library/ChoosePicture'
import { TextButton } from '../../../parts/look/TextButton'
import { changeFrame } from '../../commands/change'
import { Colour, Line, More, Pick, Row } from '../controls/controls'

/** How a conversation looks, and the launcher that opens it. */
export function ConversationSettings({ frame, launcher }: { frame: Frame; launcher: boolean }) {
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
        <Line k="talk.name" label="Name" max={60} optional hint="Name of the speaker" />
        {talk?.picture ? (
          <Row label="Picture">{() => <TextButton onClick={() => set(t => void delete t.picture)}>Use a drawn face</TextButton>}</Row>
        ) : (
          <Pick
            k="talk.face"
            label="Face"
            options={[
              ['', 'Cup'],
              ['leaf', 'Leaf'],
              ['wave', 'Waves'],
              ['sun', 'Sun'],
              ['star', 'Star'],
            ]}
          />
        )}
        <Pick
          k="talk.pace"
          label="Typing pace"
          options={[
            ['', 'None'],
            ['calm', 'Calm'],
            ['brisk', 'Brisk'],
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
