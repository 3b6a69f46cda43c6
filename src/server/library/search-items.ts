import { type SQL, sql } from 'drizzle-orm'
import type { WallQuery } from '#shared/contracts/items.contract'
import { toPrefixQuery, toTerms } from '../items/search-words'
import { type Actor, visibleLibraries } from '../platform/access'
import type { Connection } from '../platform/database'
import { PREFIX_LENGTH } from '../tables/library.table'

const inView = (actor: Actor, query: WallQuery): SQL => {
  const library = query.library ? sql`and l.key = ${query.library}` : sql``
  return sql`i.library_id in (select l.id from libraries l where l.id in ${visibleLibraries(actor)} ${library})`
}

/** Withdrawn items stay out of sight unless somebody asks for them. */
const stateFilter = (query: WallQuery): SQL => (query.state ? sql`and i.state = ${query.state}` : sql`and i.state <> 'withdrawn'`)

/** Conditions on an item i that leave its words out. */
const inFilters = (actor: Actor, query: WallQuery): SQL =>
  sql`${inView(actor, query)} ${stateFilter(query)} ${placeFilter(query)}`

/** A page of a view without words, by code, as a part of a statement: id, null, place in the order. */
export const pageWithoutWords = (actor: Actor, query: WallQuery): SQL => sql`
  select p.id, null::int, row_number() over (order by p.code) from (
    select i.id, i.code from items i where ${inFilters(actor, query)} order by i.code limit ${query.limit} offset ${query.offset}) p`

/**
 * One page of ids of a view with words: those whose name matches first, then other matches, each by code. Asked in two steps, because
 * one sort by both has to look at every match, and for a common word that is half the library (98 ms over 50,000 rows against 3).
 */
export async function searchItemIds(db: Connection, actor: Actor, query: WallQuery): Promise<number[]> {
  const words = toPrefixQuery(query.words)
  const select = async (condition: SQL, limit: number, offset: number): Promise<number[]> => {
    const { rows } = await db.execute<{ id: number }>(sql`
      select i.id from items i where ${inFilters(actor, query)} ${condition} order by i.code limit ${limit} offset ${offset}`)
    return rows.map(r => r.id)
  }
  if (!words) return select(sql``, query.limit, query.offset)
  const inName = sql`i.document @@ to_tsquery('simple', ${words.replaceAll(':*', ':*A')})`
  const named = await select(sql`and ${inName}`, query.limit, query.offset)
  if (named.length === query.limit) return named
  const { rows } = await db.execute<{ count: number }>(sql`
    select count(*)::int as count from items i where ${inFilters(actor, query)} and ${inName}`)
  const others = sql`and i.document @@ to_tsquery('simple', ${words}) and not ${inName}`
  return [...named, ...(await select(others, query.limit - named.length, Math.max(0, query.offset - rows[0].count)))]
}

const findingFilter = ({ finding }: WallQuery): SQL =>
  finding ? sql`and exists (select from findings f where f.version_id = i.current_version_id and f.code = ${finding})` : sql``

const placeFilter = (query: WallQuery): SQL => sql`
  ${findingFilter(query)}
  ${query.category ? sql`and i.category <@ ${query.category}::ltree` : sql``}
  ${query.kind ? sql`and i.kind = ${query.kind}` : sql``}`

export interface CountedCell extends Record<string, unknown> {
  category: string
  kind: string
  state: string
  count: number
}

/**
 * Items that match words and library, counted by category, kind and state; every facet is a sum over these few cells. Several
 * words together, and findings, are counted there and then: without words and for one word the trigger-kept tables have the figures.
 */
export function selectCells(actor: Actor, query: WallQuery): SQL {
  const terms = toTerms(query.words)
  const kept = (table: SQL): SQL => sql`
    select i.category::text as category, i.kind, i.state, sum(i.count)::int as count from ${table}
    where ${inView(actor, query)} and i.count > 0
    group by i.category, i.kind, i.state`
  if (!query.finding && terms.length === 0) return kept(sql`item_counts i`)
  if (!query.finding && terms.length === 1 && terms[0].length <= PREFIX_LENGTH)
    return kept(sql`(select * from prefix_counts where prefix = ${terms[0]}) i`)
  return sql`
    select i.category::text as category, i.kind, i.state, count(*)::int as count from items i
    where ${inView(actor, query)} ${findingFilter(query)}
      ${terms.length > 0 ? sql`and i.document @@ to_tsquery('simple', ${toPrefixQuery(query.words)})` : sql``}
    group by i.category, i.kind, i.state`
}

export const countCells = async (db: Connection, actor: Actor, query: WallQuery): Promise<CountedCell[]> =>
  (await db.execute<CountedCell>(selectCells(actor, query))).rows
