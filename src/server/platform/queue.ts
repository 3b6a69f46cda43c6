import { type SQL, sql } from 'drizzle-orm'
import PgBoss from 'pg-boss'
import { RENDERER_REVISION } from '#core/render/pictures/preview'
import type { QualityName } from '#core/render/rigs/rig'
import type { Connection } from './database'

/** What a rendering job carries: one input on one revision of one rig. */
export interface PreviewJob {
  inputKey: string
  rig: string
  revision: number
  quality: QualityName
  /** The background run that asked, which is told when it is done. */
  rerender?: { id: number; position: number }
}

/** Every queue and what its jobs carry. */
export interface Jobs {
  'fetch-feed': { batchId: number }
  'sort-batch': { batchId: number }
  'measure-item': { batchItemId: number }
  'render-draft': PreviewJob
  'render-final': PreviewJob
  'write-export': { exportId: number }
  'audit-scene': { auditId: number }
  'picture-audit': { auditId: number }
  'correct-scene': { auditId: number }
  'measure-fidelity': { inputKey: string }
  'render-turntable': { inputKey: string }
  'reduce-picture': { id: number }
  'copy-for-screens': { inputKey: string }
  'fix-item': { itemId: number; versionId: number; findingIds: number[]; personId: number }
  'check-item': { itemId: number; versionId: number }
  'run-bulk': { id: number }
  'draft-mock-up': { pictureId: number }
  'render-mock-up': { pictureId: number }
  'read-stage-model': { id: number }
}
export type QueueName = keyof Jobs

const previewKey = ({ inputKey, rig, revision, quality, rerender }: PreviewJob): string =>
  rerender ? `rerender/${rerender.id}/${rerender.position}` : [inputKey, rig, revision, RENDERER_REVISION, quality].join('/')

/** What a job is for. Of those for the same thing one waits at most; another may be under way. */
const KEYS: { [Q in QueueName]: (job: Jobs[Q]) => string } = {
  'fetch-feed': job => String(job.batchId),
  'sort-batch': job => String(job.batchId),
  'measure-item': job => String(job.batchItemId),
  'render-draft': previewKey,
  'render-final': previewKey,
  'write-export': job => String(job.exportId),
  'audit-scene': job => String(job.auditId),
  'picture-audit': job => String(job.auditId),
  'correct-scene': job => String(job.auditId),
  'measure-fidelity': job => job.inputKey,
  'render-turntable': job => job.inputKey,
  'reduce-picture': job => String(job.id),
  'copy-for-screens': job => job.inputKey,
  'fix-item': job => `${job.versionId}/${job.findingIds.join()}`,
  'check-item': job => String(job.versionId),
  'run-bulk': job => String(job.id),
  'draft-mock-up': job => String(job.pictureId),
  'render-mock-up': job => String(job.pictureId),
  'read-stage-model': job => String(job.id),
}
export const QUEUE_NAMES = Object.keys(KEYS) as QueueName[]

/** Where a job goes that was tried in vain as often as it may be. */
export const failedQueueOf = (queue: QueueName): `failed-${QueueName}` => `failed-${queue}`

/** Finals take minutes: in a queue of their own they never hold every thread while somebody waits for a draft. */
export const RENDER_QUEUES = { draft: 'render-draft', final: 'render-final' } as const satisfies Record<QualityName, QueueName>

/** Pictures of mock-ups likewise: whoever wants a draft does not wait for another's final. */
export const MOCK_UP_QUEUES = { draft: 'draft-mock-up', final: 'render-mock-up' } as const satisfies Record<
  QualityName,
  QueueName
>

export interface JobQueue {
  /**
   * Puts jobs in line, in the transaction that wants them: they are there when it commits, and not at all when it does not. A job whose
   * like waits already is not put in twice, but a higher priority counts for the one that waits.
   */
  send<Q extends QueueName>(tx: Connection, queue: Q, jobs: readonly Jobs[Q][], priority?: number): Promise<void>
}

/** The channel that says in which queue something waits. */
export const WAKE_CHANNEL = 'muscovite_jobs'
/** So many jobs go into one statement. */
const CHUNK = 5000

/** After so long a job is taken from a worker that is alive but never comes to an end. */
const HOUR = 3600
const RETRIES = { retryLimit: 3, retryDelay: 2, expireInSeconds: HOUR }
/** A large final on a small machine takes hours, and says all the while how far it is. */
const EXPIRES: Partial<Record<QueueName, number>> = { 'render-mock-up': 24 * HOUR - 1 }

/** Opens the queue on the same database; creates its tables and queues where they are missing. */
export async function openBoss(databaseUrl: string, onError: (error: Error) => void): Promise<PgBoss> {
  const boss = new PgBoss({ connectionString: databaseUrl, max: 3 })
  boss.on('error', onError)
  await boss.start()
  const there = new Set((await boss.getQueues()).map(q => q.name))
  for (const name of QUEUE_NAMES) {
    const failed = failedQueueOf(name)
    const options = { policy: 'short', ...RETRIES, expireInSeconds: EXPIRES[name] ?? HOUR, deadLetter: failed } as const
    if (!there.has(failed)) await boss.createQueue(failed, { name: failed, policy: 'standard', ...RETRIES, retryLimit: 1000 })
    if (!there.has(name)) await boss.createQueue(name, { name, ...options })
    // As an earlier release made it, perhaps.
    else await boss.updateQueue(name, { name, ...options })
  }
  return boss
}

export const toJobQueue = (boss: PgBoss): JobQueue => ({
  send: async <Q extends QueueName>(tx: Connection, queue: Q, jobs: readonly Jobs[Q][], priority = 0) => {
    for (let at = 0; at < jobs.length; at += CHUNK) {
      const rows = jobs
        .slice(at, at + CHUNK)
        .map(data => ({ name: queue, data, priority, singletonKey: (KEYS[queue] as (job: Jobs[Q]) => string)(data) }))
      await boss.insert(rows, { db: executorOf(tx) })
      if (priority > 0)
        await raisePriority(
          tx,
          queue,
          rows.map(r => r.singletonKey),
          priority,
        )
    }
    if (jobs.length > 0) await tx.execute(sql`select pg_notify(${WAKE_CHANNEL}, ${queue})`)
  },
})

/** Moves jobs that still wait forward in their queue. Priority is a column of the queue's own table, which it reads at every fetch. */
const raisePriority = (tx: Connection, queue: QueueName, keys: readonly string[], priority: number) =>
  tx.execute(sql`
    update pgboss.job set priority = ${priority}
    where name = ${queue} and singleton_key = any(${sql.param([...keys])}::text[]) and state = 'created' and priority < ${priority}`)

/** A connection of ours as the queue takes one: text with numbered places, and the values for them. */
export const executorOf = (connection: Connection): PgBoss.Db => ({
  executeSql: async (text: string, values: unknown[] = []) => {
    const parts = text.split(/\$(\d+)/)
    const chunks = parts.map(
      (part, k): SQL => (k % 2 === 0 ? sql.raw(part) : sql`${sql.param(values[Number(part) - 1] ?? null)}`),
    )
    return connection.execute(sql.join(chunks)) as never
  },
})
