import { createFloatImage, type FloatImage } from '../image/image'

/** Between pictures, in pixels, and its linear grey. */
const GAP = 8
const GREY = 0.2

/**
 * Linear RGB pictures in rows of `columns`, each in a cell as large as the largest. A smaller one is enlarged by repeating its
 * pixels, so that no value is made up.
 */
export function joinPictures(pictures: readonly FloatImage[], columns: number): FloatImage {
  const width = Math.max(...pictures.map(p => p.width))
  const height = Math.max(...pictures.map(p => p.height))
  const rows = Math.ceil(pictures.length / columns)
  const joined = createFloatImage(columns * width + (columns - 1) * GAP, rows * height + (rows - 1) * GAP, 3)
  joined.data.fill(GREY)
  pictures.forEach((picture, k) => {
    const left = (k % columns) * (width + GAP)
    const top = Math.floor(k / columns) * (height + GAP)
    const scale = Math.min(width / picture.width, height / picture.height)
    const [w, h] = [Math.round(picture.width * scale), Math.round(picture.height * scale)]
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const from = (Math.floor(y / scale) * picture.width + Math.floor(x / scale)) * picture.channels
        joined.data.set(picture.data.subarray(from, from + 3), ((top + y) * joined.width + left + x) * 3)
      }
  })
  return joined
}
