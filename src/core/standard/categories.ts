import type { HouseRigName } from './rig-names'

export const ITEM_KINDS = ['material', 'model', 'environment', 'light', 'map'] as const
export type ItemKind = (typeof ITEM_KINDS)[number]

/** Whether things of a kind can be walked round. */
export const hasOutside = (kind: ItemKind): boolean => kind === 'material' || kind === 'model'

/** A place in the house tree. Paths are dotted, each label under its parent. */
export interface CategoryDefinition {
  path: string
  title: string
  kind: ItemKind
  /** Prefix of item codes, such as TIM for TIM-0142. */
  prefix: string
  rig: HouseRigName
  /** Extent in its largest dimension that a model here has, metres. */
  expectedSizeM?: [number, number]
  triangleBudget?: number
}

/** Where the key light of a house sky stands: in the middle of the picture, so that skies can take each other's place. */
export const HOUSE_HEADING_DEG = 0
/** What a surface's maps, and the textures of a model, may measure at most. */
export const MAP_BUDGET_PX = 4096
export const MODEL_TEXTURE_BUDGET_PX = 2048

const material = (path: string, title: string, prefix: string, rig: HouseRigName = 'material-stage'): CategoryDefinition => ({
  path,
  title,
  prefix,
  kind: 'material',
  rig,
})

const model = (
  path: string,
  title: string,
  prefix: string,
  expectedSizeM: [number, number],
  triangleBudget = 200_000,
  rig: HouseRigName = 'model-three-quarter',
): CategoryDefinition => ({
  path,
  title,
  prefix,
  kind: 'model',
  rig,
  expectedSizeM,
  triangleBudget,
})

const plant = (path: string, title: string, prefix: string, expectedSizeM: [number, number]): CategoryDefinition => ({
  path,
  title,
  prefix,
  kind: 'model',
  rig: 'plant-three-quarter',
  expectedSizeM,
  triangleBudget: 500_000,
})

const environment = (path: string, title: string, prefix: string): CategoryDefinition => ({
  path,
  title,
  prefix,
  kind: 'environment',
  rig: 'environment-strip',
})

const light = (path: string, title: string, prefix: string): CategoryDefinition => ({
  path,
  title,
  prefix,
  kind: 'light',
  rig: 'light-bay',
})

const map = (path: string, title: string, prefix: string): CategoryDefinition => ({
  path,
  title,
  prefix,
  kind: 'map',
  rig: 'map-sheet',
})

/** The house tree as it ships. Parents stand before their children. */
export const HOUSE_CATEGORIES: readonly CategoryDefinition[] = [
  material('surfaces', 'Surfaces', 'SUR'),
  material('surfaces.timber', 'Timber', 'TIM'),
  material('surfaces.stone', 'Stone and terrazzo', 'STO'),
  material('surfaces.masonry', 'Brick and masonry', 'BRK'),
  material('surfaces.plaster', 'Plaster and paint', 'PLA'),
  material('surfaces.textile', 'Textiles', 'TEX', 'cloth-drape'),
  material('surfaces.metal', 'Metals', 'MET'),
  material('surfaces.enamel', 'Enamel and ceramic', 'ENA'),
  material('surfaces.glass', 'Glass', 'GLA', 'glass-vessel'),
  material('surfaces.water', 'Water and liquids', 'WAT', 'liquid-vessel'),
  material('surfaces.ground', 'Ground', 'GRD'),
  model('furniture', 'Furniture', 'FUR', [0.2, 6]),
  model('furniture.chairs', 'Chairs and stools', 'CHR', [0.4, 1.3]),
  model('furniture.sofas', 'Sofas and benches', 'SOF', [0.9, 4]),
  model('furniture.tables', 'Tables', 'TAB', [0.4, 4]),
  model('furniture.storage', 'Shelving and storage', 'STG', [0.5, 4]),
  model('lighting', 'Lighting', 'LIT', [0.1, 2.5], 200_000, 'light-wall-wash'),
  model('objects', 'Objects', 'OBJ', [0.05, 2.5]),
  model('objects.kitchenware', 'Kitchenware', 'KIT', [0.05, 0.6]),
  model('objects.figures', 'Figures for scale', 'FIG', [0.7, 2.1]),
  model('building', 'Building parts', 'BLD', [0.3, 12]),
  plant('vegetation', 'Vegetation', 'VEG', [0.1, 40]),
  plant('vegetation.trees', 'Trees', 'TRE', [2, 40]),
  plant('vegetation.shrubs', 'Shrubs and grasses', 'SHR', [0.3, 4]),
  plant('vegetation.indoor', 'Indoor plants', 'IND', [0.2, 3]),
  environment('environments', 'Environments', 'ENV'),
  environment('environments.skies', 'Skies', 'SKY'),
  environment('environments.interiors', 'Interiors', 'INT'),
  environment('environments.studio', 'Studio light', 'STU'),
  light('luminaires', 'Luminaires', 'LUM'),
  light('luminaires.spots', 'Spots and projectors', 'SPO'),
  light('luminaires.downlights', 'Downlights and pendants', 'DWN'),
  light('luminaires.washers', 'Wall washers', 'WSH'),
  light('luminaires.indirect', 'Uplights and indirect', 'UPL'),
  light('luminaires.outdoor', 'Street and garden', 'OUT'),
  map('maps', 'Maps', 'MAP'),
  map('maps.masks', 'Masks', 'MSK'),
  map('maps.wear', 'Dirt and wear', 'WEA'),
  map('maps.stamps', 'Stamps and decals', 'STM'),
  map('maps.patterns', 'Patterns', 'PAT'),
  map('maps.gradients', 'Gradients', 'GRA'),
  map('maps.pictures', 'Pictures', 'PIC'),
]

const SHIPPED: ReadonlyMap<string, CategoryDefinition> = new Map(HOUSE_CATEGORIES.map(c => [c.path, c]))

/** Whether a category ships, as against one that a studio made. */
export const isShippedCategory = (path: string): boolean => SHIPPED.has(path)

/**
 * What ships for a category. One that a studio made itself lies in one that ships and takes everything from it but its path; undefined
 * where not even the first part of the path is known.
 */
export function findCategory(path: string): CategoryDefinition | undefined {
  for (let labels = path.split('.'); labels.length > 0; labels = labels.slice(0, -1)) {
    const shipped = SHIPPED.get(labels.join('.'))
    if (shipped) return { ...shipped, path }
  }
  return undefined
}

/** Words by which a delivery's own names point to a place in the house tree. */
const CATEGORY_WORDS: [string, string[]][] = [
  [
    'surfaces.timber',
    [
      'oak',
      'timber',
      'wood',
      'walnut',
      'pine',
      'ash',
      'plywood',
      'birch',
      'larch',
      'parquet',
      'plank',
      'planks',
      'cedar',
      'floorboards',
    ],
  ],
  ['surfaces.stone', ['terrazzo', 'stone', 'marble', 'granite', 'limestone', 'slate', 'travertine', 'concrete']],
  ['surfaces.masonry', ['brick', 'bricks', 'masonry', 'block', 'bond']],
  ['surfaces.plaster', ['plaster', 'paint', 'render', 'stucco', 'limewash', 'wall']],
  ['surfaces.textile', ['cloth', 'fabric', 'linen', 'wool', 'weave', 'woven', 'felt', 'carpet', 'twill', 'boucle', 'canvas']],
  ['surfaces.metal', ['steel', 'brass', 'copper', 'aluminium', 'aluminum', 'iron', 'bronze', 'zinc']],
  ['surfaces.enamel', ['enamel', 'ceramic', 'glaze', 'porcelain', 'tile', 'tiles']],
  ['surfaces.glass', ['glass', 'glazing']],
  ['surfaces.water', ['water', 'lake', 'liquid', 'sea']],
  ['surfaces.ground', ['gravel', 'soil', 'grass', 'asphalt', 'sand', 'paving', 'moss']],
  ['furniture.chairs', ['chair', 'chairs', 'stool', 'stools', 'seat']],
  ['furniture.sofas', ['sofa', 'bench', 'settee', 'couch']],
  ['furniture.tables', ['table', 'desk', 'tables']],
  ['furniture.storage', ['shelf', 'shelving', 'bookcase', 'cabinet', 'shelves', 'storage', 'trolley']],
  ['lighting', ['lamp', 'lamps', 'light', 'lighting', 'pendant', 'lantern', 'luminaire']],
  ['objects.kitchenware', ['kettle', 'mug', 'pot', 'jug', 'bowl', 'cup']],
  ['objects.figures', ['figure', 'person', 'standing']],
  ['building', ['railing', 'stair', 'door', 'window', 'handrail', 'bollard', 'fence']],
  ['vegetation.trees', ['tree', 'trees', 'betula', 'quercus', 'pinus', 'acer', 'salix']],
  ['vegetation.shrubs', ['shrub', 'shrubs', 'grass', 'hedge', 'miscanthus', 'cornus', 'fern', 'lavandula', 'buxus']],
  ['vegetation.indoor', ['ficus', 'monstera', 'sansevieria', 'indoor', 'houseplant']],
  ['environments.interiors', ['interior', 'room', 'hall']],
  ['environments.studio', ['studio', 'softbox', 'softboxes']],
  ['environments.skies', ['sky', 'skies', 'sun', 'overcast', 'dusk', 'night', 'dawn', 'noon']],
  ['luminaires.spots', ['spot', 'spotlight', 'projector', 'accent', 'floodlight']],
  ['luminaires.downlights', ['downlight', 'pendant', 'panel', 'recessed', 'linear']],
  ['luminaires.washers', ['wallwasher', 'washer', 'wallwash', 'asymmetric']],
  ['luminaires.indirect', ['uplight', 'indirect', 'torchiere', 'cove']],
  ['luminaires.outdoor', ['street', 'road', 'garden', 'bollard', 'path', 'outdoor']],
  ['maps.masks', ['mask', 'matte', 'stencil']],
  ['maps.wear', ['grunge', 'dirt', 'dust', 'smudge', 'scratch', 'scratches', 'stain', 'wear', 'drips', 'fingerprint']],
  ['maps.stamps', ['stamp', 'decal', 'sticker', 'label', 'sign', 'marking', 'splatter', 'crack']],
  ['maps.patterns', ['pattern', 'ornament', 'perforation', 'motif', 'wallpaper']],
  ['maps.gradients', ['gradient', 'ramp', 'falloff']],
  ['maps.pictures', ['artwork', 'painting', 'poster', 'backplate', 'photograph']],
]

const KIND_FALLBACK: Record<ItemKind, string> = {
  material: 'surfaces',
  model: 'objects',
  environment: 'environments.skies',
  light: 'luminaires',
  map: 'maps',
}

/** Where things of a kind lie of which nothing more is known. */
export const kindFallback = (kind: ItemKind): string => KIND_FALLBACK[kind]

/** The categories of a kind that a word, in lower case, speaks for. */
export const listCategoryHits = (kind: ItemKind, word: string): string[] =>
  CATEGORY_WORDS.filter(
    ([path, keys]) => (keys.includes(word) || keys.includes(singularOf(word))) && findCategory(path)?.kind === kind,
  ).map(([path]) => path)

/** "ceramics" is about ceramic; "glass" is no plural. */
export const singularOf = (word: string): string =>
  word.length > 3 && word.endsWith('s') && !word.endsWith('ss') ? word.slice(0, -1) : word

/** The likeliest category of that kind for words from names and folders, with a confidence 0..1. */
export function suggestCategory(kind: ItemKind, words: readonly string[]): { path: string; confidence: number } {
  const scores = CATEGORY_WORDS.filter(([path]) => findCategory(path)?.kind === kind)
    .map(([path, keys]) => ({ path, hits: words.filter(w => keys.includes(w)).length }))
    .filter(s => s.hits > 0)
    .sort((a, b) => b.hits - a.hits)
  if (scores.length === 0) return { path: KIND_FALLBACK[kind], confidence: 0.2 }
  const rival = scores[1]?.hits ?? 0
  return { path: scores[0].path, confidence: Math.min(0.95, 0.55 + 0.4 * (1 - rival / scores[0].hits)) }
}

/** A house title from a file's words: first letter large, resolution and role words already gone. */
export const proposeTitle = (words: readonly string[]): string => {
  const text = words.join(' ').trim()
  return text ? text[0].toUpperCase() + text.slice(1) : 'Untitled'
}
