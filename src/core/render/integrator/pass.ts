import { samplesOfHalf, TILE_FEATURES, type Tile } from '../film/tile'
import { AREA_NUMBERS } from './kernel-tracer'

/** Samples of a tile that one of those who trace takes on, and nobody else until it is ended or given back. */
export interface Pass {
  readonly tile: Tile
  /** Samples of each pixel after it. */
  readonly until: number
  /** Of either half; there may be none of one. */
  readonly halves: readonly { which: 0 | 1; from: number; until: number }[]
}

/** What came of a pass that was traced elsewhere: {@link AREA_NUMBERS} a pixel for each of its halves. */
export interface TracedPass {
  halves: readonly Float64Array[]
  rays: number
  clampedLuminance: number
}

/** Samples of a pass; the first ones are small so that a picture shows soon. */
const FIRST_PASSES = [1, 1, 2, 4]
const PASS = 8

/** The next pass of a tile, up to its goal. */
export function passOf(tile: Tile): Pass {
  const until = Math.min(tile.count + passAfter(tile.count), tile.goal)
  const halves = ([0, 1] as const).map(which => ({
    which,
    from: samplesOfHalf(tile.count, which),
    until: samplesOfHalf(until, which),
  }))
  return { tile, until, halves: halves.filter(h => h.from < h.until) }
}

/** Adds what was traced, {@link AREA_NUMBERS} a pixel, to one half of a tile. */
export function addHalf(tile: Tile, which: 0 | 1, traced: Float64Array): void {
  const { sums, squares, features } = tile.halves[which]
  for (let p = 0, at = 0; p < tile.width * tile.height; p++, at += AREA_NUMBERS) {
    for (let k = 0; k < 3; k++) sums[p * 3 + k] += traced[at + k]
    if (!features) continue
    squares[p] += traced[at + 3]
    for (let k = 0; k < TILE_FEATURES; k++) features[p * TILE_FEATURES + k] += traced[at + 4 + k]
  }
}

function passAfter(count: number): number {
  let sum = 0
  for (const size of FIRST_PASSES) {
    sum += size
    if (count < sum) return sum - count
  }
  return PASS
}
