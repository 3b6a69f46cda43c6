import { and, eq, sql } from 'drizzle-orm'
import { DOT_COLORS } from '#shared/contracts/personal.contract'
import { type Actor, mayRead } from '../platform/access'
import { type Connection, isOneOf } from '../platform/database'
import { items } from '../tables/library.table'
import { dotMeanings, dots } from '../tables/personal.table'

/** Puts a dot of a colour on items that the asker may see, or takes it off. Returns those that were otherwise before. */
export async function setDots(
  db: Connection,
  actor: Actor,
  { ids, color, on }: { ids: readonly number[]; color: number; on: boolean },
): Promise<number[]> {
  if (!on) {
    const gone = await db
      .delete(dots)
      .where(and(eq(dots.personId, actor.id), eq(dots.color, color), isOneOf(dots.itemId, ids)))
      .returning({ id: dots.itemId })
    return gone.map(g => g.id)
  }
  const { rows } = await db.execute<{ id: number }>(sql`
    insert into ${dots} (person_id, item_id, color)
    select ${actor.id}, ${items.id}, ${color} from ${items} where ${isOneOf(items.id, ids)} and ${mayRead(actor, items.libraryId)}
    on conflict do nothing returning item_id as id`)
  return rows.map(r => r.id)
}

export async function setDotMeaning(db: Connection, actor: Actor, color: number, meaning: string): Promise<void> {
  await db
    .insert(dotMeanings)
    .values({ personId: actor.id, color, meaning })
    .onConflictDoUpdate({ target: [dotMeanings.personId, dotMeanings.color], set: { meaning } })
}

/** In the order of the colours. */
export async function listDotMeanings(db: Connection, actor: Actor): Promise<string[]> {
  const rows = await db.select().from(dotMeanings).where(eq(dotMeanings.personId, actor.id))
  return DOT_COLORS.map(color => rows.find(r => r.color === color)?.meaning ?? '')
}
