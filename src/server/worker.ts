import { mkdir } from 'node:fs/promises'
import { setPriority } from 'node:os'
import { join } from 'node:path'
import { setFlagsFromString } from 'node:v8'
import pino from 'pino'
import { auditSceneJob, pictureAuditJob } from './audits/audit-scene.job'
import { correctSceneJob } from './audits/correct-scene.job'
import { runBulkJob } from './bulk/run-bulk.job'
import { fetchFeedJob } from './feeds/fetch-feed.job'
import { LibraryFinder } from './find/library-finder'
import { measureItemJob } from './intake/measure-item.job'
import { sortBatchJob } from './intake/sort-batch.job'
import { watchFolder } from './intake/watch-folder'
import { checkItemJob } from './library/check-item.job'
import { fixItemJob } from './library/fix-item.job'
import { copyForScreensJob } from './library/pictures/copy-for-screens.job'
import { reducePictureJob } from './library/pictures/reduce-picture.job'
import { renderMockUpJob } from './mock-ups/render-mock-up.job'
import { ComputePool } from './platform/compute/compute-pool'
import { openDatabase } from './platform/database'
import { createFetchOutside } from './platform/fetch-outside'
import { toLogText } from './platform/log-text'
import { type Jobs, openBoss, type QueueName, toJobQueue } from './platform/queue'
import { readSettings } from './platform/settings'
import { openStorage } from './platform/storage/disk-storage'
import type { WorkContext } from './platform/work-context'
import { type Lane, startLanes, type WorkLanes } from './platform/work-lanes'
import { announceWorker } from './platform/worker-presence'
import { measureFidelityJob } from './previews/fidelity/measure-fidelity.job'
import { mayRenderNow } from './previews/may-render-now'
import { renderPreviewJob } from './previews/render-preview.job'
import { renderTurntableJob } from './previews/turntable/render-turntable.job'
import { writeExportJob } from './projects/exports/write-export.job'
import { readStageModelJob } from './stage-models/read-stage-model.job'
import { giveUp } from './upkeep/give-up'
import { sweep } from './upkeep/sweep'

/** What has not changed for so long has arrived. */
const WATCH_EVERY_MS = 5000

// Decoded pictures call for collection all the time, of a heap that hardly changes: bit by bit, beside other work, it takes a fifth of all
// processor time; at once a few milliseconds. Nobody waits for an answer of this process.
setFlagsFromString('--no-incremental-marking')

const settings = readSettings()
// Computing may take every core: whoever clicks goes first, then who waits for a draft, then all else.
setPriority(5)
const STANDS_BACK = { niceness: 10 }
const log = pino({ name: 'worker', level: settings.logLevel })
const { db, pool, close } = openDatabase(settings.databaseUrl, 12)
const boss = await openBoss(settings.databaseUrl, error => log.warn({ error: error.message }, 'queue'))
const temporaryFolder = join(settings.dataFolder, 'temporary')
await mkdir(temporaryFolder, { recursive: true })
const entry = new URL('./compute.worker.js', import.meta.url)
const context: WorkContext = {
  db,
  pool,
  storage: openStorage(settings.storageUrl),
  queue: toJobQueue(boss),
  fetchOutside: createFetchOutside(settings.feedHosts),
  finder: new LibraryFinder(db),
  intakePool: new ComputePool(settings.threads, entry, STANDS_BACK),
  previewPool: new ComputePool(settings.threads, entry, { ...STANDS_BACK, forDrafts: 1 }),
  exportPool: new ComputePool(1, entry, STANDS_BACK),
  temporaryFolder,
}

interface Work<Q extends QueueName> {
  run: (context: WorkContext, job: Jobs[Q]) => Promise<void>
  lanes: number
  mayTake?: () => Promise<boolean>
}

/** While the next is fetched and the last is written, the threads are busy with those in between. */
const measuring = context.intakePool.size + 1
const rendering = context.previewPool.size
const draftsMayRun = () => mayRenderNow(db, 'render-draft', { unasked: true })
const finalsMayRun = () => mayRenderNow(db, 'render-final', { unasked: settings.finals === 'approved' })

const copiesMayRun = () => mayRenderNow(db, 'copy-for-screens', { unasked: true })
const mockUpsMayRun = () => mayRenderNow(db, 'render-mock-up', { unasked: true })

const WORK: { [Q in QueueName]: Work<Q> } = {
  'fetch-feed': { run: fetchFeedJob, lanes: 1 },
  'sort-batch': { run: sortBatchJob, lanes: 2 },
  'measure-item': { run: measureItemJob, lanes: measuring },
  'render-draft': { run: renderPreviewJob, lanes: rendering, mayTake: draftsMayRun },
  'render-final': { run: renderPreviewJob, lanes: Math.max(1, rendering - 1), mayTake: finalsMayRun },
  'write-export': { run: writeExportJob, lanes: 1 },
  'audit-scene': { run: auditSceneJob, lanes: 1 },
  'picture-audit': { run: pictureAuditJob, lanes: 1 },
  'correct-scene': { run: correctSceneJob, lanes: 1 },
  'measure-fidelity': { run: measureFidelityJob, lanes: 1 },
  'render-turntable': { run: renderTurntableJob, lanes: 1 },
  'reduce-picture': { run: reducePictureJob, lanes: 1 },
  'copy-for-screens': { run: copyForScreensJob, lanes: 1, mayTake: copiesMayRun },
  'fix-item': { run: fixItemJob, lanes: 1 },
  'check-item': { run: checkItemJob, lanes: 1 },
  'run-bulk': { run: runBulkJob, lanes: 1 },
  'read-stage-model': { run: readStageModelJob, lanes: 1 },
  'draft-mock-up': { run: renderMockUpJob, lanes: rendering },
  'render-mock-up': { run: renderMockUpJob, lanes: Math.max(1, rendering - 1), mayTake: mockUpsMayRun },
}

const toLane = <Q extends QueueName>(queue: Q): Lane<Q> => {
  const { run, lanes, mayTake } = WORK[queue]
  return {
    queue,
    lanes,
    mayTake,
    run: job => run(context, job),
    giveUp: (job, reason) => giveUp(context, queue, job, reason),
  }
}

let lanes: WorkLanes | null = null
const presence = await announceWorker(
  settings.databaseUrl,
  queue => lanes?.wake(queue),
  error => log.warn({ error: error.message }, 'the line to the database broke; it is taken up again'),
)
await sweep(context)
lanes = startLanes(
  {
    db,
    boss,
    presence,
    onTrouble: ({ queue, job, error }) => log.error({ queue, job, error: toLogText(error) }, 'work broke off; it is tried again'),
  },
  (Object.keys(WORK) as QueueName[]).map(queue => toLane(queue) as unknown as Lane),
)
if (settings.watchFolder) {
  const watch = watchFolder(context, settings.watchFolder, text => log.warn(text))
  // Asked again only when the last look is over.
  const look = (): void => {
    watch
      .look()
      .catch(error => log.error({ error: toLogText(error) }, 'the watched folder could not be read'))
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
  // Jobs in hand are given up: whoever works next finds them left behind.
  lanes?.stop()
  await Promise.all([context.intakePool.close(), context.previewPool.close(), context.exportPool.close()])
  await presence.stop()
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
