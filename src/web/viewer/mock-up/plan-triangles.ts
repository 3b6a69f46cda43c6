import type { Composed } from '#core/mock-up/things/composed'
import { drawsOnProcessor } from '../on-processor'

/** So many triangles a graphics card without pretensions draws while one works; and a processor that has to do it itself. */
const CARD_BUDGET = 2_500_000
const PROCESSOR_BUDGET = 250_000

/** How many triangles the view may draw in full on this machine. */
export const triangleBudget = (): number => (drawsOnProcessor() ? PROCESSOR_BUDGET : CARD_BUDGET)

export const trianglesOf = ({ parts }: Pick<Composed<unknown>, 'parts'>): number =>
  parts.reduce((sum, p) => sum + p.mesh.indices.length / 3, 0)

/** Of a thing that is drawn thinned out, all its parts together. */
export const THIN_TRIANGLES = 1200

/**
 * Whether leaving triangles out of a thing and making the others larger still looks like it: so it does of foliage, thin or cut out, and not of
 * furniture.
 */
const canBeThinned = ({ parts, of }: Placed): boolean =>
  of[0]?.planting !== undefined ||
  parts.some(({ material: { parameters, textures } }) => parameters.geometryThinWalled || textures.geometryOpacity !== undefined)

/** How many of the placements of a thing are drawn in full, and how many of the others thinned out; what is left is drawn as balls. */
export interface Share {
  full: number
  thin: number
}

type Placed = Pick<Composed<unknown>, 'parts' | 'placements' | 'of'>

/**
 * What is drawn how, so that it stays within a budget: first everything thinned out as far as that goes, and with what is left in full, pieces
 * before plants and those of few triangles first.
 */
export function planTriangles<T extends Placed>(
  placed: readonly T[],
  budget: number,
): { shares: Map<T, Share>; triangles: number } {
  const isPlanted = ({ of }: Placed) => of[0]?.planting !== undefined
  const ordered = [...placed].sort((a, b) => Number(isPlanted(a)) - Number(isPlanted(b)) || trianglesOf(a) - trianglesOf(b))
  const thinOf = (thing: T) =>
    Math.max(1, canBeThinned(thing) ? Math.min(THIN_TRIANGLES, trianglesOf(thing)) : trianglesOf(thing))
  let left = budget
  const shares = new Map<T, Share>()
  for (const thing of ordered) {
    // Furniture is drawn as it is, whatever it costs.
    const thin = canBeThinned(thing)
      ? Math.min(thing.placements.length, Math.max(0, Math.floor(left / thinOf(thing))))
      : thing.placements.length
    shares.set(thing, { full: 0, thin })
    left -= thin * thinOf(thing)
  }
  for (const thing of ordered) {
    const share = shares.get(thing)!
    const more = trianglesOf(thing) - thinOf(thing)
    const full = more <= 0 ? share.thin : Math.min(share.thin, Math.max(0, Math.floor(left / more)))
    shares.set(thing, { full, thin: share.thin - full })
    left -= full * Math.max(0, more)
  }
  return { shares, triangles: budget - left }
}
