import { and, desc, eq, sql } from 'drizzle-orm'
import type { Personal, ReportDesk, ReportedDesk } from '#shared/contracts/personal.contract'
import { type Actor, isGuest, mayRead } from '../platform/access'
import { type Connection, type Database, isOneOf } from '../platform/database'
import { publish } from '../platform/notify'
import { notAllowed, notFound } from '../platform/problem'
import { items } from '../tables/library.table'
import { deskItems, desks } from '../tables/personal.table'

/**
 * Keeps what of the library lies on a machine of the asker's. Of a report of everything, what it does not name lies there no more; of one
 * of a part, the rest stays as it was.
 */
export async function reportDesk(db: Database, actor: Actor, { name, isAll, items: told }: ReportDesk): Promise<ReportedDesk> {
  if (isGuest(actor)) throw notAllowed('Telling what lies on a desk')
  return db.transaction(async tx => {
    const [desk] = await tx
      .insert(desks)
      .values({ personId: actor.id, name })
      .onConflictDoUpdate({ target: [desks.personId, desks.name], set: { reportedAt: new Date() } })
      .returning({ id: desks.id })
    const codes = told.map(t => t.code)
    const rows = await tx
      .select({ id: items.id, code: items.code })
      .from(items)
      .where(and(isOneOf(items.code, codes), mayRead(actor, items.libraryId)))
    const idOf = new Map(rows.map(r => [r.code, r.id]))
    if (isAll) await tx.delete(deskItems).where(eq(deskItems.deskId, desk.id))
    // Two hand-overs may have the same item: what is whole there, in its newest version, is what lies on the desk.
    const worstFirst = [...told].sort((a, b) => Number(a.isWhole) - Number(b.isWhole) || a.version - b.version)
    const best = new Map(
      worstFirst.flatMap(({ code, version, isWhole }) => {
        const id = idOf.get(code)
        return id === undefined ? [] : [[id, { id, version, isWhole }]]
      }),
    )
    const given = JSON.stringify([...best.values()])
    await tx.execute(sql`
      insert into desk_items (desk_id, item_id, version, is_whole)
      select ${desk.id}, r.id, r.version, r."isWhole" from jsonb_to_recordset(${given}::jsonb) as r(id int, version int, "isWhole" boolean)
      on conflict (desk_id, item_id) do update set version = excluded.version, is_whole = excluded.is_whole`)
    await publish(tx, { topic: 'desk', personId: actor.id })
    return { known: best.size, unknown: [...new Set(codes.filter(code => !idOf.has(code)))] }
  })
}

export async function listDesks(db: Connection, actor: Actor): Promise<Personal['desks']> {
  const rows = await db
    .select({
      id: desks.id,
      name: desks.name,
      reportedAt: desks.reportedAt,
      items: sql<number>`(select count(*)::int from desk_items d join items i on i.id = d.item_id
        where d.desk_id = desks.id and ${mayRead(actor, sql`i.library_id`)})`,
    })
    .from(desks)
    .where(eq(desks.personId, actor.id))
    .orderBy(desc(desks.reportedAt))
  return rows.map(row => ({ ...row, reportedAt: row.reportedAt.toISOString() }))
}

export async function forgetDesk(db: Connection, actor: Actor, id: number): Promise<void> {
  const gone = await db
    .delete(desks)
    .where(and(eq(desks.id, id), eq(desks.personId, actor.id)))
    .returning({ id: desks.id })
  if (gone.length === 0) throw notFound('This desk')
}
