import { and, asc, count, desc, eq, sql } from 'drizzle-orm'
import type { RigList } from '#shared/contracts/rigs.contract'
import { type Actor, mayEdit } from '../platform/access'
import type { Context } from '../platform/context'
import { type Connection, inChunks } from '../platform/database'
import { publish } from '../platform/notify'
import { notAllowed, notFound, ProblemError } from '../platform/problem'
import { type JobQueue, type PreviewJob, RENDER_QUEUES } from '../platform/queue'
import { people } from '../tables/people.table'
import { rerenderItems, rerenders } from '../tables/rig.table'
import { withoutPreview } from './previews'

/**
 * Background runs that render previews anew. A run hands only a few jobs at a time to the queue, so that its order holds, what
 * somebody asks for overtakes it, and a pause or a cancel takes hold at once.
 */
const AT_A_TIME = 4
const PRIORITY = -20
const SHOWN = 6

/** Begins a run in the transaction of what made it needed; its number, or null when every picture is there. */
export async function startRerender(
  tx: Connection,
  queue: JobQueue,
  actor: Actor,
  title: string,
  work: readonly PreviewJob[],
): Promise<number | null> {
  const missing = await withoutPreview(tx, work)
  if (missing.length === 0) return null
  const [run] = await tx.insert(rerenders).values({ title, state: 'running', personId: actor.id }).returning()
  for (const [k, chunk] of [...inChunks(missing)].entries())
    await tx.insert(rerenderItems).values(
      chunk.map(({ inputKey, rig, revision, quality }, n) => ({
        rerenderId: run.id,
        position: k * 1000 + n,
        inputKey,
        rig,
        revision,
        quality,
        state: 'waiting' as const,
      })),
    )
  await feedRerender(tx, queue, run.id)
  return run.id
}

/** Hands the next jobs of a running run to the queue; ends it when nothing is left. */
async function feedRerender(tx: Connection, queue: JobQueue, id: number): Promise<void> {
  const [run] = await tx.select().from(rerenders).where(eq(rerenders.id, id)).for('update')
  if (run?.state !== 'running') return
  const ofRun = eq(rerenderItems.rerenderId, id)
  const [{ queued }] = await tx
    .select({ queued: count() })
    .from(rerenderItems)
    .where(and(ofRun, eq(rerenderItems.state, 'queued')))
  const next = await tx
    .select()
    .from(rerenderItems)
    .where(and(ofRun, eq(rerenderItems.state, 'waiting')))
    .orderBy(asc(rerenderItems.position))
    .limit(Math.max(0, AT_A_TIME - queued))
  for (const item of next) await setItem(tx, id, item.position, 'queued')
  if (queued === 0 && next.length === 0) await tx.update(rerenders).set({ state: 'done' }).where(eq(rerenders.id, id))
  for (const { inputKey, rig, revision, quality, position } of next)
    await queue.send(tx, RENDER_QUEUES[quality], [{ inputKey, rig, revision, quality, rerender: { id, position } }], PRIORITY)
}

const setItem = (db: Connection, id: number, position: number, state: 'waiting' | 'queued' | 'done' | 'failed') =>
  db
    .update(rerenderItems)
    .set({ state })
    .where(and(eq(rerenderItems.rerenderId, id), eq(rerenderItems.position, position)))

/** Notes that one picture of a run is there, or could not be made, and goes on. */
export async function finishRerenderItem(
  tx: Connection,
  queue: JobQueue,
  { id, position }: { id: number; position: number },
  state: 'done' | 'failed',
): Promise<void> {
  await setItem(tx, id, position, state)
  await feedRerender(tx, queue, id)
  await publish(tx, { topic: 'rerender', rerenderId: id })
}

/** Pictures of running runs that are said to be in line, and are not, wait again; and the runs go on. */
export async function resumeRerenders(tx: Connection, queue: JobQueue): Promise<void> {
  await tx.execute(sql`
    update rerender_items r set state = 'waiting'
    from rerenders run
    where run.id = r.rerender_id and run.state = 'running' and r.state = 'queued' and not exists (
      select from pgboss.job j
      where j.name in ('render-draft', 'render-final') and j.state in ('created', 'retry', 'active')
        and j.data -> 'rerender' ->> 'id' = r.rerender_id::text and j.data -> 'rerender' ->> 'position' = r.position::text)`)
  const running = await tx.select({ id: rerenders.id }).from(rerenders).where(eq(rerenders.state, 'running'))
  for (const { id } of running) await feedRerender(tx, queue, id)
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
    if (state === 'running') await feedRerender(tx, context.queue, id)
    await publish(tx, { topic: 'rerender', rerenderId: id })
  })
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
