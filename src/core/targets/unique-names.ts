/** Gives every thing of one place a name of its own: what `toName` makes of its name, with a number where that is taken. */
export function createUniqueNames(toName: (name: string) => string): (name: string) => string {
  const taken = new Set<string>()
  return name => {
    const first = toName(name)
    let own = first
    for (let n = 2; taken.has(own); n++) own = `${first}_${n}`
    taken.add(own)
    return own
  }
}
