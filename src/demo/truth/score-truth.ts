import { HOUSE_HABITS } from '#core/findings/finding'
import type { Planted } from './make-truth'

export interface Truth {
  /** Share of what was planted that was found. */
  recall: number
  /** Share of what was found that had been planted. */
  precision: number
  checks: Record<string, { planted: number; found: number; false: number }>
  /** A line for each thing missed or found without cause. */
  misses: string[]
}

/**
 * Compares what was found, item by item, with what was planted. A finding counts once for each item; where the house has a habit of its
 * own, such as a heading, only what was planted counts: every sound sky has some heading.
 */
export function scoreTruth(planted: readonly Planted[], found: readonly { path: string; codes: readonly string[] }[]): Truth {
  const checks: Truth['checks'] = {}
  const check = (code: string) => (checks[code] ??= { planted: 0, found: 0, false: 0 })
  const misses: string[] = []
  const seen = new Map<string, Set<string>>()
  // Something nested, such as a folder of loose files, belongs to the nearest place where something was planted.
  const places = [...planted].sort((a, b) => b.path.length - a.path.length)
  for (const { path, codes } of found) {
    const place = places.find(p => path.endsWith(p.path))?.path ?? path
    seen.set(place, new Set([...(seen.get(place) ?? []), ...codes]))
  }
  for (const { path, codes, entailed } of planted) {
    const here = seen.get(path) ?? new Set()
    for (const code of codes) {
      check(code).planted++
      if (here.has(code)) check(code).found++
      else misses.push(`missed ${code} in ${path}`)
    }
    for (const code of here)
      if (!codes.includes(code) && !entailed.includes(code) && !HOUSE_HABITS.has(code)) {
        check(code).false++
        misses.push(`false ${code} in ${path}`)
      }
  }
  for (const [path, codes] of seen)
    if (!planted.some(p => p.path === path))
      for (const code of codes) {
        if (HOUSE_HABITS.has(code)) continue
        check(code).false++
        misses.push(`false ${code} in ${path}, where nothing was put`)
      }
  const sum = (key: 'planted' | 'found' | 'false') => Object.values(checks).reduce((total, c) => total + c[key], 0)
  const ratio = (part: number, whole: number) => (whole > 0 ? part / whole : 1)
  return {
    recall: ratio(sum('found'), sum('planted')),
    precision: ratio(sum('found'), sum('found') + sum('false')),
    checks: Object.fromEntries(Object.entries(checks).sort(([a], [b]) => a.localeCompare(b))),
    misses,
  }
}
