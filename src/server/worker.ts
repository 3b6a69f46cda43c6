import { mkdir } from 'node:fs/promises'
import { setPriority } from 'node:os'
import { join } from 'node:path'
import pino from 'pino'
import { fetchFeedJob } from './feeds/fetch-feed.job'
import { measureItemJob } from './intake/measure-item.job'
import { sortBatchJob } from './intake/sort-batch.job'
import { watchFolder } from './intake/watch-folder'
import { checkItemJob } from './library/check-item.job'
import { mendItemJob } from './library/mend-item.job'
import { reducePictureJob } from './library/reduce-picture.job'
import { ComputePool } from './platform/compute/compute-pool'
import { openDatabase } from './platform/database'
import { type Jobs, openBoss, type QueueName, toJobQueue } from './platform/queue'
import { readSettings } from './platform/settings'
import { openStorage } from './platform/storage/disk-storage'
import type { WorkContext } from './platform/work-context'
import { measureFidelityJob } from './previews/fidelity/measure-fidelity.job'
import { renderPreviewJob } from './previews/render-preview.job'
import { renderTurntableJob } from './previews/turntable/render-turntable.job'
import { writeDeliveryJob } from './projects/write-delivery.job'
import { resumeWork } from './resume-work'

const HANDLERS: { [Q in QueueName]: (context: WorkContext, job: Jobs[Q]) => Promise<void> } = {
  'fetch-feed': fetchFeedJob,
  'sort-batch': sortBatchJob,
  'measure-item': measureItemJob,
  'render-draft': renderPreviewJob,
  'render-final': renderPreviewJob,
  'write-delivery': writeDeliveryJob,
  'measure-fidelity': measureFidelityJob,
  'render-turntable': renderTurntableJob,
  'reduce-picture': reducePictureJob,
  'mend-item': mendItemJob,
  'check-item': checkItemJob,
}

/** What has not changed for so long has arrived. */
const WATCH_EVERY_MS = 5000

const settings = readSettings()
// Rendering may take every core; whoever clicks goes first.
setPriority(10)
const log = pino({ name: 'worker', level: settings.logLevel })
const { db, close } = openDatabase(settings.databaseUrl, 6)
const boss = await openBoss(settings.databaseUrl, error => log.warn({ error: error.message }, 'queue'))
const temporaryFolder = join(settings.dataFolder, 'temporary')
await mkdir(temporaryFolder, { recursive: true })
const entry = new URL('./compute.worker.js', import.meta.url)
const context: WorkContext = {
  db,
  storage: openStorage(settings.storageUrl),
  queue: toJobQueue(boss),
  intakePool: new ComputePool(Math.max(1, Math.ceil(settings.threads / 2)), entry),
  previewPool: new ComputePool(settings.threads, entry),
  temporaryFolder,
}

async function work<Q extends QueueName>(queue: Q, lanes: number): Promise<void> {
  for (let lane = 0; lane < lanes; lane++)
    await boss.work<Jobs[Q]>(queue, { batchSize: 1, pollingIntervalSeconds: 0.5, priority: true }, async ([job]) => {
      try {
        await HANDLERS[queue](context, job.data)
      } catch (error) {
        log.error(
          { queue, job: job.id, error: error instanceof Error ? error.stack : String(error) },
          'job broke off; it is tried again',
        )
        throw error
      }
    })
}

await work('fetch-feed', 1)
await work('sort-batch', 1)
await work('measure-item', context.intakePool.size)
await work('write-delivery', 1)
await work('render-draft', context.previewPool.size)
await work('render-final', Math.max(1, context.previewPool.size - 1))
await work('measure-fidelity', 1)
await work('render-turntable', 1)
await work('reduce-picture', 1)
await work('mend-item', 1)
await work('check-item', 1)
await resumeWork(context)
if (settings.watchFolder) {
  const watch = watchFolder(context, settings.watchFolder, text => log.warn(text))
  // Asked again only when the last look is over.
  const look = (): void => {
    watch
      .look()
      .catch(error =>
        log.error({ error: error instanceof Error ? error.stack : String(error) }, 'the watched folder could not be read'),
      )
      .finally(() => setTimeout(look, WATCH_EVERY_MS).unref())
  }
  look()
}
log.info('worker is ready')
process.send?.('ready')

let stopping = false
const stop = async () => {
  if (stopping) return
  stopping = true
  // Jobs in hand are given up: they are done again at the next start.
  await Promise.all([context.intakePool.close(), context.previewPool.close()])
  await Promise.race([
    boss.stop({ graceful: false, wait: false, close: true }),
    new Promise(resolve => setTimeout(resolve, 1500)),
  ])
  await close().catch(() => {})
  process.exit(0)
}
process.on('SIGTERM', stop)
process.on('SIGINT', stop)
process.on('disconnect', stop)
