import { and, eq, sql } from 'drizzle-orm'
import { tokenizeName } from '#core/file-names'
import { MAP_ROLES, type MapRole } from '#core/material/texture-set'
import type { Actor } from '../../platform/access'
import type { Connection } from '../../platform/database'
import { roleWords } from '../../tables/intake.table'
import type { BatchRow } from '../batches'
import type { BatchItemRow } from '../rows'
import { deliveredFiles } from '../rows'

/** What a supplier calls their maps, by the words in their names, as somebody corrected it. */
export async function loadRoleWords(
  db: Connection,
  { libraryId, maker }: Pick<BatchRow, 'libraryId' | 'maker'>,
): Promise<Record<string, MapRole>> {
  if (maker === '') return {}
  const rows = await db
    .select()
    .from(roleWords)
    .where(and(eq(roleWords.libraryId, libraryId), eq(roleWords.maker, maker.toLowerCase())))
  return Object.fromEntries(rows.map(r => [r.word, r.role]))
}

export interface LearnedWord {
  word: string
  /** What it meant until then. */
  before: MapRole | null
}

/**
 * Remembers for a supplier what a file's own word means, when somebody says which map it is: `Oak_r7.png` beside `Oak_basecolor.png` has
 * the word "r7". Only where there is a supplier, a map, and one such word.
 * @returns by what it is unlearned
 */
export async function learnRoleWord(
  tx: Connection,
  actor: Actor,
  { libraryId, maker }: BatchRow,
  row: BatchItemRow,
  { path, role }: { path: string; role: string },
): Promise<LearnedWord | null> {
  if (maker === '' || row.kind !== 'material' || !isMap(role)) return null
  const word = ownWord(
    path,
    deliveredFiles(row).map(f => f.path),
  )
  if (word === null) return null
  const before = (await loadRoleWords(tx, { libraryId, maker }))[word] ?? null
  await tx
    .insert(roleWords)
    .values({ libraryId, maker: maker.toLowerCase(), word, role, personId: actor.id })
    .onConflictDoUpdate({
      target: [roleWords.libraryId, roleWords.maker, roleWords.word],
      set: { role, personId: actor.id, at: sql`now()` },
    })
  return { word, before }
}

/** The word means again what it did before; nothing where it was new. */
export async function unlearnRoleWord(tx: Connection, { libraryId, maker }: BatchRow, { word, before }: LearnedWord) {
  const held = and(eq(roleWords.libraryId, libraryId), eq(roleWords.maker, maker.toLowerCase()), eq(roleWords.word, word))
  if (before) await tx.update(roleWords).set({ role: before }).where(held)
  else await tx.delete(roleWords).where(held)
}

const isMap = (role: string): role is MapRole => (MAP_ROLES as readonly string[]).includes(role)

/** The one word of a name that no other file of the row has; null where there is none, or more than one. */
function ownWord(path: string, all: readonly string[]): string | null {
  const others = new Set(all.filter(p => p !== path).flatMap(tokenizeName))
  const own = tokenizeName(path).filter(token => !others.has(token) && !/^\d/.test(token))
  return own.length === 1 && others.size > 0 ? own[0] : null
}
