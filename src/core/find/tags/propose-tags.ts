import type { Tag } from '../../standard/category-rules'
import type { SeenColor } from '../looks/color-column'
import { nameColors } from '../looks/color-words'
import { TagWords } from './tag-words'

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
const TOO_GENERAL = ['furniture', 'plant', 'sky', 'timber', 'lamp', 'figure']
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

/**
 * Tags that a thing could have, each once and in the house's word for it: from its name, the folders it came in, and what was measured.
 * @param own words that its category has for them; where it has some, those alone are read from names and folders
 * @param words the vocabulary in force
 */
export function proposeTags(evidence: TagEvidence, own: readonly Tag[], words: TagWords): ProposedTag[] {
  const hasOwn = own.length > 0
  const read = hasOwn ? new TagWords(own.map(({ word, synonyms }) => ({ words: [word, ...synonyms], isUse: false }))) : words
  const general = new Set(TOO_GENERAL.map(word => read.firstFor(word)))
  const said = (text: string) => read.tagsIn(text).filter(word => !general.has(word))
  // What the category has no word for would be off its standard at once.
  const measured = measuredTags(evidence).flatMap(word => (hasOwn ? said(word) : [words.firstFor(word)]))
  return unique([
    ...said(evidence.name).map(word => ({ word, source: 'name' as const })),
    ...evidence.folders.flatMap(said).map(word => ({ word, source: 'folder' as const })),
    ...measured.map(word => ({ word, source: 'measured' as const })),
  ])
}

/** Rooms and uses that a thing could have: from its name, its folders and its place in the house tree. */
export function proposeUses({ name, folders, category }: TagEvidence, words: TagWords): ProposedTag[] {
  const said = (text: string) => words.usesIn(text)
  const place = USES_BY_PLACE.find(([path]) => category === path || category.startsWith(`${path}.`))
  return unique([
    ...said(name).map(word => ({ word, source: 'name' as const })),
    ...folders.flatMap(said).map(word => ({ word, source: 'folder' as const })),
    ...(place?.[1] ?? []).map(word => ({ word: words.firstFor(word), source: 'category' as const })),
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

function unique(proposals: readonly ProposedTag[]): ProposedTag[] {
  const seen = new Set<string>()
  return proposals.filter(({ word }) => {
    if (seen.has(word.toLowerCase())) return false
    seen.add(word.toLowerCase())
    return true
  })
}
