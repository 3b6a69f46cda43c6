import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { acceptRows } from '../../src/server/intake/accept-rows'
import { addBatchFile, createBatch, sortBatch } from '../../src/server/intake/batches'
import { editBatchItems } from '../../src/server/intake/edit-rows'
import { sortBatchJob } from '../../src/server/intake/sort-batch.job'
import { editItem, setItemStates } from '../../src/server/library/edit-items'
import { getSheet } from '../../src/server/library/sheet'
import { getWall } from '../../src/server/library/wall'
import { renderPreviewJob } from '../../src/server/previews/render-preview.job'
import { batches, batchFiles, batchItems } from '../../src/server/tables/intake.table'
import { files, previews } from '../../src/server/tables/library.table'
import { wallQuerySchema } from '../../src/shared/contracts/find.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork, DRAFT_WIDTH, takeIn } from './take-in'
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

const everything = wallQuerySchema.parse({})

describe('from files to items', () => {
  it('takes a delivery in, keeps what is broken beside it, and files the rest', async () => {
    const { batchId, file } = await takeIn(world, work)
    const batch = await getBatch(world.context.db, world.lead, batchId)
    expect(batch.state).toBe('open')
    expect(batch.items.map(i => i.name).sort()).toEqual(['Clear test sky', 'Cube stool', 'Oak test', 'Other test sky'])
    expect(batch.items.every(i => i.state === 'ready' && !i.needsWidth)).toBe(true)
    expect(batch.notInItems.map(f => [f.path, f.outcome])).toEqual([
      ['Broken/Cut_Off_basecolor.png', 'failed'],
      ['Broken/Empty_roughness.png', 'failed'],
      ['Broken/Not_A_Sky.hdr', 'failed'],
      ['read me.txt', 'leftOver'],
    ])
    const { changed, refused } = await file()
    expect(changed).toHaveLength(4)
    expect(refused).toEqual([])
    const again = await file()
    expect(again.changed).toEqual([])
    expect(again.refused.every(r => r.reason === 'It is accepted already.')).toBe(true)
    const wall = await getWall(world.context, world.artist, everything)
    expect(wall.total).toBe(4)
    expect(wall.chips.map(c => c.code).sort()).toEqual(['CHR-0001', 'SKY-0001', 'SKY-0002', 'TIM-0001'])
    const sheet = await getSheet(world.pool, world.artist, 'TIM-0001', null)
    expect(sheet.version.number).toBe(1)
    expect(sheet.mayEdit).toBe(false)
    expect(Object.fromEntries(sheet.facts.map(f => [f.name, f.value]))).toMatchObject({
      widthMm: 600,
      heightMm: 600,
      maker: 'Test Makers',
      licence: 'All projects',
      normalMapHandedness: 'openGl',
    })
    expect(sheet.events.map(e => e.verb)).toEqual(['accepted'])
  })

  it('sorting twice at once makes the items once', async () => {
    const batchId = await createBatch(work, world.lead, { library: 'house', title: 'Twice' })
    const path = join(world.folder, 'note.glb')
    const { makeModelBytes } = await import('../fixtures')
    await writeFile(path, await makeModelBytes())
    await addBatchFile(work, world.lead, batchId, 'Bench.glb', path)
    await sortBatch(work, world.lead, batchId)
    await Promise.all([sortBatchJob(work, { batchId }), sortBatchJob(work, { batchId })])
    const rows = await world.context.db.select().from(batchItems).where(eq(batchItems.batchId, batchId))
    expect(rows).toHaveLength(1)
  })

  it('closes to new files once it is being sorted, and says so', async () => {
    const [batch] = await world.context.db.select().from(batches).where(eq(batches.title, 'Twice'))
    const path = join(world.folder, 'late.txt')
    await writeFile(path, 'late')
    await expect(addBatchFile(work, world.lead, batch.id, 'late.txt', path)).rejects.toMatchObject({ code: 'conflict' })
  })

  it('a file that arrives just as somebody has it sorted is refused, not taken in unseen', async () => {
    const { db } = world.context
    const batchId = await createBatch(world.context, world.lead, { library: 'house', title: 'Late' })
    const late = join(world.folder, 'late.txt')
    await writeFile(late, 'late')
    let letGo = () => {}
    const held = new Promise<void>(resolve => {
      letGo = resolve
    })
    const sorting = db.transaction(async tx => {
      await tx.update(batches).set({ state: 'sorting' }).where(eq(batches.id, batchId))
      await held
    })
    // Nobody else sees the change yet: the file passes the first door.
    const adding = addBatchFile(world.context, world.lead, batchId, 'late.txt', late).catch(error => error)
    await expect.poll(() => db.$count(files, eq(files.size, 4)), { timeout: 5000 }).toBe(1)
    letGo()
    await sorting
    expect(await adding).toMatchObject({ code: 'conflict' })
    expect(await db.$count(batchFiles, eq(batchFiles.batchId, batchId))).toBe(0)
  })

  it('keeps a path inside its batch', async () => {
    const batchId = await createBatch(work, world.lead, { library: 'house', title: 'Paths' })
    const path = join(world.folder, 'p.txt')
    await writeFile(path, 'x')
    await addBatchFile(work, world.lead, batchId, '../../etc\\passwd', path)
    const [row] = await world.context.db.select().from(batchFiles).where(eq(batchFiles.batchId, batchId))
    expect(row.path).toBe('etc/passwd')
  })

  it('refuses to file a surface without its width, and a category of another kind', async () => {
    const { batchId, rowIds } = await takeIn(world, work, 'house', /Timber/)
    await editBatchItems(work, world.lead, batchId, { ids: rowIds, decision: 'keepBoth', widthMm: null })
    const { refused } = await acceptRows(work, world.lead, batchId, rowIds)
    expect(refused[0].reason).toContain('width')
    await expect(editBatchItems(work, world.lead, batchId, { ids: rowIds, category: 'furniture.chairs' })).rejects.toMatchObject({
      code: 'badRequest',
    })
    await expect(editBatchItems(work, world.artist, batchId, { ids: rowIds, name: 'Mine' })).rejects.toMatchObject({
      code: 'notAllowed',
    })
  })
})

describe('previews', () => {
  it('appear once however often the job runs, and the wall shows them', async () => {
    const wish = world.sent.filter(s => s.queue.startsWith('render-')).map(s => s.job as Parameters<typeof renderPreviewJob>[1])
    const sky = wish.find(w => w.rig === 'environment-strip')!
    await Promise.all([renderPreviewJob(work, sky), renderPreviewJob(work, sky)])
    const rows = await world.context.db.select().from(previews).where(eq(previews.inputKey, sky.inputKey))
    expect(rows).toHaveLength(1)
    expect(rows[0]).toMatchObject({ rig: 'environment-strip', quality: 'draft', width: DRAFT_WIDTH, height: DRAFT_WIDTH * 0.75 })
    const wall = await getWall(world.context, world.artist, everything)
    expect(wall.chips.filter(c => c.preview !== null).map(c => c.kind)).toEqual(['environment'])
  })
})

describe('versions', () => {
  it('a new width makes a new version, leaves the approved one, and asks for review again', async () => {
    const before = await getSheet(world.pool, world.lead, 'TIM-0001', null)
    expect((await setItemStates(work, world.artist, [before.id], 'approved').catch(e => e)).code).toBe('notAllowed')
    expect(await setItemStates(work, world.lead, [before.id], 'approved')).toEqual({ changed: [before.id], refused: [] })
    await editItem(work, world.lead, before.id, { widthMm: 900, name: 'Oak, oiled' })
    const after = await getSheet(world.pool, world.lead, 'TIM-0001', null)
    expect(after).toMatchObject({ name: 'Oak, oiled', state: 'inReview', widthMm: 900 })
    expect(after.version.number).toBe(2)
    expect(after.versions.map(v => [v.number, v.isApproved])).toEqual([
      [2, false],
      [1, true],
    ])
    expect(after.files.map(f => f.hash)).toEqual(before.files.map(f => f.hash))
    const old = await getSheet(world.pool, world.lead, 'TIM-0001', 1)
    expect(old.widthMm).toBe(600)
    expect(after.events.map(e => e.verb)).toEqual(['resized', 'edited', 'state', 'accepted'])
  })

  it('what must be fixed may not be approved', async () => {
    const { db } = world.context
    const { findings } = await import('../../src/server/tables/library.table')
    const sheet = await getSheet(world.pool, world.lead, 'CHR-0001', null)
    await db.insert(findings).values({ versionId: sheet.version.id, code: 'unitSuspect', severity: 'mustFix', evidence: {} })
    const { refused } = await setItemStates(work, world.lead, [sheet.id], 'approved')
    expect(refused).toMatchObject([{ code: 'CHR-0001' }])
    await db.delete(findings).where(eq(findings.versionId, sheet.version.id))
  })
})
