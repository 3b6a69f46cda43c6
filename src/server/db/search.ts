import { type SQL, sql } from 'drizzle-orm'
import type { WallQuery } from '#shared/contracts/items.contract'
import { type Actor, visibleLibraries } from './access'
import type { Connection } from './database'

/**
 * Typed words as a text search: each word a prefix, all of them wanted. Null when nothing is left to search for.
 * Characters with a meaning in the query language become spaces.
 */
export function toPrefixQuery(words: string): string | null {
  const terms = words
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)
    .slice(0, 12)
  return terms.length > 0 ? terms.map(t => `${t}:*`).join(' & ') : null
}

const inView = (actor: Actor, query: WallQuery): SQL => {
  const library = query.library ? sql`and l.key = ${query.library}` : sql``
  return sql`i.library_id in (select l.id from libraries l where l.id in ${visibleLibraries(actor)} ${library})`
}

/** Withdrawn items stay out of sight unless somebody asks for them. */
const stateFilter = (query: WallQuery): SQL => (query.state ? sql`and i.state = ${query.state}` : sql`and i.state <> 'withdrawn'`)

/** One page of ids, in order: names that match before other matches, then by code. */
export async function searchItemIds(db: Connection, actor: Actor, query: WallQuery): Promise<number[]> {
  const words = toPrefixQuery(query.words)
  const inName = words?.replaceAll(':*', ':*A')
  const { rows } = await db.execute<{ id: number }>(sql`
    select i.id from items i
    where ${inView(actor, query)} ${stateFilter(query)}
      ${words ? sql`and i.document @@ to_tsquery('simple', ${words})` : sql``}
      ${query.category ? sql`and i.category <@ ${query.category}::ltree` : sql``}
      ${query.kind ? sql`and i.kind = ${query.kind}` : sql``}
    order by ${inName ? sql`(i.document @@ to_tsquery('simple', ${inName})) desc,` : sql``} i.code
    limit ${query.limit} offset ${query.offset}`)
  return rows.map(r => r.id)
}

export interface CountedCell extends Record<string, unknown> {
  category: string
  kind: string
  state: string
  count: number
}

/**
 * Items that match words and library, counted by category, kind and state; every facet is a sum over these few cells.
 * Without words nothing is counted: the trigger-kept `item_counts` has the figures.
 */
export async function countCells(db: Connection, actor: Actor, query: WallQuery): Promise<CountedCell[]> {
  const words = toPrefixQuery(query.words)
  const { rows } = words
    ? await db.execute<CountedCell>(sql`
        select i.category::text as category, i.kind, i.state, count(*)::int as count from items i
        where ${inView(actor, query)} and i.document @@ to_tsquery('simple', ${words})
        group by i.category, i.kind, i.state`)
    : await db.execute<CountedCell>(sql`
        select i.category::text as category, i.kind, i.state, sum(i.count)::int as count from item_counts i
        where ${inView(actor, query)} and i.count > 0
        group by i.category, i.kind, i.state`)
  return rows
}

/** Rewrites the search words of items: code and name weigh most, then category, then what the version knows of itself. */
export const refreshDocuments = (db: Connection, itemIds: readonly number[]) =>
  db.execute(sql`
    update items i set document =
      setweight(to_tsvector('simple', i.code || ' ' || replace(i.code, '-', ' ') || ' ' || i.name), 'A') ||
      setweight(to_tsvector('simple', (select coalesce(string_agg(c.title, ' '), '') from categories c where c.path @> i.category)), 'B') ||
      setweight(to_tsvector('simple', coalesce((
        select string_agg(f.text, ' ') from facts f
        where f.version_id = i.current_version_id
          and f.name in ('maker', 'licence', 'botanicalName', 'setting', 'sky', 'sourcePath')), '')), 'C')
    where i.id in (${sql.join(
      itemIds.map(id => sql`${id}`),
      sql`, `,
    )})`)
