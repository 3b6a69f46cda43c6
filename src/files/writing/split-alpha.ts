import sharp from 'sharp'
import { measureMap } from '#core/map/measure-map'
import { decodeByteImage, MAX_PIXELS, readImageHeader } from '../reading/decode-image'

/** Where this is decided, a picture need not be whole. */
const PROBE_SIZE = 512

/** The alpha of a picture by itself, as a grey PNG of its own depth; null where it has none, or is opaque everywhere. @throws FileError */
export async function splitAlpha(diskPath: string): Promise<Uint8Array | null> {
  const header = await readImageHeader(diskPath)
  if (header.channels !== 2 && header.channels !== 4) return null
  const probe = await decodeByteImage(diskPath, PROBE_SIZE, header)
  if (measureMap(probe).alpha !== 'cutOut') return null
  const alpha = sharp(diskPath, { limitInputPixels: MAX_PIXELS }).extractChannel('alpha')
  const deep = header.bitsPerChannel >= 16 ? alpha.toColourspace('grey16') : alpha.toColourspace('b-w')
  return new Uint8Array(await deep.png({ compressionLevel: 6 }).toBuffer())
}
