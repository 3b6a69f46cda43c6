import { countBits, editDistance, letterBits, mistakesFor } from '../words/edit-distance'
import { otherForms } from '../words/fold-words'
import { lowerBound, type Vocabulary, type Wording } from '../words/vocabulary'
import { mergeSorted } from './merge-sorted'

/** Where in an item a word stands, the weightiest last. */
export const WORD_FIELDS = ['other', 'place', 'tag', 'name'] as const
export type WordField = (typeof WORD_FIELDS)[number]
export type ItemWords = Readonly<Record<WordField, readonly string[]>>

/** What a word's place in an item is worth. */
const FIELD_GRADES = [3, 4, 6, 8]
const FIELD_BITS = 2
/** The word as it stands, not only its beginning. */
const WHOLE_WORD = 2
/** How much less another word for it, another form of it, and a word nearly like it are worth. */
const LESS = { form: 1, synonym: 1, beginning: 4, mistake: 3 } as const

/** What each item is worth for one typed word (or several that are one wording), by slot; 0 where it has nothing of it. */
export interface WordClause {
  /** As typed, and the place of its first word among those typed. */
  text: string
  grades: Uint8Array
  /** The word that was taken for what was typed, where nothing was found under that itself. */
  takenFor: string | null
}

interface Posting {
  term: string
  bits: number
  /** slot × 4 + field, in no order. */
  entries: number[]
}

function takeOut({ entries }: Posting, slot: number): void {
  const at = entries.findIndex(entry => entry >> FIELD_BITS === slot)
  entries[at] = entries[entries.length - 1]
  entries.pop()
}

/** Which items hold which words. */
export class WordIndex {
  private readonly postings = new Map<string, Posting>()
  private readonly termsOf: (Posting[] | undefined)[] = []
  /** Of each of these, the best field that the item has it in. */
  private readonly fieldsOf: (number[] | undefined)[] = []
  private sorted: string[] = []
  private readonly unsorted: string[] = []

  /** Puts an item's words, folded, in the place of those it had. What stays is not touched: to find it among thousands takes long. */
  put(slot: number, words: ItemWords): void {
    const best = new Map<string, number>()
    WORD_FIELDS.forEach((field, f) => {
      for (const word of words[field]) best.set(word, Math.max(best.get(word) ?? 0, f))
    })
    const held: Posting[] = []
    const fields: number[] = []
    for (const [k, posting] of (this.termsOf[slot] ?? []).entries()) {
      const field = this.fieldsOf[slot]![k]
      if (best.get(posting.term) === field) {
        best.delete(posting.term)
        held.push(posting)
        fields.push(field)
      } else takeOut(posting, slot)
    }
    for (const [term, field] of best) {
      let posting = this.postings.get(term)
      if (!posting) {
        posting = { term, bits: letterBits(term), entries: [] }
        this.postings.set(term, posting)
        this.unsorted.push(term)
      }
      posting.entries.push((slot << FIELD_BITS) | field)
      held.push(posting)
      fields.push(field)
    }
    this.termsOf[slot] = held
    this.fieldsOf[slot] = fields
  }

  remove(slot: number): void {
    for (const posting of this.termsOf[slot] ?? []) takeOut(posting, slot)
    this.termsOf[slot] = this.fieldsOf[slot] = undefined
  }

  /**
   * What typed words find, a clause each.
   * @param among 1 for the slots that the asker may see: a word that only others have is as good as none
   */
  match(words: readonly string[], vocabulary: Vocabulary, among: Uint8Array): WordClause[] {
    const clauses: WordClause[] = []
    for (let at = 0; at < words.length; ) {
      const wider = vocabulary.expand(words, at)
      const length = wider?.length ?? 1
      const own = words.slice(at, at + length)
      clauses.push(this.matchWording(own, wider, vocabulary, among))
      at += length
    }
    return clauses
  }

  private matchWording(
    own: Wording,
    wider: ReturnType<Vocabulary['expand']>,
    vocabulary: Vocabulary,
    among: Uint8Array,
  ): WordClause {
    const grades = new Uint8Array(among.length)
    const text = own.join(' ')
    this.gradeStarts(own, grades)
    for (const form of own.length === 1 ? otherForms(own[0]) : []) this.gradeWording([form], LESS.form, grades)
    const less = wider?.isBeginning ? LESS.beginning : LESS.synonym
    for (const wording of wider?.others ?? []) this.gradeWording(wording, less, grades)
    if (own.length > 1 || hasAny(grades, among)) return { text, grades, takenFor: null }
    return { text, ...this.matchMistaken(own[0], vocabulary, among) }
  }

  /** A word that nothing is called: the parts of a compound, else what it may be a mistake for. */
  private matchMistaken(word: string, vocabulary: Vocabulary, among: Uint8Array): Pick<WordClause, 'grades' | 'takenFor'> {
    const parts = vocabulary.takeApart(word)
    if (parts) {
      const clauses = parts.map(part => {
        const grades = new Uint8Array(among.length)
        this.gradeStarts([part], grades)
        for (const wording of vocabulary.othersFor(part)) this.gradeWording(wording, LESS.synonym, grades)
        return grades
      })
      const grades = new Uint8Array(among.length)
      for (let slot = 0; slot < grades.length; slot++)
        grades[slot] = clauses.some(c => c[slot] === 0) ? 0 : Math.min(...clauses.map(c => c[slot]))
      if (hasAny(grades, among)) return { grades, takenFor: parts.join(' ') }
    }
    for (const meant of this.findAlike(word, vocabulary)) {
      const grades = new Uint8Array(among.length)
      this.gradeWording([meant], LESS.mistake, grades)
      for (const wording of vocabulary.othersFor(meant)) this.gradeWording(wording, LESS.mistake + 1, grades)
      if (hasAny(grades, among)) return { grades, takenFor: meant }
    }
    return { grades: new Uint8Array(among.length), takenFor: null }
  }

  /** Words, of items or of the vocabulary, that differ from one by as few mistakes as it may have; the likeliest first. */
  findAlike(word: string, vocabulary: Vocabulary, most = 8): string[] {
    const limit = mistakesFor(word.length)
    if (limit === 0) return []
    const bits = letterBits(word)
    const found: { term: string; distance: number; count: number }[] = []
    const judge = (term: string, termBits: number, count: number) => {
      if (countBits(bits ^ termBits) > 2 * limit) return
      const whole = editDistance(word, term, limit)
      // As it is typed it may be the beginning of a longer word, with a mistake in it.
      const start =
        whole > 1 && term.length > word.length && word.length > 4
          ? editDistance(word, term.slice(0, word.length), 1) + 0.5
          : whole
      const distance = Math.min(whole, start)
      if (distance <= limit) found.push({ term, distance: distance + (term[0] === word[0] ? 0 : 0.5), count })
    }
    for (const { term, bits: termBits, entries } of this.postings.values())
      if (entries.length > 0 && term !== word) judge(term, termBits, entries.length)
    for (const term of vocabulary.words) if (!this.postings.has(term) && term !== word) judge(term, letterBits(term), 0)
    return found
      .sort((a, b) => a.distance - b.distance || b.count - a.count || (a.term < b.term ? -1 : 1))
      .slice(0, most)
      .map(f => f.term)
  }

  /** Words of items that begin so, in their order. */
  listStarting(start: string, most: number): string[] {
    this.sort()
    const found: string[] = []
    for (let k = lowerBound(this.sorted, start); k < this.sorted.length && found.length < most; k++) {
      if (!this.sorted[k].startsWith(start)) break
      if (this.postings.get(this.sorted[k])!.entries.length > 0) found.push(this.sorted[k])
    }
    return found
  }

  /** How many of some slots hold a word, in any field. */
  countTerm(term: string, among: Uint8Array): number {
    let count = 0
    for (const entry of this.postings.get(term)?.entries ?? []) count += among[entry >> FIELD_BITS]
    return count
  }

  /** Of some words those that most of the marked slots hold, in any field, and how many do; none that nothing holds. */
  countCommonest(words: readonly string[], among: Uint8Array, most: number): { word: string; count: number }[] {
    const mostOf = (word: string) => this.postings.get(word)?.entries.length ?? 0
    const found: { word: string; count: number }[] = []
    // From the longest list on: when so many are found that no other list is long enough, the rest need not be counted.
    for (const word of [...words].sort((a, b) => mostOf(b) - mostOf(a))) {
      if (found.length === most && mostOf(word) < found[most - 1].count) break
      const count = this.countTerm(word, among)
      if (count === 0) continue
      found.push({ word, count })
      found.sort((a, b) => b.count - a.count || (a.word < b.word ? -1 : 1))
      if (found.length > most) found.pop()
    }
    return found
  }

  /** Raises grades of slots that hold a word which begins with each of these. */
  private gradeStarts(starts: Wording, grades: Uint8Array): void {
    this.sort()
    this.gradeAll(
      starts,
      (start, target) => {
        for (let k = lowerBound(this.sorted, start); k < this.sorted.length && this.sorted[k].startsWith(start); k++)
          raise(this.postings.get(this.sorted[k])!, this.sorted[k] === start ? -WHOLE_WORD : 0, target)
      },
      grades,
    )
  }

  /** Raises grades of slots that hold all words of a wording, by so much less. */
  private gradeWording(wording: Wording, less: number, grades: Uint8Array): void {
    this.gradeAll(
      wording,
      (word, target) => {
        const posting = this.postings.get(word)
        if (posting) raise(posting, less - WHOLE_WORD, target)
        for (const form of [`${word}s`, ...otherForms(word)]) {
          const other = this.postings.get(form)
          if (other) raise(other, less, target)
        }
      },
      grades,
    )
  }

  private gradeAll(words: Wording, gradeOne: (word: string, target: Uint8Array) => void, grades: Uint8Array): void {
    if (words.length === 1) {
      gradeOne(words[0], grades)
      return
    }
    const each = words.map(word => {
      const target = new Uint8Array(grades.length)
      gradeOne(word, target)
      return target
    })
    for (let slot = 0; slot < grades.length; slot++) {
      let least = each[0][slot]
      for (let k = 1; k < each.length; k++) least = Math.min(least, each[k][slot])
      if (least > grades[slot]) grades[slot] = least
    }
  }

  private sort(): void {
    if (this.unsorted.length === 0) return
    this.sorted = mergeSorted(this.sorted, this.unsorted.sort(), (a, b) => (a < b ? -1 : 1))
    this.unsorted.length = 0
  }
}

function raise({ entries }: Posting, less: number, grades: Uint8Array): void {
  for (const entry of entries) {
    const slot = entry >> FIELD_BITS
    const grade = Math.max(FIELD_GRADES[entry & 3] - less, 1)
    if (grade > grades[slot]) grades[slot] = grade
  }
}

function hasAny(grades: Uint8Array, among: Uint8Array): boolean {
  for (let slot = 0; slot < grades.length; slot++) if (grades[slot] > 0 && among[slot] > 0) return true
  return false
}
