import { proposeTags } from '../../find/tags/propose-tags'
import type { TagWords } from '../../find/tags/tag-words'
import { splitWords } from '../../find/words/fold-words'

export interface NamedItem {
  code: string
  name: string
  tags: string
  category: string
}

export interface NameMatch {
  code: string
  /** 1 where both say the same. */
  likeness: number
  /** The name has its code in it. */
  hasCode?: boolean
}

/** What programs put into names of materials and nobody means by them. */
const NOISE = new Set(['mat', 'material', 'mtl', 'shader', 'default', 'new', 'copy', 'color', 'colour', 'texture', 'tex', 'map'])
/** Many are called alike; which of them looks like it is another's to say. */
const MOST_MATCHES = 30
/** What the foreign name says and the item does not counts against it; what only the item says, less (Tversky 1977). */
const [UNSAID_BY_ITEM, UNSAID_BY_NAME] = [0.8, 0.3]

/**
 * Knows items by what a foreign name says: "MAT_Eiche_Parkett.001" and an oak parquet have their words in common, in whatever language of the
 * house's vocabulary. Words that many items have count for little (inverse document frequency; Spärck Jones 1972).
 * @param house the vocabulary in force
 * @returns the likest first; nothing for a name that says nothing
 */
export function createNameMatcher(items: readonly NamedItem[], house: TagWords): (name: string) => NameMatch[] {
  const wordsOf = (text: string) => readWords(text, house)
  const known = items.map(({ code, name, tags, category }) => {
    const own = wordsOf(name)
    return { code, spelled: codeKey(code), own, all: new Set([...own, ...wordsOf(tags), ...wordsOf(category)]) }
  })
  const having = new Map<string, number>()
  for (const { all } of known) for (const word of all) having.set(word, (having.get(word) ?? 0) + 1)
  const weightOf = (word: string) => Math.log(1 + known.length / (having.get(word) ?? 1))
  const weigh = (words: Iterable<string>) => [...words].reduce((sum, word) => sum + weightOf(word), 0)
  return name => {
    const spelled = codeKey(name)
    const coded = known.filter(k => spelled.includes(k.spelled)).map(({ code }) => ({ code, likeness: 1, hasCode: true }))
    if (coded.length > 0) return coded
    // A word that no item has says nothing about which of them is meant.
    const asked = [...wordsOf(name)].filter(word => having.has(word))
    if (asked.length === 0) return []
    const whole = weigh(asked)
    return known
      .flatMap(({ code, own, all }) => {
        const shared = asked.filter(word => all.has(word))
        if (shared.length === 0) return []
        const common = weigh(shared)
        const more = weigh([...own].filter(word => !shared.includes(word)))
        return [{ code, likeness: common / (common + UNSAID_BY_ITEM * (whole - common) + UNSAID_BY_NAME * more) }]
      })
      .sort((a, b) => b.likeness - a.likeness || (a.code < b.code ? -1 : 1))
      .slice(0, MOST_MATCHES)
  }
}

/** A code by its words, whatever separates them: in a longer name it stands as whole words. */
const codeKey = (text: string): string => `-${splitWords(text).join('-')}-`

/** Words of a name, and what the house calls what they mean. Numbers and words that programs add are none. */
function readWords(name: string, house: TagWords): Set<string> {
  const apart = name.replace(/(\p{Ll})(\p{Lu})/gu, '$1 $2').replace(/(\p{L})(?=\p{N})/gu, '$1 ')
  const plain = splitWords(apart).filter(word => word.length > 1 && !/^\d+$/.test(word) && !NOISE.has(word))
  const meant = proposeTags({ name: plain.join(' '), folders: [], category: '', kind: '', palette: [] }, [], house)
  return new Set([...plain, ...meant.map(tag => tag.word)])
}
