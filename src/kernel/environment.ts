import {
  angleOf,
  cosineFour,
  elevationFour,
  sineFour,
  cosine as turnCosine,
  turnFour,
  turnOf,
  sine as turnSine,
} from './angles'
import { LIGHT } from './memory'
import { TO_UNIT } from './sampling'

/**
 * Light from all around, as core/render/lights/environment-light.ts has it.
 * An environment: map u32 (f32 RGB) · width · height · table width · table height · row sums · column sums · density (f32) · row guide (u16) ·
 * column guide (u16) · row sines, u32 each · 4 unused · gain, sine and cosine of its turn f64.
 */

let map: usize = 0
let width: i32 = 0
let height: i32 = 0
let tableWidth: i32 = 0
let tableHeight: i32 = 0
let rowCdf: usize = 0
let columnCdf: usize = 0
let density: usize = 0
let rowGuide: usize = 0
let columnGuide: usize = 0
let rowSine: usize = 0
let gain: f64 = 0
let sine: f64 = 0
let cosine: f64 = 1

/** Written by `sampleEnvironment`. */
export let lightX: f64 = 0
export let lightY: f64 = 0
export let lightZ: f64 = 0
export let lightPdf: f64 = 0

export function setEnvironment(at: usize): void {
  map = load<u32>(at)
  width = load<i32>(at, 4)
  height = load<i32>(at, 8)
  tableWidth = load<i32>(at, 12)
  tableHeight = load<i32>(at, 16)
  rowCdf = load<u32>(at, 20)
  columnCdf = load<u32>(at, 24)
  density = load<u32>(at, 28)
  rowGuide = load<u32>(at, 32)
  columnGuide = load<u32>(at, 36)
  rowSine = load<u32>(at, 40)
  gain = load<f64>(at, 48)
  sine = load<f64>(at, 56)
  cosine = load<f64>(at, 64)
}

// @ts-ignore: decorator
@inline
function findInterval(cdf: usize, count: i32, u: f64, start: i32): i32 {
  let i = start
  while (i < count - 1 && load<f64>(cdf + ((<usize>(i + 1)) << 3)) <= u) i++
  return i
}

export function sampleEnvironment(u1: f64, u2: f64): void {
  drawCell(u1, u2)
  const across = Math.sqrt(Math.max(0, drawnBelow * (2 - drawnBelow)))
  // The middle of the map looks towards −Z.
  turnOf(drawnU - 0.5)
  const ex = across * turnSine
  const ez = -across * turnCosine
  mapU = drawnU
  mapV = 0.5 - angleOf(1 - drawnBelow, across) / Math.PI
  lightX = cosine * ex - sine * ez
  lightY = 1 - drawnBelow
  lightZ = sine * ex + cosine * ez
  lightPdf = drawnPdf
}

/** A direction as a share of the map's width, as what its sine lacks of 1, and its density; written by `drawCell`. */
let drawnU: f64 = 0
let drawnBelow: f64 = 0
let drawnPdf: f64 = 0

function drawCell(u1: f64, u2: f64): void {
  if (guideTable) return drawGuided(u1, u2)
  const w = tableWidth
  const h = tableHeight
  const rowBucket = min<i32>(h - 1, <i32>(u1 * <f64>h))
  const j = findInterval(rowCdf, h, u1, load<u16>(rowGuide + ((<usize>rowBucket) << 1)))
  const columns = columnCdf + ((<usize>(j * (w + 1))) << 3)
  const columnBucket = min<i32>(w - 1, <i32>(u2 * <f64>w))
  const i = findInterval(columns, w, u2, load<u16>(columnGuide + ((<usize>(j * w + columnBucket)) << 1)))
  const rowAt = rowCdf + ((<usize>j) << 3)
  const columnAt = columns + ((<usize>i) << 3)
  const rowStart = load<f64>(rowAt)
  const columnStart = load<f64>(columnAt)
  const rowSpan = load<f64>(rowAt, 8) - rowStart
  const columnSpan = load<f64>(columnAt, 8) - columnStart
  const fy = rowSpan > 0 ? (u1 - rowStart) / rowSpan : 0.5
  const fx = columnSpan > 0 ? (u2 - columnStart) / columnSpan : 0.5
  const sineAt = rowSine + ((<usize>j) << 3)
  const top = load<f64>(sineAt)
  const bottom = load<f64>(sineAt, 8)
  drawnU = (<f64>i + fx) / <f64>w
  drawnBelow = 1 - top + (top - bottom) * fy
  // Of the table of densities this cell would be read for nothing else.
  drawnPdf = (rowSpan * columnSpan * <f64>w) / ((top - bottom) * (2 * Math.PI))
}

/**
 * A guide, as core/render/guide has it: strips · column bounds · row bounds · bin of each column · of each row · table of each
 * spot (i32) · tables of the light from all around · of the light that surfaces send on · cells along x, y, z, u32 each · least x, y, z and side
 * of a cell, f64.
 */
const BINS_ACROSS: u32 = 32
const BINS_DOWN: u32 = 16
const GUIDE_COLUMNS: usize = 17 * 8
const GUIDE_LINE: usize = 33 * 8
const GUIDE_RATIOS: usize = GUIDE_COLUMNS + 16 * GUIDE_LINE
const GUIDE_TABLE_BYTES: usize = GUIDE_RATIOS + 16 * 32 * 8
let guide: usize = 0
let guideStrips: usize = 0
let guideColumnBounds: usize = 0
let guideRowBounds: usize = 0
let guideBinOfColumn: usize = 0
let guideBinOfRow: usize = 0
/** That of the place at hand; 0 for none. */
let guideTable: usize = 0
let guideBounce: usize = 0

export function setGuide(at: usize): void {
  guide = at
  guideTable = 0
  if (!at) return
  guideStrips = load<u32>(at)
  guideColumnBounds = load<u32>(at, 4)
  guideRowBounds = load<u32>(at, 8)
  guideBinOfColumn = load<u32>(at, 12)
  guideBinOfRow = load<u32>(at, 16)
}

/** Directions are drawn from now on for a place on a surface, with its normal towards the viewer. */
export function enterSpot(x: f64, y: f64, z: f64, facingX: f64, facingY: f64, facingZ: f64): void {
  if (!guide) return
  guideTable = 0
  const side = load<f64>(guide, 72)
  const i = Math.floor((x - load<f64>(guide, 48)) / side)
  const j = Math.floor((y - load<f64>(guide, 56)) / side)
  const k = Math.floor((z - load<f64>(guide, 64)) / side)
  const across = load<u32>(guide, 32)
  const up = load<u32>(guide, 36)
  if (!(i >= 0 && i < <f64>across && j >= 0 && j < <f64>up && k >= 0 && k < <f64>load<u32>(guide, 40))) return
  const spot = ((<u32>k * up + <u32>j) * across + <u32>i) * 6 + facingOf(facingX, facingY, facingZ)
  const table = load<i32>(load<u32>(guide, 20) + ((<usize>spot) << 2))
  if (table < 0) return
  guideTable = load<u32>(guide, 24) + <usize>table * GUIDE_TABLE_BYTES
  guideBounce = load<u32>(guide, 28) + <usize>table * GUIDE_TABLE_BYTES
}

function facingOf(x: f64, y: f64, z: f64): u32 {
  const ax = Math.abs(x)
  const ay = Math.abs(y)
  const az = Math.abs(z)
  if (ax >= ay && ax >= az) return x < 0 ? 1 : 0
  if (ay >= az) return y < 0 ? 3 : 2
  return z < 0 ? 5 : 4
}

/** Whether there is a guide at all. */
// @ts-ignore: decorator
@inline
export function hasGuide(): bool {
  return guide != 0
}

/** Whether light is known to come from somewhere at the place at hand. */
// @ts-ignore: decorator
@inline
export function hasSpot(): bool {
  return guideTable != 0
}

/** Draws a direction from which surfaces send light to the place at hand, as `sampleEnvironment` does of the light from all around. */
export function sampleBounce(u1: f64, u2: f64): void {
  const row = intervalOf(guideBounce, BINS_DOWN, u1)
  const down = placeIn(guideBounce + ((<usize>row) << 3), u1)
  const line = guideBounce + GUIDE_COLUMNS + <usize>row * GUIDE_LINE
  const column = intervalOf(line, BINS_ACROSS, u2)
  lightY = 1 - (2 * (<f64>row + down)) / 16
  turnOf((<f64>column + placeIn(line + ((<usize>column) << 3), u2)) / 32 - 0.5)
  const level = Math.sqrt(Math.max(0, 1 - lightY * lightY))
  lightX = level * turnSine
  lightZ = -level * turnCosine
}

/** Density per steradian with which `sampleBounce` draws a unit direction. */
export function bounceDensity(x: f64, y: f64, z: f64): f64 {
  const row = min<i32>(15, max<i32>(0, <i32>Math.floor(((1 - y) / 2) * 16)))
  const column = min<i32>(31, max<i32>(0, <i32>Math.floor((angleOf(x, -z) / (2 * Math.PI) + 0.5) * 32)))
  return load<f64>(guideBounce + GUIDE_RATIOS + ((<usize>(row * 32 + column)) << 3))
}

/** Largest i below `count` whose number is not above u. */
// @ts-ignore: decorator
@inline
function intervalOf(cdf: usize, count: u32, u: f64): u32 {
  let low: u32 = 0
  let high: u32 = count - 1
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (load<f64>(cdf + ((<usize>middle) << 3)) <= u) low = middle
    else high = middle - 1
  }
  return low
}

// @ts-ignore: decorator
@inline
function placeIn(at: usize, value: f64): f64 {
  const from = load<f64>(at)
  const to = load<f64>(at, 8)
  return to > from ? Math.min(1 - 1e-9, Math.max(0, (value - from) / (to - from))) : 0.5
}

/** As `drawCell`, by the table of the place at hand. */
function drawGuided(u1: f64, u2: f64): void {
  const row = intervalOf(guideTable, BINS_DOWN, u1)
  const v1 = placeIn(guideTable + ((<usize>row) << 3), u1)
  const line = guideTable + GUIDE_COLUMNS + <usize>row * GUIDE_LINE
  const column = intervalOf(line, BINS_ACROSS, u2)
  const v2 = placeIn(line + ((<usize>column) << 3), u2)
  const strip = guideStrips + ((<usize>(column * <u32>(tableHeight + 1))) << 3)
  const j0 = load<u32>(guideRowBounds + ((<usize>row) << 2))
  const j1 = load<u32>(guideRowBounds + ((<usize>row) << 2), 4)
  const above = load<f64>(strip + ((<usize>j0) << 3))
  const down = above + v1 * (load<f64>(strip + ((<usize>j1) << 3)) - above)
  const j = j0 + intervalOf(strip + ((<usize>j0) << 3), j1 - j0, down)
  const i0 = load<u32>(guideColumnBounds + ((<usize>column) << 2))
  const i1 = load<u32>(guideColumnBounds + ((<usize>column) << 2), 4)
  const columns = columnCdf + ((<usize>(j * <u32>(tableWidth + 1))) << 3)
  const left = load<f64>(columns + ((<usize>i0) << 3))
  const across = left + v2 * (load<f64>(columns + ((<usize>i1) << 3)) - left)
  const i = i0 + intervalOf(columns + ((<usize>i0) << 3), i1 - i0, across)
  const sineAt = rowSine + ((<usize>j) << 3)
  const top = load<f64>(sineAt)
  const bottom = load<f64>(sineAt, 8)
  drawnU = (<f64>i + placeIn(columns + ((<usize>i) << 3), across)) / <f64>tableWidth
  drawnBelow = 1 - top + (top - bottom) * placeIn(strip + ((<usize>j) << 3), down)
  const own = <f64>load<f32>(density + ((<usize>(j * <u32>tableWidth + i)) << 2))
  drawnPdf = own * load<f64>(guideTable + GUIDE_RATIOS + ((<usize>(row * BINS_ACROSS + column)) << 3))
}

/** Four directions, from eight u32 of which 2³² would be 1: written by `sampleFour`, with their densities and places in the map. */
export let fourX: v128 = f32x4.splat(0)
export let fourY: v128 = f32x4.splat(0)
export let fourZ: v128 = f32x4.splat(0)

/** Densities to DENSITY, places in the map to MAP_U and MAP_V, f64 and f32 ×4; LANES is scratch, f32 ×4 twice. */
export function sampleFour(points: usize, densities: usize, mapUs: usize, mapVs: usize, lanes: usize): void {
  for (let k: usize = 0; k < 4; k++) {
    const point = points + (k << 2)
    drawCell(<f64>load<u32>(point) * TO_UNIT, <f64>load<u32>(point, 16) * TO_UNIT)
    store<f64>(densities + (k << 3), drawnPdf)
    store<f64>(mapUs + (k << 3), drawnU)
    store<f32>(lanes + (k << 2), <f32>(drawnU - 0.5))
    store<f32>(lanes + (k << 2), <f32>drawnBelow, 16)
  }
  const below = v128.load(lanes, 16)
  const y = f32x4.sub(f32x4.splat(1), below)
  const across = f32x4.sqrt(f32x4.pmax(f32x4.splat(0), f32x4.mul(below, f32x4.sub(f32x4.splat(2), below))))
  turnFour(v128.load(lanes))
  const ex = f32x4.mul(across, sineFour)
  const ez = f32x4.neg(f32x4.mul(across, cosineFour))
  const s = f32x4.splat(<f32>sine)
  const c = f32x4.splat(<f32>cosine)
  fourX = f32x4.sub(f32x4.mul(c, ex), f32x4.mul(s, ez))
  fourY = y
  fourZ = f32x4.add(f32x4.mul(s, ex), f32x4.mul(c, ez))
  v128.store(mapVs, f32x4.sub(f32x4.splat(0.5), f32x4.mul(elevationFour(y, across), f32x4.splat(0.318309886))))
}

/** Direction in the map as shares of its width, and of its height from the top. */
let mapU: f64 = 0
let mapV: f64 = 0
// @ts-ignore: decorator
@inline
function locate(x: f64, y: f64, z: f64): void {
  const ex = cosine * x + sine * z
  const ez = -sine * x + cosine * z
  mapU = angleOf(ex, -ez) / (2 * Math.PI) + 0.5
  mapV = 0.5 - angleOf(y, Math.sqrt(ex * ex + ez * ez)) / Math.PI
}

// @ts-ignore: decorator
@inline
function densityHere(): f64 {
  const i = min<i32>(tableWidth - 1, max<i32>(0, <i32>Math.floor(mapU * <f64>tableWidth)))
  const j = min<i32>(tableHeight - 1, max<i32>(0, <i32>Math.floor(mapV * <f64>tableHeight)))
  const drawn = <f64>load<f32>(density + ((<usize>(j * tableWidth + i)) << 2))
  if (!guideTable) return drawn
  const bin = load<u32>(guideBinOfRow + ((<usize>j) << 2)) * BINS_ACROSS + load<u32>(guideBinOfColumn + ((<usize>i) << 2))
  return drawn * load<f64>(guideTable + GUIDE_RATIOS + ((<usize>bin) << 3))
}

/** Radiance from a direction into LIGHT, and the density with which it is drawn. */
export function environmentRadiance(x: f64, y: f64, z: f64): f64 {
  locate(x, y, z)
  readMap()
  return densityHere()
}

/** Radiance from a direction into LIGHT, of a map that is only looked at: a guide to another's tables says nothing of it. */
export function seeEnvironment(x: f64, y: f64, z: f64): void {
  locate(x, y, z)
  readMap()
}

/** Radiance at a place of the map, into LIGHT. */
export function radianceAt(u: f64, v: f64): void {
  mapU = u
  mapV = v
  readMap()
}

/** Radiance from the direction that `sampleEnvironment` drew, into LIGHT. */
export function drawnRadiance(): void {
  readMap()
}

function readMap(): void {
  const u = mapU * <f64>width - 0.5
  const v = mapV * <f64>height - 0.5
  const uf = Math.floor(u)
  const vf = Math.floor(v)
  const fx = u - uf
  const fy = v - vf
  let i0 = <i32>uf % width
  if (i0 < 0) i0 += width
  const i1 = i0 + 1 < width ? i0 + 1 : 0
  const j = <i32>vf
  const j0 = min<i32>(height - 1, max<i32>(0, j))
  const j1 = min<i32>(height - 1, max<i32>(0, j + 1))
  const a = map + <usize>(j0 * width + i0) * 12
  const b = map + <usize>(j0 * width + i1) * 12
  const c = map + <usize>(j1 * width + i0) * 12
  const d = map + <usize>(j1 * width + i1) * 12
  // Three of four lanes are the colour; the fourth, whatever follows, is not looked at.
  const above = f32x4.add(
    f32x4.mul(v128.load(a), f32x4.splat(<f32>((1 - fx) * (1 - fy) * gain))),
    f32x4.mul(v128.load(b), f32x4.splat(<f32>(fx * (1 - fy) * gain))),
  )
  const below = f32x4.add(
    f32x4.mul(v128.load(c), f32x4.splat(<f32>((1 - fx) * fy * gain))),
    f32x4.mul(v128.load(d), f32x4.splat(<f32>(fx * fy * gain))),
  )
  const sum = f32x4.add(above, below)
  store<f64>(LIGHT, <f64>f32x4.extract_lane(sum, 0))
  store<f64>(LIGHT, <f64>f32x4.extract_lane(sum, 1), 8)
  store<f64>(LIGHT, <f64>f32x4.extract_lane(sum, 2), 16)
}
