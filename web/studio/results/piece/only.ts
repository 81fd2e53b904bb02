import type { PieceInfo } from '../../../kinds/studio'
import { toast } from '../../parts/look/toast'
import { letters } from '../../parts/words/say'
import { changeIn, draftHere } from '../../piece/draft'
import { api } from '../../server/api'
import { client, outdated, refreshPieces } from '../../server/queries'

/** Whether a change of shares can go live by itself: nothing else in the draft waits for launch. */
export const launchesAtOnce = (info: PieceInfo, standing: string) => info.state === 'live' && !info.edited && standing === 'saved'

/**
 * Makes a variant the only one that visitors get. The others stay in the split
 * with a share of 0, or leave it. Where the piece is live and nothing else was
 * changed, that goes live at once.
 */
export async function makeOnly(site: number, info: PieceInfo, i: number, keep: boolean) {
  const draft = draftHere()
  const { standing, doc: before } = draft.state
  const launches = launchesAtOnce(info, standing)
  const share = async () => {
    await draft.save()
    const now = draft.state
    if (!launches || now.standing !== 'saved') return false
    const next = await api('POST /sites/:site/pieces/:piece/launch', { site, piece: info.id }, { body: { version: now.version } })
    client.setQueryData(['piece', site, info.id], next)
    return true
  }
  changeIn(draft, d => {
    const { variants } = d.split
    d.split.follow = undefined
    if (keep) for (const [k, v] of variants.entries()) v.share = k === i ? 100 : 0
    else d.split.variants = [{ ...variants[i], share: 100 }]
  })
  const live = await share()
  refreshPieces(site)
  outdated('split', site, info.id)
  const undo = {
    name: 'Undo',
    run: () => {
      draft.edit(before!)
      if (live) share().then(() => outdated('split', site, info.id))
    },
  }
  toast(`Every visitor gets ${letters[i]} now.${live ? ' Launched.' : info.state === 'live' ? ' Launch to put it live.' : ''}`, false, undo)
}
