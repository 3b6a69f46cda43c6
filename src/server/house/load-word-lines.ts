import { asc } from 'drizzle-orm'
import { type OwnLine, resolveWordLines, type WordLine } from '#core/standard/word-lines'
import type { Connection } from '../platform/database'
import { wordLines } from '../tables/standard.table'

/** The vocabulary in force. */
export async function loadWordLines(db: Connection): Promise<WordLine[]> {
  const own: OwnLine[] = await db.select().from(wordLines).orderBy(asc(wordLines.id))
  return resolveWordLines(own)
}
