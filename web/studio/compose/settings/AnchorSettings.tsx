import Button from '@mui/material/Button'
import type { Frame } from '../../../kinds/piece'
import { usePicking } from '../../parts/Picking'
import { TextButton } from '../../parts/TextButton'
import { usePieceID } from '../../queries'
import { changeFrame } from '../view'
import { Line, Muted, Pick, Row } from './controls'

/** The position of an inline piece in the page. */
export function AnchorSettings({ frame }: { frame: Frame }) {
  const picking = usePicking(s => s.pick)
  const piece = usePieceID()
  return (
    <>
      <Row label="Position in the page" k="anchor" wide>
        {() =>
          frame.anchor?.selector ? (
            <Muted>
              Beside <code>{frame.anchor.selector}</code>. <TextButton onClick={() => changeFrame(f => void delete f.anchor)}>Use a placeholder</TextButton>
            </Muted>
          ) : (
            <Muted>
              Put <code>{`<div data-gobbet="${piece}"></div>`}</code> into the page, or choose an element.
            </Muted>
          )
        }
      </Row>
      <Row label="">
        {() => (
          <Button variant="outlined" size="small" aria-pressed={picking} onClick={() => usePicking.setState({ pick: !picking })}>
            Choose an element on the page
          </Button>
        )}
      </Row>
      {frame.anchor?.selector && (
        <>
          <Line k="anchor.selector" label="Selector" max={500} />
          <Pick
            k="anchor.where"
            label="Position"
            options={[
              ['', 'After the element'],
              ['before', 'Before the element'],
              ['first', 'Inside, at the start'],
              ['last', 'Inside, at the end'],
            ]}
          />
        </>
      )}
    </>
  )
}
