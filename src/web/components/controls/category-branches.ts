import type { Category } from '#shared/contracts/items.contract'

/** A category as it is listed and searched. */
export interface Branch {
  path: string
  title: string
  /** 0 at the top. */
  depth: number
  /** The titles above it, such as "Surfaces / Timber". */
  trail: string
}

/** The house tree in its order, each with the way that leads to it. */
export function toBranches(categories: readonly Category[]): Branch[] {
  const titles = new Map(categories.map(c => [c.path, c.title]))
  return categories.map(({ path, title }) => {
    const labels = path.split('.')
    const above = labels.slice(0, -1).map((_, i) => titles.get(labels.slice(0, i + 1).join('.')) ?? '')
    return { path, title, depth: labels.length - 1, trail: above.filter(Boolean).join(' / ') }
  })
}

/** Without case and accents, so that "beton brut" and "Béton" meet. */
const plain = (text: string): string => text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase()

/**
 * Those of which every typed word begins a word of the title or of the way to it; where the title itself begins so, first. In the order of
 * the tree otherwise.
 */
export function findBranches(branches: readonly Branch[], typed: string): readonly Branch[] {
  const words = plain(typed).split(/\s+/).filter(Boolean)
  if (words.length === 0) return branches
  const begins = (text: string, word: string) =>
    plain(text)
      .split(/[\s/,-]+/)
      .some(w => w.startsWith(word))
  const found = branches.filter(b => words.every(w => begins(b.title, w) || begins(b.trail, w)))
  const isNamed = (b: Branch) => words.some(w => begins(b.title, w))
  return [...found.filter(isNamed), ...found.filter(b => !isNamed(b))]
}
