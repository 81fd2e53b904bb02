import type { ComponentType } from 'react'
import type { Block } from '../../../../kinds/piece'
import { type Part, type Setting, settingsOf } from '../../../design/settings'
import { useSeen } from '../../commands/view'
import { Colour, Flag, Line, Num, Pick } from '../controls/controls'

/** What draws the settings that are more than a value. */
export type Parts = Readonly<Record<Part, ComponentType<{ block: never; at: string }>>>

/** The settings of a block, as design/settings.ts lists them. */
export function Drawn({ block, at, parts }: { block: Block; at: string; parts: Parts }) {
  const { design } = useSeen()
  const settings = settingsOf[block.kind] as readonly Setting<Block>[]
  return settings.flatMap(s => {
    if (s.when && !s.when(block)) return []
    switch (s.as) {
      case 'number':
        return <Num key={s.k} k={s.k} label={s.label} unit={s.unit} min={s.min} max={s.max} usual={s.usual} />
      case 'line':
        return (
          <Line key={s.k} k={s.k} label={s.label} max={s.max} lines={s.lines} hint={s.hint} optional={s.optional} tidy={s.trims ? w => w.trim() : undefined} />
        )
      case 'choice':
        return <Pick key={s.k} k={s.k} label={s.label} options={typeof s.options === 'function' ? s.options(design) : s.options} />
      case 'flag':
        return <Flag key={s.k} k={s.k} label={s.label} />
      case 'colour':
        return <Colour key={s.k} k={s.k} label={s.label} usual={typeof s.usual === 'function' ? s.usual(design) : s.usual} />
      default: {
        const Part = parts[s.part]
        return <Part key={s.k} block={block as never} at={at} />
      }
    }
  })
}
