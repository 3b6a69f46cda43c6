import { firstWordsOf, resolveWordLines, type WordLine } from '../../standard/word-lines'
import { splitWords } from '../words/fold-words'
import { Vocabulary } from '../words/vocabulary'

type Line = Pick<WordLine, 'words' | 'isUse'>

/** Lines of a vocabulary as words for things: each in the first word of its line, told apart in what a thing is and where it is used. */
export class TagWords {
  /** Of both, since a compound may be of one of each: Küchenfliese. */
  private readonly vocabulary: Vocabulary
  private readonly tags: ReadonlyMap<string, string>
  private readonly uses: ReadonlyMap<string, string>
  readonly firsts: ReadonlySet<string>

  constructor(lines: readonly Line[]) {
    this.vocabulary = new Vocabulary(lines.map(line => line.words))
    this.tags = firstWords(lines.filter(line => !line.isUse))
    this.uses = firstWords(lines.filter(line => line.isUse))
    this.firsts = firstWordsOf(lines)
  }

  /** Words in a text for what a thing is. */
  tagsIn(text: string): string[] {
    return this.read(text, this.tags)
  }

  /** Words in a text for where a thing is used. */
  usesIn(text: string): string[] {
    return this.read(text, this.uses)
  }

  /** The line's first word for what is called so in another; the word itself where no line has it. */
  firstFor(word: string): string {
    const wording = splitWords(word).join(' ')
    return this.tags.get(wording) ?? this.uses.get(wording) ?? word
  }

  /** Words of a text that have a first word, whole ones and the parts of compounds, each in that. */
  private read(text: string, firsts: ReadonlyMap<string, string>): string[] {
    const typed = splitWords(text)
    const found: string[] = []
    for (let at = 0; at < typed.length; ) {
      // A name is written to its end: its last word is no beginning of another.
      const known = this.vocabulary.expand([...typed, ''], at)
      const word =
        known && !known.isBeginning ? firsts.get(known.others.map(w => w.join(' ')).find(w => firsts.has(w)) ?? '') : undefined
      if (known && word !== undefined) {
        found.push(word)
        at += known.length
        continue
      }
      for (const part of this.vocabulary.takeApart(typed[at]) ?? []) {
        const own = firsts.get(part)
        if (own !== undefined) found.push(own)
      }
      at++
    }
    return found
  }
}

const firstWords = (lines: readonly Line[]): Map<string, string> =>
  new Map(lines.flatMap(({ words }) => words.map(wording => [splitWords(wording).join(' '), words[0]] as const)))

/** The vocabulary as it ships. */
export const SHIPPED_TAG_WORDS = new TagWords(resolveWordLines([]))
