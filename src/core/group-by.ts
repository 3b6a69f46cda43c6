/** Members of a list by a key, each group in the order of the list, groups in the order of their first members. */
export function groupBy<T>(members: Iterable<T>, keyOf: (member: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>()
  for (const member of members) {
    const key = keyOf(member)
    const group = groups.get(key)
    if (group) group.push(member)
    else groups.set(key, [member])
  }
  return groups
}
