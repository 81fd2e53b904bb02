import { find, holdersOf, holds } from '../../design/tree'
import { type Action, type ActionGroup, applies } from '../../parts/keys/actions'
import { historyActions } from '../../piece/UndoButtons'
import { copySelected, cutSelected, pasteCopied, pasteLook } from './clipboard'
import {
  alignSelected,
  duplicateSelected,
  groupSelected,
  hideSelected,
  lockSelected,
  moveSelected,
  nudge,
  removeSelected,
  selectAll,
  selectedIDs,
  selectNext,
  ungroupSelected,
} from './selection'
import { now, select, useView } from './view'

// What can be done with the selection: the menu, the keys, the settings of
// several blocks and the list of shortcuts draw from here.

/** Opens a block's text for editing on the page; set by the stage. */
export const stage: { edit?(id: string): void } = {}

/** What is selected, as actions ask about it. */
export function selection() {
  const { scene, view } = now()
  const ids = selectedIDs()
  const blocks = ids.map(id => find(scene, id)!.block)
  const block = find(scene, view.selected)?.block
  return {
    selected: view.selected,
    ids,
    block,
    some: ids.length > 0,
    one: ids.length === 1,
    locked: ids.length > 0 && blocks.every(b => b.locked),
    hasText: !!block && ['heading', 'text', 'list', 'button', 'field'].includes(block.kind),
  }
}

export type Selection = ReturnType<typeof selection>

const some = (on: Selection) => on.some
const free = (on: Selection) => on.some && !on.locked

const toClipboard = (text: string | undefined) => {
  if (text) navigator.clipboard?.writeText(text).catch(() => {})
}

export const editText: Action<Selection> = {
  name: 'Edit text',
  keys: 'Enter',
  applies: on => on.hasText && on.one && !on.locked,
  run: on => stage.edit?.(on.selected),
}
export const duplicate: Action<Selection> = { name: 'Duplicate', keys: 'Mod+D', applies: some, run: duplicateSelected }
export const group: Action<Selection> = { name: 'Group in a box', keys: 'Mod+G', applies: free, run: groupSelected }
export const lock: Action<Selection> = {
  name: on => (on.locked ? 'Unlock' : 'Lock'),
  says: 'Lock or unlock',
  keys: 'Mod+L',
  applies: some,
  run: lockSelected,
}
export const remove: Action<Selection> = {
  name: 'Delete',
  keys: 'Delete',
  applies: on => free(on) || on.selected === 'close',
  run: removeSelected,
}
export const alignments: readonly Action<Selection>[] = [
  { name: 'Align left', applies: some, run: () => alignSelected('start') },
  { name: 'Align centre', applies: some, run: () => alignSelected('center') },
  { name: 'Align right', applies: some, run: () => alignSelected('end') },
]
export const visibility: readonly Action<Selection>[] = [
  { name: 'Hide on phones', applies: on => on.some && !on.block?.hide, run: () => hideSelected('phone') },
  { name: 'Show on phones only', applies: on => on.some && !on.block?.hide, run: () => hideSelected('desktop') },
  { name: 'Show on all devices', applies: on => !!on.block?.hide, run: () => hideSelected() },
]

const copying: ActionGroup<Selection> = {
  name: 'Copy and paste',
  actions: [
    { name: 'Copy', keys: 'Mod+C', applies: some, run: () => toClipboard(copySelected()) },
    { name: 'Cut', keys: 'Mod+X', applies: free, run: () => toClipboard(cutSelected()) },
    { name: 'Paste', keys: 'Mod+V', run: () => void pasteCopied() },
    { name: 'Paste style', keys: 'Mod+Alt+V', applies: some, run: pasteLook },
    duplicate,
    remove,
  ],
}

const moving: ActionGroup<Selection> = {
  name: 'Move',
  actions: [
    { name: 'Move up', keys: 'Alt+ArrowUp', applies: on => on.one && !on.locked, run: () => moveSelected(-1) },
    { name: 'Move down', keys: 'Alt+ArrowDown', applies: on => on.one && !on.locked, run: () => moveSelected(1) },
    { name: 'Less space above', keys: 'Shift+ArrowUp', applies: some, run: () => nudge(-4) },
    { name: 'More space above', keys: 'Shift+ArrowDown', applies: some, run: () => nudge(4) },
    group,
    { name: 'Ungroup', keys: 'Mod+Shift+G', applies: on => !!on.block && holds(on.block) && !on.locked, run: ungroupSelected },
    lock,
  ],
}

const selecting: ActionGroup<Selection> = {
  name: 'Select',
  actions: [
    { name: 'Previous block', keys: 'ArrowUp', run: () => selectNext(-1) },
    { name: 'Next block', keys: 'ArrowDown', run: () => selectNext(1) },
    { name: 'Containing box, then the frame', keys: 'Escape', run: () => select(holdersOf(now().scene, useView.getState().selected).at(-1) ?? 'frame') },
    { name: 'All blocks of the scene', keys: 'Mod+A', run: selectAll },
    editText,
  ],
  gestures: [
    ['Shift click', 'Add to the selection, or remove from it'],
    ['Drag from beside', 'Select all blocks it touches'],
    ['Right click, Menu key', 'Open the menu'],
  ],
}

const text: ActionGroup<Selection> = {
  name: 'Text',
  actions: [],
  gestures: [['Ctrl B, I, U', 'Bold, italic, underlined']],
}

/** All actions of the designer. Copy, cut and paste come as events of their own, and only the others by their keys. */
export const composeActions: readonly ActionGroup<Selection>[] = [selecting, moving, copying, text, historyActions]

const byEvents = new Set(['Mod+C', 'Mod+X', 'Mod+V'])

/** Those that are run by their keys. */
export const keyed: readonly ActionGroup<Selection>[] = composeActions.map(g => ({ ...g, actions: g.actions.filter(a => !a.keys || !byEvents.has(a.keys)) }))

/** The menu of what is selected: groups of actions, those that apply. */
export const menuOf = (on: Selection): (readonly Action<Selection>[])[] =>
  [
    [editText, ...copying.actions.slice(0, 4), duplicate],
    [...moving.actions.slice(0, 2), ...alignments],
    [group, moving.actions[5], lock, ...visibility],
    [remove],
  ].map(actions => actions.filter(a => applies(a, on)))
