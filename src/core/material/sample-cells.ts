import { luminance, SRGB_TO_LINEAR } from '../color/srgb'
import { fullScale, type Image } from '../image/image'

/** Texels of a cell that are looked at, a side: more of them do not change a mean. */
const CELL_SAMPLES = 4

/**
 * Linear luminance of a display-encoded picture on a grid: evenly spread texels of each cell, cell by cell in rows. A picture with fewer
 * texels than cells is read more than once.
 * @param take gets the number of the cell and the luminance of one texel, 0..1
 */
export function sampleCells(image: Image, grid: number, take: (cell: number, luminance: number) => void): void {
  const { width, height, channels, data } = image
  const scale = 255 / fullScale(data)
  const linear =
    data instanceof Uint8Array ? (code: number) => SRGB_TO_LINEAR[code] : (v: number) => SRGB_TO_LINEAR[Math.round(v * scale)]
  const color = Math.min(channels, 3)
  const [green, blue] = [Math.min(1, color - 1), Math.min(2, color - 1)]
  for (let j = 0; j < grid; j++)
    for (let i = 0; i < grid; i++) {
      const [x0, x1] = cellBounds(i, width, grid)
      const [y0, y1] = cellBounds(j, height, grid)
      const stepX = Math.max(1, Math.floor((x1 - x0) / CELL_SAMPLES))
      const stepY = Math.max(1, Math.floor((y1 - y0) / CELL_SAMPLES))
      for (let y = y0; y < y1; y += stepY)
        for (let x = x0; x < x1; x += stepX) {
          const p = (y * width + x) * channels
          take(j * grid + i, luminance(linear(data[p]), linear(data[p + green]), linear(data[p + blue])))
        }
    }
}

/** Where a cell of the grid begins and ends, at least one texel wide. */
function cellBounds(index: number, size: number, grid: number): [number, number] {
  const start = Math.min(size - 1, Math.floor((index * size) / grid))
  return [start, Math.min(size, Math.max(Math.floor(((index + 1) * size) / grid), start + 1))]
}
