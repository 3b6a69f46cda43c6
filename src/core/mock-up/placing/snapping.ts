import type { Vec3 } from '../../math/vec3'

/** Extents along the axes, in metres. */
export interface Box {
  min: Vec3
  max: Vec3
}

/** The box around all of them; from endless to minus endless around none. */
export function around(boxes: readonly Box[]): Box {
  const [least, most] = [Number.NEGATIVE_INFINITY, Number.POSITIVE_INFINITY]
  const whole: Box = { min: [most, most, most], max: [least, least, least] }
  for (const { min, max } of boxes)
    for (let k = 0; k < 3; k++) {
      whole.min[k] = Math.min(whole.min[k], min[k])
      whole.max[k] = Math.max(whole.max[k], max[k])
    }
  return whole
}

/** What something is held by: a line of the grid, a side or the middle of another, or the same gap as between two others. */
export type SnapKind = 'grid' | 'side' | 'middle' | 'gap'

export interface Snap {
  axis: 0 | 2
  kind: SnapKind
  /** Where on the axis the moved side or middle comes to lie, in metres. */
  atM: number
  /** Of which others; none for the grid. */
  others: readonly number[]
}

export interface SnapSettings {
  /** Null: no grid. */
  gridM: number | null
  /** Pixels of the view that a metre is where the piece stands. */
  pxPerM: number
  /** Farther than this nothing is held. */
  reachPx?: number
}

const REACH_PX = 8
/** A side is rather met than a middle, a middle than a gap, and a gap than the grid, where they are as near. */
const RANK: Readonly<Record<SnapKind, number>> = { side: 0, middle: 1, gap: 2, grid: 3 }

interface Candidate extends Snap {
  by: number
}

/**
 * How far a box that is moved on the ground has to be moved on so that it lies at something: on each axis the nearest candidate within reach,
 * as seen in pixels.
 * @param others boxes of what stands there
 */
export function snapMove(moving: Box, others: readonly Box[], settings: SnapSettings): { by: Vec3; held: Snap[] } {
  const { pxPerM, reachPx = REACH_PX } = settings
  const by: Vec3 = [0, 0, 0]
  const held: Snap[] = []
  for (const axis of [0, 2] as const) {
    const best = listCandidates(axis, moving, others, settings.gridM)
      .filter(c => Math.abs(c.by) * pxPerM <= reachPx)
      .sort((a, b) => nearness(a, pxPerM) - nearness(b, pxPerM) || RANK[a.kind] - RANK[b.kind])[0]
    if (!best) continue
    by[axis] = best.by
    const { by: _, ...snap } = best
    held.push(snap)
  }
  return { by, held }
}

/** In whole pixels: what is as near to the eye is as near. */
const nearness = ({ by }: Candidate, pxPerM: number): number => Math.round(Math.abs(by) * pxPerM)

function listCandidates(axis: 0 | 2, moving: Box, others: readonly Box[], gridM: number | null): Candidate[] {
  const [low, high] = [moving.min[axis], moving.max[axis]]
  const middle = (low + high) / 2
  const found: Candidate[] = []
  const add = (kind: SnapKind, from: number, atM: number, ...of: number[]) =>
    found.push({ axis, kind, atM, others: of, by: atM - from })
  others.forEach((other, k) => {
    const [a, b] = [other.min[axis], other.max[axis]]
    for (const side of [low, high]) {
      add('side', side, a, k)
      add('side', side, b, k)
    }
    add('middle', middle, (a + b) / 2, k)
  })
  for (const [i, j, gap] of listGaps(axis, moving, others)) {
    add('gap', low, others[j].max[axis] + gap, i, j)
    add('gap', high, others[i].min[axis] - gap, i, j)
  }
  if (gridM !== null && gridM > 0) for (const side of [low, middle, high]) add('grid', side, Math.round(side / gridM) * gridM)
  return found
}

/** Gaps between others that stand in one row with what is moved: the one with less, the one with more, and the gap in metres. */
function listGaps(axis: 0 | 2, moving: Box, others: readonly Box[]): [number, number, number][] {
  const across = axis === 0 ? 2 : 0
  const inRow = others
    .map((box, k) => ({ box, k }))
    .filter(({ box }) => box.min[across] < moving.max[across] && box.max[across] > moving.min[across])
    .sort((a, b) => a.box.min[axis] - b.box.min[axis])
  return inRow.slice(1).flatMap(({ box, k }, n) => {
    const before = inRow[n]
    const gap = box.min[axis] - before.box.max[axis]
    return gap > 0 ? [[before.k, k, gap] as [number, number, number]] : []
  })
}
