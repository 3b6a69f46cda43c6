import { asc } from 'drizzle-orm'
import { TagWords } from '#core/find/tags/tag-words'
import { type OwnLine, resolveWordLines, type WordLine } from '#core/standard/word-lines'
import type { Connection } from '../platform/database'
import { wordLines } from '../tables/standard.table'

/** The vocabulary in force. */
export async function loadWordLines(db: Connection): Promise<WordLine[]> {
  const own: OwnLine[] = await db.select().from(wordLines).orderBy(asc(wordLines.id))
  return resolveWordLines(own)
}

/** The same as words for things. */
export const loadTagWords = async (db: Connection): Promise<TagWords> => new TagWords(await loadWordLines(db))
