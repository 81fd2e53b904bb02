import type { Spot } from '../../design/tree'
import { nowhere } from '../../library/landing'
import { uploadPicture } from '../../library/uploads'
import { toast } from '../../parts/look/toast'
import { draftHere } from '../../piece/draft'
import { putBlocks } from './selection'
import { fromHere } from './view'

/** Uploads a dropped or pasted picture, and puts it where one was when that began. */
export async function putPicture(file: File, spot?: Spot) {
  const land = fromHere()
  const block = await uploadPicture(draftHere().state.site, file)
  if (block && !land(() => putBlocks([block], spot))) toast(nowhere, true)
}
