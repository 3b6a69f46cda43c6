/** Sheens of wall and wood paints, dullest first, with the roughness whose 60° and 85° gloss lies in the band that ISO 4618 gives the word. */
export const SHEENS = [
  { name: 'dead flat', roughness: 0.95, words: ['dead flat', 'flat', 'ultra matt', 'dead matt'] },
  { name: 'matt', roughness: 0.78, words: ['matt', 'matte', 'mat'] },
  { name: 'eggshell', roughness: 0.52, words: ['eggshell', 'egg shell', 'low sheen'] },
  { name: 'satin', roughness: 0.36, words: ['satin', 'silk', 'semi matt', 'mid sheen'] },
  { name: 'semi-gloss', roughness: 0.22, words: ['semi gloss', 'semigloss', 'half gloss'] },
  { name: 'gloss', roughness: 0.09, words: ['gloss', 'full gloss', 'high gloss', 'glossy'] },
] as const

export type SheenName = (typeof SHEENS)[number]['name']

/** The sheen a word means; null for a word that means none. */
export function findSheen(word: string): (typeof SHEENS)[number] | null {
  const plain = word.toLowerCase().replace(/[-_]+/g, ' ').replace(/\s+/g, ' ').trim()
  return SHEENS.find(s => s.name === plain || (s.words as readonly string[]).includes(plain)) ?? null
}
