import { createFloatImage, type FloatImage } from './image'

/** A picture that is read row by row, so that one larger than memory can still be measured. */
export interface PictureRows {
  readonly width: number
  readonly height: number
  /**
   * Visits every row once, from the top. `row` holds `width` * 3 values, linear RGB, and is used again for the next.
   * Throws a FileError where the file is damaged.
   */
  forEachRow(visit: (row: Float32Array, y: number) => void): void
}

export function collectRows(rows: PictureRows): FloatImage {
  const image = createFloatImage(rows.width, rows.height, 3)
  rows.forEachRow((row, y) => image.data.set(row, y * rows.width * 3))
  return image
}

/** A picture in memory, as rows. Channels past the third are left out, a single one stands for all three. */
export function rowsOfImage(image: FloatImage): PictureRows {
  const { width, height, channels, data } = image
  return {
    width,
    height,
    forEachRow: visit => {
      const row = new Float32Array(width * 3)
      for (let y = 0; y < height; y++) {
        const from = y * width * channels
        if (channels === 3) row.set(data.subarray(from, from + width * 3))
        else
          for (let x = 0; x < width; x++)
            for (let c = 0; c < 3; c++) row[x * 3 + c] = data[from + x * channels + Math.min(c, channels - 1)]
        visit(row, y)
      }
    },
  }
}
