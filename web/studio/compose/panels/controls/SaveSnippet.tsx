import type { Block, Scene } from '../../../../kinds/piece'
import { NameDialog } from '../../../parts/look/NameDialog'
import { toast } from '../../../parts/look/toast'
import { api } from '../../../server/api'
import { outdated, useSite } from '../../../server/queries'

/** Saves a block or a scene under a name, to be used in other pieces. */
export function SaveSnippet({ kind, body, name: first, onClose }: { kind: 'block' | 'scene'; body: Block | Scene; name: string; onClose(): void }) {
  const site = useSite().id
  const save = async (name: string) => {
    await api('POST /sites/:site/snippets', { site }, { body: { kind, name, body } })
    outdated('snippets', site)
    toast('Saved. You find it under More in every piece, and in the library.')
  }
  return <NameDialog title={`Save this ${kind} as a snippet`} name={first} save={save} onClose={onClose} />
}
