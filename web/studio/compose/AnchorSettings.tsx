import Button from '@mui/material/Button'
import type { Frame } from '../../kinds/piece'
import { Line, Link, Muted, Pick, Row } from './controls'
import { usePicking } from './picking'
import { changeFrame } from './view'

/** Where in the page an inline piece stands. */
export function AnchorSettings({ frame }: { frame: Frame }) {
  const picking = usePicking(s => s.pick)
  const piece = location.pathname.split('/')[2] ?? ''
  return (
    <>
      <Row label="In the page" k="anchor" wide>
        {() =>
          frame.anchor?.selector ? (
            <Muted>
              Beside <code>{frame.anchor.selector}</code>. <Link onClick={() => changeFrame(f => void delete f.anchor)}>Use a placeholder instead</Link>
            </Muted>
          ) : (
            <Muted>
              Where the page has <code>{`<div data-gobbet="${piece}"></div>`}</code>.
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
            label="Stands"
            options={[
              ['', 'after it'],
              ['before', 'before it'],
              ['first', 'in it, first'],
              ['last', 'in it, last'],
            ]}
          />
        </>
      )}
    </>
  )
}
