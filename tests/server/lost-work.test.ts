import { mkdir, readdir, readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { and, eq, sql } from 'drizzle-orm'
import type PgBoss from 'pg-boss'
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from 'vitest'
import { acceptRows } from '../../src/server/intake/accept-rows'
import { addBatchFile, createBatch, sortBatch } from '../../src/server/intake/batches'
import { editBatchItems } from '../../src/server/intake/edit-rows'
import { measureItemJob } from '../../src/server/intake/measure-item.job'
import { sortBatchJob } from '../../src/server/intake/sort-batch.job'
import { setItemStates } from '../../src/server/library/edit-items'
import { withLock } from '../../src/server/platform/lock'
import { type Jobs, openBoss, type QueueName, toJobQueue } from '../../src/server/platform/queue'
import { storeBytes } from '../../src/server/platform/storage/stored-files'
import { type Lane, recoverJobs, startLanes } from '../../src/server/platform/work-lanes'
import { announceWorker } from '../../src/server/platform/worker-presence'
import { orderExport } from '../../src/server/projects/exports/order-export'
import { writeExportJob } from '../../src/server/projects/exports/write-export.job'
import { createProject, getProject, pinItems, unpinItems } from '../../src/server/projects/projects'
import { batches, batchFiles, batchItems } from '../../src/server/tables/intake.table'
import { files } from '../../src/server/tables/library.table'
import { projectExports } from '../../src/server/tables/project.table'
import { runningJobs, workers } from '../../src/server/tables/work.table'
import { collect } from '../../src/server/upkeep/collect'
import { dismissFailedWork, listFailedWork, tryFailedWork } from '../../src/server/upkeep/failed-work'
import { giveUp } from '../../src/server/upkeep/give-up'
import { orderExportSchema } from '../../src/shared/contracts/projects.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork, takeIn } from './take-in'
import { getBatch } from './whole-batch'

let world: TestWorld
let work: ReturnType<typeof createWork>
beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})
afterEach(() => vi.restoreAllMocks())

const rowOf = async (id: number) => (await world.context.db.select().from(batchItems).where(eq(batchItems.id, id)))[0]

/** Lets something happen while the row's pixels are being looked at, once. */
function during(task: string, happen: () => Promise<unknown>) {
  const { run } = work.intakePool
  let done = false
  return vi.spyOn(work.intakePool, 'run').mockImplementation((async (name: string, ...rest: unknown[]) => {
    const output = await (run as (...all: unknown[]) => Promise<unknown>).call(work.intakePool, name, ...rest)
    if (name === task && !done) {
      done = true
      await happen()
    }
    return output
  }) as never)
}

describe('an edit made while a row is measured', () => {
  it('stays: what was measured of the row as it was is dropped, and the row measured as it is', async () => {
    const { batchId, rowIds } = await takeIn(world, work, 'house', /Timber/)
    const [id] = rowIds
    await world.context.db.update(batchItems).set({ state: 'measuring', widthMm: null }).where(eq(batchItems.id, id))
    const inspect = during('inspect', () =>
      editBatchItems(work, world.lead, batchId, { ids: [id], widthMm: 1234, name: 'Typed meanwhile' }),
    )
    await measureItemJob(work, { batchItemId: id })
    expect(await rowOf(id)).toMatchObject({ state: 'ready', widthMm: 1234, name: 'Typed meanwhile' })
    expect((await rowOf(id)).findings.map(f => f.code)).not.toContain('realWorldSizeMissing')
    expect(inspect.mock.calls.filter(([name]) => (name as string) === 'inspect')).toHaveLength(2)
  })

  it('that sets it aside ends the measuring, and taking it back begins it again', async () => {
    const { batchId, rowIds } = await takeIn(world, work, 'house', /Timber/)
    const [id] = rowIds
    await world.context.db.update(batchItems).set({ state: 'measuring', facts: {} }).where(eq(batchItems.id, id))
    during('inspect', () => editBatchItems(work, world.lead, batchId, { ids: [id], setAside: true }))
    await measureItemJob(work, { batchItemId: id })
    expect(await rowOf(id)).toMatchObject({ state: 'setAside', facts: {} })
    world.sent.length = 0
    await editBatchItems(work, world.lead, batchId, { ids: [id], setAside: false })
    expect(await rowOf(id)).toMatchObject({ state: 'measuring' })
    expect(world.sent).toContainEqual({ queue: 'measure-item', job: { batchItemId: id } })
  })
})

describe('a job', () => {
  const inQueue = async (queue: string) =>
    (
      await world.context.db.execute<{ state: string; data: unknown }>(
        sql`select state, data from pgboss.job where name = ${queue} order by created_on, id`,
      )
    ).rows
  let boss: PgBoss
  beforeAll(async () => {
    boss = await openBoss(world.url, () => {})
  })
  afterAll(() => boss.stop({ graceful: false, wait: false, close: true }))
  const clear = () => world.context.db.execute(sql`delete from pgboss.job`)

  it('is in line when the transaction that wanted it commits, and not at all when it does not', async () => {
    await clear()
    const queue = toJobQueue(boss)
    await expect(
      world.context.db.transaction(async tx => {
        await queue.send(tx, 'check-item', [{ itemId: 1, versionId: 1 }])
        throw new Error('undone')
      }),
    ).rejects.toThrow('undone')
    expect(await inQueue('check-item')).toEqual([])
    await world.context.db.transaction(async tx => {
      await queue.send(tx, 'check-item', [
        { itemId: 1, versionId: 1 },
        { itemId: 2, versionId: 2 },
        { itemId: 2, versionId: 2 },
      ])
      expect(await inQueue('check-item')).toEqual([])
    })
    const data = (await inQueue('check-item')).map(j => j.data)
    expect(data).toHaveLength(2)
    expect(data).toEqual(
      expect.arrayContaining([
        { itemId: 1, versionId: 1 },
        { itemId: 2, versionId: 2 },
      ]),
    )
  })

  it('is taken as soon as it is there, tried again when it breaks off, and told when it was tried in vain', async () => {
    await clear()
    const queue = toJobQueue(boss)
    await world.context.db.execute(sql`update pgboss.queue set retry_limit = 1, retry_delay = 0 where name = 'check-item'`)
    const tried: number[] = []
    const given: { job: unknown; reason: string }[] = []
    let lanes: ReturnType<typeof startLanes> | null = null
    const presence = await announceWorker(
      world.url,
      name => lanes?.wake(name),
      () => {},
    )
    const lane: Lane<'check-item'> = {
      queue: 'check-item',
      lanes: 2,
      run: async ({ itemId }) => {
        tried.push(itemId)
        if (itemId === 7) throw new Error('broken on purpose')
      },
      giveUp: async (job, reason) => {
        given.push({ job, reason })
      },
    }
    lanes = startLanes({ db: world.context.db, boss, presence, onTrouble: () => {} }, [lane as unknown as Lane])
    const sent = performance.now()
    await queue.send(world.context.db, 'check-item', [
      { itemId: 7, versionId: 7 },
      { itemId: 8, versionId: 8 },
    ])
    await expect.poll(() => tried.includes(8), { timeout: 5000, interval: 10 }).toBe(true)
    // Woken, and not found at the next look.
    expect(performance.now() - sent).toBeLessThan(1500)
    await expect.poll(() => given.length, { timeout: 20_000, interval: 50 }).toBe(1)
    expect(given[0]).toMatchObject({ job: { itemId: 7, versionId: 7 } })
    expect(given[0].reason).toContain('broken on purpose')
    expect(tried.filter(t => t === 7)).toHaveLength(2)
    await expect.poll(async () => (await world.context.db.select().from(runningJobs)).length, { timeout: 5000 }).toBe(0)
    lanes.stop()
    await presence.stop()
  })

  it('of a worker that died is put back in line; those of living workers stay theirs', async () => {
    await clear()
    const queue = toJobQueue(boss)
    const { db } = world.context
    await db.delete(workers)
    const alive = await announceWorker(
      world.url,
      () => {},
      () => {},
    )
    const [dead] = await db.insert(workers).values({}).returning()
    await queue.send(db, 'check-item', [
      { itemId: 1, versionId: 1 },
      { itemId: 2, versionId: 2 },
    ])
    const { rows } = await db.execute<{ id: string }>(
      sql`update pgboss.job set state = 'active', started_on = now() where name = 'check-item' returning id`,
    )
    await db.insert(runningJobs).values([
      { queue: 'check-item', jobId: rows[0].id, workerId: dead.id },
      { queue: 'check-item', jobId: rows[1].id, workerId: alive.id()! },
    ])
    expect(await recoverJobs({ db, boss })).toBe(1)
    expect((await inQueue('check-item')).map(j => j.state).sort()).toEqual(['active', 'retry'])
    expect((await db.select().from(workers)).map(w => w.id)).toEqual([alive.id()])
    expect(await recoverJobs({ db, boss })).toBe(0)
    await alive.stop()
    // Its line is cut, as a kill cuts it.
    await expect.poll(() => recoverJobs({ db, boss }), { timeout: 5000 }).toBe(1)
    await clear()
  })
})

describe('work that was given up', () => {
  it('is told where it belongs and in Upkeep, and is tried again from there', async () => {
    const { batchId, rowIds } = await takeIn(world, work, 'client', /Timber/)
    const [id] = rowIds
    const { db } = world.context
    await db.update(batchItems).set({ state: 'measuring' }).where(eq(batchItems.id, id))
    await giveUp(work, 'measure-item', { batchItemId: id }, 'Error: at somewhere.ts:1')
    expect(await rowOf(id)).toMatchObject({ state: 'failed' })
    const { message } = await rowOf(id)
    expect(message).toContain('Try it again')
    expect(message).not.toContain('somewhere')
    const [failed] = await listFailedWork(db, world.lead)
    expect(failed).toMatchObject({ about: expect.stringContaining('Measuring'), address: `/intake/${batchId}` })
    // A client's library does not exist for anybody outside, in what failed neither.
    expect(await listFailedWork(db, world.artist)).toEqual([])
    await expect(tryFailedWork(work, world.artist, [failed.id])).rejects.toMatchObject({ code: 'notAllowed' })
    world.sent.length = 0
    expect(await tryFailedWork(work, world.lead, [failed.id])).toBe(1)
    expect(await rowOf(id)).toMatchObject({ state: 'measuring', message: null })
    expect(world.sent).toEqual([{ queue: 'measure-item', job: { batchItemId: id } }])
    expect(await listFailedWork(db, world.lead)).toEqual([])
    // On its row as well, without a way over Upkeep.
    await giveUp(work, 'measure-item', { batchItemId: id }, 'again')
    await editBatchItems(work, world.lead, batchId, { ids: [id], measureAgain: true })
    expect(await rowOf(id)).toMatchObject({ state: 'measuring' })
    expect(
      await dismissFailedWork(
        work,
        world.lead,
        (await listFailedWork(db, world.lead)).map(f => f.id),
      ),
    ).toBe(1)
  })

  it('is nothing where nobody waits for it any more', async () => {
    const everything: { [Q in QueueName]: Jobs[Q] } = {
      'fetch-feed': { batchId: 99_999 },
      'sort-batch': { batchId: 99_999 },
      'measure-item': { batchItemId: 99_999 },
      'render-draft': { inputKey: 'gone', rig: 'material-stage', revision: 2, quality: 'draft' },
      'render-final': { inputKey: 'gone', rig: 'material-stage', revision: 2, quality: 'final' },
      'write-export': { exportId: 99_999 },
      'audit-scene': { auditId: 99_999 },
      'picture-audit': { auditId: 99_999 },
      'correct-scene': { auditId: 99_999 },
      'measure-fidelity': { inputKey: 'gone' },
      'render-turntable': { inputKey: 'gone' },
      'reduce-picture': { id: 99_999 },
      'copy-for-screens': { inputKey: 'gone' },
      'fix-item': { itemId: 99_999, versionId: 1, findingIds: [], personId: 1 },
      'check-item': { itemId: 99_999, versionId: 1 },
      'run-bulk': { id: 99_999 },
      'draft-mock-up': { pictureId: 99_999 },
      'render-mock-up': { pictureId: 99_999 },
      'read-stage-model': { id: 99_999 },
    }
    for (const queue of Object.keys(everything) as QueueName[]) await giveUp(work, queue, everything[queue] as never, 'x')
    expect(await listFailedWork(world.context.db, world.lead)).toEqual([])
  })

  it('of a batch leaves its files, and sorting begins again', async () => {
    const batchId = await createBatch(work, world.lead, { library: 'house', title: 'Broke off' })
    const path = join(world.folder, 'note.txt')
    await writeFile(path, 'words')
    await addBatchFile(work, world.lead, batchId, 'note.txt', path)
    await sortBatch(work, world.lead, batchId)
    await giveUp(work, 'sort-batch', { batchId }, 'x')
    const batch = await getBatch(world.context.db, world.lead, batchId)
    expect(batch).toMatchObject({ state: 'failed', files: 1, message: expect.stringContaining('Try it again') })
    await sortBatch(work, world.lead, batchId)
    await sortBatchJob(work, { batchId })
    expect(await getBatch(world.context.db, world.lead, batchId)).toMatchObject({ state: 'open', message: null })
  })
})

describe('two sortings of one batch', () => {
  it('are one: the second leaves it to the first', async () => {
    const batchId = await createBatch(work, world.lead, { library: 'house', title: 'Twice' })
    const path = join(world.folder, 'twice.txt')
    await writeFile(path, 'words')
    await addBatchFile(work, world.lead, batchId, 'twice.txt', path)
    await sortBatch(work, world.lead, batchId)
    await withLock(world.pool, `sort-batch/${batchId}`, () => sortBatchJob(work, { batchId }))
    expect((await world.context.db.select().from(batches).where(eq(batches.id, batchId)))[0].state).toBe('sorting')
    const recognize = vi.spyOn(work.intakePool, 'run')
    await Promise.all([sortBatchJob(work, { batchId }), sortBatchJob(work, { batchId })])
    expect(recognize.mock.calls.filter(([name]) => (name as string) === 'recognize')).toHaveLength(1)
    expect((await world.context.db.select().from(batches).where(eq(batches.id, batchId)))[0].state).toBe('open')
  })
})

describe('a delivery of very many files', () => {
  it('of more than one statement takes parameters is sorted', async () => {
    const batchId = await createBatch(work, world.lead, { library: 'house', title: 'Many' })
    const { hash, size } = await storeBytes(world.context, new TextEncoder().encode('words'), 'text/plain')
    await world.context.db.execute(sql`
      insert into batch_files (batch_id, path, hash, size)
      select ${batchId}, 'folder/' || n || '.txt', ${hash}, ${size} from generate_series(1, 70000) n`)
    await sortBatch(work, world.lead, batchId)
    await sortBatchJob(work, { batchId })
    const left = await world.context.db.$count(
      batchFiles,
      and(eq(batchFiles.batchId, batchId), eq(batchFiles.outcome, 'leftOver')),
    )
    expect(left).toBe(70_000)
  })
})

describe('an export', () => {
  it('holds what was pinned when it was ordered, and leaves nothing behind when it breaks off', async () => {
    const taken = await takeIn(world, work, 'house', /Timber|Stool/)
    await acceptRows(work, world.lead, taken.batchId, taken.rowIds)
    const { rows: made } = await world.context.db.execute<{ id: number }>(
      sql`select i.id from items i join batch_items r on r.item_id = i.id where r.batch_id = ${taken.batchId} order by i.id`,
    )
    const ids = made.map(m => m.id)
    await world.context.db.execute(sql`delete from findings where severity = 'mustFix'`)
    await setItemStates(work, world.lead, ids, 'approved')
    const projectId = await createProject(work, world.lead, { code: 'ORDER', title: 'Order', library: 'house' })
    await pinItems(work, world.lead, projectId, ids)
    const pinned = (await getProject(world.context, world.lead, projectId)).pinned.length
    expect(pinned).toBeGreaterThan(0)
    const exportId = await orderExport(work, world.lead, projectId, orderExportSchema.parse({}))
    await unpinItems(work, world.lead, projectId, ids)
    const spoilt = vi.spyOn(work.exportPool, 'run').mockImplementationOnce(async (_task, input) => {
      await writeFile((input as { zipPath: string }).zipPath, 'half')
      throw new Error('the thread ended')
    })
    await expect(writeExportJob(work, { exportId })).rejects.toThrow('the thread ended')
    spoilt.mockRestore()
    expect((await readdir(work.temporaryFolder)).filter(n => n.startsWith('export-'))).toEqual([])
    await writeExportJob(work, { exportId })
    const [row] = await world.context.db.select().from(projectExports).where(eq(projectExports.id, exportId))
    expect(row).toMatchObject({ state: 'ready', total: pinned, done: pinned })
  })
})

describe('collecting', () => {
  it('counts first; takes what nothing names after its time, and nothing else', async () => {
    const { db, storage } = world.context
    const stray = await storeBytes(world.context, new TextEncoder().encode('nobody names this'), 'text/plain')
    const young = await storeBytes(world.context, new TextEncoder().encode('just brought'), 'text/plain')
    const age = (hash: string) => db.execute(sql`update files set last_put_at = now() - interval '40 days' where hash = ${hash}`)
    await db.execute(sql`update files set last_put_at = now() - interval '40 days'`)
    await db.update(files).set({ lastPutAt: new Date() }).where(eq(files.hash, young.hash))
    const before = (await db.select().from(files)).length
    await expect(collect(world.context, world.artist, { days: 30, dryRun: true })).rejects.toMatchObject({ code: 'notAllowed' })
    await expect(collect(world.context, world.lead, { days: 0, dryRun: false })).rejects.toMatchObject({ code: 'badRequest' })
    const counted = await collect(world.context, world.lead, { days: 30, dryRun: true })
    expect(counted.files).toBeGreaterThanOrEqual(1)
    expect((await db.select().from(files)).length).toBe(before)
    const { rows: exportsBefore } = await db.execute<{ hash: string }>(sql`select hash from exports where state = 'ready'`)
    const done = await collect(world.context, world.lead, { days: 30, dryRun: false })
    expect(done).toEqual({ ...counted, dryRun: false })
    await expect(readFile(await storage.localPath(stray.hash))).rejects.toMatchObject({ code: 'ENOENT' })
    expect(await readFile(await storage.localPath(young.hash), 'utf8')).toBe('just brought')
    // The export is younger than its time.
    for (const { hash } of exportsBefore) await readFile(await storage.localPath(hash))
    // Every hash that anything names is still there.
    const { rows: named } = await db.execute<{ hash: string }>(sql`
      select hash from version_files union select hash from batch_files where hash is not null
      union select f ->> 'hash' from batch_items b, jsonb_array_elements(b.files) f`)
    for (const { hash } of named) await readFile(await storage.localPath(hash))
    // An export past its time goes, and says so.
    await db.execute(sql`update exports set created_at = now() - interval '40 days'`)
    for (const { hash } of exportsBefore) await age(hash)
    expect(await collect(world.context, world.lead, { days: 30, dryRun: false })).toMatchObject({ exports: exportsBefore.length })
    expect((await db.select().from(projectExports)).map(e => e.state)).toEqual(exportsBefore.map(() => 'expired'))
    // What is brought again is there again.
    await storeBytes(world.context, new TextEncoder().encode('nobody names this'), 'text/plain')
    expect(await readFile(await storage.localPath(stray.hash), 'utf8')).toBe('nobody names this')
  })

  it('finds bytes without a row, which an earlier release may have left', async () => {
    const { storage } = world.context
    const hash = 'ab'.repeat(32)
    await storage.put(hash, new Uint8Array(3))
    const path = await storage.localPath(hash)
    const { utimes } = await import('node:fs/promises')
    await utimes(path, new Date(0), new Date(0))
    await mkdir(join(path, '..'), { recursive: true })
    expect((await collect(world.context, world.lead, { days: 30, dryRun: false })).files).toBeGreaterThanOrEqual(1)
    await expect(readFile(path)).rejects.toMatchObject({ code: 'ENOENT' })
  })
})
