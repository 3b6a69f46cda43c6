/**
 * Edits that make one word of another (a letter more, less, another, or two neighbours in each other's place), or `limit` + 1 when it
 * takes more. Source: optimal string alignment, Damerau 1964 with the recurrence of Wagner and Fischer 1974.
 */
export function editDistance(a: string, b: string, limit: number): number {
  if (Math.abs(a.length - b.length) > limit) return limit + 1
  let before: number[] = []
  let last = Array.from({ length: b.length + 1 }, (_, j) => j)
  for (let i = 1; i <= a.length; i++) {
    const row = [i]
    let least = i
    for (let j = 1; j <= b.length; j++) {
      const same = a[i - 1] === b[j - 1]
      let cost = Math.min(last[j] + 1, row[j - 1] + 1, last[j - 1] + (same ? 0 : 1))
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1]) cost = Math.min(cost, before[j - 2] + 1)
      row.push(cost)
      if (cost < least) least = cost
    }
    if (least > limit) return limit + 1
    before = last
    last = row
  }
  return Math.min(last[b.length], limit + 1)
}

/** A bit for each letter that a word has (digits share one): words with k edits between them differ in at most 2k bits. */
export function letterBits(word: string): number {
  let bits = 0
  for (let i = 0; i < word.length; i++) {
    const letter = word.charCodeAt(i) - 97
    bits |= 1 << (letter >= 0 && letter < 26 ? letter : 26 + (letter & 3))
  }
  return bits
}

export function countBits(bits: number): number {
  let n = bits - ((bits >>> 1) & 0x55555555)
  n = (n & 0x33333333) + ((n >>> 2) & 0x33333333)
  return (((n + (n >>> 4)) & 0x0f0f0f0f) * 0x01010101) >>> 24
}

/** Mistakes that a word of this length may have and still be meant: none in what is as short as "oak". */
export const mistakesFor = (length: number): number => (length < 4 ? 0 : length < 6 ? 1 : 2)
