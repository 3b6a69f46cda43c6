import type { Image } from '../image/image'

/** A stand-alone map as it is measured. */
export interface MapSubject {
  path: string
  /** At its full depth, of floats as 16-bit codes; larger ones with texels left out. */
  image: Image
  widthPx: number
  heightPx: number
  bitsPerChannel: number
  /** Words of its name and of the folder it came in. */
  words: readonly string[]
  folderWords: readonly string[]
  widthMm: number | null
}
