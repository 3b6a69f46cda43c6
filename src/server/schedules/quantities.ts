import { and, eq, sql } from 'drizzle-orm'
import type { ItemKind } from '#core/standard/categories'
import type { PinQuantity } from '#shared/contracts/schedules.contract'
import type { Actor } from '../platform/access'
import type { Context } from '../platform/context'
import { isOneOf } from '../platform/database'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import { ProblemError } from '../platform/problem'
import { getProjectRow } from '../projects/projects'
import { items } from '../tables/library.table'
import { pinQuantities, pins } from '../tables/project.table'

/**
 * Says how much of what a project pins it needs: square metres of a material, pieces of anything else.
 * @returns what was said before of the same ones, which takes it back
 * @throws ProblemError where the project does not pin one of them, or of pieces a part was asked for
 */
export async function setQuantities(
  { db }: Context,
  actor: Actor,
  projectId: number,
  quantities: readonly PinQuantity[],
): Promise<PinQuantity[]> {
  // Of one that is named twice, what was said last.
  const wanted = new Map(quantities.map(q => [q.itemId, q.amount]))
  return db.transaction(async tx => {
    const { libraryId } = await getProjectRow(tx, actor, projectId)
    const ids = [...wanted.keys()].sort((a, b) => a - b)
    const pinned = await tx
      .select({ itemId: pins.itemId, code: items.code, kind: items.kind })
      .from(pins)
      .innerJoin(items, eq(items.id, pins.itemId))
      .where(and(eq(pins.projectId, projectId), isOneOf(pins.itemId, ids)))
      .for('update', { of: pins })
    if (pinned.length < ids.length) throw new ProblemError('badRequest', 'The project does not pin one of them any more.')
    for (const { itemId, code, kind } of pinned)
      if (kind !== 'material' && !Number.isInteger(wanted.get(itemId) ?? 0))
        throw new ProblemError('badRequest', `${code} is counted in whole pieces.`)
    const ofThese = and(eq(pinQuantities.projectId, projectId), isOneOf(pinQuantities.itemId, ids))
    const before = await tx.select().from(pinQuantities).where(ofThese)
    await tx.delete(pinQuantities).where(ofThese)
    const given = [...wanted].flatMap(([itemId, amount]) =>
      amount === null ? [] : [{ projectId, itemId, amount, personId: actor.id }],
    )
    if (given.length > 0) await tx.insert(pinQuantities).values(given)
    await recordEvents(tx, [
      {
        personId: actor.id,
        subject: 'project',
        subjectId: projectId,
        verb: 'quantified',
        before: { quantities: before.map(({ itemId, amount }) => ({ itemId, amount })) },
        after: { quantities: [...wanted].map(([itemId, amount]) => ({ itemId, amount })) },
      },
    ])
    await publish(tx, { topic: 'project', libraryId, projectId })
    return ids.map(itemId => ({ itemId, amount: before.find(b => b.itemId === itemId)?.amount ?? null }))
  })
}

/** What was typed for what a project pins, with what it pins. */
export const listPinnedAmounts = ({ db }: Pick<Context, 'db'>, projectId: number) =>
  db.execute<{ item_id: number; code: string; kind: ItemKind; number: number; input_key: string; amount: number | null }>(sql`
    select i.id as item_id, i.code, i.kind, v.number, v.input_key, q.amount
    from pins p join items i on i.id = p.item_id join versions v on v.id = p.version_id
    left join pin_quantities q on q.project_id = p.project_id and q.item_id = p.item_id
    where p.project_id = ${projectId}
    order by i.code`)
