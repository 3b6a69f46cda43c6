/** Letters that Unicode does not take apart into a base letter and a mark. */
const LETTERS: Readonly<Record<string, string>> = { ß: 'ss', æ: 'ae', œ: 'oe', ø: 'o', đ: 'd', ł: 'l', ð: 'd', þ: 'th', ı: 'i' }

/** Lower case, without accents: "Ébène" and "ebene" are one. */
export const foldText = (text: string): string =>
  text
    .toLowerCase()
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .replace(/[ßæœøđłðþı]/g, letter => LETTERS[letter])

/** The words of a text, folded; everything that is neither letter nor digit separates them. */
export const splitWords = (text: string): string[] =>
  foldText(text)
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)

/** A code such as KET-TIM-0142 as people type it: without its dashes, without leading zeros, the number alone. */
export function codeWords(code: string): string[] {
  const parts = splitWords(code)
  const number = parts.at(-1)?.replace(/^0+(?=\d)/, '') ?? ''
  const prefix = parts.slice(0, -1).join('')
  return [...new Set([...parts, parts.join(''), number, `${prefix}${number}`])].filter(Boolean)
}

const SHORTEST_STEM = 3
/** Endings of the plural and of inflection in English, German and French, the longest first. */
const ENDINGS = ['ies', 'en', 'es', 'er', 'n', 's', 'e', 'x']

/**
 * Other forms of a folded word, as near as a rule can say: its plural's singular and the other way round. Some are no words; those are in
 * no dictionary and find nothing.
 */
export function otherForms(word: string): string[] {
  const forms = new Set<string>()
  for (const ending of ENDINGS) {
    if (!word.endsWith(ending) || word.length - ending.length < SHORTEST_STEM || word.endsWith('ss')) continue
    const stem = word.slice(0, -ending.length)
    forms.add(stem)
    if (ending === 'ies') forms.add(`${stem}y`)
    if (ending === 'en' || ending === 'n') forms.add(`${stem}e`)
  }
  forms.delete(word)
  return [...forms]
}

/** Whether a text has every word of another somewhere in it, accents and capitals aside; the empty text has none and is in all. */
export function hasEveryWord(text: string, words: string): boolean {
  const folded = foldText(text)
  return foldText(words)
    .split(/\s+/)
    .every(word => folded.includes(word))
}
