import { FloatType } from 'three'
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js'
import { parseExr } from '#core/codecs/exr'
import { parseHdr } from '#core/codecs/hdr'
import { FileError } from '#core/findings/failure'
import { createFloatImage, type FloatImage } from '#core/image/image'

/** Linear RGB of an OpenEXR or Radiance file, rows from the top. */
export function decodeEnvironment(bytes: Uint8Array, type: 'exr' | 'hdr'): FloatImage {
  if (type === 'hdr') return parseHdr(bytes)
  try {
    return parseExr(bytes)
  } catch (error) {
    if (error instanceof FileError && error.code === 'unsupported') return decodeWithLoader(bytes)
    throw error
  }
}

/** Wavelet and DCT compressions go through three's loader, whose rows come bottom-up. */
function decodeWithLoader(bytes: Uint8Array): FloatImage {
  let texture: { data?: unknown; width?: number; height?: number }
  try {
    const copy = bytes.slice().buffer
    texture = new EXRLoader().setDataType(FloatType).parse(copy) as typeof texture
  } catch {
    throw new FileError('malformed', 'The OpenEXR file does not decode; it is damaged or of an unsupported kind.')
  }
  const { data, width = 0, height = 0 } = texture
  if (!(data instanceof Float32Array) || width < 1 || height < 1)
    throw new FileError('unsupported', 'The OpenEXR file holds no colour picture.')
  const channels = data.length / (width * height)
  const image = createFloatImage(width, height, 3)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const from = ((height - 1 - y) * width + x) * channels
      for (let c = 0; c < 3; c++) image.data[(y * width + x) * 3 + c] = data[from + Math.min(c, channels - 1)]
    }
  return image
}
