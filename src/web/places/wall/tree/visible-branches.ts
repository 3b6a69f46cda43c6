import { type Branch, findBranches } from '../../../components/controls/category-branches'

export interface TreeLine extends Branch {
  hasBelow: boolean
  isOpen: boolean
}

/** What of the tree is in sight: what is open, or, while something is searched, what answers to it with the way there. */
export function listLines(branches: readonly Branch[], open: ReadonlySet<string>, words: string): TreeLine[] {
  const above = new Set(branches.map(b => parentOf(b.path)).filter(Boolean))
  if (words.trim() !== '') {
    const found = new Set(findBranches(branches, words).map(b => b.path))
    const shown = new Set([...found].flatMap(waysTo))
    return branches
      .filter(b => shown.has(b.path))
      .map(b => ({
        ...b,
        hasBelow: above.has(b.path),
        isOpen: branches.some(o => shown.has(o.path) && parentOf(o.path) === b.path),
      }))
  }
  return branches
    .filter(b => waysTo(parentOf(b.path)).every(path => open.has(path)))
    .map(b => ({ ...b, hasBelow: above.has(b.path), isOpen: open.has(b.path) }))
}

export const parentOf = (path: string): string => path.slice(0, Math.max(0, path.lastIndexOf('.')))

/** A place and all above it, from the top. */
export const waysTo = (path: string): string[] =>
  path === '' ? [] : path.split('.').map((_, depth, labels) => labels.slice(0, depth + 1).join('.'))
