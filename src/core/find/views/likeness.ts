import { createRandom } from '../../math/random'
import { percentile } from '../../math/statistics'
import type { ItemColumns } from '../columns/item-columns'
import { groupDistance, LOOK_GROUPS, type Look, type LookGroup, type LookWeights, paletteDistance } from '../looks/look'

/** In how many of the library's typical distances something is unlike, by group; a group that either does not know is left out. */
export interface Unlikeness {
  total: number
  groups: Partial<Record<LookGroup, number>>
}

const PAIRS = 600
/** The nearest of these by mean colour are looked at again by whole palettes. */
const LOOKED_AT_AGAIN = 1500
/** So many are always shown, and whatever else is nearer than a typical distance. */
export const LEAST_LIKE = 60
const STILL_LIKE = 0.55

/** What a library's things typically differ by in each group, so that weights mean the same everywhere: the median over random pairs. */
export function measureSpreads(columns: ItemColumns, seen: Uint8Array): Record<LookGroup, number> {
  const random = createRandom(11)
  const slots = [...columns.inOrder].filter(slot => seen[slot] === 1 && columns.looks[slot])
  const distances = new Map<LookGroup, number[]>(LOOK_GROUPS.map(g => [g, []]))
  for (let k = 0; k < PAIRS && slots.length > 1; k++) {
    const a = columns.looks[slots[random.index(slots.length)]]!
    const b = columns.looks[slots[random.index(slots.length)]]!
    for (const group of LOOK_GROUPS) {
      const [p, q] = [a.groups[group], b.groups[group]]
      if (p && q && p.length === q.length && a !== b) distances.get(group)!.push(groupDistance(p, q))
    }
  }
  const spreadOf = (group: LookGroup): number => {
    const known = distances.get(group)!.filter(d => d > 0)
    return known.length < 8 ? USUAL_SPREADS[group] : percentile(known, 0.5)
  }
  return Object.fromEntries(LOOK_GROUPS.map(group => [group, spreadOf(group)])) as Record<LookGroup, number>
}

/** Where a library has too few to measure it: of surfaces, furniture and skies as studios have them. */
const USUAL_SPREADS: Readonly<Record<LookGroup, number>> = {
  color: 0.3,
  pattern: 0.6,
  scale: 1.5,
  relief: 1.2,
  surface: 0.3,
  shape: 1.2,
  size: 1,
  light: 1,
  tone: 0.4,
}

/** How unlike two looks are: the weighted mean over the groups that both know. Null where there is none. */
export function compareLooks(
  a: Look,
  b: Look,
  weights: LookWeights,
  spreads: Readonly<Record<LookGroup, number>>,
  isExact = true,
): Unlikeness | null {
  const groups: Unlikeness['groups'] = {}
  let [sum, all] = [0, 0]
  for (const group of LOOK_GROUPS) {
    const [p, q] = [a.groups[group], b.groups[group]]
    if (!p || !q || p.length !== q.length) continue
    const plain = groupDistance(p, q)
    const distance =
      (group === 'color' && isExact ? (plain + 2 * paletteDistance(a.palette, b.palette)) / 2 : plain) / spreads[group]
    groups[group] = distance
    const weight = weights[group] ?? 1
    sum += weight * Math.min(distance, FARTHEST)
    all += weight
  }
  return all > 0 ? { total: sum / all, groups } : null
}
/** Past this a group is as unlike as can be, and no more of it outweighs the others. */
const FARTHEST = 3

/**
 * Of every slot how unlike it is to the nearest of some looks; infinite for what cannot be compared or is too unlike.
 * @param seen 1 for the slots that count
 */
export function findLike(
  columns: ItemColumns,
  wanted: readonly Look[],
  weights: LookWeights,
  spreads: Readonly<Record<LookGroup, number>>,
  seen: Uint8Array,
): Float64Array {
  const unlike = new Float64Array(columns.size).fill(Number.POSITIVE_INFINITY)
  const nearestOf = (look: Look, isExact: boolean) =>
    Math.min(...wanted.map(w => compareLooks(w, look, weights, spreads, isExact)?.total ?? Number.POSITIVE_INFINITY))
  const known: number[] = []
  for (let slot = 0; slot < unlike.length; slot++) {
    const look = columns.looks[slot]
    if (seen[slot] === 0 || !look) continue
    unlike[slot] = nearestOf(look, false)
    if (unlike[slot] < Number.POSITIVE_INFINITY) known.push(slot)
  }
  known.sort((a, b) => unlike[a] - unlike[b])
  const again = known.slice(0, LOOKED_AT_AGAIN)
  for (const slot of again) unlike[slot] = nearestOf(columns.looks[slot]!, true)
  again.sort((a, b) => unlike[a] - unlike[b])
  const limit = Math.max(STILL_LIKE, unlike[again[Math.min(LEAST_LIKE, again.length) - 1]] ?? 0)
  const isKept = new Uint8Array(unlike.length)
  for (const slot of again) if (unlike[slot] <= limit) isKept[slot] = 1
  for (let slot = 0; slot < unlike.length; slot++) if (isKept[slot] === 0) unlike[slot] = Number.POSITIVE_INFINITY
  return unlike
}
