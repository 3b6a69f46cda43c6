import { tokenizeName } from '../file-names'
import { findCategory, type ItemKind, kindFallback, listCategoryHits } from './categories'

/** What speaks for a category: a word of the name, of the folder, or a figure that was measured. */
export interface CategoryVote {
  category: string
  weight: number
  from: 'name' | 'folder' | 'measured' | 'maker'
  /** The word, the fact with its value, or how many of the maker's earlier items lie there. */
  what: string
}

export interface MeasuredProposal {
  path: string
  /** 0..1; up to one half nothing is proposed, and the path is the kind's own place in the tree. */
  confidence: number
  /** The heaviest first. */
  votes: CategoryVote[]
}

/** What is known of an item before anybody has looked. */
export interface KnownOfItem {
  words: readonly string[]
  /** Its folders from the top, as the delivery has them. */
  folders: readonly string[]
  facts: Readonly<Record<string, string | number | boolean | undefined>>
  /** Where earlier items of its kind by its maker lie, and how many. */
  earlier?: readonly { category: string; count: number }[]
}

const NAME_WEIGHT = 2
const FOLDER_WEIGHT = 0.8
/** The folder that a thing lies in says more than those above. */
const OWN_FOLDER_WEIGHT = 1.5
/** What a maker always sent there weighs as much as the folder; a few say nothing. */
const MAKER_WEIGHT = 1.5
const LEAST_EARLIER = 3
const MOST_EARLIER = 3

/** As much as has to be outweighed before anything is believed. */
const DOUBT = 0.6
export const EVEN_CHANCE = 0.5

/** The category for which most speaks. */
export function proposeCategory(kind: ItemKind, known: KnownOfItem): MeasuredProposal {
  const votes = [...wordVotes(kind, known), ...measuredVotes(kind, known.facts), ...makerVotes(kind, known)].sort(
    (a, b) => b.weight - a.weight,
  )
  const sums = new Map<string, number>()
  for (const { category, weight } of votes) sums.set(category, (sums.get(category) ?? 0) + weight)
  const [best] = [...sums].sort((a, b) => b[1] - a[1])
  const total = [...sums.values()].reduce((sum, w) => sum + w, 0)
  const confidence = best ? best[1] / (total + DOUBT) : 0
  return { path: best && confidence > EVEN_CHANCE ? best[0] : kindFallback(kind), confidence, votes }
}

/** What a person, a list or an earlier delivery said stands; a guess by words gives way to what was measured. */
const SURE = 0.94

/** Where an item belongs now that it is measured; where it is, unless that was a guess and another place has more for it. */
export function proposeAgain(
  kind: ItemKind,
  known: KnownOfItem,
  placed: { category: string; categoryConfidence: number },
): { category: string; categoryConfidence: number } {
  if (placed.categoryConfidence >= SURE) return placed
  const { path, confidence } = proposeCategory(kind, known)
  return confidence > EVEN_CHANCE ? { category: path, categoryConfidence: confidence } : placed
}

function wordVotes(kind: ItemKind, { words, folders }: KnownOfItem): CategoryVote[] {
  const toVotes = (given: readonly string[], weight: number, from: CategoryVote['from']) =>
    [...new Set(given)].flatMap(word => listCategoryHits(kind, word).map(category => ({ category, weight, from, what: word })))
  return [
    ...toVotes(words, NAME_WEIGHT, 'name'),
    ...folders.flatMap((folder, i) =>
      toVotes(tokenizeName(folder), i === folders.length - 1 ? OWN_FOLDER_WEIGHT : FOLDER_WEIGHT, 'folder'),
    ),
  ]
}

function makerVotes(kind: ItemKind, { earlier = [] }: KnownOfItem): CategoryVote[] {
  const all = earlier.reduce((sum, e) => sum + e.count, 0)
  if (all < LEAST_EARLIER) return []
  return [...earlier]
    .filter(e => findCategory(e.category)?.kind === kind)
    .sort((a, b) => b.count - a.count)
    .slice(0, MOST_EARLIER)
    .map(({ category, count }) => ({ category, weight: (MAKER_WEIGHT * count) / all, from: 'maker', what: `${count} of ${all}` }))
}

type Facts = KnownOfItem['facts']
interface Cue {
  category: string
  weight: number
  facts: readonly string[]
  holds: (facts: Facts) => boolean
}

const within = (value: Facts[string], low: number, high: number): boolean =>
  typeof value === 'number' && value >= low && value <= high

/** Throws its light to one side of the axis. */
const isOneSided = ({ lightSymmetry, peakGammaDeg }: Facts): boolean =>
  (lightSymmetry === 'bilateral' || lightSymmetry === 'none') && within(peakGammaDeg, 12, 78)

/**
 * Settings are measured well enough to outweigh a folder; what a model's size or a surface's metal says is a hint beside a name. Sizes are
 * those of furniture as it is built (widthM, depthM, heightM in metres).
 */
const CUES: Record<ItemKind, readonly Cue[]> = {
  environment: [
    { category: 'environments.interiors', weight: 3.5, facts: ['setting'], holds: f => f.setting === 'interior' },
    { category: 'environments.studio', weight: 3.5, facts: ['setting'], holds: f => f.setting === 'studio' },
    { category: 'environments.skies', weight: 3.5, facts: ['setting'], holds: f => f.setting === 'exterior' },
  ],
  material: [
    { category: 'surfaces.metal', weight: 1.6, facts: ['metalShare'], holds: f => within(f.metalShare, 0.6, 1) },
    { category: 'surfaces.ground', weight: 0.4, facts: ['meanRoughness'], holds: f => within(f.meanRoughness, 0.85, 1) },
  ],
  model: [
    {
      category: 'furniture.chairs',
      weight: 0.6,
      facts: ['widthM', 'heightM'],
      holds: f => within(f.widthM, 0.35, 0.75) && within(f.depthM, 0.35, 0.8) && within(f.heightM, 0.7, 1.15),
    },
    {
      category: 'furniture.sofas',
      weight: 0.6,
      facts: ['widthM', 'heightM'],
      holds: f => within(f.widthM, 1.3, 3.6) && within(f.depthM, 0.7, 1.3) && within(f.heightM, 0.55, 1),
    },
    { category: 'vegetation.trees', weight: 0.6, facts: ['heightM'], holds: f => within(f.heightM, 4, 40) },
  ],
  light: [
    {
      category: 'luminaires.indirect',
      weight: 2.5,
      facts: ['lightDownShare'],
      holds: f => within(f.lightDownShare, 0, 0.35),
    },
    {
      category: 'luminaires.spots',
      weight: 1.6,
      facts: ['beamAngleDeg'],
      holds: f => within(f.beamAngleDeg, 0, 40) && within(f.lightDownShare, 0.9, 1) && !isOneSided(f),
    },
    {
      category: 'luminaires.downlights',
      weight: 1.6,
      facts: ['beamAngleDeg', 'lightDownShare'],
      holds: f => within(f.beamAngleDeg, 40, 150) && within(f.lightDownShare, 0.6, 1) && !isOneSided(f),
    },
    {
      category: 'luminaires.washers',
      weight: 1.2,
      facts: ['peakGammaDeg'],
      holds: f => within(f.lightDownShare, 0.6, 1) && isOneSided(f),
    },
  ],
  map: (
    [
      ['maps.masks', ['mask']],
      ['maps.wear', ['grunge']],
      ['maps.stamps', ['stamp', 'decal']],
      ['maps.patterns', ['pattern']],
      ['maps.gradients', ['gradient']],
      ['maps.pictures', ['color']],
    ] as const
  ).map(([category, uses]) => ({
    category,
    weight: 1.6,
    facts: ['mapUse'],
    holds: f => uses.some(use => use === f.mapUse),
  })),
}

function measuredVotes(kind: ItemKind, facts: Facts): CategoryVote[] {
  return CUES[kind]
    .filter(cue => findCategory(cue.category)?.kind === kind && cue.holds(facts))
    .map(({ category, weight, facts: names }) => ({
      category,
      weight,
      from: 'measured',
      what: names.map(name => `${name} ${format(facts[name])}`).join(', '),
    }))
}

const format = (value: Facts[string]): string =>
  typeof value === 'number' ? String(Math.round(value * 100) / 100) : String(value)
