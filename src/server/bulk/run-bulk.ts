import { and, asc, eq, isNull, sql } from 'drizzle-orm'
import type { BulkAction } from '#shared/contracts/bulk.contract'
import { getPerson } from '../platform/access'
import type { Context } from '../platform/context'
import { withLock } from '../platform/lock'
import { bulkItems, bulkRuns } from '../tables/bulk.table'
import { applyValues } from './apply-action'
import { readValues, wantedValues } from './read-values'

/** So many are changed in one go: few enough that nobody waits for them, many enough that it gets on. */
const PORTION = 100

type BulkItem = typeof bulkItems.$inferSelect

/**
 * Goes through a change of many items, portion by portion. What a portion was before is written first, so that whatever happened can be
 * undone, even where the run broke off; a portion that is done over changes nothing twice.
 * @returns false where somebody else is at it
 */
export const runBulk = async (context: Context, id: number): Promise<boolean> =>
  (await withLock(context.pool, `bulk/${id}`, () => goThrough(context, id).then(() => true))) ?? false

async function goThrough(context: Context, id: number): Promise<void> {
  const { db } = context
  for (;;) {
    const [run] = await db.select().from(bulkRuns).where(eq(bulkRuns.id, id))
    if (run?.state !== 'running') return
    const actor = await getPerson(db, run.personId)
    const portion = await db
      .select()
      .from(bulkItems)
      .where(and(eq(bulkItems.runId, id), isNull(bulkItems.outcome)))
      .orderBy(asc(bulkItems.place))
      .limit(PORTION)
    if (!actor || portion.length === 0) {
      await db
        .update(bulkRuns)
        .set({ state: actor ? 'done' : 'stopped' })
        .where(eq(bulkRuns.id, id))
      return
    }
    await noteBefore(context, actor.id, run.action, portion)
    const wantedBy =
      run.undoesId === null
        ? await wantedValues(context, run.action, portion.map(toValue))
        : new Map(portion.map(p => [p.itemId, p.wanted]))
    const wanted = portion
      .map(({ itemId, before }) => ({ id: itemId, before, value: wantedBy.get(itemId) ?? null }))
      .filter(w => w.value !== w.before)
    const { refused } = wanted.length > 0 ? await applyValues(context, actor, run.action, wanted) : { refused: [] }
    await closePortion(db, portion, new Set(wanted.map(w => w.id)), new Map(refused.map(r => [r.id, r])))
  }
}

const toValue = ({ itemId, before }: BulkItem) => ({ id: itemId, value: before })

/** Writes what each item is now, once: what was noted by a run that broke off stays. */
async function noteBefore({ db }: Context, personId: number, action: BulkAction, portion: BulkItem[]): Promise<void> {
  const fresh = portion.filter(p => p.notedAt === null)
  if (fresh.length === 0) return
  const now = new Map(
    (
      await readValues(
        db,
        personId,
        action,
        fresh.map(f => f.itemId),
      )
    ).map(v => [v.id, v.value]),
  )
  for (const item of fresh) item.before = now.get(item.itemId) ?? null
  await db.execute(sql`
    update bulk_items b set before = n.before, noted_at = now()
    from unnest(${sql.param(fresh.map(f => f.place))}::int[], ${sql.param(fresh.map(f => f.before))}::text[]) as n(place, before)
    where b.run_id = ${fresh[0].runId} and b.place = n.place`)
}

/**
 * Writes what came of each item of a portion, and the counts of the run. What was wanted otherwise than it was and is not refused is as
 * wanted now, also where a run that broke off has seen to it.
 */
const closePortion = (
  db: Context['db'],
  portion: readonly BulkItem[],
  tried: ReadonlySet<number>,
  refused: ReadonlyMap<number, { code: string; reason: string }>,
): Promise<void> =>
  db.transaction(async tx => {
    const [{ runId }] = portion
    const outcomes = portion.map(({ itemId }) => (refused.has(itemId) ? 'refused' : tried.has(itemId) ? 'changed' : 'same'))
    const refusalOf = ({ itemId }: BulkItem) => refused.get(itemId)
    await tx.execute(sql`
      update bulk_items b set outcome = n.outcome, code = n.code, reason = n.reason
      from unnest(${sql.param(portion.map(p => p.place))}::int[], ${sql.param(outcomes)}::text[],
        ${sql.param(portion.map(p => refusalOf(p)?.code ?? null))}::text[],
        ${sql.param(portion.map(p => refusalOf(p)?.reason ?? null))}::text[]) as n(place, outcome, code, reason)
      where b.run_id = ${runId} and b.place = n.place`)
    const count = (outcome: string) => outcomes.filter(o => o === outcome).length
    await tx
      .update(bulkRuns)
      .set({
        done: sql`${bulkRuns.done} + ${portion.length}`,
        changed: sql`${bulkRuns.changed} + ${count('changed')}`,
        refused: sql`${bulkRuns.refused} + ${count('refused')}`,
      })
      .where(eq(bulkRuns.id, runId))
  })
