import { otherForms, splitWords } from './fold-words'

/** Words of several languages that mean one thing to whoever looks for it. */
export type Concept = readonly string[]

/** A way to say something: words that have to stand together. */
export type Wording = readonly string[]

const SHORTEST_START = 3
/** Parts of a compound are words of at least this length: shorter ones stand in everything. */
const SHORTEST_PART = 4
/** What may join the parts of a German compound: Eiche-n-holz, Auge-n-licht, Arbeit-s-tisch. */
const JOINTS = ['', 'n', 's', 'en', 'es', 'er', 'e']

/** What else a typed word may be called; both ways, whatever the language. */
export class Vocabulary {
  private readonly wordings: Wording[][]
  /** Concepts by the first word of each of their wordings. */
  private readonly byFirst = new Map<string, { concept: number; wording: Wording }[]>()
  /** Single words that say something, sorted. */
  readonly words: readonly string[]
  private readonly known: ReadonlySet<string>

  constructor(concepts: readonly Concept[]) {
    this.wordings = concepts.map(words => words.map(splitWords).filter(w => w.length > 0))
    this.wordings.forEach((wordings, concept) => {
      for (const wording of wordings) {
        const list = this.byFirst.get(wording[0]) ?? []
        list.push({ concept, wording })
        this.byFirst.set(wording[0], list)
      }
    })
    this.known = new Set(this.wordings.flat().flatMap(w => (w.length === 1 ? [w[0]] : [])))
    this.words = [...this.known].sort()
  }

  /**
   * How many of the words from `at` on are one wording ("stainless steel"), with other ways to say it; null where it is none. The last
   * word may be a beginning, as it is typed.
   */
  expand(words: readonly string[], at: number): { length: number; others: Wording[]; isBeginning: boolean } | null {
    const word = words[at]
    const found = new Map<number, number>()
    const note = (concept: number, length: number) => {
      if (length > (found.get(concept) ?? 0)) found.set(concept, length)
    }
    const isLast = (place: number) => place === words.length - 1
    for (const form of [word, ...otherForms(word)])
      for (const { concept, wording } of this.byFirst.get(form) ?? [])
        if (wording.every((w, k) => k === 0 || words[at + k] === w || (isLast(at + k) && w.startsWith(words[at + k]))))
          note(concept, wording.length)
    // A whole word means what it says, not what it could be the beginning of.
    const isBeginning = found.size === 0
    if (isBeginning && isLast(at) && word.length >= SHORTEST_START)
      for (let k = lowerBound(this.words, word); k < this.words.length && this.words[k].startsWith(word); k++)
        for (const { concept, wording } of this.byFirst.get(this.words[k])!) if (wording.length === 1) note(concept, 1)
    if (found.size === 0) return null
    const length = Math.max(...found.values())
    return {
      length,
      isBeginning,
      others: [...found].filter(([, n]) => n === length).flatMap(([concept]) => this.wordings[concept]),
    }
  }

  /** What else a whole word may be called. */
  othersFor(word: string): Wording[] {
    const concepts = (this.byFirst.get(word) ?? []).filter(f => f.wording.length === 1).map(f => f.concept)
    return [...new Set(concepts)].flatMap(concept => this.wordings[concept])
  }

  /** The words that a compound is made of: "eichentisch" is oak and table. Null where it is none of what is known. */
  takeApart(word: string): string[] | null {
    for (let cut = word.length - SHORTEST_PART; cut >= SHORTEST_PART - 1; cut--) {
      const [head, tail] = [word.slice(0, cut), word.slice(cut)]
      if (!this.knows(tail)) continue
      const first = JOINTS.map(joint => (head.endsWith(joint) ? head.slice(0, head.length - joint.length) : '')).find(
        part => part.length >= SHORTEST_PART - 1 && (this.known.has(part) || this.known.has(`${part}e`)),
      )
      if (first) return [this.known.has(first) ? first : `${first}e`, tail]
    }
    return null
  }

  private knows(word: string): boolean {
    return this.known.has(word) || otherForms(word).some(form => this.known.has(form))
  }
}

/** The first place in a sorted list whose word is not before `word`. */
export function lowerBound(sorted: readonly string[], word: string): number {
  let low = 0
  let high = sorted.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (sorted[middle] < word) low = middle + 1
    else high = middle
  }
  return low
}
