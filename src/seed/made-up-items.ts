import { linearToOklab, oklabToLinear } from '#core/color/oklab'
import { fromHex, luminance, toHex } from '#core/color/srgb'
import type { Random } from '#core/math/random'
import type { Vec3 } from '#core/math/vec3'
import type { ItemKind } from '#core/standard/categories'
import type { FactValue } from '#files/items/inspect-item'

/** An item that is there, whose files and pictures made-up ones share. */
export interface BaseItem {
  versionId: number
  kind: ItemKind
  category: string
  name: string
  facts: Readonly<Record<string, FactValue>>
}

export interface MadeUpItem {
  base: BaseItem
  category: string
  name: string
  state: 'draft' | 'inReview' | 'approved' | 'withdrawn'
  facts: Record<string, FactValue>
}

const TONES = ['pale', 'natural', 'dark', 'smoked', 'grey', 'white', 'warm', 'bleached', 'charcoal', 'honey', 'rose', 'moss']
const FINISHES = ['oiled', 'brushed', 'sawn', 'polished', 'matt', 'honed', 'waxed', 'glazed', 'washed', 'worn']
const PLACES = [
  'Lakeside',
  'Harbour',
  'Quay',
  'Northgate',
  'Alder',
  'Mill',
  'Orchard',
  'Gable',
  'Ferry',
  'Slate',
  'Juniper',
  'Tern',
]
const STEMS: Readonly<Record<ItemKind, readonly string[]>> = {
  material: [
    ...[
      'oak plank',
      'ash board',
      'walnut veneer',
      'larch cladding',
      'birch plywood',
      'terrazzo',
      'limestone',
      'marble',
      'granite',
    ],
    ...[
      'brick',
      'clay plaster',
      'limewash',
      'linen',
      'wool twill',
      'felt',
      'velvet',
      'leather',
      'brass',
      'steel',
      'copper',
      'zinc',
    ],
    ...['glazed tile', 'enamel', 'gravel', 'asphalt', 'concrete', 'cork', 'carpet'],
  ],
  map: [
    'smudges',
    'dust',
    'drips',
    'edge wear',
    'soft mask',
    'hatching',
    'speckle',
    'perforation',
    'way sign',
    'floor marking',
    'ramp',
  ],
  model: [
    ...[
      'chair',
      'armchair',
      'stool',
      'bench',
      'sofa',
      'table',
      'desk',
      'bookcase',
      'shelf',
      'cabinet',
      'lamp',
      'pendant',
      'kettle',
    ],
    ...['bowl', 'vase', 'railing', 'door', 'planter'],
  ],
  environment: [
    'clear sky',
    'overcast sky',
    'low sun',
    'courtyard',
    'waiting room',
    'softbox studio',
    'harbour dusk',
    'winter noon',
  ],
  light: ['downlight', 'spot', 'wall washer', 'uplight', 'bollard', 'track spot', 'recessed line'],
}
const USES = [
  'kitchen',
  'bathroom',
  'living room',
  'office',
  'school',
  'facade',
  'terrace',
  'garden',
  'floor',
  'wall',
  'ceiling',
  'worktop',
]
const WIDTHS_MM = [120, 300, 450, 600, 900, 1200, 1500, 2400, 3000]
const SYLLABLES = ['al', 'der', 'quin', 'mor', 'tas', 'vel', 'bren', 'ho', 'lu', 'ner', 'pith', 'sel', 'wick', 'or', 'fen', 'gar']

const capital = (text: string): string => text[0].toUpperCase() + text.slice(1)

/** Makers that nobody has heard of; the first are asked for most. */
export const makeUpMakers = (random: Random, count: number): string[] =>
  Array.from({ length: count }, () => {
    const word = Array.from({ length: 2 + random.index(2) }, () => SYLLABLES[random.index(SYLLABLES.length)]).join('')
    return `${capital(word)} ${['Surfaces', 'Seating', 'Lights', 'Ceramics', 'Textiles', 'Works'][random.index(6)]}`
  })

/** Of a few many, of most a few: as in a library that has grown. */
const pickUneven = <T>(random: Random, list: readonly T[]): T => list[Math.floor(random.next() ** 2 * list.length)]
const pick = <T>(random: Random, list: readonly T[]): T => list[random.index(list.length)]

/** One more item like a base, with facts of its own. */
export function makeUpItem(
  random: Random,
  bases: readonly BaseItem[],
  categoriesOf: (base: BaseItem) => readonly string[],
  makers: readonly string[],
): MadeUpItem {
  const base = pick(random, bases)
  const stem = pickUneven(random, STEMS[base.kind])
  const tone = pick(random, TONES)
  const finish = pick(random, FINISHES)
  const named =
    base.kind === 'environment' ? `${stem} ${pick(random, PLACES)}` : `${pick(random, PLACES)} ${stem} ${tone} ${finish}`
  const facts: Record<string, FactValue> = {
    ...base.facts,
    maker: pickUneven(random, makers),
    licence: pick(random, ['Studio licence, all projects', 'Studio licence, still pictures', 'Free to use', 'One project']),
    tags: [...new Set([...stem.split(' '), tone, finish])].slice(0, 4).join(', '),
    uses: [...new Set([pick(random, USES), pick(random, USES)])].join(', '),
  }
  if (base.kind === 'material') Object.assign(facts, recolor(random, base.facts), { widthMm: pick(random, WIDTHS_MM) })
  for (const name of [
    'widthM',
    'heightM',
    'depthM',
    'triangles',
    'sunElevationDeg',
    'colorTemperatureK',
    'luminousFluxLm',
    'meanRoughness',
  ])
    if (typeof facts[name] === 'number') facts[name] = jitter(random, facts[name], name === 'triangles' ? 3 : 1.4)
  const states = ['approved', 'approved', 'approved', 'approved', 'approved', 'inReview', 'draft', 'withdrawn'] as const
  return { base, category: pickUneven(random, categoriesOf(base)), name: capital(named), state: pick(random, states), facts }
}

const jitter = (random: Random, value: number, most: number): number =>
  Number((value * most ** random.between(-1, 1)).toPrecision(4))

/** Its palette turned to another hue and lightness, each share as it was. */
function recolor(random: Random, facts: BaseItem['facts']): Record<string, FactValue> {
  const turn = random.between(0, 2 * Math.PI)
  const lift = random.between(-0.2, 0.2)
  const change = (hex: string): Vec3 => {
    const [l, a, b] = linearToOklab(...(fromHex(hex) ?? [0.5, 0.5, 0.5]))
    const color = oklabToLinear(l + lift, a * Math.cos(turn) - b * Math.sin(turn), a * Math.sin(turn) + b * Math.cos(turn))
    return [Math.min(1, Math.max(0, color[0])), Math.min(1, Math.max(0, color[1])), Math.min(1, Math.max(0, color[2]))]
  }
  if (typeof facts.palette !== 'string') return {}
  const mean = change(String(facts.meanColor ?? '#808080'))
  return {
    palette: facts.palette
      .split(', ')
      .map(entry => `${toHex(change(entry.split(' ')[0]))} ${entry.split(' ')[1]}`)
      .join(', '),
    meanColor: toHex(mean),
    lrv: 100 * luminance(...mean),
  }
}
