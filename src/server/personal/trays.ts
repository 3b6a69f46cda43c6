import { and, asc, eq, sql } from 'drizzle-orm'
import type { TraySummary } from '#shared/contracts/personal.contract'
import { getChips } from '../library/chips'
import { type Actor, listVisibleLibraryIds } from '../platform/access'
import type { Context } from '../platform/context'
import { type Connection, isOneOf } from '../platform/database'
import { notFound } from '../platform/problem'
import { items } from '../tables/library.table'
import { people } from '../tables/people.table'
import { trays } from '../tables/personal.table'

const FIRST_TITLE = 'Tray'

export async function listTrays(db: Connection, actor: Actor): Promise<TraySummary[]> {
  const rows = await db
    .select({ tray: trays, from: people.name })
    .from(trays)
    .leftJoin(people, eq(people.id, trays.fromId))
    .where(eq(trays.personId, actor.id))
    .orderBy(asc(trays.id))
  return rows.map(({ tray, from }) => ({
    id: tray.id,
    title: tray.title,
    count: tray.itemIds.length,
    from: from ?? '',
    note: tray.note,
  }))
}

/** What is in it and is still the asker's to see. */
export async function getTray({ db, pool }: Pick<Context, 'db' | 'pool'>, actor: Actor, id: number) {
  const tray = await getRow(db, actor, id)
  return { id, title: tray.title, chips: await getChips(pool, actor, tray.itemIds) }
}

export async function addTray(
  db: Connection,
  actor: Actor,
  { title = FIRST_TITLE, itemIds = [] }: { title?: string; itemIds?: number[] },
): Promise<number> {
  const [made] = await db.insert(trays).values({ personId: actor.id, title, itemIds }).returning({ id: trays.id })
  return made.id
}

export async function saveTray(
  db: Connection,
  actor: Actor,
  id: number,
  change: { title?: string; itemIds?: number[] },
): Promise<void> {
  const changed = await db
    .update(trays)
    .set({ ...change, updatedAt: new Date() })
    .where(and(eq(trays.id, id), eq(trays.personId, actor.id)))
    .returning({ id: trays.id })
  if (changed.length === 0) throw notFound('This tray')
}

export async function removeTray(db: Connection, actor: Actor, id: number): Promise<void> {
  await getRow(db, actor, id)
  await db.delete(trays).where(eq(trays.id, id))
}

/** Gives each a copy of their own, with those of the items that they may see. */
export async function sendTray(
  { db }: Pick<Context, 'db'>,
  actor: Actor,
  id: number,
  { personIds, note }: { personIds: readonly number[]; note: string },
): Promise<{ name: string; leftOut: number }[]> {
  const tray = await getRow(db, actor, id)
  const receivers = (await listColleagues(db, actor)).filter(c => personIds.includes(c.id))
  if (receivers.length === 0) throw notFound('Whom it is for')
  return db.transaction(async tx => {
    const known = await tx.select({ id: items.id, libraryId: items.libraryId }).from(items).where(isOneOf(items.id, tray.itemIds))
    const libraryOf = new Map(known.map(k => [k.id, k.libraryId]))
    const sent: { name: string; leftOut: number }[] = []
    for (const receiver of receivers) {
      const visible = await listVisibleLibraryIds(tx, receiver)
      const itemIds = tray.itemIds.filter(itemId => visible.has(libraryOf.get(itemId) ?? 0))
      await tx.insert(trays).values({ personId: receiver.id, title: tray.title, itemIds, fromId: actor.id, note })
      sent.push({ name: receiver.name, leftOut: tray.itemIds.length - itemIds.length })
    }
    return sent
  })
}

/** Everybody else who works here. */
export const listColleagues = (db: Connection, actor: Actor) =>
  db
    .select({ id: people.id, name: people.name, role: people.role })
    .from(people)
    .where(sql`${people.id} <> ${actor.id} and ${people.role} <> 'guest' and ${people.deactivatedAt} is null`)
    .orderBy(asc(people.name))

async function getRow(db: Connection, actor: Actor, id: number): Promise<typeof trays.$inferSelect> {
  const [tray] = await db
    .select()
    .from(trays)
    .where(and(eq(trays.id, id), eq(trays.personId, actor.id)))
  if (!tray) throw notFound('This tray')
  return tray
}
