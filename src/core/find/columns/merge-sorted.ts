/** One sorted list of two: a few are brought into many in one pass. Of equals those of the first come first. */
export function mergeSorted<T>(many: readonly T[], few: readonly T[], compare: (a: T, b: T) => number): T[] {
  const merged: T[] = []
  let k = 0
  for (const one of few) {
    while (k < many.length && compare(many[k], one) <= 0) merged.push(many[k++])
    merged.push(one)
  }
  while (k < many.length) merged.push(many[k++])
  return merged
}
