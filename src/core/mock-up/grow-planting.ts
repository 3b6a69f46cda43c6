import type { Vec3 } from '../math/vec3'
import { type Grown, growOne, type Species } from './growth-of-one'
import { scatter } from './scatter'
import type { Planting } from './scene'

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
 */
export function growPlanting(planting: Planting, keepOut: readonly { x: number; z: number; radiusM: number }[]): Plant[] {
  const { outline, species, perM2, leastM, edgeM, clearM, seed, heightM, without } = planting
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
  const count = Math.min(MOST_PLANTS, Math.round(areaOf(outline) * perM2))
  const around = keepOut.map(k => ({ ...k, radiusM: k.radiusM + clearM }))
  return scatter({ outline, keepOut: around }, { count, leastM, seed, edgeM })
    .filter(({ index }) => !gone.has(index))
    .map(({ x, z, index }) => ({ ...growOne(seed, index, kinds), position: [x, heightM, z], index }))
}

/** Of a polygon on the ground, in square metres. */
export function areaOf(outline: readonly (readonly [number, number])[]): number {
  const twice = outline.reduce((sum, [x, z], i) => {
    const [nx, nz] = outline[(i + 1) % outline.length]
    return sum + x * nz - nx * z
  }, 0)
  return Math.abs(twice) / 2
}
