import type { Vec3 } from '../../math/vec3'
import type { Planting } from '../scene/scene'
import type { GroundAt } from './ground'
import { type Grown, growOne, type Species } from './growth-of-one'
import { type Scattered, scatter, standAlong } from './scatter'

export interface Plant extends Grown {
  position: Vec3
  /** By which it is taken out. */
  index: number
}

/** More are not planted, however dense and large. */
export const MOST_PLANTS = 20_000

/**
 * The plants of a planting. The same for the same planting: what is taken out moves no other.
 * @param keepOut circles on the ground where something stands, in metres
 * @param ground that is not level; nothing grows where there is none
 */
export function growPlanting(planting: Planting, keepOut: KeepOut, ground: GroundAt | null = null): Plant[] {
  const { species, clearM, seed, heightM, without, steepestDeg = 90 } = planting
  const kinds = species.map(
    ({ share, smallest, largest }): Species => ({
      share,
      usualSize: 1,
      smallest,
      largest,
      // Nearly all lie between the smallest and the largest.
      sizeSpread: Math.log(largest / smallest) / 4,
      leanDeg: 2,
    }),
  )
  if (!kinds.some(k => k.share > 0)) return []
  const gone = new Set(without)
  const around = keepOut.map(k => ({ ...k, radiusM: k.radiusM + clearM }))
  return listSpots(planting, around)
    .filter(({ index }) => !gone.has(index))
    .flatMap(({ x, z, index }): Plant[] => {
      const spot = ground ? ground(x, z) : { y: heightM, steepDeg: 0 }
      return spot && spot.steepDeg <= steepestDeg ? [{ ...growOne(seed, index, kinds), position: [x, spot.y, z], index }] : []
    })
}

type KeepOut = readonly { x: number; z: number; radiusM: number }[]

/** Where something grows, on the level. An area of fewer than three corners has none. */
function listSpots({ outline, along, perM2, leastM, edgeM, seed }: Planting, keepOut: KeepOut): readonly Scattered[] {
  if (along)
    return standAlong(outline, along, seed).filter(({ x, z }) => !keepOut.some(k => Math.hypot(k.x - x, k.z - z) < k.radiusM))
  if (outline.length < 3) return []
  const count = Math.min(MOST_PLANTS, Math.round(areaOf(outline) * perM2))
  // Seconds of work for thousands, and each shot of a scene asks for the same.
  const key = JSON.stringify([outline, keepOut, count, leastM, seed, edgeM])
  const known = scattered.get(key)
  if (known) return known
  if (scattered.size >= MOST_SCATTERED) scattered.clear()
  const spots = scatter({ outline, keepOut }, { count, leastM, seed, edgeM })
  scattered.set(key, spots)
  return spots
}

const MOST_SCATTERED = 16
const scattered = new Map<string, readonly Scattered[]>()

/** Of a polygon on the ground, in square metres. */
export function areaOf(outline: readonly (readonly [number, number])[]): number {
  const twice = outline.reduce((sum, [x, z], i) => {
    const [nx, nz] = outline[(i + 1) % outline.length]
    return sum + x * nz - nx * z
  }, 0)
  return Math.abs(twice) / 2
}

/** Of a line on the ground, in metres. */
export const lengthOf = (line: readonly (readonly [number, number])[]): number =>
  line.slice(1).reduce((sum, [x, z], i) => sum + Math.hypot(x - line[i][0], z - line[i][1]), 0)
