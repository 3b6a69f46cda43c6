import { encodeSrgb, luminance } from '../../color/srgb'

/** What a rendering knows of one tile of its picture; survives structured cloning, so that threads can hand tiles over. */
export interface Tile {
  x0: number
  y0: number
  width: number
  height: number
  /** Samples of each pixel so far, both halves together. */
  count: number
  /** Samples at which it is judged next. */
  goal: number
  done: boolean
  /** Error of display luminance, root mean square; infinite before it can be told. */
  error: number
  /** Every other sample belongs to the second half. */
  halves: [TileHalf, TileHalf]
  /** Linear RGB, 3 a pixel, as it was when it was judged last; null before that, and where nobody filters. */
  filtered: Float32Array<ArrayBuffer> | null
}

/** Sums over one half's samples. */
export interface TileHalf {
  /** Linear RGB, 3 a pixel. */
  sums: Float32Array
  /** Squared luminance, held to 4; empty where nobody filters. */
  squares: Float32Array
  /** {@link TILE_FEATURES} a pixel: what the camera met; null where nobody filters. */
  features: Float32Array | null
}

const TILE = 32
/** Base colour (3), normal (3) and distance. */
export const TILE_FEATURES = 7
/** Samples after which a filtered tile is judged for the first time; where little error is wanted, fewer cannot be enough. */
const usualFirstGoal = (noiseTarget: number): number => (noiseTarget < 3 / 255 ? 12 : 4)

/** The tiles of a picture, row by row, nothing traced yet. */
export function planTiles({
  width,
  height,
  denoised,
  maxSamples,
  noiseTarget,
  firstGoal = usualFirstGoal(noiseTarget),
}: {
  width: number
  height: number
  denoised: boolean
  maxSamples: number
  noiseTarget: number
  firstGoal?: number
}): Tile[] {
  const tiles: Tile[] = []
  for (let y0 = 0; y0 < height; y0 += TILE)
    for (let x0 = 0; x0 < width; x0 += TILE) {
      const w = Math.min(TILE, width - x0)
      const h = Math.min(TILE, height - y0)
      const createHalf = (): TileHalf => ({
        sums: new Float32Array(w * h * 3),
        squares: new Float32Array(denoised ? w * h : 0),
        features: denoised ? new Float32Array(w * h * TILE_FEATURES) : null,
      })
      tiles.push({
        x0,
        y0,
        width: w,
        height: h,
        count: 0,
        goal: denoised ? Math.min(firstGoal, maxSamples) : maxSamples,
        done: false,
        error: Number.POSITIVE_INFINITY,
        halves: [createHalf(), createHalf()],
        filtered: null,
      })
    }
  return tiles
}

/** How many of a tile's first `count` samples are of one half. */
export const samplesOfHalf = (count: number, which: 0 | 1): number => (count + 1 - which) >> 1

/** Mean linear RGB over all samples, 3 a pixel; black where nothing was traced. */
export function tileMeans({ halves: [a, b], count }: Pick<Tile, 'halves' | 'count'>): Float32Array<ArrayBuffer> {
  return Float32Array.from(a.sums, (v, i) => (v + b.sums[i]) / Math.max(1, count))
}

/** Luminance as a display shows it, 0..1; what lies past white cannot be seen to differ. */
export const displayLuminance = (r: number, g: number, b: number): number => encodeSrgb(Math.min(1, luminance(r, g, b)))

/** Root mean square over the tile of the standard error of display luminance: half of what its halves differ by. */
export function measureNoise({ halves, count }: Tile): number {
  const [a, b] = halves.map(h => h.sums)
  const [na, nb] = [samplesOfHalf(count, 0), samplesOfHalf(count, 1)]
  let squared = 0
  for (let i = 0; i < a.length; i += 3)
    squared +=
      (displayLuminance(a[i] / na, a[i + 1] / na, a[i + 2] / na) - displayLuminance(b[i] / nb, b[i + 1] / nb, b[i + 2] / nb)) ** 2
  return Math.sqrt(squared / (a.length / 3)) / 2
}
