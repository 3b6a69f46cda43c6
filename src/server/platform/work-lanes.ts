import { and, eq, sql } from 'drizzle-orm'
import type PgBoss from 'pg-boss'
import { runningJobs, workers } from '../tables/work.table'
import type { Connection, Database } from './database'
import { toLogText } from './log-text'
import { executorOf, failedQueueOf, type Jobs, QUEUE_NAMES, type QueueName, WAKE_CHANNEL } from './queue'
import { ALIVE_LOCK, type WorkerPresence } from './worker-presence'

/** Nobody says when a job that is to be tried again is due, so an idle lane looks by itself now and then. */
const IDLE_MS = 3000
const RECOVER_EVERY_MS = 5000
const FIRST_DELAY_MS = 250
const LONGEST_DELAY_MS = 5000
/** A job that so many workers died over is not tried again: it may well be what they died of. */
const MOST_DEATHS = 30

export interface Lane<Q extends QueueName = QueueName> {
  queue: Q
  /** How many jobs of the queue are in hand at a time. */
  lanes: number
  run: (job: Jobs[Q]) => Promise<void>
  /** Called when a job was tried in vain as often as it may be. */
  giveUp: (job: Jobs[Q], reason: string) => Promise<void>
  /** Whether something may be taken now; asked before every look. */
  mayTake?: () => Promise<boolean>
}

export interface WorkLanes {
  wake: (queue: string | null) => void
  stop: () => void
}

export interface WorkParts {
  db: Database
  boss: PgBoss
  presence: WorkerPresence
  onTrouble: (what: { queue: string; job?: string; error: unknown }) => void
}

/** Takes jobs as long as there are any and lanes free, is woken when one is put in line, and goes on after an outage of the database. */
export function startLanes(parts: WorkParts, lanes: readonly Lane[]): WorkLanes {
  const wakers = new Map<string, () => void>()
  let stopped = false
  const run = async (queue: string, size: number, lane: Pick<Lane, 'mayTake'>, work: (job: Taken) => Promise<void>) => {
    let free = size
    let signal: (() => void) | null = null
    wakers.set(queue, () => signal?.())
    const rest = (ms: number) =>
      new Promise<void>(resolve => {
        const timer = setTimeout(resolve, ms)
        signal = () => {
          clearTimeout(timer)
          resolve()
        }
      })
    for (let delay = FIRST_DELAY_MS; !stopped; ) {
      if (free === 0) {
        await rest(IDLE_MS)
        continue
      }
      try {
        const taken = !lane.mayTake || (await lane.mayTake()) ? await takeJobs(parts, queue, free) : []
        delay = FIRST_DELAY_MS
        for (const job of taken) {
          free--
          void work(job).finally(() => {
            free++
            signal?.()
          })
        }
        if (taken.length === 0) await rest(IDLE_MS)
      } catch (error) {
        parts.onTrouble({ queue, error })
        await rest(delay)
        delay = Math.min(delay * 2, LONGEST_DELAY_MS)
      }
    }
  }
  const settleSurely = async (queue: string, job: Taken, error: unknown): Promise<void> => {
    for (let delay = FIRST_DELAY_MS; !stopped; delay = Math.min(delay * 2, LONGEST_DELAY_MS))
      try {
        await settleJob(parts, queue, job, error)
        return
      } catch (trouble) {
        parts.onTrouble({ queue, job: job.id, error: trouble })
        await new Promise(resolve => setTimeout(resolve, delay))
      }
  }
  const doJob = async (queue: string, job: Taken, work: () => Promise<void>): Promise<void> => {
    let failure: unknown = null
    try {
      await work()
    } catch (error) {
      failure = error ?? new Error('unknown')
      parts.onTrouble({ queue, job: job.id, error })
    }
    // Given back by nobody while this worker stops: the next one finds it left behind.
    if (!stopped) await settleSurely(queue, job, failure)
  }
  for (const lane of lanes) {
    const { queue, giveUp } = lane
    void run(queue, lane.lanes, lane, job => doJob(queue, job, () => lane.run(job.data as never)))
    const failed = failedQueueOf(queue)
    void run(failed, 1, {}, job => doJob(failed, job, () => giveUp(job.data as never, reasonOf(job))))
  }
  const wake = (queue: string | null) => {
    if (queue !== null) wakers.get(queue)?.()
    else for (const waker of wakers.values()) waker()
  }
  const recover = () => {
    if (!stopped) recoverJobs(parts).catch(error => parts.onTrouble({ queue: 'recover', error }))
  }
  recover()
  const recovering = setInterval(recover, RECOVER_EVERY_MS)
  return {
    wake,
    stop: () => {
      stopped = true
      clearInterval(recovering)
      wake(null)
    },
  }
}

interface Taken {
  id: string
  workerId: number
  data: unknown
  output?: { message?: string; value?: { message?: string } } | null
}

const reasonOf = ({ output }: Taken): string => output?.message ?? output?.value?.message ?? 'It broke off.'

/** Up to `most` jobs of a queue, and noted in the same transaction who has them. */
const takeJobs = async ({ db, boss, presence }: WorkParts, queue: string, most: number): Promise<Taken[]> => {
  const workerId = presence.id()
  // Without a presence everything that it took would be taken from it again.
  if (workerId === null) return []
  return db.transaction(async tx => {
    const jobs = await boss.fetch<unknown>(queue, { batchSize: most, includeMetadata: true, db: executorOf(tx) })
    if (jobs.length > 0)
      await tx
        .insert(runningJobs)
        .values(jobs.map(({ id }) => ({ queue, jobId: id, workerId })))
        // Whoever had it took longer than a job may.
        .onConflictDoUpdate({ target: [runningJobs.queue, runningJobs.jobId], set: { workerId } })
    return jobs.map(({ id, data, output }) => ({ id, data, output: output as Taken['output'], workerId }))
  })
}

/** The job is done, or goes back in line, or, tried often enough, to the failed ones. */
const settleJob = ({ db, boss }: WorkParts, queue: string, { id: jobId, workerId }: Taken, error: unknown): Promise<void> =>
  db.transaction(async tx => {
    const gone = await tx
      .delete(runningJobs)
      .where(and(eq(runningJobs.queue, queue), eq(runningJobs.jobId, jobId), eq(runningJobs.workerId, workerId)))
      .returning({ id: runningJobs.jobId })
    // It was taken for left behind meanwhile, and is somebody else's.
    if (gone.length === 0) return
    if (error === null) await boss.complete(queue, jobId, {}, { db: executorOf(tx) })
    else {
      const message = toLogText(error)
      await boss.fail(queue, jobId, { message }, { db: executorOf(tx) })
      await wakeFailed(tx, queue)
    }
  })

const wakeFailed = async (tx: Connection, queue: string): Promise<void> => {
  if ((QUEUE_NAMES as string[]).includes(queue))
    await tx.execute(sql`select pg_notify(${WAKE_CHANNEL}, ${failedQueueOf(queue as QueueName)})`)
}

/**
 * Puts the jobs of workers that died back in line; of living ones none. A few statements, however much there is. Jobs that are under way
 * without a worker are of an earlier release.
 */
export const recoverJobs = ({ db, boss }: Pick<WorkParts, 'db' | 'boss'>): Promise<number> =>
  db.transaction(async tx => {
    const { rows: dead } = await tx.execute<{ id: number }>(sql`
      select id from ${workers} where pg_try_advisory_xact_lock(${ALIVE_LOCK}, id)`)
    const ids = sql.param(dead.map(d => d.id))
    const { rows: left } = await tx.execute<{ queue: string; id: string; deaths: number }>(sql`
      with left_behind as (
        delete from ${runningJobs} where worker_id = any(${ids}::int[]) returning queue, job_id
      ), orphaned as (
        select name as queue, id as job_id from pgboss.job j
        where state = 'active' and started_on < now() - interval '1 minute'
          and not exists (select from ${runningJobs} r where r.queue = j.name and r.job_id = j.id)
      )
      select j.name as queue, j.id, j.retry_count as deaths from pgboss.job j
      join (select * from left_behind union select * from orphaned) l on l.queue = j.name and l.job_id = j.id
      where j.state = 'active'`)
    await tx.execute(sql`delete from ${workers} where id = any(${ids}::int[])`)
    const again = left.filter(j => j.deaths < MOST_DEATHS)
    if (again.length > 0) {
      // A death is nobody's fault so far: it costs the job none of its tries.
      await tx.execute(sql`
        update pgboss.job j set state = 'retry', start_after = now(), retry_limit = retry_limit + 1
        from unnest(${sql.param(again.map(j => j.queue))}::text[], ${sql.param(again.map(j => j.id))}::uuid[]) a(queue, id)
        where j.name = a.queue and j.id = a.id`)
      for (const queue of new Set(again.map(j => j.queue))) await tx.execute(sql`select pg_notify(${WAKE_CHANNEL}, ${queue})`)
    }
    for (const { queue, id } of left.filter(j => j.deaths >= MOST_DEATHS)) {
      await tx.execute(sql`update pgboss.job set retry_limit = retry_count where name = ${queue} and id = ${id}::uuid`)
      await boss.fail(queue, id, { message: `${MOST_DEATHS} workers ended over it.` }, { db: executorOf(tx) })
      await wakeFailed(tx, queue)
    }
    return left.length
  })
