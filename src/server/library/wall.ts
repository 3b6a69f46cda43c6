import { and, asc, eq, inArray, isNull } from 'drizzle-orm'
import type { Facts } from '#files/items/inspect-item'
import { type Category, type Chip, type WallQuery, type WallView, wallQuerySchema } from '#shared/contracts/items.contract'
import { KEY_FACTS, keyFigure } from '#shared/key-figure'
import { loadRigBook } from '../house/rig-book'
import { type CountedCell, countCells, searchItemIds } from '../items/search'
import { type Actor, mayRead } from '../platform/access'
import type { Connection } from '../platform/database'
import { findPreviews, previewOf } from '../previews/previews'
import { followRetired, loadRetired } from '../standard/tree/category-tree'
import { categories, facts, items, versions } from '../tables/library.table'
import { libraries } from '../tables/people.table'
import { findOwnPictures } from './own-pictures'

/** Whether a category is another or lies below it. */
export const isWithin = (category: string, ancestor: string): boolean =>
  ancestor === '' || category === ancestor || category.startsWith(`${ancestor}.`)

export async function getWall(db: Connection, actor: Actor, given: WallQuery): Promise<WallView> {
  const query = { ...given, category: given.category ? followRetired(given.category, await loadRetired(db)) : '' }
  const [ids, cells] = await Promise.all([searchItemIds(db, actor, query), countCells(db, actor, query)])
  return { ...summarize(cells, query), chips: await getChips(db, actor, ids) }
}

/** Each facet leaves its own filter out, so that it says what another choice would give. */
function summarize(cells: readonly CountedCell[], query: WallQuery): Pick<WallView, 'total' | 'facets'> {
  const inCategory = (c: CountedCell) => isWithin(c.category, query.category)
  const inKind = (c: CountedCell) => query.kind === '' || c.kind === query.kind
  const inState = (c: CountedCell) => (query.state === '' ? c.state !== 'withdrawn' : c.state === query.state)
  const facets: WallView['facets'] = { categories: {}, kinds: {}, states: {} }
  const add = (group: Record<string, number>, key: string, count: number) => {
    group[key] = (group[key] ?? 0) + count
  }
  let total = 0
  for (const cell of cells) {
    if (inCategory(cell) && inKind(cell) && inState(cell)) total += cell.count
    if (inCategory(cell) && inState(cell)) add(facets.kinds, cell.kind, cell.count)
    if (inCategory(cell) && inKind(cell)) add(facets.states, cell.state, cell.count)
    if (inKind(cell) && inState(cell)) {
      const labels = cell.category.split('.')
      for (let depth = 1; depth <= labels.length; depth++) add(facets.categories, labels.slice(0, depth).join('.'), cell.count)
    }
  }
  return { total, facets }
}

/** Chips of items in the order of the ids; those the asker may not see are left out. */
export async function getChips(
  db: Connection,
  actor: Actor,
  ids: readonly number[],
  versionIds?: ReadonlyMap<number, number>,
): Promise<Chip[]> {
  if (ids.length === 0) return []
  const rows = await db
    .select({
      id: items.id,
      code: items.code,
      name: items.name,
      kind: items.kind,
      category: items.category,
      state: items.state,
      library: libraries.title,
      currentVersionId: items.currentVersionId,
    })
    .from(items)
    .innerJoin(libraries, eq(libraries.id, items.libraryId))
    .where(and(inArray(items.id, [...ids]), mayRead(actor, items.libraryId)))
  const versionOf = (row: (typeof rows)[number]) => versionIds?.get(row.id) ?? row.currentVersionId ?? 0
  const shown = rows.map(versionOf)
  const [known, inputs] = await Promise.all([
    db
      .select()
      .from(facts)
      .where(and(inArray(facts.versionId, shown), inArray(facts.name, KEY_FACTS))),
    db.select({ id: versions.id, inputKey: versions.inputKey }).from(versions).where(inArray(versions.id, shown)),
  ])
  const inputOf = new Map(inputs.map(v => [v.id, v.inputKey]))
  const [found, own] = await Promise.all([
    findPreviews(
      db,
      rows.map(r => ({ inputKey: inputOf.get(versionOf(r)) ?? '', category: r.category })),
    ),
    findOwnPictures(db, shown),
  ])
  const factsOf = new Map<number, Facts>()
  for (const { versionId, name, number, text, truth } of known)
    factsOf.set(versionId, { ...factsOf.get(versionId), [name]: number ?? text ?? truth ?? '' })
  const byId = new Map(
    rows.map(row => {
      const { currentVersionId: _, ...chip } = row
      const version = versionOf(row)
      const picture = previewOf(found, inputOf.get(version) ?? '', row.category)
      const figure = keyFigure(row.kind, factsOf.get(version) ?? {})
      const ownUrl = own.get(version)?.url ?? null
      return [
        row.id,
        {
          ...chip,
          figure,
          preview: ownUrl ?? picture?.url ?? null,
          isOlderPreview: ownUrl === null && (picture?.isOlder ?? false),
          isOwnPicture: ownUrl !== null,
        },
      ]
    }),
  )
  return ids.flatMap(id => byId.get(id) ?? [])
}

/** The house tree with what the asker may see in each place. */
export async function listCategories(db: Connection, actor: Actor): Promise<Category[]> {
  const cells = await countCells(db, actor, wallQuerySchema.parse({}))
  const [rows, book] = await Promise.all([
    db.select().from(categories).where(isNull(categories.retiredInto)).orderBy(asc(categories.position)),
    loadRigBook(db),
  ])
  return rows.map(({ path, title, kind, prefix }) => ({
    path,
    title,
    kind,
    prefix,
    rig: book.rigFor(path).name,
    count: cells.filter(c => isWithin(c.category, path) && c.state !== 'withdrawn').reduce((sum, c) => sum + c.count, 0),
  }))
}
