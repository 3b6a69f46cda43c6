/** A picture as numbers from 0 to 1 (or beyond, where it is of floats), rows from the top. */
export interface GraphImage {
  width: number
  height: number
  channels: number
  at(index: number): number
}

/** Bilinear, repeating or held at the edge; v runs up from the lowest row. A picture of one channel is grey. */
export function readImage(image: GraphImage, u: number, v: number, clampU: boolean, clampV: boolean, out: Float32Array): void {
  const { width, height, channels } = image
  const x = u * width - 0.5
  const y = (1 - v) * height - 0.5
  const [x0, y0] = [Math.floor(x), Math.floor(y)]
  const [fx, fy] = [x - x0, y - y0]
  const wrap = (i: number, n: number, clamp: boolean) => (clamp ? Math.min(n - 1, Math.max(0, i)) : ((i % n) + n) % n)
  const [xa, xb] = [wrap(x0, width, clampU), wrap(x0 + 1, width, clampU)]
  const [ya, yb] = [wrap(y0, height, clampV) * width, wrap(y0 + 1, height, clampV) * width]
  for (let k = 0; k < out.length; k++) {
    const c = channels < 3 ? (k === 3 && channels === 2 ? 1 : 0) : k
    if (c >= channels) {
      out[k] = 1
      continue
    }
    const read = (row: number, column: number) => image.at((row + column) * channels + c)
    const top = read(ya, xa) * (1 - fx) + read(ya, xb) * fx
    const bottom = read(yb, xa) * (1 - fx) + read(yb, xb) * fx
    out[k] = top * (1 - fy) + bottom * fy
  }
}

export function encodeNormal(x: number, y: number, z: number, out: Float32Array): void {
  const length = Math.hypot(x, y, z) || 1
  out[0] = 0.5 + x / length / 2
  out[1] = 0.5 + y / length / 2
  out[2] = 0.5 + z / length / 2
}
