import { mkdir, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { eq } from 'drizzle-orm'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { FindingCode } from '../../src/core/findings/finding'
import { flipGreen } from '../../src/core/material/fixes/normal-fixes'
import { findNormalHandedness } from '../../src/core/material/normal-map'
import { decodeByteImage } from '../../src/files/reading/decode-image'
import { acceptRows } from '../../src/server/intake/accept-rows'
import { addBatchFile, createBatch, sortBatch } from '../../src/server/intake/batches'
import { chooseFixes } from '../../src/server/intake/choose-fixes'
import { editBatchItems } from '../../src/server/intake/edit-rows'
import { measureItemJob } from '../../src/server/intake/measure-item.job'
import { sortBatchJob } from '../../src/server/intake/sort-batch.job'
import { getBatchEvidence } from '../../src/server/intake/worklist'
import { fixItemJob } from '../../src/server/library/fix-item.job'
import { requestFix } from '../../src/server/library/request-fix'
import { getFindingPicture, getSheet } from '../../src/server/library/sheet'
import type { Jobs } from '../../src/server/platform/queue'
import { storeBytes } from '../../src/server/platform/storage/stored-files'
import { batchItems } from '../../src/server/tables/intake.table'
import { versionFiles, versions } from '../../src/server/tables/library.table'
import { makeModelBytes, makeSurfaceMaps } from '../fixtures'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork } from './take-in'
import { getBatch } from './whole-batch'

let world: TestWorld
let work: ReturnType<typeof createWork>
let batchId: number

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  batchId = await createBatch(work, world.lead, { library: 'house', title: 'Faulty', maker: '', licence: '' })
  const put = async (path: string, bytes: Uint8Array) => {
    const disk = join(world.folder, 'in', path)
    await mkdir(dirname(disk), { recursive: true })
    await writeFile(disk, bytes)
    await addBatchFile(work, world.lead, batchId, path, disk)
  }
  for (const map of makeSurfaceMaps(128)) {
    const flawed = map.role === 'normal' ? flipGreen({ ...map, data: map.data as Uint8Array }) : map
    const raw = { width: map.width, height: map.height, channels: map.channels }
    // The maker's profile is another than sRGB.
    const png = sharp(flawed.data, { raw }).png()
    await put(`Oak/Oak_${map.role}.png`, await (map.role === 'basecolor' ? png.withIccProfile('p3') : png).toBuffer())
  }
  await put('Chairs/Stool.glb', await makeModelBytes(1000))
  await sortBatch(work, world.lead, batchId)
  await sortBatchJob(work, { batchId })
  await measure()
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

const batch = () => getBatch(world.context.db, world.lead, batchId)
const rowOf = async (kind: string) => (await batch()).items.find(i => i.kind === kind)!
const codesOf = async (kind: string) => (await rowOf(kind)).findings.map(f => f.code)

/** What the worker does with every row that waits to be measured. */
async function measure(): Promise<void> {
  const rows = await world.context.db.select().from(batchItems).where(eq(batchItems.state, 'measuring'))
  for (const { id } of rows) await measureItemJob(work, { batchItemId: id })
}
const choose = async (kind: string, codes: FindingCode[], more = {}) => {
  const row = await rowOf(kind)
  const result = await chooseFixes(work, world.lead, batchId, { ids: [row.id], codes, takeBack: false, ...more })
  await measure()
  return result
}

describe('fixes on a worklist', () => {
  it('are offered with a picture of now and of then', async () => {
    const row = await rowOf('material')
    const index = row.findings.findIndex(f => f.code === 'normalDirectX')
    expect(row.findings[index]).toMatchObject({ fix: 'flipGreen', before: expect.any(String), after: expect.any(String) })
    const pictures = []
    for (const which of ['before', 'after'] as const) {
      const hash = await getBatchEvidence(world.context.db, world.lead, { id: batchId, itemId: row.id, index, which })
      const { data, info } = await sharp(await world.context.storage.localPath(hash))
        .raw()
        .toBuffer({ resolveWithObject: true })
      expect([info.width, info.height]).toEqual([480, 320])
      pictures.push(data)
    }
    expect(pictures[0].equals(pictures[1])).toBe(false)
    await expect(
      getBatchEvidence(world.context.db, world.lead, { id: batchId, itemId: row.id, index: 99, which: 'before' }),
    ).rejects.toMatchObject({ code: 'notFound' })
  })

  it('make files of their own; those delivered stay, and the finding is gone because it was measured anew', async () => {
    const before = await world.context.db.select().from(batchItems)
    expect(await choose('material', ['normalDirectX', 'colorProfileOther'])).toMatchObject({ refused: [] })
    const row = before.find(r => r.kind === 'material')!
    const [after] = await world.context.db.select().from(batchItems).where(eq(batchItems.id, row.id))
    expect(await codesOf('material')).not.toContain('normalDirectX')
    expect(await codesOf('material')).not.toContain('colorProfileOther')
    expect(after.state).toBe('ready')
    expect(after.inputKey).not.toBe(row.inputKey)
    expect(after.sourceFiles).toEqual(row.files)
    const normal = after.files.find(f => f.role === 'normal')!
    expect(normal.hash).not.toBe(row.files.find(f => f.role === 'normal')!.hash)
    const image = await decodeByteImage(await world.context.storage.localPath(normal.hash), 512)
    expect(findNormalHandedness(image).handedness).toBe('openGl')
    // What no fix concerns is the same file.
    expect(after.files.find(f => f.role === 'roughness')).toEqual(row.files.find(f => f.role === 'roughness'))
  })

  it('are taken back one by one, and leave no trace', async () => {
    await choose('material', ['normalDirectX'], { takeBack: true })
    expect(await codesOf('material')).toContain('normalDirectX')
    expect((await rowOf('material')).fixes.map(f => f.code)).toEqual(['convertToSrgb'])
    await choose('material', ['colorProfileOther'], { takeBack: true })
    const [row] = await world.context.db.select().from(batchItems).where(eq(batchItems.kind, 'material'))
    expect(row.files).toEqual(row.sourceFiles)
  })

  it('of a model: millimetres to metres', async () => {
    expect(await codesOf('model')).toContain('unitSuspect')
    await choose('model', ['unitSuspect'])
    expect(await codesOf('model')).not.toContain('unitSuspect')
    expect((await rowOf('model')).facts.heightM).toBeLessThan(2)
  })

  it('wait in the database for whichever worker comes, and are made once', async () => {
    const row = await rowOf('material')
    await chooseFixes(work, world.lead, batchId, { ids: [row.id], codes: ['normalDirectX'], takeBack: false })
    // Nobody measured; a second worker finds the row waiting, and once it is done a third has nothing to do.
    await measure()
    const [done] = await world.context.db.select().from(batchItems).where(eq(batchItems.id, row.id))
    await measureItemJob(work, { batchItemId: row.id })
    const [again] = await world.context.db.select().from(batchItems).where(eq(batchItems.id, row.id))
    expect(again).toEqual(done)
    expect(done.appliedFixes).toEqual(done.fixes)
  })

  it('that cannot be made are dropped with a reason; the row stays as it was', async () => {
    const row = await rowOf('model')
    const [stored] = await world.context.db.select().from(batchItems).where(eq(batchItems.id, row.id))
    const broken = await storeBytes(
      world.context,
      Buffer.from('glTF but not really a model at all, only text'),
      'model/gltf-binary',
    )
    await world.context.db
      .update(batchItems)
      .set({ sourceFiles: [{ ...stored.sourceFiles![0], hash: broken.hash }], fixes: [], state: 'ready' })
      .where(eq(batchItems.id, row.id))
    await world.context.db
      .update(batchItems)
      .set({ fixes: [{ code: 'recentre', finding: 'pivotOffBase', parameters: {} }], state: 'measuring' })
      .where(eq(batchItems.id, row.id))
    await measure()
    const [after] = await world.context.db.select().from(batchItems).where(eq(batchItems.id, row.id))
    expect(after).toMatchObject({ state: 'ready', fixes: stored.appliedFixes, files: stored.files })
    expect(after.message).toContain('could not be fixed')
    await world.context.db.update(batchItems).set({ sourceFiles: stored.sourceFiles }).where(eq(batchItems.id, row.id))
  })

  it('are told in the version that is accepted, whose findings keep their pictures', async () => {
    const row = await rowOf('material')
    await editBatchItems(work, world.lead, batchId, { ids: [row.id], widthMm: 600 })
    await acceptRows(work, world.lead, batchId, [row.id])
    const accepted = await rowOf('material')
    const sheet = await getSheet(world.pool, world.lead, accepted.itemCode!, null)
    expect(sheet.version.note).toBe('Accepted from Intake, fixed: green flipped')
    const pictured = sheet.findings.find(f => f.before)!
    const id = Number(pictured.before!.split('/')[3])
    expect(await getFindingPicture(world.context.db, world.lead, id, 'before')).toMatch(/^[0-9a-f]{64}$/)
    const [version] = await world.context.db.select().from(versions).where(eq(versions.id, sheet.version.id))
    const files = await world.context.db.select().from(versionFiles).where(eq(versionFiles.versionId, version.id))
    expect(files.map(f => f.hash)).toContain(
      (await world.context.db.select().from(batchItems).where(eq(batchItems.id, row.id)))[0].files[0].hash,
    )
    expect(
      await chooseFixes(work, world.lead, batchId, { ids: [row.id], codes: ['colorProfileOther'], takeBack: false }),
    ).toMatchObject({
      changed: [],
      refused: [{ reason: expect.stringContaining('accepted already') }],
    })
  })

  it('on a sheet make the next version; the one that was fixed stays as it is', async () => {
    const code = (await rowOf('material')).itemCode!
    const before = await getSheet(world.pool, world.lead, code, null)
    const finding = before.findings.find(f => f.code === 'colorProfileOther')!
    world.sent.length = 0
    await requestFix(work, world.lead, before.id, [finding.id!])
    const [{ job }] = world.sent.filter(s => s.queue === 'fix-item')
    await fixItemJob(work, job as Jobs['fix-item'])
    const after = await getSheet(world.pool, world.lead, code, null)
    expect(after.version).toMatchObject({ number: 2, note: 'Fixed: converted to sRGB' })
    expect(after.findings.map(f => f.code)).not.toContain('colorProfileOther')
    expect(after.facts.find(f => f.name === 'widthMm')).toMatchObject({ value: 600 })
    expect((await getSheet(world.pool, world.lead, code, 1)).findings.map(f => f.code)).toContain('colorProfileOther')
    // Done twice, or for a version that is not the newest any more, nothing comes of it.
    await fixItemJob(work, job as Jobs['fix-item'])
    expect((await getSheet(world.pool, world.lead, code, null)).version.number).toBe(2)
    await expect(requestFix(work, world.lead, before.id, [finding.id!])).rejects.toMatchObject({ code: 'conflict' })
    await expect(requestFix(work, world.artist, before.id, [finding.id!])).rejects.toMatchObject({ code: 'notAllowed' })
    await expect(requestFix(work, world.lead, 9999, [1])).rejects.toMatchObject({ code: 'notFound' })
  })

  it('are the lead’s to choose', async () => {
    const row = await rowOf('model')
    await expect(
      chooseFixes(work, world.artist, batchId, { ids: [row.id], codes: ['pivotOffBase'], takeBack: false }),
    ).rejects.toMatchObject({ code: 'notAllowed' })
  })
})
