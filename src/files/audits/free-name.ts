/** A name that nothing has yet, and that is taken from now on: the second of one name is its second. */
export function freeName(plain: string, taken: Set<string>): string {
  let free = plain
  for (let n = 2; taken.has(free); n++) free = `${plain}_${n}`
  taken.add(free)
  return free
}
