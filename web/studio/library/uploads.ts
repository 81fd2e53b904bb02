import type { Picture } from '../../kinds/piece'
import type { FileInfo, PictureInfo } from '../../kinds/studio'
import { toast } from '../parts/look/toast'
import { type Trouble, upload } from '../server/api'
import { outdated } from '../server/queries'

// Uploads of pictures and files.

const said = (e: unknown, most: string) => {
  const trouble = e as Trouble
  return trouble.status === 413 ? `This file is larger than ${most}. Make it smaller and try again.` : (trouble.faults?.[0]?.message ?? trouble.message)
}

/** Uploads a picture to the site's library, and tells how far it is, 0 to 1; throws what is wrong, in words. */
export async function uploadPictureFile(site: number, file: File, onProgress: (share: number) => void = () => {}): Promise<PictureInfo> {
  try {
    const made = await upload('POST /sites/:site/pictures', { site }, { query: { name: file.name.slice(0, 200) }, file, onProgress })
    outdated('pictures', site)
    return made
  } catch (e) {
    throw new Error(said(e, '12 MB'))
  }
}

/** Uploads a file to the site's library, and tells how far it is, 0 to 1; throws what is wrong, in words. */
export async function uploadFile(site: number, file: File, onProgress: (share: number) => void = () => {}): Promise<FileInfo> {
  try {
    const made = await upload('POST /sites/:site/files', { site }, { query: { name: file.name.slice(0, 200) }, file, onProgress })
    outdated('files', site)
    return made
  } catch (e) {
    throw new Error(said(e, '24 MB'))
  }
}

/** How high a picture is, as a percentage of its width, within what a block may have. */
export const ratioOf = (p: PictureInfo) => Math.max(10, Math.min(400, Math.round((100 * p.height) / p.width)))

/** A picture block of a dropped or pasted file; what is wrong with the file is said. */
export async function uploadPicture(site: number, file: File): Promise<Picture | undefined> {
  try {
    const made = await uploadPictureFile(site, file)
    return { kind: 'picture', id: 'picture', picture: made.hash, ratio: ratioOf(made), alt: '', width: 100, corners: 6, align: 'center' }
  } catch (e) {
    toast((e as Error).message, true)
  }
}
