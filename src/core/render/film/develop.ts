import { invertToneMapNeutral, toneMapNeutral } from '../../color/display-transform'
import { encodeSrgb, linearToSrgbByte, SRGB_TO_LINEAR } from '../../color/srgb'
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

/** The same in 16 bits a channel, for who goes on working with it. */
export function developForDisplay16({ width, height, channels, data: linear }: FloatImage): Uint16Array {
  const data = new Uint16Array(width * height * 3)
  const mapped = new Float32Array(3)
  for (let p = 0; p < width * height; p++) {
    const at = p * channels
    toneMapNeutral(linear[at], linear[at + 1], linear[at + 2], mapped)
    for (let k = 0; k < 3; k++) data[p * 3 + k] = Math.round(Math.min(1, encodeSrgb(mapped[k])) * 65_535)
  }
  return data
}

/** The scene-referred picture that is developed to this one: of what was drawn for display, as if it had been rendered. */
export function undevelop({ width, height, channels, data }: ByteImage): FloatImage {
  const linear = new Float32Array(width * height * 3)
  const scene = new Float32Array(3)
  for (let p = 0; p < width * height; p++) {
    const at = p * channels
    invertToneMapNeutral(SRGB_TO_LINEAR[data[at]], SRGB_TO_LINEAR[data[at + 1]], SRGB_TO_LINEAR[data[at + 2]], scene)
    linear.set(scene, p * 3)
  }
  return { width, height, channels: 3, data: linear }
}
