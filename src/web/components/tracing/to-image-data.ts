import type { ByteImage } from '#core/image/image'

/** An RGB picture as the canvas takes it. */
export function toImageData({ width, height, data }: ByteImage): ImageData {
  const out = new ImageData(width, height)
  for (let p = 0; p < width * height; p++) {
    for (let k = 0; k < 3; k++) out.data[p * 4 + k] = data[p * 3 + k]
    out.data[p * 4 + 3] = 255
  }
  return out
}
