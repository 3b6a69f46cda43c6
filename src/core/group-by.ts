/** Members of a list by a key, each group in the order of the list, groups in the order of their first members. */
export function groupBy<T, K extends string | number>(members: Iterable<T>, keyOf: (member: T) => K): Map<K, T[]> {
  const groups = new Map<K, T[]>()
  for (const member of members) {
    const key = keyOf(member)
    const group = groups.get(key)
    if (group) group.push(member)
    else groups.set(key, [member])
  }
  return groups
}
