import { linearToSrgbByte } from '../../color/srgb'
import { type ByteImage, fullScale, type Image } from '../../image/image'

/** Gloss as roughness, or the other way round: each value from the top down. An alpha channel stays. */
export function invertValues<T extends Image>(image: T): T {
  const { channels } = image
  const data = image.data.slice()
  const top = fullScale(data)
  const alpha = channels === 2 || channels === 4 ? channels - 1 : -1
  for (let i = 0; i < data.length; i++) if (i % channels !== alpha) data[i] = top - data[i]
  return { ...image, data }
}

/** A colour map that was stored linear, with its sRGB encoding. 8 bits, as colour is delivered. */
export function encodeForDisplay(image: Image): ByteImage {
  const { channels } = image
  const scale = 1 / fullScale(image.data)
  const data = new Uint8Array(image.data.length)
  for (let i = 0; i < data.length; i++) {
    const v = image.data[i] * scale
    data[i] = channels === 4 && i % 4 === 3 ? Math.round(v * 255) : linearToSrgbByte(v)
  }
  return { ...image, data }
}
