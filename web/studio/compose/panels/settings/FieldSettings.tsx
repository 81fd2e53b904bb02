import { current, isDraft } from 'immer'
import type { Field } from '../../../../kinds/piece'
import { askedOf, asks, chooses, keyFor } from '../../../design/blocks'
import { flat, keysOf } from '../../../design/tree'
import { useDraft } from '../../../piece/draft'
import { usePiece } from '../../../server/queries'
import { changeBlock } from '../../commands/change'
import { useSeen } from '../../commands/view'
import { Choice, Flag, Line, More, Num, Pick, Row, Typed } from '../controls/controls'
import { Ways } from '../controls/Ways'
import { Choices } from './Choices'

const bounds: Partial<Record<Field['ask'], [string, string]>> = {
  number: ['Minimum', 'Maximum'],
  date: ['From', 'To'],
  text: ['Minimum length', 'Maximum length'],
  long: ['Minimum length', 'Maximum length'],
  choices: ['Minimum choices', 'Maximum choices'],
  slider: ['Minimum', 'Maximum'],
}

/** What a draft holds, as plain values. */
const plainly = <T extends object>(x: T): T => (isDraft(x) ? (current(x as never) as T) : x)

/** What a field asks for, and which answers it accepts. */
export function FieldSettings({ block, at }: { block: Field; at: string }) {
  const { design } = useSeen()
  const set = (how: (b: Field) => void) => changeBlock(block.id, how)
  const others = keysOf(design.scenes).filter(key => key !== block.key)
  const info = usePiece(useDraft(s => s.id)).data
  const collected = !!info?.live?.split.variants.some(v => v.design.scenes.some(s => flat(s.blocks).some(b => b.kind === 'field' && b.key === block.key)))
  const typed = ['text', 'long', 'phone', 'email', 'name'].includes(block.ask)
  return (
    <>
      <Choice
        label="Field type"
        value={block.ask}
        options={Object.entries(asks) as [Field['ask'], string][]}
        onChange={ask =>
          set(b => {
            b.ask = ask
            // Answers already collected keep their field name.
            if (!collected) b.key = keyFor(ask, others)
            const { choices } = b
            for (const key of ['choices', 'look', 'from', 'advances', 'shuffle', 'right', 'points', 'step', 'start', 'unit'] as const)
              if (!(key === 'unit' && ask === 'number')) delete b[key]
            if (!bounds[ask]) {
              delete b.least
              delete b.most
            }
            Object.assign(b, askedOf(ask), chooses(ask) && choices ? { choices: structuredClone(plainly(choices)) } : {})
          })
        }
        k="ask"
      />
      <Line k="label" label="Label" max={block.ask === 'consent' ? 1000 : 200} lines={block.ask === 'consent' ? 2 : undefined} />
      {block.ask === 'hidden' && <HiddenFrom value={block.from ?? ''} onChange={from => set(b => void (b.from = from))} />}
      {block.choices && <Choices block={block} at={at} />}
      {(block.ask === 'choice' || block.ask === 'choices') && (
        <Pick
          k="look"
          label="Style"
          options={[
            ['', 'Buttons in a row'],
            ['list', 'List'],
            ['pictures', 'Pictures'],
          ]}
        />
      )}
      {block.ask === 'choice' && <Flag k="advances" label="Continue on click" />}
      {block.advances && <Ways block={block.id} label="Next scene" />}
      {(block.choices || block.ask === 'order') && <Flag k="shuffle" label="Shuffle" />}
      {block.ask === 'slider' && (
        <>
          <Line k="step" label="Step" max={20} optional hint="1" tidy={w => w.trim()} />
          <Line k="start" label="Start value" max={20} optional hint={block.least} tidy={w => w.trim()} />
        </>
      )}
      {(block.ask === 'slider' || block.ask === 'number') && <Line k="unit" label="Unit" max={20} optional hint="kg" />}
      {(block.ask === 'text' || block.ask === 'number') && (
        <More name="Correct answer" open={!!block.right?.length}>
          <Row label="One per line" k="right" wide>
            {id => (
              <Typed
                id={id}
                value={(block.right ?? []).join('\n')}
                lines={2}
                max={4000}
                onChange={w => set(b => (w ? void (b.right = w.split('\n')) : void delete b.right))}
              />
            )}
          </Row>
          <Num k="points" label="Score" min={-1000} max={1000} usual={0} />
        </More>
      )}
      {(block.choices || block.right?.length) && block.ask !== 'dropdown' && (
        <>
          <Flag k="reveal" label="Reveal correct answer" />
          {block.reveal && <Line k="explanation" label="Explanation" max={2000} lines={2} optional />}
        </>
      )}
      {(typed || block.ask === 'dropdown') && <Line k="hint" label="Placeholder" max={200} optional />}
      {block.ask !== 'hidden' && <Flag k="required" label="Required" />}
      <Line k="key" label="Field name" max={40} tidy={w => w.toLowerCase().replace(/[^a-z0-9_]/g, '_')} />
      {block.ask !== 'hidden' && (
        <More name="Validation and layout">
          {bounds[block.ask] && (
            <>
              <Line k="least" label={bounds[block.ask]![0]} max={20} optional hint={block.ask === 'date' ? '2026-12-24' : ''} tidy={w => w.trim()} />
              <Line k="most" label={bounds[block.ask]![1]} max={20} optional tidy={w => w.trim()} />
            </>
          )}
          {(block.ask === 'text' || block.ask === 'phone') && <Line k="pattern" label="Pattern" max={500} optional hint="[A-Z]{2}\d+" />}
          <Num k="width" label="Width" unit="%" min={20} max={100} usual={100} />
          <Line k="message" label="Error message" max={200} optional />
          <Line k="help" label="Help text" max={500} optional />
          {block.ask !== 'consent' && <Flag k="bare" label="Hide label" />}
        </More>
      )}
    </>
  )
}

function HiddenFrom({ value, onChange }: { value: string; onChange(from: string): void }) {
  const [kind, name = ''] = value.split(/\.(.*)/s)
  return (
    <>
      <Choice
        label="Value from"
        k="from"
        value={kind}
        options={[
          ['query', 'URL parameter'],
          ['data', 'Site data'],
          ['path', 'Page path'],
        ]}
        onChange={to => onChange(to === 'path' ? 'path' : `${to}.${name || 'utm_campaign'}`)}
      />
      {kind !== 'path' && (
        <Row label="Parameter name">
          {id => <Typed id={id} value={name} max={80} onChange={w => onChange(`${kind}.${w.replace(/[^A-Za-z0-9_.-]/g, '')}`)} />}
        </Row>
      )}
    </>
  )
}
