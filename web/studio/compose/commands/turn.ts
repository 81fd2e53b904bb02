import type { Block, List, Text, Words } from '../../../kinds/piece'
import { find } from '../../design/tree'
import { joined, lines } from '../../design/words'
import { changeScene } from './change'

/** Lines of a text become a list, and the other way round. */
export function turn(block: Block) {
  changeScene(scene => {
    const at = find(scene, block.id)
    if (!at) return
    const b = at.block
    const { hide, locked, above, phone } = b
    const lay = JSON.parse(JSON.stringify({ hide, locked, above, phone }))
    if (b.kind === 'text') {
      const items = lines(JSON.parse(JSON.stringify(b.text)) as Words)
      at.list.splice(at.index, 1, { kind: 'list', id: b.id, items, marker: 'dot', size: b.size, color: b.color, ...lay } as List)
    } else if (b.kind === 'list') {
      const items = JSON.parse(JSON.stringify(b.items)) as Words[]
      at.list.splice(at.index, 1, { kind: 'text', id: b.id, text: joined(items), size: b.size, align: 'start', color: b.color, ...lay } as Text)
    }
  })
}
