import type { Composed } from '#core/mock-up/compose'

/** So many triangles a graphics card without pretensions draws while one works. */
export const TRIANGLE_BUDGET = 2_500_000

export const trianglesOf = ({ parts }: Pick<Composed<unknown>, 'parts'>): number =>
  parts.reduce((sum, p) => sum + p.mesh.indices.length / 3, 0)

/**
 * Which things are drawn in full, and which by stand-ins, so that it stays within a budget: pieces before plants, those of few triangles first.
 * @returns how many of the placements of each are drawn in full, in their order, and what all of that is
 */
export function planTriangles(placed: readonly Pick<Composed<unknown>, 'parts' | 'placements' | 'of'>[], budget: number) {
  const full = new Map<(typeof placed)[number], number>()
  const isPlanted = ({ of }: (typeof placed)[number]) => of[0]?.piece === undefined
  const ordered = [...placed].sort((a, b) => Number(isPlanted(a)) - Number(isPlanted(b)) || trianglesOf(a) - trianglesOf(b))
  let left = budget
  for (const thing of ordered) {
    const each = Math.max(1, trianglesOf(thing))
    const count = Math.min(thing.placements.length, Math.floor(left / each))
    full.set(thing, count)
    left -= count * each
  }
  const standIns = placed.reduce((sum, thing) => sum + thing.placements.length - (full.get(thing) ?? 0), 0)
  return { full, triangles: budget - left, standIns }
}
