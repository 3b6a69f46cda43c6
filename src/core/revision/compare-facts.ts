/** What is known of a version, by name. */
export type FactSet = Readonly<Record<string, string | number | boolean>>

export interface FactChange {
  name: string
  /** Null where one of the versions has none. */
  before: string | number | boolean | null
  after: string | number | boolean | null
  /** Of figures: by which share of the earlier one it grew; null where that says nothing. */
  growth: number | null
}

/** Where a file came from says nothing of what the item is. */
const OF_NO_CONCERN = new Set(['sourcePath', 'sourceFolder', 'madeFrom', 'longestSidePx'])
/** Figures are read from files with so much certainty. */
const SAME_SHARE = 1e-6

/** What two versions say differently, in the order of the later one's facts; what only the earlier says comes last. */
export function compareFacts(before: FactSet, after: FactSet): FactChange[] {
  const names = [...new Set([...Object.keys(after), ...Object.keys(before)])]
  return names.flatMap(name => {
    const [a, b] = [before[name] ?? null, after[name] ?? null]
    if (OF_NO_CONCERN.has(name) || isSame(a, b)) return []
    const isFigure = typeof a === 'number' && typeof b === 'number' && a !== 0
    return [{ name, before: a, after: b, growth: isFigure ? b / a - 1 : null }]
  })
}

const isSame = (a: FactChange['before'], b: FactChange['after']): boolean =>
  typeof a === 'number' && typeof b === 'number' ? Math.abs(a - b) <= SAME_SHARE * Math.max(Math.abs(a), Math.abs(b)) : a === b

export interface VersionFile {
  path: string
  role: string
  hash: string
  size: number
}

export interface FileChange {
  role: string
  path: string
  kind: 'added' | 'gone' | 'changed'
  /** Bytes more than before. */
  byteGrowth: number
}

/** Which files a version has otherwise: by what they are for, and of several for the same by their names. */
export function compareFiles(before: readonly VersionFile[], after: readonly VersionFile[]): FileChange[] {
  const keyOf = ({ role, path }: VersionFile) => (isAlone(role) ? role : `${role} ${path}`)
  const isAlone = (role: string) => [before, after].every(list => list.filter(f => f.role === role).length <= 1)
  const earlier = new Map(before.map(f => [keyOf(f), f]))
  const later = new Map(after.map(f => [keyOf(f), f]))
  const changes: FileChange[] = []
  for (const [key, { role, path, hash, size }] of later) {
    const old = earlier.get(key)
    if (!old) changes.push({ role, path, kind: 'added', byteGrowth: size })
    else if (old.hash !== hash) changes.push({ role, path, kind: 'changed', byteGrowth: size - old.size })
  }
  for (const [key, { role, path, size }] of earlier)
    if (!later.has(key)) changes.push({ role, path, kind: 'gone', byteGrowth: -size })
  return changes
}

export const weightOf = (files: readonly VersionFile[]): number => files.reduce((sum, f) => sum + f.size, 0)
