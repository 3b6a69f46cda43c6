import { sourceOfBytes } from '#core/codecs/byte-source'
import { openExr } from '#core/codecs/exr'
import { openHdr } from '#core/codecs/hdr'
import type { FloatImage } from '#core/image/image'
import { collectRows } from '#core/image/picture-rows'

/** The copy for the screen of surroundings, which says by its type what it is. @throws FileError where it does not read */
export async function readSky(copy: Blob): Promise<FloatImage> {
  const source = sourceOfBytes(new Uint8Array(await copy.arrayBuffer()))
  return collectRows(copy.type === 'image/vnd.radiance' ? openHdr(source) : openExr(source))
}
