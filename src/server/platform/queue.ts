import { sql } from 'drizzle-orm'
import PgBoss from 'pg-boss'
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
  'write-delivery': { deliveryId: number }
  'measure-fidelity': { inputKey: string }
  'render-turntable': { inputKey: string }
  'reduce-picture': { id: number }
  'mend-item': { itemId: number; versionId: number; findingIds: number[]; personId: number }
  'check-item': { itemId: number; versionId: number }
}
export type QueueName = keyof Jobs

export const QUEUE_NAMES: readonly QueueName[] = [
  'fetch-feed',
  'sort-batch',
  'measure-item',
  'render-draft',
  'render-final',
  'write-delivery',
  'measure-fidelity',
  'render-turntable',
  'reduce-picture',
  'mend-item',
  'check-item',
]

/** Queues in which one job for the same thing waits at most once: whoever sends one says what the thing is. */
const KEYED_QUEUES = [
  'render-draft',
  'render-final',
  'measure-fidelity',
  'render-turntable',
  'mend-item',
  'check-item',
] as const satisfies QueueName[]
const ONE_OF_A_KIND: ReadonlySet<QueueName> = new Set(KEYED_QUEUES)

/** Without its key a job of a keyed queue would be dropped while any other waits. */
type SendOptions<Q extends QueueName> = Q extends (typeof KEYED_QUEUES)[number]
  ? [{ singletonKey: string; priority?: number }]
  : [{ singletonKey?: string; priority?: number }?]

export interface JobQueue {
  send<Q extends QueueName>(queue: Q, job: Jobs[Q], ...options: SendOptions<Q>): Promise<void>
}

/** Finals take minutes: in a queue of their own they never hold every thread while somebody waits for a draft. */
export const RENDER_QUEUES = { draft: 'render-draft', final: 'render-final' } as const satisfies Record<QualityName, QueueName>

/** Moves a job that still waits forward in its queue. Priority is a column of the queue's own table, which it reads at every fetch. */
export const hurryJob = (db: Connection, queue: QueueName, singletonKey: string, priority: number) =>
  db.execute(sql`
    update pgboss.job set priority = ${priority}
    where name = ${queue} and singleton_key = ${singletonKey} and state = 'created' and priority < ${priority}`)

const RETRIES = { retryLimit: 3, retryDelay: 2, expireInSeconds: 3600 }

/** Opens the queue on the same database; creates its tables and queues where they are missing. */
export async function openBoss(databaseUrl: string, onError: (error: Error) => void): Promise<PgBoss> {
  const boss = new PgBoss({ connectionString: databaseUrl, max: 6 })
  boss.on('error', onError)
  await boss.start()
  for (const name of QUEUE_NAMES)
    await boss.createQueue(name, {
      name,
      policy: ONE_OF_A_KIND.has(name) ? 'short' : 'standard',
      ...RETRIES,
    })
  return boss
}

export const toJobQueue = (boss: PgBoss): JobQueue => ({
  send: async (queue, job, ...[options]) => {
    await boss.send(queue, job, { ...RETRIES, ...options })
  },
})
