import { HOUSE_VOCABULARY } from './house-vocabulary'

/** A line of the vocabulary: words that mean one thing here, the first the house's own for it. */
export interface WordLine {
  /** The first word of the line that ships, or `own:` and a number. */
  key: string
  words: readonly string[]
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
}

export const MOST_WORDS_IN_LINE = 24

/** The vocabulary in force: what ships, as far as the house says nothing else, and the house's own lines before it. */
export function resolveWordLines(own: readonly OwnLine[]): WordLine[] {
  const inPlaceOf = new Map(own.flatMap(line => (line.replaces === null ? [] : [[line.replaces, line] as const])))
  const added = own
    .filter(line => line.replaces === null && line.words.length > 0)
    .map((line): WordLine => ({ key: `own:${line.id}`, words: line.words, origin: 'own' }))
  const shipped = HOUSE_VOCABULARY.map((words): WordLine => {
    const other = inPlaceOf.get(words[0])
    return { key: words[0], words: other?.words ?? words, origin: other ? 'changed' : 'shipped' }
  })
  return [...added.reverse(), ...shipped.filter(line => line.words.length > 0)]
}

/** Words typed with commas between, each once, without what is only space. */
export function readWordLine(text: string): string[] {
  const seen = new Map<string, string>()
  for (const word of text.split(/[,;\n]/).map(w => w.trim().replace(/\s+/g, ' ')))
    if (word !== '' && !seen.has(word.toLowerCase())) seen.set(word.toLowerCase(), word)
  return [...seen.values()]
}
