import { toneMapNeutral } from '../../color/display-transform'
import { linearToSrgbByte } from '../../color/srgb'
import type { ByteImage, FloatImage } from '../../image/image'

/** Scene-referred linear RGB to a display-encoded 8-bit picture: PBR Neutral, then sRGB. */
export function developForDisplay(image: FloatImage): ByteImage {
  const data = new Uint8Array(image.width * image.height * 3)
  const mapped = new Float32Array(3)
  for (let p = 0; p < image.width * image.height; p++) {
    const at = p * image.channels
    toneMapNeutral(image.data[at], image.data[at + 1], image.data[at + 2], mapped)
    for (let k = 0; k < 3; k++) data[p * 3 + k] = linearToSrgbByte(mapped[k])
  }
  return { width: image.width, height: image.height, channels: 3, data }
}
