import { resolveType } from '#core/codecs/sniff'
import { decodeSrgb, SRGB_TO_LINEAR } from '#core/color/srgb'
import { recognizeUnfolding, type Unfolding, unfold } from '#core/environment/unfold'
import { createFloatImage, type FloatImage, fullScale, type Image } from '#core/image/image'
import { decodeEnvironment, readEnvironmentSize } from '../reading/decode-environment'
import { decodeAsIs } from '../reading/decode-image'
import { readBytes, readHead, type SourceFile } from '../reading/source-file'
import { encodeExr } from './encode-exr'

/** What a surrounding came as, where it was no panorama of linear light. */
export type PanoramaOrigin = Unfolding | 'picture'

/** Pictures of whose proportions one can be a cross or a ball; larger panoramas are not read whole for being looked at. */
const isOddShape = ({ width, height }: { width: number; height: number }) => width < 1.9 * height

/**
 * A surrounding as a panorama of linear light in OpenEXR: crosses and balls unfolded, encoded pictures made linear.
 * @returns null where it is one already
 * @throws FileError
 */
export async function toPanorama(file: SourceFile): Promise<{ bytes: Uint8Array; origin: PanoramaOrigin } | null> {
  const type = resolveType(file.path, await readHead(file.diskPath))
  if (type === 'hdr' || type === 'exr') {
    const size = readEnvironmentSize(file.diskPath, type)
    if (!size || !isOddShape(size)) return null
    const image = decodeEnvironment(await readBytes(file), type)
    const unfolding = recognizeUnfolding(image)
    return unfolding && { bytes: encodeExr(unfold(image, unfolding)), origin: unfolding }
  }
  return { bytes: encodeExr(toLinear(await decodeAsIs(file.diskPath))), origin: 'picture' }
}

function toLinear({ width, height, channels, data }: Image): FloatImage {
  const out = createFloatImage(width, height, 3)
  const top = fullScale(data)
  const decode =
    data instanceof Uint8Array
      ? (v: number) => SRGB_TO_LINEAR[v]
      : data instanceof Float32Array
        ? (v: number) => v
        : (v: number) => decodeSrgb(v / top)
  for (let i = 0; i < width * height; i++)
    for (let c = 0; c < 3; c++) out.data[i * 3 + c] = decode(data[i * channels + (channels >= 3 ? c : 0)])
  return out
}
