import { createFinding } from '../../findings/finding'
import type { ModelCheck } from './model-check'

/** Below this a whole scene of them is no burden. */
const LEVELS_WANTED_FROM = 60_000

export const checkLevels: ModelCheck = ({ triangles, levels }) => {
  if (levels.length === 0) return triangles > LEVELS_WANTED_FROM ? [createFinding('levelsMissing', { triangles })] : []
  return levels.flatMap((count, i) => {
    const before = i === 0 ? triangles : levels[i - 1]
    return count > before * 0.9 ? [createFinding('levelNotLighter', { level: i + 1, triangles: count, before })] : []
  })
}
