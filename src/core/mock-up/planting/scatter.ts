import { createRandom, hashCombine } from '../../math/random'

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
const SHARPNESS = 8

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
    if (keepOut.some(k => Math.hypot(k.x - x, k.z - z) < k.radiusM)) continue
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
  const neighbours = findNeighbours(points, reachM)
  const weights = new Float64Array(points.length)
  const crowded = new Int32Array(points.length)
  const weigh = (seenM: number) => (seenM < reachM ? (1 - seenM / reachM) ** SHARPNESS : 0)
  neighbours.forEach((near, i) => {
    for (const { apartM, seenM } of near) {
      weights[i] += weigh(seenM)
      if (apartM < leastM) crowded[i]++
    }
  })
  const heap = new Heap(weights)
  const isGone = new Uint8Array(points.length)
  let left = points.length
  let tooNear = crowded.reduce((sum, n) => sum + n, 0)
  const takeAway = (i: number) => {
    isGone[i] = 1
    left--
    for (const { of, apartM, seenM } of neighbours[i]) {
      if (isGone[of]) continue
      weights[of] -= weigh(seenM)
      heap.sink(of)
      if (apartM < leastM) {
        crowded[of]--
        tooNear -= 2
      }
    }
  }
  while (left > count) takeAway(heap.pop())
  // Among those that are left, the most crowded go first.
  while (tooNear > 0) {
    const worst = findWorst(crowded, weights, isGone)
    heap.remove(worst)
    takeAway(worst)
  }
  return points.filter((_, i) => !isGone[i]).map(({ x, z, index }) => ({ x, z, index }))
}

function findWorst(crowded: Int32Array, weights: Float64Array, isGone: Uint8Array): number {
  let worst = -1
  for (let i = 0; i < crowded.length; i++) {
    if (isGone[i] || crowded[i] === 0) continue
    if (worst < 0 || crowded[i] > crowded[worst] || (crowded[i] === crowded[worst] && weights[i] > weights[worst])) worst = i
  }
  return worst
}

interface Neighbour {
  of: number
  apartM: number
  /** The same where it grows as thick as can be: in thin growth what is far apart is near. */
  seenM: number
}

/** Of each point those within reach as they are seen, found in a grid of cells as large as that can be. */
function findNeighbours(points: readonly Candidate[], reachM: number): Neighbour[][] {
  const thinnest = points.reduce((least, p) => Math.min(least, p.thickness), 1)
  const cellM = reachM / Math.sqrt(thinnest)
  const cellOf = (v: number) => Math.floor(v / cellM)
  const cells = new Map<string, number[]>()
  points.forEach(({ x, z }, i) => {
    const key = `${cellOf(x)} ${cellOf(z)}`
    const cell = cells.get(key)
    if (cell) cell.push(i)
    else cells.set(key, [i])
  })
  return points.map(({ x, z, thickness }, i) => {
    const near: Neighbour[] = []
    for (let cx = cellOf(x) - 1; cx <= cellOf(x) + 1; cx++)
      for (let cz = cellOf(z) - 1; cz <= cellOf(z) + 1; cz++)
        for (const of of cells.get(`${cx} ${cz}`) ?? []) {
          if (of === i) continue
          const apartM = Math.hypot(points[of].x - x, points[of].z - z)
          const seenM = apartM * Math.sqrt((points[of].thickness + thickness) / 2)
          if (seenM < reachM || apartM < reachM) near.push({ of, apartM, seenM })
        }
    return near
  })
}

/** Indices by weight, the heaviest on top; weights only ever become less. */
class Heap {
  private readonly order: Int32Array
  private readonly at: Int32Array
  private size: number

  constructor(private readonly weights: Float64Array) {
    this.size = weights.length
    this.order = Int32Array.from(weights, (_, i) => i)
    this.at = Int32Array.from(weights, (_, i) => i)
    for (let place = (this.size >> 1) - 1; place >= 0; place--) this.down(place)
  }

  pop(): number {
    const [top] = this.order
    this.remove(top)
    return top
  }

  remove(index: number): void {
    const place = this.at[index]
    if (place < 0) return
    const last = this.order[--this.size]
    this.at[index] = -1
    if (last === index) return
    this.order[place] = last
    this.at[last] = place
    this.up(place)
    this.down(this.at[last])
  }

  /** After a weight became less. */
  sink(index: number): void {
    if (this.at[index] >= 0) this.down(this.at[index])
  }

  private isHeavier(a: number, b: number): boolean {
    const difference = this.weights[this.order[a]] - this.weights[this.order[b]]
    // By index where they are the same, so that nothing depends on chance.
    return difference > 0 || (difference === 0 && this.order[a] < this.order[b])
  }

  private swap(a: number, b: number): void {
    const [p, q] = [this.order[a], this.order[b]]
    this.order[a] = q
    this.order[b] = p
    this.at[q] = a
    this.at[p] = b
  }

  private up(place: number): void {
    for (let child = place; child > 0; ) {
      const parent = (child - 1) >> 1
      if (!this.isHeavier(child, parent)) return
      this.swap(child, parent)
      child = parent
    }
  }

  private down(place: number): void {
    for (let parent = place; ; ) {
      let best = parent
      for (const child of [2 * parent + 1, 2 * parent + 2]) if (child < this.size && this.isHeavier(child, best)) best = child
      if (best === parent) return
      this.swap(parent, best)
      parent = best
    }
  }
}
