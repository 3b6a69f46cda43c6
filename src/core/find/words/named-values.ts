import { splitWords } from './fold-words'
import { lowerBound } from './vocabulary'

/** Values of a facet by the words that they are called by, so that those a word may mean are found without going through all of them. */
export class NamedValues {
  private readonly byWord = new Map<string, string[]>()
  private readonly words: readonly string[]

  /** @param titles what a value is called, where not by itself */
  constructor(values: Iterable<string>, titles: ReadonlyMap<string, string> = new Map()) {
    for (const value of values)
      for (const word of new Set(splitWords(titles.get(value) ?? value))) {
        const called = this.byWord.get(word)
        if (called) called.push(value)
        else this.byWord.set(word, [value])
      }
    this.words = [...this.byWord.keys()].sort()
  }

  /** Values with a word that begins so, or that is one of the others. */
  meantBy(start: string, others: Iterable<string>): Set<string> {
    const meant = new Set<string>()
    const add = (word: string) => {
      for (const value of this.byWord.get(word) ?? []) meant.add(value)
    }
    for (let k = lowerBound(this.words, start); k < this.words.length && this.words[k].startsWith(start); k++) add(this.words[k])
    for (const other of others) add(other)
    return meant
  }
}
