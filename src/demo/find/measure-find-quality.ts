import { linearToOklab, oklabToLinear } from '#core/color/oklab'
import { fromHex } from '#core/color/srgb'
import type { Findable } from '#core/find/columns/findable'
import { FindIndex } from '#core/find/find-index'
import type { Look } from '#core/find/looks/look'
import { ANYTHING, type Asker, type FindQuery } from '#core/find/query/find-query'
import { createRandom, type Random } from '#core/math/random'
import type { Vec3 } from '#core/math/vec3'
import { HOUSE_VOCABULARY } from '#core/standard/house-vocabulary'
import LIBRARY from './library.json'
import QUERIES from './queries.json'

/** How well things with known answers are found. */
export interface FindQuality {
  /** Of what should be among the first ten, how much is. */
  recallAt10: number
  /** Mean of one over the place of the first right answer; 0 where it is not among the first ten. */
  mrr: number
  groups: Record<string, { queries: number; recallAt10: number; mrr: number }>
  /** Queries whose first right answer is not in the first place, for whoever mends it. */
  missed: string[]
}

const FIRST = 10
const STRANGERS = 600
const EVERYBODY: Asker = { libraries: new Set(['1']), sets: {} }

interface Query {
  group: string
  words: string
  expect: string[]
  color?: string
}
/** Looks are written as plain lists. */
type Stored = Omit<Findable, 'id' | 'look'> & { look: { groups: Record<string, number[]>; palette: number[] } | null }

/** Answers every query over the demo world's library with strangers among it, and counts. */
export function measureFindQuality(): FindQuality {
  const items = (LIBRARY as unknown as Stored[]).map((item, k): Findable => ({ ...item, id: k + 1, look: readLook(item.look) }))
  const random = createRandom(5)
  const copies = items.filter(i => i.look?.groups.pattern).flatMap(item => makeCopies(item))
  const strangers = Array.from({ length: STRANGERS }, (_, k) => makeStranger(random, items, k))
  const index = new FindIndex()
  index.setVocabulary(HOUSE_VOCABULARY)
  index.putAll([...items, ...copies, ...strangers].map((item, k) => ({ ...item, id: k + 1 })))
  const results: { group: string; what: string; recall: number; reciprocal: number }[] = []
  const answer = (group: string, what: string, query: Partial<FindQuery>, expect: readonly string[]) => {
    const view = index.find({ ...ANYTHING, ...query }, EVERYBODY)
    const found = view.page(0, FIRST).map(id => index.columns.codeOf(index.columns.slotOf(id)!))
    const first = found.findIndex(code => expect.includes(code))
    results.push({
      group,
      what,
      recall: expect.filter(code => found.includes(code)).length / Math.min(FIRST, expect.length),
      reciprocal: first < 0 ? 0 : 1 / (first + 1),
    })
  }
  for (const { group, words, expect, color } of QUERIES as Query[]) {
    const [hex, tolerance] = (color ?? '').split('~')
    const colors = color ? [{ color: fromHex(`#${hex}`)!, tolerance: Number(tolerance) }] : []
    answer(group, words || `#${color}`, { words, colors }, expect)
  }
  // A material against its own copies: recoloured, it is found by all but its colour; rescaled, by all but its scale.
  for (const item of items.filter(i => i.look?.groups.pattern)) {
    const like = (weights: Record<string, number>) => ({ like: { looks: [item.look!], kind: 'material', weights } })
    answer('recoloured', `like ${item.code}`, like({ color: 0 }), [`${item.code}-R1`, `${item.code}-R2`, item.code])
    answer('rescaled', `like ${item.code}`, like({ scale: 0 }), [`${item.code}-S1`, `${item.code}-S2`, item.code])
    answer('alike', `like ${item.code}`, like({}), [item.code])
  }
  const mean = (list: readonly number[]) => list.reduce((sum, v) => sum + v, 0) / Math.max(1, list.length)
  const groups = [...new Set(results.map(r => r.group))]
  return {
    recallAt10: mean(results.map(r => r.recall)),
    mrr: mean(results.map(r => r.reciprocal)),
    groups: Object.fromEntries(
      groups.map(group => {
        const own = results.filter(r => r.group === group)
        return [group, { queries: own.length, recallAt10: mean(own.map(r => r.recall)), mrr: mean(own.map(r => r.reciprocal)) }]
      }),
    ),
    missed: results.filter(r => r.reciprocal < 1 || r.recall < 1).map(r => `${r.group}: ${r.what}`),
  }
}

function readLook(stored: Stored['look']): Look | null {
  if (!stored) return null
  const groups = Object.fromEntries(Object.entries(stored.groups).map(([name, values]) => [name, Float32Array.from(values)]))
  return { groups, palette: Float32Array.from(stored.palette) }
}

/** Two in other colours, two at another size, found by nothing that could be read. */
function makeCopies(item: Findable): Findable[] {
  const look = item.look!
  const nameless = {
    name: 'Zz',
    terms: { kind: ['material'], library: ['1'], state: ['approved'], category: ['surfaces'] },
    places: [],
    otherWords: [],
  }
  const copy = (mark: string, change: Partial<Findable>): Findable => ({
    ...item,
    ...nameless,
    code: `${item.code}-${mark}`,
    palette: [],
    ...change,
  })
  const turned = (angle: number): Look => {
    const palette = look.palette.slice()
    for (let at = 0; at < palette.length; at += 4)
      palette.set(turnHue([palette[at], palette[at + 1], palette[at + 2]], angle), at)
    const color = look.groups.color?.slice()
    if (color) color.set(turnHue([color[0], color[1], color[2]], angle))
    return { palette, groups: { ...look.groups, color } }
  }
  const scaled = (octaves: number): Look => ({
    ...look,
    groups: { ...look.groups, scale: look.groups.scale && Float32Array.of(look.groups.scale[0] + octaves) },
  })
  return [
    copy('R1', { look: turned(2) }),
    copy('R2', { look: turned(4) }),
    copy('S1', { look: scaled(1.5) }),
    copy('S2', { look: scaled(-2) }),
  ]
}

const turnHue = ([l, a, b]: Vec3, angle: number): Vec3 => {
  // Through colours that there are.
  const inside = oklabToLinear(l, a * Math.cos(angle) - b * Math.sin(angle), a * Math.sin(angle) + b * Math.cos(angle)).map(v =>
    Math.min(1, Math.max(0, v)),
  )
  return linearToOklab(inside[0], inside[1], inside[2])
}

const SYLLABLES = [
  'ba',
  'cor',
  'dun',
  'el',
  'fim',
  'gra',
  'hul',
  'ist',
  'jo',
  'kle',
  'lom',
  'mir',
  'nos',
  'ol',
  'pra',
  'rud',
  'sti',
  'tol',
  'ur',
  'ver',
]

/** Something that nobody asks for, with a name that means nothing and a look of its own. */
function makeStranger(random: Random, items: readonly Findable[], k: number): Findable {
  const word = () => Array.from({ length: 2 + random.index(3) }, () => SYLLABLES[random.index(SYLLABLES.length)]).join('')
  const base = items[random.index(items.length)]
  const look = base.look && {
    palette: base.look.palette.map((v, at) => (at % 4 === 3 ? v : v + random.between(-0.25, 0.25))),
    groups: Object.fromEntries(
      Object.entries(base.look.groups).map(([group, values]) => [group, values!.map(v => v + random.between(-0.7, 0.7))]),
    ),
  }
  return {
    id: 0,
    code: `ZZZ-${String(k).padStart(4, '0')}`,
    name: `${word()} ${word()}`,
    terms: { kind: base.terms.kind, library: ['1'], state: ['approved'], category: ['surfaces'], maker: [word()] },
    figures: { widthMm: random.between(50, 5000) },
    palette: [],
    look,
    places: [],
    otherWords: [word()],
  }
}
