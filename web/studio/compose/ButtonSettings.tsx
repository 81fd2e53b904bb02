import type { Button, Deed } from '../../kinds/piece'
import { paint } from '../../page/paint'
import { useFault } from '../bench/draft'
import { useBoard, useSite } from '../queries'
import { ChooseFile } from './ChooseFile'
import { Choice, Colour, Flag, KitNum, Line, More, Num, Pick, Reads, Rule, sides } from './controls'
import { leadsTo, leadTo } from './scenes'
import { changeBlock, changeScene, useSeen } from './view'
import { Ways } from './Ways'

const deeds: readonly (readonly [Deed, string])[] = [
  ['send', 'goes on, with the answers'],
  ['next', 'goes on, without answers'],
  ['back', 'goes back a scene'],
  ['open', 'opens an address'],
  ['file', 'hands out a file'],
  ['close', 'closes it'],
  ['never', 'closes it for good'],
  ['copy', 'copies something'],
  ['scroll', 'scrolls the page to'],
  ['piece', 'opens another piece'],
  ['mail', 'writes a mail'],
  ['call', 'calls a number'],
]

/** What a button does, and how it is drawn. */
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
      <Line k="words" label="Words" max={200} />
      <Choice
        label="Pressing it"
        value={press.do}
        options={deeds}
        onChange={does => {
          const goes = does === 'send' || does === 'next'
          set(b => void (b.press = JSON.parse(JSON.stringify(begin(does)))))
          // What goes on goes somewhere from the start; what does not, nowhere.
          if (!goes) changeScene(s => leadTo(s, block.id, ''))
          else if (!leadsTo(scene, block.id)) changeScene(s => leadTo(s, block.id, (does === 'send' && thanks?.id) || following?.id || ''))
        }}
        at={`${at}.press.do`}
      />
      {(press.do === 'send' || press.do === 'next') && <Ways block={block.id} label={press.do === 'send' ? 'Then' : 'Goes to'} />}
      {press.do === 'open' && (
        <>
          <Line k="press.address" label="Address" max={2000} tidy={w => w.trim()} />
          <Flag k="press.new_tab" label="In a new tab" />
          <Flag k="press.carry" label="With the answers" />
        </>
      )}
      {press.do === 'mail' && <Line k="press.address" label="To" max={254} tidy={w => w.trim()} />}
      {press.do === 'call' && <Line k="press.address" label="Number" max={40} />}
      {press.do === 'copy' && <Line k="press.text" label="Copies" max={2000} />}
      {press.do === 'scroll' && <Line k="press.target" label="To the element" max={500} hint="#prices" />}
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
      <Flag k="counts" label="Is the conversion" />
      <Rule />
      <Choice
        label="Drawn as"
        k="quiet"
        value={block.quiet ? 'quiet' : block.line ? 'line' : 'fill'}
        options={[
          ['fill', 'a filled button'],
          ['line', 'an outline'],
          ['quiet', 'plain words'],
        ]}
        onChange={to =>
          set(b => {
            b.quiet = to === 'quiet'
            if (to === 'line') b.line = true
            else delete b.line
          })
        }
      />
      {!plainly && <Colour k="fill" label="Fill" usual={frame.accent} />}
      <Colour k="ink" label="Words' colour" usual={block.quiet ? frame.ink : block.line ? frame.accent : frame.accent_ink} />
      {!block.quiet && <Colour k="hover" label="Under pointer" usual={fill} />}
      <Reads ink={paint(kit, words)} behind={paint(kit, plainly ? frame.background : fill)} />
      {!block.quiet && (
        <>
          <Choice
            label="Width"
            k="narrow"
            value={block.narrow ? 'narrow' : ''}
            options={[
              ['', 'as wide as the fields'],
              ['narrow', 'as wide as its words'],
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
      {(block.narrow || block.quiet) && <Pick k="align" label="Stands" options={[['', block.quiet ? 'in the middle' : 'at the start'] as const, ...sides]} />}
      <More name="Size and movement">
        <Num k="size" label="Size" unit="px" min={12} max={32} usual={16} />
        <Pick
          k="stir"
          label="Draws the eye"
          options={[
            ['', 'no'],
            ['pulse', 'by a pulse'],
            ['nudge', 'by a nudge'],
            ['shine', 'by a shine'],
          ]}
        />
      </More>
    </>
  )
}

function OtherPiece({ value, at, onChange }: { value: string; at: string; onChange(id: string): void }) {
  const cards = useBoard().data?.cards ?? []
  const own = location.pathname.split('/')[2]
  return (
    <Choice
      label="Opens"
      value={value}
      options={[['', 'choose one'], ...cards.filter(c => c.id !== own).map(c => [c.id, c.name] as const)]}
      onChange={onChange}
      at={at}
    />
  )
}
