import type { Picture } from '../../kinds/piece'
import type { FileInfo, PictureInfo } from '../../kinds/studio'
import { api, type Trouble } from '../api'
import { useDraft } from '../bench/draft'
import { tell } from '../parts/Told'
import { client } from '../queries'

// Taking in pictures and files.

const said = (e: unknown, most: string) => {
  const trouble = e as Trouble
  return trouble.status === 413 ? `This file is larger than ${most}. Make it smaller and try again.` : (trouble.faults?.[0]?.message ?? trouble.message)
}

/** Takes a picture into the site's library; throws what is wrong, in words. */
export async function takePicture(site: number, file: File): Promise<PictureInfo> {
  try {
    const made = await api<PictureInfo>('POST', `/sites/${site}/pictures?name=${encodeURIComponent(file.name.slice(0, 200))}`, file)
    client.invalidateQueries({ queryKey: ['pictures', site] })
    return made
  } catch (e) {
    throw new Error(said(e, '12 MB'))
  }
}

/** Takes a file into the site's library; throws what is wrong, in words. */
export async function takeFile(site: number, file: File): Promise<FileInfo> {
  try {
    const made = await api<FileInfo>('POST', `/sites/${site}/files?name=${encodeURIComponent(file.name.slice(0, 200))}`, file)
    client.invalidateQueries({ queryKey: ['files', site] })
    return made
  } catch (e) {
    throw new Error(said(e, '24 MB'))
  }
}

/** How high a picture is, as a percentage of its width, within what a block may have. */
export const ratioOf = (p: PictureInfo) => Math.max(10, Math.min(400, Math.round((100 * p.height) / p.width)))

/** A picture block of a dropped or pasted file; what is wrong with the file is said. */
export async function uploadPicture(file: File): Promise<Picture | undefined> {
  try {
    const made = await takePicture(useDraft.getState().site, file)
    return { kind: 'picture', id: 'picture', picture: made.hash, ratio: ratioOf(made), alt: '', width: 100, corners: 6, align: 'center' }
  } catch (e) {
    tell((e as Error).message, true)
  }
}
