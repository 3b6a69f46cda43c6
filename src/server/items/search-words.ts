import { sql } from 'drizzle-orm'
import type { Connection } from '../platform/database'

/** Words as they are typed, lower case; characters with a meaning in the query language separate them. */
export const toTerms = (words: string): string[] =>
  words
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)
    .slice(0, 12)

/** Typed words as a text search: each word a prefix, all of them wanted. Null when nothing is left to search for. */
export function toPrefixQuery(words: string): string | null {
  const terms = toTerms(words)
  return terms.length > 0 ? terms.map(t => `${t}:*`).join(' & ') : null
}

/** The house's other words for the tags of an item i, from the rules of its category and those above. */
const synonymsOfTags = sql`(
  select string_agg((tag ->> 'word') || ' ' || array_to_string(array(select jsonb_array_elements_text(tag -> 'synonyms')), ' '), ' ')
  from category_rules r
  cross join lateral jsonb_array_elements(case jsonb_typeof(r.rules -> 'tags') when 'array' then r.rules -> 'tags' else '[]' end) tag
  join facts f on f.version_id = i.current_version_id and f.name = 'tags'
  where r.category @> i.category
    and regexp_split_to_array(lower(f.text), '\\s*,\\s*')
      && array(select lower(w) from jsonb_array_elements_text((tag -> 'synonyms') || jsonb_build_array(tag -> 'word')) w))`

/** Rewrites the search words of items: code and name weigh most, then category, then what the version knows of itself. */
export const refreshDocuments = (db: Connection, itemIds: readonly number[]) =>
  db.execute(sql`
    update items i set document =
      setweight(to_tsvector('simple', i.code || ' ' || replace(i.code, '-', ' ') || ' ' || i.name), 'A') ||
      setweight(to_tsvector('simple', (select coalesce(string_agg(c.title, ' '), '') from categories c where c.path @> i.category)), 'B') ||
      setweight(to_tsvector('simple', coalesce((
        select string_agg(f.text, ' ') from facts f
        where f.version_id = i.current_version_id
          and f.name in ('maker', 'licence', 'botanicalName', 'setting', 'sky', 'sourcePath', 'deliveredAs', 'tags')), '')), 'C') ||
      setweight(to_tsvector('simple', coalesce(${synonymsOfTags}, '')), 'C')
    where i.id in (${sql.join(
      itemIds.map(id => sql`${id}`),
      sql`, `,
    )})`)

/** Titles and tags of a category are among the words by which everything in and below it is found. */
export async function refreshWithin(db: Connection, path: string): Promise<void> {
  const { rows } = await db.execute<{ id: number }>(sql`select id from items where category <@ ${path}::ltree`)
  if (rows.length > 0)
    await refreshDocuments(
      db,
      rows.map(r => r.id),
    )
}
