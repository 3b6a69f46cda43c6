import { createHash } from 'node:crypto'
import type { PictureRows } from '#core/image/picture-rows'

/** Rows that are hashed as they pass: SHA-256 of size and pixels, the same however the file was packed. Ask after the last row. */
export function hashRows(rows: PictureRows): { rows: PictureRows; digest: () => string } {
  const { width, height } = rows
  const hash = createHash('sha256')
  hash.update(new Uint8Array(new Uint32Array([width, height, 3]).buffer))
  return {
    rows: {
      width,
      height,
      forEachRow: visit =>
        rows.forEachRow((row, y) => {
          hash.update(new Uint8Array(row.buffer, row.byteOffset, row.byteLength))
          visit(row, y)
        }),
    },
    digest: () => hash.digest('hex'),
  }
}
