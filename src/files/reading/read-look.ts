import { writeLookText } from '#core/find/looks/look-text'
import { appearanceOfPicture } from '#core/material/appearance'
import { computePalette } from '#core/material/palette'
import { decodeByteImage } from './decode-image'

/** Enough to see colours and a pattern by. */
const LOOK_SIZE = 768
const COLORS = 5

/** What a picture looks like, as a text to search by. Throws a FileError for what is none. */
export async function readLook(diskPath: string): Promise<string> {
  const picture = await decodeByteImage(diskPath, LOOK_SIZE)
  return writeLookText(computePalette(picture, COLORS), appearanceOfPicture(picture))
}
