import { and, eq } from 'drizzle-orm'
import type { Standing } from '#shared/contracts/hand-over.contract'
import { type Actor, mayRead } from '../../platform/access'
import { type Connection, isOneOf } from '../../platform/database'
import { items, versions } from '../../tables/library.table'

/** How items stand that were handed over once: which version of them is approved now, and what was withdrawn. */
export async function listStanding(
  db: Connection,
  actor: Actor,
  handedOver: readonly { code: string; version: number }[],
): Promise<Standing[]> {
  const rows = await db
    .select({ code: items.code, name: items.name, state: items.state, approved: versions.number })
    .from(items)
    .leftJoin(versions, eq(versions.id, items.approvedVersionId))
    .where(
      and(
        isOneOf(
          items.code,
          handedOver.map(h => h.code),
        ),
        mayRead(actor, items.libraryId),
      ),
    )
  const found = new Map(rows.map(row => [row.code, row]))
  return handedOver.flatMap(({ code, version }) => {
    const row = found.get(code)
    return row ? [{ code, name: row.name, version, approved: row.approved, isWithdrawn: row.state === 'withdrawn' }] : []
  })
}
