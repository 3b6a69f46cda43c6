import { percentile } from '../../math/statistics'

/** Cells along the longest side of what is seen. */
const CELLS_ALONG = 10
/** Ways that a surface may face: along an axis, on either side. */
export const FACINGS = 6

type Triple = readonly [number, number, number]

/** A place that light arrives at: position and the unit normal on the side that is lit, in metres. */
export interface LitPoint {
  position: Triple
  normal: Triple
}

/** Cubes of space about what a camera sees; what lies in one and faces the same way is told one thing. */
export interface GuideGrid {
  min: Triple
  cellM: number
  cells: Triple
}

/** Lays cells about places; null where they do not spread. */
export function layGrid(points: readonly LitPoint[]): GuideGrid | null {
  const spans = [0, 1, 2].map(k => {
    const values = points.map(p => p.position[k])
    // Without what is seen far away through a window; a little beyond the rest.
    const [low, high] = [percentile(values, 0.1), percentile(values, 0.9)]
    return [low - (high - low) * 0.15, high + (high - low) * 0.15] as const
  })
  const longest = Math.max(...spans.map(([low, high]) => high - low))
  if (!(longest > 0)) return null
  const cellM = longest / CELLS_ALONG
  const [x, y, z] = spans.map(([low, high]) => ({ from: low - cellM / 2, count: Math.ceil((high - low) / cellM) + 1 }))
  return { min: [x.from, y.from, z.from], cellM, cells: [x.count, y.count, z.count] }
}

/** Which cell and way of facing a place belongs to; −1 outside. */
export function spotOf(
  { min, cellM, cells }: GuideGrid,
  x: number,
  y: number,
  z: number,
  nx: number,
  ny: number,
  nz: number,
): number {
  const i = Math.floor((x - min[0]) / cellM)
  const j = Math.floor((y - min[1]) / cellM)
  const k = Math.floor((z - min[2]) / cellM)
  if (!(i >= 0 && i < cells[0] && j >= 0 && j < cells[1] && k >= 0 && k < cells[2])) return -1
  return ((k * cells[1] + j) * cells[0] + i) * FACINGS + facingOf(nx, ny, nz)
}

export function facingOf(nx: number, ny: number, nz: number): number {
  const [ax, ay, az] = [Math.abs(nx), Math.abs(ny), Math.abs(nz)]
  if (ax >= ay && ax >= az) return nx < 0 ? 1 : 0
  if (ay >= az) return ny < 0 ? 3 : 2
  return nz < 0 ? 5 : 4
}
