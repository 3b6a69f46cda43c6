import { and, asc, desc, eq, sql } from 'drizzle-orm'
import type { RigList } from '#shared/contracts/rigs.contract'
import { type Actor, mayEdit } from '../platform/access'
import type { Context } from '../platform/context'
import type { Connection } from '../platform/database'
import { publish } from '../platform/notify'
import { notAllowed, notFound, ProblemError } from '../platform/problem'
import { type PreviewJob, RENDER_QUEUES } from '../platform/queue'
import { people } from '../tables/people.table'
import { rerenderItems, rerenders } from '../tables/rig.table'
import { hasPreview } from './previews'

/**
 * Background runs that render previews anew. A run hands only a few jobs at a time to the queue, so that its order holds, what
 * somebody asks for overtakes it, and a pause or a cancel takes hold at once.
 */
const AT_A_TIME = 4
const PRIORITY = -20
const SHOWN = 6

export async function startRerender(
  context: Context,
  actor: Actor,
  title: string,
  work: readonly PreviewJob[],
): Promise<number | null> {
  const missing: PreviewJob[] = []
  for (const job of work) if (!(await hasPreview(context.db, job))) missing.push(job)
  if (missing.length === 0) return null
  const id = await context.db.transaction(async tx => {
    const [run] = await tx.insert(rerenders).values({ title, state: 'running', personId: actor.id }).returning()
    for (let at = 0; at < missing.length; at += 1000)
      await tx.insert(rerenderItems).values(
        missing.slice(at, at + 1000).map(({ inputKey, rig, revision, quality }, k) => ({
          rerenderId: run.id,
          position: at + k,
          inputKey,
          rig,
          revision,
          quality,
          state: 'waiting' as const,
        })),
      )
    return run.id
  })
  await feedRerender(context, id)
  return id
}

/** Hands the next jobs of a running run to the queue; ends it when nothing is left. */
export async function feedRerender({ db, queue }: Context, id: number): Promise<void> {
  const next = await db.transaction(async tx => {
    const [run] = await tx.select().from(rerenders).where(eq(rerenders.id, id)).for('update')
    if (run?.state !== 'running') return []
    const queued = await tx.$count(rerenderItems, and(eq(rerenderItems.rerenderId, id), eq(rerenderItems.state, 'queued')))
    const waiting = await tx
      .select()
      .from(rerenderItems)
      .where(and(eq(rerenderItems.rerenderId, id), eq(rerenderItems.state, 'waiting')))
      .orderBy(asc(rerenderItems.position))
      .limit(Math.max(0, AT_A_TIME - queued))
    for (const item of waiting) await setItem(tx, id, item.position, 'queued')
    if (queued === 0 && waiting.length === 0) await tx.update(rerenders).set({ state: 'done' }).where(eq(rerenders.id, id))
    return waiting
  })
  for (const { inputKey, rig, revision, quality, position } of next)
    await queue.send(
      RENDER_QUEUES[quality],
      { inputKey, rig, revision, quality, rerender: { id, position } },
      { priority: PRIORITY, singletonKey: `rerender/${id}/${position}` },
    )
}

const setItem = (db: Connection, id: number, position: number, state: 'waiting' | 'queued' | 'done' | 'failed') =>
  db
    .update(rerenderItems)
    .set({ state })
    .where(and(eq(rerenderItems.rerenderId, id), eq(rerenderItems.position, position)))

/** Notes that one picture of a run is there, or could not be made, and goes on. */
export async function finishRerenderItem(
  context: Context,
  { id, position }: { id: number; position: number },
  state: 'done' | 'failed',
): Promise<void> {
  await setItem(context.db, id, position, state)
  await feedRerender(context, id)
  await publish(context.db, { topic: 'rerender', rerenderId: id })
}

/** After a worker was stopped: what it held goes back in line. */
export async function resumeRerenders(context: Context): Promise<void> {
  const running = await context.db.select({ id: rerenders.id }).from(rerenders).where(eq(rerenders.state, 'running'))
  for (const { id } of running) {
    await context.db
      .update(rerenderItems)
      .set({ state: 'waiting' })
      .where(and(eq(rerenderItems.rerenderId, id), eq(rerenderItems.state, 'queued')))
    await feedRerender(context, id)
  }
}

/** Pauses, goes on with, or cancels a run. What is being rendered at that moment is finished and kept. */
export async function setRerenderState(
  context: Context,
  actor: Actor,
  id: number,
  state: 'running' | 'paused' | 'cancelled',
): Promise<void> {
  if (!mayEdit(actor)) throw notAllowed('Pausing or cancelling a run')
  await context.db.transaction(async tx => {
    const [run] = await tx.select().from(rerenders).where(eq(rerenders.id, id)).for('update')
    if (!run) throw notFound('This run')
    if (run.state === 'done' || run.state === 'cancelled') throw new ProblemError('conflict', 'This run has ended already.')
    await tx.update(rerenders).set({ state }).where(eq(rerenders.id, id))
  })
  if (state === 'running') await feedRerender(context, id)
  await publish(context.db, { topic: 'rerender', rerenderId: id })
}

/** The latest runs with their progress. */
export async function listRerenders(db: Connection): Promise<RigList['rerenders']> {
  const rows = await db
    .select({
      id: rerenders.id,
      title: rerenders.title,
      state: rerenders.state,
      by: people.name,
      total: sql<number>`count(${rerenderItems.position})::int`,
      done: sql<number>`(count(*) filter (where ${rerenderItems.state} = 'done'))::int`,
      failed: sql<number>`(count(*) filter (where ${rerenderItems.state} = 'failed'))::int`,
    })
    .from(rerenders)
    .innerJoin(people, eq(people.id, rerenders.personId))
    .leftJoin(rerenderItems, eq(rerenderItems.rerenderId, rerenders.id))
    .groupBy(rerenders.id, people.name)
    .orderBy(desc(rerenders.id))
    .limit(SHOWN)
  return rows
}
