import { sql } from 'drizzle-orm'
import type { Findable } from '#core/find/columns/findable'
import type { SeenColor } from '#core/find/looks/color-column'
import { nameColors } from '#core/find/looks/color-words'
import { growthOf } from '#core/find/looks/growth'
import { type Look, lookOfLuminaire, lookOfMap, lookOfMaterial, lookOfModel, lookOfSky } from '#core/find/looks/look'
import { groupBy } from '#core/group-by'
import { readAppearance } from '#core/material/appearance'
import type { OpenPbrParameters } from '#core/material/open-pbr'
import type { FactValue } from '#files/items/inspect-item'
import type { Connection } from '../platform/database'
import type { WordList } from '../tables/library.table'
import { foldersOf, readPalette } from './tag-evidence'

const DAY_S = 86_400

/** Facts that something is found by. */
const FOUND_BY = [
  'widthMm',
  'widthM',
  'heightM',
  'depthM',
  'widthPx',
  'triangles',
  'levels',
  'lrv',
  'meanRoughness',
  'palette',
  'meanColor',
  'specifiedColor',
  'sunElevationDeg',
  'colorTemperatureK',
  'lampCctK',
  'luminousFluxLm',
  'beamAngleDeg',
  'setting',
  'sky',
  'maker',
  'licence',
  'botanicalName',
  'growth',
  'commonName',
  'series',
  'number',
  'sheen',
  'appearance',
  'parts',
  'sunShare',
  'dynamicRangeStops',
  'keyToFill',
  'lightDownShare',
  'peakGammaDeg',
  'sourcePath',
  'deliveredAs',
  'mapUse',
  'mapTiles',
  'mapChannels',
  'mapMean',
  'mapLow',
  'mapHigh',
  'coverShare',
]

interface ItemRow extends Record<string, unknown> {
  id: number
  libraryId: number
  category: string
  kind: string
  code: string
  name: string
  state: string
  versionId: number | null
  constants: Partial<OpenPbrParameters> | null
  author: string | null
  addedS: number
  changedS: number
  bytes: number
  roles: string[] | null
  hasFinal: boolean
  hasOwnPicture: boolean
  findings: string[] | null
}

const MADE_OF_PICTURES: ReadonlySet<string> = new Set(['material', 'environment', 'map'])

type Facts = Record<string, FactValue>

/** Everything by which some items are found, of those that are still there; of many in parts, since it is all in memory at once. */
export async function loadFindables(
  db: Connection,
  ids: readonly number[],
  titles: ReadonlyMap<string, string>,
): Promise<Findable[]> {
  const { rows } = await db.execute<ItemRow>(sql`
    select i.id, i.library_id as "libraryId", i.category::text as category, i.kind, i.code, i.name, i.state, v.id as "versionId",
      v.constants, p.name as author, extract(epoch from i.created_at)::float8 as "addedS",
      extract(epoch from i.updated_at)::float8 as "changedS", coalesce(w.bytes, 0) as bytes, w.roles,
      exists (select from previews f where f.input_key = v.input_key and f.quality = 'final') as "hasFinal",
      exists (select from own_pictures o where o.version_id = v.id and o.dropped_at is null and o.state = 'ready') as "hasOwnPicture",
      (select array_agg(distinct f.code) from findings f where f.version_id = v.id) as findings
    from items i
    left join versions v on v.id = i.current_version_id
    left join people p on p.id = v.author_id
    left join lateral (
      select sum(f.size)::float8 as bytes, array_agg(distinct vf.role) as roles
      from version_files vf join files f on f.hash = vf.hash where vf.version_id = v.id) w on true
    where i.id = any(${sql.param([...ids])})`)
  const versionIds = rows.flatMap(r => (r.versionId === null ? [] : [r.versionId]))
  // As one row for each version: a row for each fact takes longer to read than to find.
  const { rows: factRows } = await db.execute<{ versionId: number; facts: Facts }>(sql`
    select version_id as "versionId", json_object_agg(name, coalesce(to_json(number), to_json(text), to_json(truth))) as facts
    from facts where version_id = any(${sql.param(versionIds)}) and name = any(${sql.param(FOUND_BY)}) group by version_id`)
  const { rows: wordRows } = await db.execute<{ versionId: number; list: WordList; words: string[] }>(sql`
    select version_id as "versionId", list, array_agg(word order by position) as words
    from version_words where version_id = any(${sql.param(versionIds)}) group by version_id, list`)
  const factsOf = new Map(factRows.map(r => [r.versionId, r.facts]))
  const wordsOf = groupBy(wordRows, w => w.versionId)
  return rows.map(row => {
    const facts = factsOf.get(row.versionId ?? 0) ?? {}
    const words = Object.fromEntries((wordsOf.get(row.versionId ?? 0) ?? []).map(w => [w.list, w.words]))
    return toFindable(row, facts, words, titles)
  })
}

const listed = (value: FactValue | undefined): string[] => (value === undefined || value === '' ? [] : [String(value)])
const inMm = (metres: FactValue | undefined): number | undefined => (typeof metres === 'number' ? metres * 1000 : undefined)
const figure = (value: FactValue | undefined): number | undefined => (typeof value === 'number' ? value : undefined)
/** What was not told apart is no value to choose by. */
const told = (value: FactValue | undefined): string[] => listed(value).filter(v => v !== 'unsure' && v !== 'none')

function toFindable(
  row: ItemRow,
  facts: Facts,
  words: Partial<Record<WordList, string[]>>,
  titles: ReadonlyMap<string, string>,
): Findable {
  const labels = row.category.split('.')
  const palette = readPalette(facts, row.constants ?? {})
  const roles = row.roles ?? []
  const has = [
    ...(roles.includes('lod') || (figure(facts.levels) ?? 0) > 1 ? ['levels'] : []),
    ...(roles.includes('standIn') ? ['standIn'] : []),
    ...(roles.includes('alternate') ? ['tiers'] : []),
    ...(row.hasFinal ? ['final'] : []),
    ...(row.hasOwnPicture ? ['ownPicture'] : []),
  ]
  return {
    id: row.id,
    code: row.code,
    name: row.name,
    terms: {
      kind: [row.kind],
      category: [row.category],
      state: [row.state],
      library: [String(row.libraryId)],
      maker: listed(facts.maker),
      licence: listed(facts.licence),
      botanicalName: listed(facts.botanicalName),
      growth: growthIn(row.category, facts),
      setting: told(facts.setting),
      sky: told(facts.sky),
      mapUse: listed(facts.mapUse),
      mapTiles: listed(facts.mapTiles),
      mapChannels: listed(facts.mapChannels),
      tag: words.tags ?? [],
      use: words.uses ?? [],
      finding: row.findings ?? [],
      author: row.author === null ? [] : [row.author],
      has,
    },
    figures: {
      widthMm: figure(facts.widthMm) ?? inMm(facts.widthM),
      heightMm: inMm(facts.heightM),
      depthMm: inMm(facts.depthM),
      triangles: figure(facts.triangles),
      bytes: row.bytes > 0 ? row.bytes : undefined,
      mapPx: MADE_OF_PICTURES.has(row.kind) ? figure(facts.widthPx) : undefined,
      lrv: figure(facts.lrv),
      roughness: figure(facts.meanRoughness) ?? row.constants?.specularRoughness,
      sunElevationDeg: figure(facts.sunElevationDeg),
      colorTemperatureK: figure(facts.colorTemperatureK) ?? figure(facts.lampCctK),
      fluxLm: figure(facts.luminousFluxLm),
      beamDeg: figure(facts.beamAngleDeg),
      addedDay: row.addedS / DAY_S,
      changedDay: row.changedS / DAY_S,
    },
    palette,
    look: lookOf(row.kind, facts, palette),
    places: labels.flatMap((_, depth) => titles.get(labels.slice(0, depth + 1).join('.')) ?? []),
    otherWords: [
      ...[facts.commonName, facts.series, facts.number, facts.sheen, facts.deliveredAs].flatMap(listed),
      ...foldersOf(String(facts.sourcePath ?? '')),
      ...nameColors(palette),
    ],
  }
}

/** What somebody said of a plant, else what its proportions say. */
function growthIn(category: string, facts: Facts): string[] {
  if (!category.startsWith('vegetation')) return []
  const [widthM, depthM] = [figure(facts.widthM) ?? 0, figure(facts.depthM) ?? 0]
  return listed(facts.growth ?? growthOf(Math.max(widthM, depthM), figure(facts.heightM)) ?? undefined)
}

function lookOf(kind: string, facts: Facts, palette: readonly SeenColor[]): Look | null {
  const figures = facts as Partial<Record<string, number>>
  switch (kind) {
    case 'material':
      return lookOfMaterial(palette, readAppearance(String(facts.appearance ?? '')), figure(facts.widthMm))
    case 'model':
      return lookOfModel(figures)
    case 'environment':
      return lookOfSky(figures)
    case 'light':
      return lookOfLuminaire(figures)
    case 'map':
      return lookOfMap(palette, readAppearance(String(facts.appearance ?? '')), figure(facts.widthMm), figures)
    default:
      return null
  }
}
