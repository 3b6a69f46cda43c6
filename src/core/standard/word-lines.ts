import { HOUSE_VOCABULARY, ROOMS_AND_USES } from './house-vocabulary'

/** A line of the vocabulary: words that mean one thing here, the first the house's own for it. */
export interface WordLine {
  /** The first word of the line that ships, or `own:` and a number. */
  key: string
  words: readonly string[]
  /** Whether it says where things are used, and not what they are. */
  isUse: boolean
  /** own: a line that the house added; changed: one that ships, in the house's words. */
  origin: 'shipped' | 'changed' | 'own'
}

/** A line as the house keeps it. */
export interface OwnLine {
  id: number
  /** The first word of the line that ships in whose place it stands; null for one of the house's own. */
  replaces: string | null
  /** None: the line that ships is taken out. */
  words: readonly string[]
  /** Of one of the house's own; a line that ships stays what it is. */
  isUse: boolean
}

export const MOST_WORDS_IN_LINE = 24

/** The vocabulary in force: what ships, as far as the house says nothing else, and the house's own lines before it. */
export function resolveWordLines(own: readonly OwnLine[]): WordLine[] {
  const inPlaceOf = new Map(own.flatMap(line => (line.replaces === null ? [] : [[line.replaces, line] as const])))
  const added = own
    .filter(line => line.replaces === null && line.words.length > 0)
    .map((line): WordLine => ({ key: `own:${line.id}`, words: line.words, isUse: line.isUse, origin: 'own' }))
  const shipped = HOUSE_VOCABULARY.map((words): WordLine => {
    const other = inPlaceOf.get(words[0])
    const isUse = ROOMS_AND_USES.includes(words)
    return { key: words[0], words: other?.words ?? words, isUse, origin: other ? 'changed' : 'shipped' }
  })
  return [...added.reverse(), ...shipped.filter(line => line.words.length > 0)]
}

/** The word that each line begins with, lower case. */
export const firstWordsOf = (lines: readonly Pick<WordLine, 'words'>[]): Set<string> =>
  new Set(lines.map(({ words }) => words[0].toLowerCase()))

/** Words typed with commas between, each once, without what is only space. */
export function readWordLine(text: string): string[] {
  const seen = new Map<string, string>()
  for (const word of text.split(/[,;\n]/).map(w => w.trim().replace(/\s+/g, ' ')))
    if (word !== '' && !seen.has(word.toLowerCase())) seen.set(word.toLowerCase(), word)
  return [...seen.values()]
}
