import { luminance } from '../../color/srgb'
import { percentile } from '../../math/statistics'
import { type Filtering, type Half, prepareFilter } from './filter-halves'
import { type FitTask, fitRows } from './fit-rows'
import { displayLuminance, samplesOfHalf, TILE_FEATURES, type Tile } from './tile'

interface Size {
  width: number
  height: number
}
type JudgeSettings = Size & { noiseTarget: number; maxSamples: number }

/** The error that the estimate misses: both filtered halves are blurred alike where neither has seen enough. */
const CAUTION = 1.25
/** Filtered, an error falls more slowly than by the root of the samples. */
const FALL = 2.5
const LEAST_GROWTH = 1.25
const MOST_GROWTH = 2
/** Fewer say nothing of what tiles have in common. */
const LEAST_TILES = 8
/** A standard deviation, in medians of what is apart from the median. */
const DEVIATION = 1.4826
/** A tile is moved by so many of its own standard errors at most. */
const MOST_MOVED = 2

/** A judgement whose greater part is in tasks for as many threads as there are, see {@link Filtering}. */
export interface Judging {
  tasks: FitTask[]
  judge: (fitted: readonly Float32Array[]) => void
}

/**
 * Filters the picture as far as it has come and gives each tile that is not done its part of it, what error is left in that, whether it is
 * done with it, and how many samples it shall have when it is judged next.
 *
 * The error is estimated from the halves A and B (luminances, in display units at the filtered value): A filtered has nothing to do with
 * the noise of B, so that the mean of (A' − B)², less B's own variance, is the squared error of A', noise and blur together; the halves
 * tell that variance, (A − B)²/2. The picture is the mean of A' and B', which has less noise than either: half of (A' − B')²/4 is taken off,
 * and not all of it, since both are guided by each other. It is held to be no less than that. How far a tile's own estimate is believed is
 * {@link believeShares}.
 */
export function prepareJudging(tiles: readonly Tile[], settings: JudgeSettings): Judging {
  const open = tiles.filter(t => !t.done)
  const { halves, filtering } = prepareOpen(tiles, settings, open)
  return { tasks: filtering.tasks, judge: fitted => judgeOpen(open, halves, filtering.finish(fitted), settings) }
}

/** The same, here and now. */
export function judgeTiles(tiles: readonly Tile[], settings: JudgeSettings): void {
  const { tasks, judge } = prepareJudging(tiles, settings)
  judge(tasks.map(fitRows))
}

function judgeOpen(
  open: readonly Tile[],
  halves: readonly [Half, Half],
  [fa, fb]: readonly [Float32Array, Float32Array],
  { width, noiseTarget, maxSamples }: JudgeSettings,
): void {
  const [a, b] = halves.map(h => h.color)
  const at = (data: Float32Array, i: number) => Math.min(4, luminance(data[i], data[i + 1], data[i + 2]))
  const judged = open.map(tile => {
    let [left, noise, spread] = [0, 0, 0]
    const shown = new Float32Array(tile.width * tile.height * 3)
    for (let p = 0; p < tile.width * tile.height; p++) {
      const i = pixelOf(tile, p, width) * 3
      for (let k = 0; k < 3; k++) shown[p * 3 + k] = (fa[i + k] + fb[i + k]) / 2
      const [la, lb, ra, rb] = [at(a, i), at(b, i), at(fa, i), at(fb, i)]
      const squaredSlope = slopeAt((ra + rb) / 2) ** 2
      const between = squaredSlope * ((la - lb) ** 2 / 2)
      spread += between
      left += squaredSlope * (((ra - lb) ** 2 + (rb - la) ** 2) / 2) - between
      noise += (displayLuminance(fa[i], fa[i + 1], fa[i + 2]) - displayLuminance(fb[i], fb[i + 1], fb[i + 2])) ** 2 / 4
    }
    tile.filtered = shown
    return { tile, left, noise, spread }
  })
  const shares = judged.map(({ tile, left, spread }) => ({
    share: spread > 0 ? left / spread : 0,
    pixels: tile.width * tile.height,
  }))
  const believed = believeShares(shares)
  judged.forEach(({ tile, noise, spread }, k) => {
    const left = believed[k] * spread
    tile.error = CAUTION * Math.sqrt(Math.max(left - noise / 2, noise) / (tile.width * tile.height))
    tile.done = tile.count >= maxSamples || tile.error <= noiseTarget
    const growth = noiseTarget > 0 ? (tile.error / noiseTarget) ** FALL : MOST_GROWTH
    tile.goal = Math.min(maxSamples, Math.ceil(tile.count * Math.min(MOST_GROWTH, Math.max(LEAST_GROWTH, growth))))
  })
}

/**
 * What share of a half's variance the filter leaves in each tile. Told by one tile it is uncertain by one over the root of its pixels, the
 * product of the noise of both halves, which in a room is many times what is left; so tiles are believed as far as they differ by more than that,
 * and for the rest what tiles have in common is (Efron & Morris 1971, limited translation of an empirical Bayes estimate), with half of what
 * stays uncertain added.
 */
export function believeShares(tiles: readonly { share: number; pixels: number }[]): number[] {
  if (tiles.length < LEAST_TILES) return tiles.map(t => t.share)
  const shares = tiles.map(t => t.share)
  const usual = percentile(shares, 0.5)
  const apart =
    DEVIATION *
    percentile(
      shares.map(s => Math.abs(s - usual)),
      0.5,
    )
  const uncertain = percentile(
    tiles.map(t => 1 / t.pixels),
    0.5,
  )
  const trueSpread = Math.max(0, apart ** 2 - uncertain)
  return tiles.map(({ share, pixels }) => {
    const own = trueSpread / (trueSpread + 1 / pixels)
    const farthest = MOST_MOVED / Math.sqrt(pixels)
    const moved = Math.min(farthest, Math.max(-farthest, (usual - share) * (1 - own)))
    return share + moved + Math.sqrt(own / pixels) / 2
  })
}

const slopeAt = (value: number): number => {
  if (value >= 1) return 0
  const step = 1e-3
  return (displayLuminance(value + step, value + step, value + step) - displayLuminance(value, value, value)) / step
}

/** To be filtered where there are open tiles. */
function prepareOpen(
  tiles: readonly Tile[],
  { width, height }: Size,
  open: readonly Tile[],
): { halves: [Half, Half]; filtering: Filtering } {
  const createHalf = (): Half => ({
    color: new Float32Array(width * height * 3),
    features: new Float32Array(width * height * TILE_FEATURES),
  })
  const halves: [Half, Half] = [createHalf(), createHalf()]
  const variance = new Float32Array(width * height)
  for (const tile of tiles) addTile(tile, halves, variance, width)
  return {
    halves,
    filtering: prepareFilter(halves, variance, width, height, open.length < tiles.length ? maskOf(open, width, height) : null),
  }
}

/** The tiles, and two pixels about them, from which windows reach in. */
function maskOf(tiles: readonly Tile[], width: number, height: number): Uint8Array {
  const mask = new Uint8Array(width * height)
  for (const { x0, y0, width: w, height: h } of tiles)
    for (let y = Math.max(0, y0 - 2); y < Math.min(height, y0 + h + 2); y++)
      mask.fill(1, y * width + Math.max(0, x0 - 2), y * width + Math.min(width, x0 + w + 2))
  return mask
}

function addTile({ halves: sums, count, ...tile }: Tile, halves: [Half, Half], variance: Float32Array, width: number): void {
  const pixels = tile.width * tile.height
  const means = new Float64Array(pixels)
  const squares = new Float64Array(pixels)
  for (const which of [0, 1] as const) {
    const share = 1 / Math.max(1, samplesOfHalf(count, which))
    const from = sums[which]
    const features = from.features!
    const to = halves[which]
    for (let p = 0; p < pixels; p++) {
      const at = pixelOf(tile, p, width)
      const i = at * 3
      for (let k = 0; k < 3; k++) to.color[i + k] = from.sums[p * 3 + k] * share
      for (let k = 0; k < TILE_FEATURES; k++) to.features[at * TILE_FEATURES + k] = features[p * TILE_FEATURES + k] * share
      means[p] += Math.min(4, luminance(to.color[i], to.color[i + 1], to.color[i + 2])) / 2
      squares[p] += (from.squares[p] * share) / 2
    }
  }
  for (let p = 0; p < pixels; p++)
    variance[pixelOf(tile, p, width)] = Math.max(0, squares[p] - means[p] * means[p]) / Math.max(1, count / 2 - 1)
}

const pixelOf = (tile: { x0: number; y0: number; width: number }, p: number, width: number): number =>
  (tile.y0 + Math.floor(p / tile.width)) * width + tile.x0 + (p % tile.width)
