import { linearToSrgbByte, SRGB_TO_LINEAR } from '../../color/srgb'
import { type ByteImage, fullScale, type Image } from '../../image/image'
import { measureLowFrequencies } from '../low-frequencies'

/**
 * A colour map without the slow change of light over the tile: each pixel divided, in linear light, by the slow part of the
 * luminance, the mean kept. What changes faster than once over the tile is the surface's own and stays.
 */
export function removeBakedLight(image: Image): ByteImage {
  const { width, height, channels } = image
  const low = measureLowFrequencies(image)
  const scale = 255 / fullScale(image.data)
  const data = new Uint8Array(image.data.length)
  const color = channels === 2 || channels === 4 ? channels - 1 : channels
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const gain = Math.exp(-low.at((x + 0.5) / width, (y + 0.5) / height))
      const p = (y * width + x) * channels
      for (let c = 0; c < channels; c++) {
        const code = Math.round(image.data[p + c] * scale)
        data[p + c] = c < color ? linearToSrgbByte(Math.min(1, SRGB_TO_LINEAR[code] * gain)) : code
      }
    }
  return { width, height, channels, data }
}
