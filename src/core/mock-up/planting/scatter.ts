import { createRandom, hashCombine } from '../../math/random'
import { Heap } from './heap'
import { findNeighbours } from './neighbours'

/** Where plants may stand, on the ground: x and z in metres. */
export interface ScatterArea {
  /** Corners in order, the last joined to the first. */
  outline: readonly (readonly [number, number])[]
  /** Round what stands there, and along paths. */
  keepOut: readonly { x: number; z: number; radiusM: number }[]
}

export interface ScatterSettings {
  /** So many at most; fewer where the least distance leaves no room. */
  count: number
  /** No two stand nearer. */
  leastM: number
  seed: number
  /** Within this of the edge fewer and fewer stand, down to none on it. */
  edgeM?: number
  /** How thick it grows at a place, 0..1. */
  density?: (x: number, z: number) => number
}

export interface Scattered {
  x: number
  z: number
  /** By which everything else of it is drawn: taking others away changes nothing of it. */
  index: number
}

/** Candidates for each that stays: more make it no more even (Yuksel 2015, section 5). */
const CANDIDATES = 5
const MOST_TRIES = 60

/**
 * Plants spread as evenly as they grow: of more candidates than are wanted those are taken away that stand nearest to others, by weighted sample
 * elimination (Yuksel 2015, "Sample Elimination for Generating Poisson Disk Sample Sets"), and then any that stand too near.
 * Always the same for the same seed.
 * @throws RangeError for an outline of fewer than three corners
 */
export function scatter(area: ScatterArea, settings: ScatterSettings): Scattered[] {
  const { outline } = area
  if (outline.length < 3) throw new RangeError('an area has three corners or more')
  const candidates = drawCandidates(area, settings)
  if (candidates.length === 0) return []
  // Of the area that is grown on, by how many of the tries hit it.
  const spacing = Math.sqrt(candidates.hitM2 / (2 * Math.sqrt(3) * Math.max(1, settings.count))) * 2
  return eliminate(candidates, settings.count, Math.max(spacing, settings.leastM), settings.leastM)
}

/**
 * Along a line from its beginning, one so far from the next, each beside its place by so much at most. A longer line has the same plants and more.
 * @param line corners in order
 */
export function standAlong(
  line: ScatterArea['outline'],
  { spacingM, strayM }: { spacingM: number; strayM: number },
  seed: number,
): Scattered[] {
  const spots: Scattered[] = []
  let next = 0
  for (let i = 1; i < line.length; i++) {
    const [[ax, az], [bx, bz]] = [line[i - 1], line[i]]
    const length = Math.hypot(bx - ax, bz - az)
    for (; next <= length + 1e-9 && spots.length < MOST_ALONG; next += spacingM) {
      const random = createRandom(hashCombine(seed, spots.length))
      const [away, turn] = [strayM * Math.sqrt(random.next()), 2 * Math.PI * random.next()]
      const share = length > 0 ? next / length : 0
      spots.push({
        x: ax + (bx - ax) * share + away * Math.cos(turn),
        z: az + (bz - az) * share + away * Math.sin(turn),
        index: spots.length,
      })
    }
    next -= length
  }
  return spots
}
const MOST_ALONG = 20_000

interface Candidate extends Scattered {
  /** How thick it grows where it stands: the thinner, the farther apart. */
  thickness: number
}

interface Candidates extends Array<Candidate> {
  hitM2: number
}

/** Thinner growth is spread as this is. */
const THINNEST = 0.1

function drawCandidates({ outline, keepOut }: ScatterArea, settings: ScatterSettings): Candidates {
  const { count, seed, edgeM = 0, density = () => 1 } = settings
  const xs = outline.map(p => p[0])
  const zs = outline.map(p => p[1])
  const [x0, z0] = [Math.min(...xs), Math.min(...zs)]
  const [width, depth] = [Math.max(...xs) - x0, Math.max(...zs) - z0]
  const wanted = Math.max(1, count) * CANDIDATES
  const found: Candidate[] = []
  let tries = 0
  for (; found.length < wanted && tries < wanted * MOST_TRIES; tries++) {
    const random = createRandom(hashCombine(seed, tries))
    const [x, z] = [x0 + width * random.next(), z0 + depth * random.next()]
    if (!isInside(outline, x, z)) continue
    if (keepOut.some(k => (k.x - x) ** 2 + (k.z - z) ** 2 < k.radiusM ** 2)) continue
    const edge = edgeM > 0 ? Math.min(1, distanceToEdge(outline, x, z) / edgeM) : 1
    const thickness = density(x, z) * edge
    if (random.next() < thickness) found.push({ x, z, index: tries, thickness: Math.max(THINNEST, Math.min(1, thickness)) })
  }
  return Object.assign(found, { hitM2: tries > 0 ? (width * depth * found.length) / tries : 0 })
}

/** Whether a point lies in a polygon: by how often a ray to the right meets its sides. */
export function isInside(outline: ScatterArea['outline'], x: number, z: number): boolean {
  let isIn = false
  for (let i = 0, j = outline.length - 1; i < outline.length; j = i++) {
    const [ax, az] = outline[i]
    const [bx, bz] = outline[j]
    if (az > z !== bz > z && x < ((bx - ax) * (z - az)) / (bz - az) + ax) isIn = !isIn
  }
  return isIn
}

function distanceToEdge(outline: ScatterArea['outline'], x: number, z: number): number {
  let least = Number.POSITIVE_INFINITY
  for (let i = 0, j = outline.length - 1; i < outline.length; j = i++) {
    const [ax, az] = outline[j]
    const [dx, dz] = [outline[i][0] - ax, outline[i][1] - az]
    const along = Math.min(1, Math.max(0, ((x - ax) * dx + (z - az) * dz) / (dx * dx + dz * dz || 1)))
    least = Math.min(least, Math.hypot(x - ax - along * dx, z - az - along * dz))
  }
  return least
}

/** Takes away whatever is weighed most by its neighbours, until so many are left and none stands nearer than `leastM`. */
function eliminate(points: readonly Candidate[], count: number, reachM: number, leastM: number): Scattered[] {
  const near = findNeighbours(points, reachM)
  const shares = near.seenM.map(seenM => weigh(seenM / reachM))
  const isGone = new Uint8Array(points.length)
  let tooNear = 0
  /** How much all that are left weigh, and besides it for each that stands too near. */
  const weighAll = (crowding: number): Float64Array => {
    const weights = new Float64Array(points.length)
    tooNear = 0
    for (let i = 0; i < points.length; i++) {
      if (isGone[i]) continue
      for (let k = near.starts[i]; k < near.starts[i + 1]; k++) {
        if (isGone[near.of[k]]) continue
        const isTooNear = near.apartM[k] < leastM
        weights[i] += shares[k] + (isTooNear ? crowding : 0)
        if (isTooNear) tooNear++
      }
    }
    return weights
  }
  const takeAwayWhile = (goesOn: () => boolean, crowding: number): void => {
    const weights = weighAll(crowding)
    const heap = new Heap(weights)
    while (goesOn()) {
      const i = heap.pop()
      isGone[i] = 1
      for (let k = near.starts[i]; k < near.starts[i + 1]; k++) {
        const of = near.of[k]
        if (isGone[of]) continue
        const isTooNear = near.apartM[k] < leastM
        weights[of] -= shares[k] + (isTooNear ? crowding : 0)
        heap.sink(of)
        if (isTooNear) tooNear -= 2
      }
    }
  }
  let left = points.length
  takeAwayWhile(() => left-- > count, 0)
  // Among those that are left, the most crowded go first.
  takeAwayWhile(() => tooNear > 0, CROWDING)
  return points.filter((_, i) => !isGone[i]).map(({ x, z, index }) => ({ x, z, index }))
}

/** Weights are sums of whole steps, which come out the same in whatever order they are added up. */
const STEPS = 2 ** 30
/** More than all neighbours together weigh, of which there are a thousand at most. */
const CROWDING = STEPS * 2 ** 10

/** How much a neighbour weighs at a share of the reach: to the eighth power (Yuksel 2015, section 3). */
function weigh(share: number): number {
  const second = (1 - share) ** 2
  return Math.round(second * second * second * second * STEPS)
}
