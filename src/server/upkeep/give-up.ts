import { and, asc, eq, sql } from 'drizzle-orm'
import type { Connection, Database } from '../platform/database'
import { publish } from '../platform/notify'
import type { JobQueue, Jobs, PreviewJob, QueueName } from '../platform/queue'
import { finishRerenderItem } from '../previews/rerenders'
import { sceneAudits } from '../tables/audit.table'
import { bulkItems, bulkRuns } from '../tables/bulk.table'
import { batches, batchItems } from '../tables/intake.table'
import { items, versions } from '../tables/library.table'
import { mockUpInterimPictures, mockUpPictures, mockUps } from '../tables/mock-up.table'
import { ownPictures } from '../tables/own-picture.table'
import { projectExports, projects } from '../tables/project.table'
import { stageModels } from '../tables/stage-model.table'
import { failedJobs } from '../tables/work.table'

interface Concern {
  libraryId: number
  about: string
  address: string
}

/** What is said of every piece of work that was given up. */
const BROKE_OFF =
  'It broke off each time it was tried; what was there before is kept. Try it again, and tell who looks after Muscovite.'

const ofItem = async (tx: Connection, itemId: number, doing: string): Promise<Concern | null> => {
  const [item] = await tx.select().from(items).where(eq(items.id, itemId))
  return item ? { libraryId: item.libraryId, about: `${doing} ${item.code} ${item.name}`, address: `/items/${item.code}` } : null
}

const ofInput = async (tx: Connection, inputKey: string, doing: string): Promise<Concern | null> => {
  const [version] = await tx.select({ itemId: versions.itemId }).from(versions).where(eq(versions.inputKey, inputKey)).limit(1)
  if (version) return ofItem(tx, version.itemId, doing)
  const [row] = await tx
    .select({ name: batchItems.name, batchId: batches.id, libraryId: batches.libraryId })
    .from(batchItems)
    .innerJoin(batches, eq(batches.id, batchItems.batchId))
    .where(eq(batchItems.inputKey, inputKey))
    .limit(1)
  return row ? { libraryId: row.libraryId, about: `${doing} ${row.name}`, address: `/intake/${row.batchId}` } : null
}

const ofBatch =
  (doing: string) =>
  async (tx: Connection, { batchId }: { batchId: number }): Promise<Concern | null> => {
    const [batch] = await tx
      .update(batches)
      .set({ state: 'failed', message: BROKE_OFF })
      .where(and(eq(batches.id, batchId), sql`${batches.state} in ('receiving', 'sorting')`))
      .returning()
    if (!batch) return null
    await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId })
    return { libraryId: batch.libraryId, about: `${doing} ${batch.title}`, address: `/intake/${batchId}` }
  }

async function ofAudit(tx: Connection, row: typeof sceneAudits.$inferSelect, doing: string): Promise<Concern> {
  const { libraryId, projectId, id, title } = row
  await publish(tx, { topic: 'audit', libraryId, projectId, auditId: id })
  return { libraryId, about: `${doing} ${title}`, address: `/audits/${id}` }
}

const ofPreview = async (tx: Connection, job: PreviewJob, queue: JobQueue): Promise<Concern | null> => {
  if (job.rerender) await finishRerenderItem(tx, queue, job.rerender, 'failed')
  return ofInput(tx, job.inputKey, job.quality === 'final' ? 'The final picture of' : 'The picture of')
}

const ofMockUpPicture = async (tx: Connection, { pictureId }: Jobs['draft-mock-up']): Promise<Concern | null> => {
  const [row] = await tx
    .update(mockUpPictures)
    .set({ state: 'failed', message: BROKE_OFF })
    .where(and(eq(mockUpPictures.id, pictureId), sql`${mockUpPictures.state} in ('waiting', 'rendering')`))
    .returning()
  if (!row) return null
  await tx.delete(mockUpInterimPictures).where(eq(mockUpInterimPictures.pictureId, pictureId))
  const [mockUp] = await tx.select().from(mockUps).where(eq(mockUps.id, row.mockUpId))
  const { libraryId, title, id } = mockUp
  await publish(tx, { topic: 'mockUp', libraryId, mockUpId: id, revision: null, picture: pictureId })
  return { libraryId, about: `A picture of the mock-up ${title}`, address: `/mock-ups/${id}` }
}

/** What becomes of the thing itself when its work is given up, and whom that concerns; null where nobody waits for it any more. */
const GIVEN_UP: { [Q in QueueName]: (tx: Connection, job: Jobs[Q], queue: JobQueue) => Promise<Concern | null> } = {
  'fetch-feed': ofBatch('Fetching'),
  'sort-batch': ofBatch('Sorting'),
  'measure-item': async (tx, { batchItemId }) => {
    const [row] = await tx
      .update(batchItems)
      .set({ state: 'failed', message: `It could not be measured. ${BROKE_OFF}` })
      .where(and(eq(batchItems.id, batchItemId), eq(batchItems.state, 'measuring')))
      .returning()
    if (!row) return null
    const [batch] = await tx.select().from(batches).where(eq(batches.id, row.batchId))
    await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId: batch.id, rowIds: [row.id] })
    return { libraryId: batch.libraryId, about: `Measuring ${row.name}`, address: `/intake/${batch.id}` }
  },
  'render-draft': ofPreview,
  'render-final': ofPreview,
  'write-export': async (tx, { exportId }) => {
    const [row] = await tx
      .update(projectExports)
      .set({ state: 'failed', message: BROKE_OFF })
      .where(and(eq(projectExports.id, exportId), sql`${projectExports.state} in ('waiting', 'writing')`))
      .returning()
    if (!row) return null
    const [project] = await tx.select().from(projects).where(eq(projects.id, row.projectId))
    await publish(tx, { topic: 'project', libraryId: project.libraryId, projectId: project.id })
    return { libraryId: project.libraryId, about: `An export of ${project.code}`, address: `/projects/${project.id}` }
  },
  'audit-scene': async (tx, { auditId }) => {
    const [row] = await tx
      .update(sceneAudits)
      .set({ state: 'failed', message: BROKE_OFF })
      .where(and(eq(sceneAudits.id, auditId), sql`${sceneAudits.state} in ('waiting', 'reading')`))
      .returning()
    return row ? ofAudit(tx, row, 'The audit of') : null
  },
  'picture-audit': async (tx, { auditId }) => {
    const [row] = await tx.select().from(sceneAudits).where(eq(sceneAudits.id, auditId))
    return row ? ofAudit(tx, row, 'Pictures for the audit of') : null
  },
  'correct-scene': async (tx, { auditId }) => {
    const [row] = await tx
      .update(sceneAudits)
      .set({ correctionState: 'failed', correctionMessage: BROKE_OFF })
      .where(and(eq(sceneAudits.id, auditId), sql`${sceneAudits.correctionState} in ('waiting', 'writing')`))
      .returning()
    return row ? ofAudit(tx, row, 'Correcting') : null
  },
  'measure-fidelity': (tx, { inputKey }) => ofInput(tx, inputKey, 'What targets lose of'),
  'render-turntable': (tx, { inputKey }) => ofInput(tx, inputKey, 'The turn of'),
  'reduce-picture': async (tx, { id }) => {
    const [row] = await tx
      .update(ownPictures)
      .set({ state: 'refused', reason: BROKE_OFF })
      .where(and(eq(ownPictures.id, id), eq(ownPictures.state, 'reducing')))
      .returning()
    if (!row) return null
    const [version] = await tx.select().from(versions).where(eq(versions.id, row.versionId))
    return ofItem(tx, version.itemId, `The picture ${row.fileName} for`)
  },
  'copy-for-screens': (tx, { inputKey }) => ofInput(tx, inputKey, 'Copies for the screen of'),
  'fix-item': (tx, { itemId }) => ofItem(tx, itemId, 'Fixing'),
  'check-item': (tx, { itemId }) => ofItem(tx, itemId, 'Checking'),
  'run-bulk': async (tx, { id }) => {
    const [run] = await tx.update(bulkRuns).set({ state: 'stopped' }).where(eq(bulkRuns.id, id)).returning()
    if (!run) return null
    const [first] = await tx.select().from(bulkItems).where(eq(bulkItems.runId, id)).orderBy(asc(bulkItems.place)).limit(1)
    return first ? ofItem(tx, first.itemId, `A change of ${run.total} items, of which the first is`) : null
  },
  'read-stage-model': async (tx, { id }) => {
    const [row] = await tx
      .update(stageModels)
      .set({ state: 'failed', message: BROKE_OFF })
      .where(and(eq(stageModels.id, id), sql`${stageModels.state} in ('waiting', 'reading')`))
      .returning()
    if (!row) return null
    const address = row.projectId === null ? '/projects' : `/projects/${row.projectId}`
    return { libraryId: row.libraryId, about: `Reading the model ${row.name}`, address }
  },
  'draft-mock-up': ofMockUpPicture,
  'render-mock-up': ofMockUpPicture,
}

/** Notes that work was tried in vain as often as it may be: on the thing itself, and in the list of all failed work. */
export async function giveUp<Q extends QueueName>(
  { db, queue: jobs }: { db: Database; queue: JobQueue },
  queue: Q,
  job: Jobs[Q],
  reason: string,
): Promise<void> {
  await db.transaction(async tx => {
    const concern = await (GIVEN_UP[queue] as (typeof GIVEN_UP)[Q])(tx, job, jobs)
    if (!concern) return
    const isSame = and(eq(failedJobs.queue, queue), sql`${failedJobs.job} = ${JSON.stringify(job)}::jsonb`)
    await tx.delete(failedJobs).where(isSame)
    await tx.insert(failedJobs).values({ queue, job, reason: reason.slice(0, 4000), ...concern })
    await publish(tx, { topic: 'failedWork' })
  })
}
