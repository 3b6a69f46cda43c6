import { copyFile, mkdir, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { eq } from 'drizzle-orm'
import type { Rig } from '../../src/core/render/rigs/rig'
import { acceptRows } from '../../src/server/intake/accept-rows'
import { addBatchFile, createBatch, sortBatch } from '../../src/server/intake/batches'
import { editBatchItems } from '../../src/server/intake/edit-rows'
import { measureItemJob } from '../../src/server/intake/measure-item.job'
import { sortBatchJob } from '../../src/server/intake/sort-batch.job'
import { ComputePool, type TaskWatch } from '../../src/server/platform/compute/compute-pool'
import type { ComputeTasks, TaskName } from '../../src/server/platform/compute/compute-tasks'
import type { WorkContext } from '../../src/server/platform/work-context'
import { batchItems } from '../../src/server/tables/intake.table'
import { writeDelivery } from '../fixtures'
import { ROOT, type TestWorld } from '../test-database'

/** Pixels across of a draft here, a quarter of what a rig has: nobody looks at it. */
export const DRAFT_WIDTH = 96

/** Renders on every rig small; all else is as it is. */
class SmallDrafts extends ComputePool {
  override run<T extends TaskName>(
    task: T,
    input: ComputeTasks[T]['input'],
    watch?: TaskWatch,
  ): Promise<ComputeTasks[T]['output']> {
    return super.run(task, 'rig' in input ? { ...input, rig: withSmallDrafts(input.rig) } : input, watch)
  }
}

const withSmallDrafts = (rig: Rig): Rig => ({ ...rig, draft: { ...rig.draft, width: Math.min(rig.draft.width, DRAFT_WIDTH) } })

/** The world with threads to compute in. Close the threads when done. */
export function createWork(world: TestWorld): WorkContext & { threads: ComputePool; compute: ComputePool } {
  const threads = new SmallDrafts(1, new URL(`file://${join(ROOT, 'dist/node/compute.worker.js')}`))
  return {
    ...world.context,
    intakePool: threads,
    previewPool: threads,
    exportPool: threads,
    temporaryFolder: world.folder,
    threads,
    compute: threads,
  }
}

/** Takes the fixtures' delivery in as a lead would: files, sort, measure, width, file. */
export async function takeIn(world: TestWorld, work: WorkContext, library = 'house', only: RegExp = /./) {
  const root = join(world.folder, `delivery-${library}-${Math.random().toString(36).slice(2)}`)
  const paths = (await writeDelivery(root)).filter(p => only.test(p))
  const batchId = await createBatch(work, world.lead, {
    library,
    title: `Delivery ${library}`,
    maker: 'Test Makers',
    licence: 'All projects',
  })
  for (const path of paths) {
    const copy = join(root, 'sent', path)
    await mkdir(dirname(copy), { recursive: true })
    await copyFile(join(root, path), copy)
    await addBatchFile(work, world.lead, batchId, path, copy)
  }
  await sortBatch(work, world.lead, batchId)
  await sortBatchJob(work, { batchId })
  const rows = await world.context.db.select().from(batchItems).where(eq(batchItems.batchId, batchId))
  for (const row of rows) await measureItemJob(work, { batchItemId: row.id })
  const materials = rows.filter(r => r.kind === 'material').map(r => r.id)
  if (materials.length > 0) await editBatchItems(work, world.lead, batchId, { ids: materials, widthMm: 600 })
  return {
    batchId,
    rowIds: rows.map(r => r.id),
    file: () =>
      acceptRows(
        work,
        world.lead,
        batchId,
        rows.map(r => r.id),
      ),
  }
}

/** A delivery of files given by their bytes, up to the measured worklist. Returns the batch. */
export async function deliverFiles(
  world: TestWorld,
  work: WorkContext,
  files: Readonly<Record<string, Uint8Array>>,
  { library = 'house', maker = 'Test Makers' }: { library?: string; maker?: string } = {},
): Promise<number> {
  const batchId = await createBatch(work, world.lead, { library, title: 'Delivery', maker, licence: 'All projects' })
  for (const [path, bytes] of Object.entries(files)) {
    const disk = join(world.folder, `sent-${batchId}`, path)
    await mkdir(dirname(disk), { recursive: true })
    await writeFile(disk, bytes)
    await addBatchFile(work, world.lead, batchId, path, disk)
  }
  await sortBatch(work, world.lead, batchId)
  await sortBatchJob(work, { batchId })
  await measureRows(work, batchId)
  return batchId
}

/** Measures whatever rows of a batch wait for it. */
export async function measureRows(work: WorkContext, batchId: number): Promise<void> {
  const rows = await work.db.select({ id: batchItems.id }).from(batchItems).where(eq(batchItems.batchId, batchId))
  for (const { id } of rows) await measureItemJob(work, { batchItemId: id })
}
