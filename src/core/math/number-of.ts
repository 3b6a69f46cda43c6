const numbers = new WeakMap<object, number>()
let last = 0

/** A number that is a thing's own as long as there is that thing: what is written of it says which it is, and keeps nothing of it. */
export function numberOf(thing: object): number {
  const known = numbers.get(thing)
  if (known !== undefined) return known
  numbers.set(thing, ++last)
  return last
}
