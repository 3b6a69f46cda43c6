import { and, asc, desc, eq, isNull, type SQL, sql } from 'drizzle-orm'
import { alias } from 'drizzle-orm/pg-core'
import {
  type BulkAction,
  type BulkHistory,
  type BulkPlan,
  type BulkRunView,
  type BulkWish,
  MOST_BULK_ITEMS,
} from '#shared/contracts/bulk.contract'
import { narrowingSchema } from '#shared/contracts/find.contract'
import { findView } from '../find/find-view'
import { getCategory } from '../house/categories'
import { getLibrary } from '../people/libraries'
import { type Actor, mayEdit, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import { isOneOf } from '../platform/database'
import { notAllowed, notFound, ProblemError } from '../platform/problem'
import { getProjectRow } from '../projects/projects'
import { bulkItems, bulkRuns } from '../tables/bulk.table'
import { findings, items } from '../tables/library.table'
import { readValues, wantedValues } from './read-values'
import { runBulk } from './run-bulk'

const SHOWN_REFUSALS = 40

type Run = typeof bulkRuns.$inferSelect

/** Items that an address means, for somebody who may do that to them. */
async function listMeant(context: Context, actor: Actor, { address, ids, action }: BulkWish): Promise<number[]> {
  if (action.do !== 'dot' && action.do !== 'pin' && !mayEdit(actor)) throw notAllowed('Changing items')
  if (action.do === 'pin') await getProjectRow(context.db, actor, action.projectId)
  if (action.do === 'category') await getCategory(context.db, action.category)
  if (action.do === 'library') await getLibrary(context.db, actor, action.library)
  // Items by their ids are those of them that the asker may see.
  if (ids) return listReadable(context, actor, ids)
  const given = narrowingSchema.safeParse(Object.fromEntries(new URLSearchParams(address)))
  if (!given.success) throw new ProblemError('badRequest', 'This is no address of the wall.')
  const { view } = await findView(context, actor, given.data)
  if (view.total === 0) throw new ProblemError('badRequest', 'There is nothing in this view.')
  if (view.total > MOST_BULK_ITEMS)
    throw new ProblemError('badRequest', `Up to ${MOST_BULK_ITEMS} items are changed at once; narrow the view.`)
  return view.ids()
}

async function listReadable({ db }: Pick<Context, 'db'>, actor: Actor, ids: readonly number[]): Promise<number[]> {
  const rows = await db
    .select({ id: items.id })
    .from(items)
    .where(and(isOneOf(items.id, ids), mayRead(actor, items.libraryId)))
  if (rows.length === 0) throw notFound('These items')
  return rows.map(r => r.id)
}

export async function planBulk(context: Context, actor: Actor, wish: BulkWish): Promise<BulkPlan> {
  const { db } = context
  const { action } = wish
  const ids = await listMeant(context, actor, wish)
  const before = await readValues(db, actor.id, action, ids)
  const wanted = await wantedValues(context, action, before)
  const same = before.filter(b => wanted.get(b.id) === b.value).length
  const blocked: BulkPlan['blocked'] = []
  const block = (reason: string, count: number) => {
    if (count > 0) blocked.push({ reason, count })
  }
  if (action.do === 'state' && action.state === 'approved') {
    const [{ count }] = await db
      .select({ count: sql<number>`count(distinct ${items.id})::int` })
      .from(items)
      .innerJoin(findings, and(eq(findings.versionId, items.currentVersionId), eq(findings.severity, 'mustFix')))
      .where(isOneOf(items.id, ids))
    block('A finding of them must be fixed first.', count)
  }
  if (action.do === 'category') {
    const place = await getCategory(db, action.category)
    const [{ count }] = await db
      .select({ count: sql<number>`count(*)::int` })
      .from(items)
      .where(and(isOneOf(items.id, ids), sql`${items.kind} <> ${place.kind}`))
    block(`${place.title} holds ${place.kind}s alone.`, count)
  }
  if (action.do === 'pin') {
    const [{ count }] = await db
      .select({ count: sql<number>`count(*)::int` })
      .from(items)
      .where(and(isOneOf(items.id, ids), sql`${items.approvedVersionId} is null`))
    block('No version of them is approved.', count)
  }
  return { total: ids.length, same, blocked }
}

export async function startBulk(context: Context, actor: Actor, wish: BulkWish): Promise<number> {
  const ids = await listMeant(context, actor, wish)
  const id = await begin(
    context,
    actor,
    wish.action,
    sql`
    select ordinality, id, null::text from unnest(${sql.param(ids)}::int[]) with ordinality as t(id, ordinality)`,
  )
  await runWhereFew(context, id, ids.length)
  return id
}

/** So many are changed while one waits; more stand in line behind pictures that are being rendered. */
const FEW = 40

async function runWhereFew(context: Context, id: number, count: number): Promise<void> {
  if (count <= FEW) await runBulk(context, id)
}

/** @param list place, item and what it is to be, of each item that is meant; in their order */
const begin = (
  { db, queue }: Context,
  actor: Actor,
  action: BulkAction,
  list: SQL,
  undoesId: number | null = null,
): Promise<number> =>
  db.transaction(async tx => {
    const [{ id }] = await tx
      .insert(bulkRuns)
      .values({ personId: actor.id, action, total: 0, undoesId })
      .returning({ id: bulkRuns.id })
    await tx.execute(sql`insert into bulk_items (run_id, place, item_id, wanted) select ${id}::int, l.* from (${list}) l`)
    await tx
      .update(bulkRuns)
      .set({ total: sql`(select count(*) from bulk_items where run_id = ${id})` })
      .where(eq(bulkRuns.id, id))
    await queue.send(tx, 'run-bulk', [{ id }])
    return id
  })

async function getRun({ db }: Pick<Context, 'db'>, actor: Actor, id: number): Promise<Run> {
  const [run] = await db
    .select()
    .from(bulkRuns)
    .where(and(eq(bulkRuns.id, id), eq(bulkRuns.personId, actor.id)))
  if (!run) throw notFound('This change')
  return run
}

export async function getBulk(context: Context, actor: Actor, id: number): Promise<BulkRunView> {
  const run = await getRun(context, actor, id)
  const { db } = context
  const [undo] = await db.select({ id: bulkRuns.id }).from(bulkRuns).where(eq(bulkRuns.undoesId, id))
  const refused = await db
    .select({ code: bulkItems.code, reason: bulkItems.reason })
    .from(bulkItems)
    .where(and(eq(bulkItems.runId, id), eq(bulkItems.outcome, 'refused')))
    .orderBy(asc(bulkItems.place))
    .limit(SHOWN_REFUSALS)
  return {
    id,
    state: run.state,
    total: run.total,
    done: run.done,
    changed: run.changed,
    refused: refused.map(({ code, reason }) => ({ code: code ?? '', reason: reason ?? '' })),
    refusedCount: run.refused,
    undoneBy: undo?.id ?? null,
    isUndo: run.undoesId !== null,
    mayUndo: mayUndo(run, undo?.id ?? null),
  }
}

const MOST_LISTED = 20

/** What somebody changed of late, the last first; undoings stand with what they undo. */
export async function listBulk({ db }: Pick<Context, 'db'>, actor: Actor): Promise<BulkHistory> {
  const undo = alias(bulkRuns, 'undo')
  const rows = await db
    .select({ run: bulkRuns, undoneBy: undo.id })
    .from(bulkRuns)
    .leftJoin(undo, eq(undo.undoesId, bulkRuns.id))
    .where(and(eq(bulkRuns.personId, actor.id), isNull(bulkRuns.undoesId)))
    .orderBy(desc(bulkRuns.id))
    .limit(MOST_LISTED)
  return rows.map(({ run, undoneBy }) => ({
    id: run.id,
    state: run.state,
    total: run.total,
    done: run.done,
    changed: run.changed,
    refusedCount: run.refused,
    undoneBy,
    isUndo: false,
    mayUndo: mayUndo(run, undoneBy),
    action: run.action,
    createdAt: run.createdAt.toISOString(),
  }))
}

const mayUndo = (run: Run, undoneBy: number | null): boolean =>
  run.undoesId === null && undoneBy === null && run.changed > 0 && run.state !== 'running' && run.action.do !== 'finals'

/** What is under way is finished; the rest stays as it is. */
export async function stopBulk(context: Context, actor: Actor, id: number): Promise<void> {
  await getRun(context, actor, id)
  await context.db
    .update(bulkRuns)
    .set({ state: 'stopped' })
    .where(and(eq(bulkRuns.id, id), eq(bulkRuns.state, 'running')))
}

/** Puts back what a run has changed, as a run of its own. */
export async function undoBulk(context: Context, actor: Actor, id: number): Promise<number> {
  const run = await getRun(context, actor, id)
  if (run.state === 'running') throw new ProblemError('conflict', 'It still runs; stop it first.')
  const [undone] = await context.db.select({ id: bulkRuns.id }).from(bulkRuns).where(eq(bulkRuns.undoesId, id))
  if (undone) throw new ProblemError('conflict', 'It is undone already.')
  if (run.action.do === 'finals') throw new ProblemError('badRequest', 'Pictures that were ordered are rendered.')
  if (run.changed === 0) throw new ProblemError('badRequest', 'It has changed nothing.')
  const undoing = await begin(
    context,
    actor,
    run.action,
    sql`select place, item_id, before from bulk_items where run_id = ${id} and outcome = 'changed' order by place`,
    id,
  )
  await runWhereFew(context, undoing, run.changed)
  return undoing
}
