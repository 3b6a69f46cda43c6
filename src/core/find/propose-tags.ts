import type { Tag } from '../standard/category-rules'
import { HOUSE_VOCABULARY, ROOMS_AND_USES } from '../standard/house-vocabulary'
import type { SeenColor } from './color-column'
import { nameColors } from './color-words'
import { splitWords } from './fold-words'
import { type Concept, Vocabulary } from './vocabulary'

/** What is known of a thing that words for it can be read from. */
export interface TagEvidence {
  name: string
  /** Folders in which it was delivered. */
  folders: readonly string[]
  category: string
  kind: string
  /** Colours with their shares of the area; empty where none was measured. */
  palette: readonly SeenColor[]
  /** Means over the surface, 0..1; undefined where not measured. */
  meanRoughness?: number
  metalShare?: number
  /** Light reflectance, 0..100. */
  lrv?: number
}

/** Where a proposal comes from. */
export type TagSource = 'name' | 'folder' | 'category' | 'measured'

export interface ProposedTag {
  word: string
  source: TagSource
}

/** What everything in a place is, and so tells nothing apart there. */
const TOO_GENERAL = new Set(['furniture', 'plant', 'sky', 'timber', 'lamp', 'figure'])
/** From here on a surface shines, or does not, to anybody's eye; on the scale of perceptual roughness. */
const POLISHED_BELOW = 0.18
const MATT_ABOVE = 0.65
/** LRV under and over which people say dark and light. */
const DARK_BELOW = 10
const LIGHT_ABOVE = 60
const METAL_FROM = 0.5

/** Rooms and uses by place; those deeper in the tree count before those above. */
const USES_BY_PLACE: readonly [string, readonly string[]][] = [
  ['vegetation.indoor', ['interior']],
  ['vegetation', ['garden']],
  ['surfaces.textile', ['upholstery']],
  ['surfaces.ground', ['garden']],
]

const firstWords = (concepts: readonly Concept[]): Map<string, string> =>
  new Map(concepts.flatMap(concept => concept.flatMap(wording => [[splitWords(wording).join(' '), concept[0]] as const])))

const USES = firstWords(ROOMS_AND_USES)
const OTHERS = HOUSE_VOCABULARY.filter(concept => !ROOMS_AND_USES.includes(concept))
const TAGS = firstWords(OTHERS)
/** Of both, since a compound may be of one of each: Küchenfliese. */
const VOCABULARY = new Vocabulary(HOUSE_VOCABULARY)

/**
 * Tags that a thing could have, each once and in the house's word for it: from its name, the folders it came in, and what was measured.
 * @param house words that its category has for them; where it has some, those alone are read from names and folders
 */
export function proposeTags(evidence: TagEvidence, house: readonly Tag[]): ProposedTag[] {
  const [vocabulary, words] = house.length > 0 ? readHouse(house) : ([VOCABULARY, TAGS] as const)
  const said = (text: string) => readWords(text, vocabulary, words).filter(word => !TOO_GENERAL.has(word))
  return unique([
    ...said(evidence.name).map(word => ({ word, source: 'name' as const })),
    ...evidence.folders.flatMap(said).map(word => ({ word, source: 'folder' as const })),
    // What the house has no word for would be off its standard at once.
    ...(house.length > 0 ? measuredTags(evidence).flatMap(said) : measuredTags(evidence)).map(word => ({
      word,
      source: 'measured' as const,
    })),
  ])
}

/** Rooms and uses that a thing could have: from its name, its folders and its place in the house tree. */
export function proposeUses({ name, folders, category }: TagEvidence): ProposedTag[] {
  const said = (text: string) => readWords(text, VOCABULARY, USES)
  const place = USES_BY_PLACE.find(([path]) => category === path || category.startsWith(`${path}.`))
  return unique([
    ...said(name).map(word => ({ word, source: 'name' as const })),
    ...folders.flatMap(said).map(word => ({ word, source: 'folder' as const })),
    ...(place?.[1] ?? []).map(word => ({ word, source: 'category' as const })),
  ])
}

function measuredTags({ kind, palette, meanRoughness, metalShare, lrv }: TagEvidence): string[] {
  if (kind !== 'material') return []
  return [
    ...nameColors(palette),
    ...(lrv !== undefined && lrv < DARK_BELOW ? ['dark'] : []),
    ...(lrv !== undefined && lrv > LIGHT_ABOVE ? ['light'] : []),
    ...(meanRoughness !== undefined && meanRoughness < POLISHED_BELOW ? ['polished'] : []),
    ...(meanRoughness !== undefined && meanRoughness > MATT_ABOVE ? ['matt'] : []),
    ...(metalShare !== undefined && metalShare >= METAL_FROM ? ['metal'] : []),
  ]
}

function readHouse(house: readonly Tag[]): readonly [Vocabulary, Map<string, string>] {
  const concepts = house.map(({ word, synonyms }) => [word, ...synonyms])
  return [new Vocabulary(concepts), firstWords(concepts)]
}

/** Words of a text that a vocabulary knows, whole ones and the parts of compounds, each in the first word for it. */
function readWords(text: string, vocabulary: Vocabulary, words: ReadonlyMap<string, string>): string[] {
  const typed = splitWords(text)
  const found: string[] = []
  for (let at = 0; at < typed.length; ) {
    // A name is written to its end: its last word is no beginning of another.
    const known = vocabulary.expand([...typed, ''], at)
    const word =
      known && !known.isBeginning ? words.get(known.others.map(w => w.join(' ')).find(w => words.has(w)) ?? '') : undefined
    if (known && word !== undefined) {
      found.push(word)
      at += known.length
      continue
    }
    for (const part of vocabulary.takeApart(typed[at]) ?? []) {
      const own = words.get(part)
      if (own !== undefined) found.push(own)
    }
    at++
  }
  return found
}

function unique(proposals: readonly ProposedTag[]): ProposedTag[] {
  const seen = new Set<string>()
  return proposals.filter(({ word }) => {
    if (seen.has(word.toLowerCase())) return false
    seen.add(word.toLowerCase())
    return true
  })
}
