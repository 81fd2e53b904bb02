import type { Button, Deed } from '../../../../kinds/piece'
import { paint } from '../../../../page/paint'
import { leadsTo, leadTo } from '../../../design/graph'
import { sides } from '../../../design/settings'
import { ChooseFile } from '../../../library/ChooseFile'
import { useFault } from '../../../piece/draft'
import { usePieceID, usePieceNames, useSite } from '../../../server/queries'
import { changeBlock, changeScene } from '../../commands/change'
import { useSeen } from '../../commands/view'
import { Choice, Colour, Flag, KitNum, Line, More, Num, Pick, Reads, Rule } from '../controls/controls'
import { Ways } from '../controls/Ways'

const clicks: readonly (readonly [Deed, string])[] = [
  ['send', 'Submit and continue'],
  ['next', 'Continue'],
  ['back', 'Go back'],
  ['open', 'Open a link'],
  ['file', 'Download a file'],
  ['close', 'Close'],
  ['never', 'Close and never show again'],
  ['copy', 'Copy text'],
  ['scroll', 'Scroll to an element'],
  ['piece', 'Open another piece'],
  ['mail', 'Write an email'],
  ['call', 'Call a number'],
]

/** What a button does, and how it looks. */
export function ButtonSettings({ block, at }: { block: Button; at: string }) {
  const { design, scene } = useSeen()
  const { kit } = useSite()
  const fileFault = useFault(`${at}.press.file`)
  const set = (how: (b: Button) => void) => changeBlock(block.id, how)
  const { press } = block
  const { frame } = design
  const thanks = design.scenes.find(s => s.kind === 'thanks' && s.id !== scene.id)
  const following = design.scenes[design.scenes.findIndex(s => s.id === scene.id) + 1]
  const fill = block.fill || frame.accent
  const plainly = block.quiet || block.line
  const words = block.ink || (block.quiet ? frame.ink : block.line ? frame.accent : frame.accent_ink)
  const begin = (does: Deed): Button['press'] => {
    switch (does) {
      case 'open':
        return { do: does, address: '/' }
      case 'mail':
        return { do: does, address: 'hello@example.com' }
      case 'call':
        return { do: does, address: '+353 555 0100' }
      case 'copy':
        return { do: does, text: 'WELCOME10' }
      case 'scroll':
        return { do: does, target: 'main' }
      default:
        return { do: does }
    }
  }
  return (
    <>
      <Line k="words" label="Text" max={200} />
      <Choice
        label="On click"
        value={press.do}
        options={clicks}
        onChange={does => {
          const goes = does === 'send' || does === 'next'
          set(b => void (b.press = JSON.parse(JSON.stringify(begin(does)))))
          // A button that continues leads somewhere from the start; any other leads nowhere.
          if (!goes) changeScene(s => leadTo(s, block.id, ''))
          else if (!leadsTo(scene, block.id)) changeScene(s => leadTo(s, block.id, (does === 'send' && thanks?.id) || following?.id || ''))
        }}
        at={`${at}.press.do`}
      />
      {(press.do === 'send' || press.do === 'next') && <Ways block={block.id} label="Next scene" />}
      {press.do === 'open' && (
        <>
          <Line k="press.address" label="Link" max={2000} tidy={w => w.trim()} />
          <Flag k="press.new_tab" label="New tab" />
          <Flag k="press.carry" label="Add answers to the link" />
        </>
      )}
      {press.do === 'mail' && <Line k="press.address" label="To" max={254} tidy={w => w.trim()} />}
      {press.do === 'call' && <Line k="press.address" label="Number" max={40} />}
      {press.do === 'copy' && <Line k="press.text" label="Text to copy" max={2000} />}
      {press.do === 'scroll' && <Line k="press.target" label="Element" max={500} hint="#prices" />}
      {press.do === 'piece' && (
        <OtherPiece value={press.piece ?? ''} at={`${at}.press.piece`} onChange={id => set(b => void (b.press = { do: 'piece', piece: id }))} />
      )}
      {press.do === 'file' && (
        <ChooseFile
          value={press.file ?? ''}
          fault={fileFault}
          onChoose={f => set(b => void (b.press = { do: 'file', file: f.hash, file_name: f.name.slice(0, 200) }))}
        />
      )}
      <Flag k="counts" label="Counts as conversion" />
      <Rule />
      <Choice
        label="Style"
        k="quiet"
        value={block.quiet ? 'quiet' : block.line ? 'line' : 'fill'}
        options={[
          ['fill', 'Filled'],
          ['line', 'Outline'],
          ['quiet', 'Text link'],
        ]}
        onChange={to =>
          set(b => {
            b.quiet = to === 'quiet'
            if (to === 'line') b.line = true
            else delete b.line
          })
        }
      />
      {!plainly && <Colour k="fill" label="Background" usual={frame.accent} />}
      <Colour k="ink" label="Text colour" usual={block.quiet ? frame.ink : block.line ? frame.accent : frame.accent_ink} />
      {!block.quiet && <Colour k="hover" label="Hover" usual={fill} />}
      <Reads ink={paint(kit, words)} behind={paint(kit, plainly ? frame.background : fill)} />
      {!block.quiet && (
        <>
          <Choice
            label="Width"
            k="narrow"
            value={block.narrow ? 'narrow' : ''}
            options={[
              ['', 'Full width'],
              ['narrow', 'Fit to text'],
            ]}
            onChange={to =>
              set(b => {
                if (to) b.narrow = true
                else delete b.narrow
              })
            }
          />
          <KitNum k="corners" label="Corners" min={0} max={64} kit={kit.button.corners} by={undefined} />
        </>
      )}
      {(block.narrow || block.quiet) && (
        <Pick k="align" label="Align" options={[['', block.quiet ? 'Default (centre)' : 'Default (left)'] as const, ...sides]} />
      )}
      <More name="Size and animation">
        <Num k="size" label="Size" unit="px" min={12} max={32} usual={16} />
        <Pick
          k="stir"
          label="Attention animation"
          options={[
            ['', 'None'],
            ['pulse', 'Pulse'],
            ['nudge', 'Wiggle'],
            ['shine', 'Shine'],
          ]}
        />
      </More>
    </>
  )
}

function OtherPiece({ value, at, onChange }: { value: string; at: string; onChange(id: string): void }) {
  const names = usePieceNames().data ?? []
  const own = usePieceID()
  return (
    <Choice
      label="Piece"
      value={value}
      options={[['', 'Choose a piece'], ...names.filter(p => p.id !== own).map(p => [p.id, p.name] as const)]}
      onChange={onChange}
      at={at}
    />
  )
}
