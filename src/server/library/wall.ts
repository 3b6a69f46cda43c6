import { asc, isNull, sql } from 'drizzle-orm'
import { type Category, type WallQuery, type WallView, wallQuerySchema } from '#shared/contracts/items.contract'
import { followRetired, loadRetired } from '../house/categories'
import { loadRigBook, RIGS_IN_FORCE, type RigBookRow, toRigBook } from '../house/rig-book'
import { toPrefixQuery } from '../items/search-words'
import type { Actor } from '../platform/access'
import type { Context } from '../platform/context'
import type { Connection } from '../platform/database'
import { runPrepared } from '../platform/statement'
import { categories } from '../tables/library.table'
import { type ChipRow, getChips, selectChips, toChips } from './chips'
import { type CountedCell, countCells, pageWithoutWords, searchItemIds, selectCells } from './search-items'

/** Whether a category is another or lies below it. */
export const isWithin = (category: string, ancestor: string): boolean =>
  ancestor === '' || category === ancestor || category.startsWith(`${ancestor}.`)

/** A row of a chip, and with the first of them what there is once; no chip where the page is empty. */
type WallRow = Omit<ChipRow, 'id'> & { id: number | null; cells: CountedCell[] } & RigBookRow

/** One prepared statement for a page of chips with all counts and the rigs in force; before it, of a search, which items it finds. */
export async function getWall({ db, pool }: Pick<Context, 'db' | 'pool'>, actor: Actor, given: WallQuery): Promise<WallView> {
  const query = given.category ? { ...given, category: followRetired(given.category, await loadRetired(db)) } : given
  if (toPrefixQuery(query.words) !== null) {
    const [ids, cells] = await Promise.all([searchItemIds(db, actor, query), countCells(db, actor, query)])
    return { ...summarize(cells, query), chips: await getChips(pool, actor, ids) }
  }
  const rows = await runPrepared<WallRow>(
    pool,
    sql`
      select c.*, once.* from (select row_number() over () as at, c.* from (${selectChips(actor, pageWithoutWords(actor, query))}) c) c
      full join (
        select 1 as at, (select coalesce(jsonb_agg(n), '[]') from (${selectCells(actor, query)}) n) as cells, ${sql.raw(RIGS_IN_FORCE)}) once
      on once.at = c.at
      order by c.at`,
  )
  const once = rows.find(row => row.cells !== null)!
  const chips = rows.filter((row): row is WallRow & ChipRow => row.id !== null)
  return { ...summarize(once.cells, query), chips: toChips(chips, toRigBook(once)) }
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
