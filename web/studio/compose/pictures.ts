import { nowhere } from '../library/landing'
import { uploadPicture } from '../library/uploads'
import { toast } from '../parts/toast'
import { draftHere } from '../piece/draft'
import type { Spot } from './document/tree'
import { fromHere, putBlocks } from './view'

/** Uploads a dropped or pasted picture, and puts it where one was when that began. */
export async function putPicture(file: File, spot?: Spot) {
  const land = fromHere()
  const block = await uploadPicture(draftHere().state.site, file)
  if (block && !land(() => putBlocks([block], spot))) toast(nowhere, true)
}
