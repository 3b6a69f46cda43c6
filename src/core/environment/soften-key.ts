import { createFloatImage, type FloatImage } from '../image/image'
import { toRadians } from '../math/angles'
import { dot, type Vec3 } from '../math/vec3'
import { findKeyLight, type KeyLight } from './key-light'
import { columnAzimuth, directionOf, rowElevation, rowSolidAngle } from './sphere'

/** Of the light that a softened key becomes: as through thin cloud. */
const SOFT_RAD = toRadians(5)
/** What fills the place of the key is taken from around it, so far out. */
const AROUND_RAD = toRadians(9)

/**
 * A map whose key light, the sun as a rule, is spread as by thin cloud or taken out altogether; spread it lights as much as before. A map
 * without a key is the same map.
 * @param map equirectangular linear RGB
 */
export function softenKey(map: FloatImage, how: 'soft' | 'none'): FloatImage {
  const parts = takeKeyOut(map)
  if (!parts) return map
  if (how === 'soft') spread(parts.rest, parts.away, parts.taken)
  return parts.rest
}

/** The key light of a map apart from all else that lights. */
export interface SplitKey {
  /** The map without it. */
  rest: FloatImage
  /** Where it stands, unit. */
  direction: Vec3
  /** What it gives a card that faces it, linear RGB in the unit of the map times steradians. */
  irradiance: Vec3
  angularDiameterDeg: number
}

/** Of a fainter one, against all else that lights a card which faces it, no shadow is seen. */
const LEAST_KEY_TO_FILL = 0.1
/** Light from a larger piece of sky than this throws no shadow with an edge to it. */
const LARGEST_KEY_DEG = 12

/**
 * A map as a light in one direction and what is left of it, for whoever draws shadows from a direction; together they light as the map does.
 * @param map equirectangular linear RGB
 * @returns null where its key is so large, so faint or so low that it throws no shadow on the ground worth drawing
 */
export function splitKey(map: FloatImage): SplitKey | null {
  const parts = takeKeyOut(map)
  if (!parts) return null
  const { rest, taken, key } = parts
  const throwsShadow = key.angularDiameterDeg <= LARGEST_KEY_DEG && key.keyToFill >= LEAST_KEY_TO_FILL && key.direction[1] > 0
  return throwsShadow ? { rest, direction: key.direction, irradiance: taken, angularDiameterDeg: key.angularDiameterDeg } : null
}

interface KeyTaken {
  key: KeyLight
  rest: FloatImage
  /** All the light that was taken, times the solid angle that it came from. */
  taken: Vec3
  /** How far a pixel is from the key, radians. */
  away: (p: number) => number
}

function takeKeyOut(map: FloatImage): KeyTaken | null {
  const key = findKeyLight(map)
  if (!key) return null
  const { width, height, channels } = map
  const rest = createFloatImage(width, height, channels)
  rest.data.set(map.data)
  const away = (p: number): number => {
    const d = directionOf(columnAzimuth(p % width, width), rowElevation(Math.floor(p / width), height))
    return Math.acos(Math.max(-1, Math.min(1, dot(d, key.direction))))
  }
  const inside: number[] = []
  const around: number[] = []
  const within = Math.max(toRadians(key.angularDiameterDeg), (2 * Math.PI) / height)
  for (let p = 0; p < width * height; p++) {
    const rad = away(p)
    if (key.mask[p] || rad < within) inside.push(p)
    else if (rad < within + AROUND_RAD) around.push(p)
  }
  const fill = meanOf(map, around.length > 0 ? around : inside)
  const taken: Vec3 = [0, 0, 0]
  for (const p of inside) {
    const omega = rowSolidAngle(Math.floor(p / width), width, height)
    for (let c = 0; c < 3; c++) {
      taken[c] += Math.max(0, map.data[p * channels + c] - fill[c]) * omega
      rest.data[p * channels + c] = Math.min(map.data[p * channels + c], fill[c])
    }
  }
  return { key, rest, taken, away }
}

function meanOf({ data, channels, width, height }: FloatImage, pixels: readonly number[]): Vec3 {
  const sum: Vec3 = [0, 0, 0]
  let whole = 0
  for (const p of pixels) {
    const omega = rowSolidAngle(Math.floor(p / width), width, height)
    for (let c = 0; c < 3; c++) sum[c] += data[p * channels + c] * omega
    whole += omega
  }
  return [sum[0] / whole, sum[1] / whole, sum[2] / whole]
}

/** Adds light as a bell about a direction, all of it together as much as was taken. */
function spread({ data, channels, width, height }: FloatImage, away: (p: number) => number, taken: Vec3): void {
  const weights: [number, number][] = []
  let whole = 0
  for (let p = 0; p < width * height; p++) {
    const weight = Math.exp(-0.5 * (away(p) / SOFT_RAD) ** 2)
    if (weight < 1e-4) continue
    weights.push([p, weight])
    whole += weight * rowSolidAngle(Math.floor(p / width), width, height)
  }
  for (const [p, weight] of weights) for (let c = 0; c < 3; c++) data[p * channels + c] += (taken[c] * weight) / whole
}
