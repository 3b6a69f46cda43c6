import { type SQL, sql } from 'drizzle-orm'
import { items } from '../tables/library.table'

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

/** Condition on an item: it holds every one of these words or beginnings, in its code, its name or what its version says of itself. */
export const holdsWords = (query: string): SQL => sql`
  to_tsvector('simple', ${items.code} || ' ' || replace(${items.code}, '-', ' ') || ' ' || ${items.name} || ' ' || coalesce((
    select string_agg(f.text, ' ') from told_facts f
    where f.version_id = ${items.currentVersionId}
      and f.name in ('maker', 'licence', 'botanicalName', 'setting', 'sky', 'sourcePath', 'deliveredAs', 'tags')), ''))
  @@ to_tsquery('simple', ${query})`
