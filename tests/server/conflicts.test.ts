import { eq } from 'drizzle-orm'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { acceptRows, takeBackRows } from '../../src/server/intake/accept-rows'
import { editBatchItems } from '../../src/server/intake/edit-rows'
import { setItemStates } from '../../src/server/library/edit-items'
import { getSheet } from '../../src/server/library/sheet'
import { items } from '../../src/server/tables/library.table'
import { makeModelBytes, makeSurfaceMaps } from '../fixtures'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork, deliverFiles } from './take-in'
import { getBatch } from './whole-batch'

let world: TestWorld
let work: ReturnType<typeof createWork>
const maps = makeSurfaceMaps(64)

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

/** A set of maps as files; `save` lets a map be saved another way, `change` makes it another map. */
async function encodeSet(
  stem: string,
  {
    save = 6,
    change = (_role: string, v: number) => v,
  }: { save?: number; change?: (role: string, v: number, i: number) => number } = {},
): Promise<Record<string, Uint8Array>> {
  const files: Record<string, Uint8Array> = {}
  for (const { role, width, height, channels, data } of maps) {
    const changed = Uint8Array.from(data, (v, i) => Math.min(255, Math.max(0, change(role, Number(v), i))))
    const raw = { width, height, channels }
    files[`${stem}/${stem}_${role}.png`] = await sharp(changed, { raw }).png({ compressionLevel: save }).toBuffer()
  }
  return files
}

/** Takes a delivery in up to the worklist, and gives its rows. */
async function deliver(files: Record<string, Uint8Array>, library = 'house') {
  const batchId = await deliverFiles(world, work, files, { library })
  const rows = async () => (await getBatch(world.context.db, world.lead, batchId)).items
  return { batchId, rows, row: async () => (await rows())[0] }
}
const file = async ({ batchId, row }: Awaited<ReturnType<typeof deliver>>) =>
  acceptRows(work, world.lead, batchId, [(await row()).id])
const itemCount = async () => (await world.context.db.select().from(items).where(eq(items.state, 'draft'))).length

describe('what a delivery brings that the library has', () => {
  it('is new the first time', async () => {
    const first = await deliver({ ...(await encodeSet('Oak_Plank')), 'Chairs/Stool.glb': await makeModelBytes() })
    const [a, b] = await first.rows()
    expect([a.conflict, b.conflict]).toEqual([null, null])
    await editBatchItems(work, world.lead, first.batchId, { ids: [a.id, b.id], widthMm: 450 })
    await acceptRows(work, world.lead, first.batchId, [a.id, b.id])
    expect(await itemCount()).toBe(2)
  })

  it('file for file the same: linked, nothing is accepted twice, its width is known', async () => {
    const again = await deliver(await encodeSet('Oak_Plank'))
    expect(await again.row()).toMatchObject({
      conflict: { kind: 'identical', name: 'Oak plank' },
      decision: 'link',
      widthMm: 450,
      needsWidth: false,
    })
    await file(again)
    expect(await itemCount()).toBe(2)
    expect((await again.row()).itemCode).toBe((await again.row()).conflict!.code)
    // Taken back, the item that was there before stays as it is.
    expect(await takeBackRows(work, world.lead, again.batchId, [(await again.row()).id])).toMatchObject({ refused: [] })
    expect(await again.row()).toMatchObject({ state: 'ready', itemCode: null })
    expect(await itemCount()).toBe(2)
  })

  it('saved anew under another name: known by its pixels, proposed as a version', async () => {
    const saved = await deliver(await encodeSet('Eiche_Diele', { save: 1 }))
    expect(await saved.row()).toMatchObject({ conflict: { kind: 'newerFiles', differentBits: 0 }, decision: 'newVersion' })
  })

  it('with another roughness: becomes the next version, and gives way again when it is taken back', async () => {
    const newer = await deliver(await encodeSet('Oak_Plank', { change: (role, v) => (role === 'roughness' ? v * 0.8 : v) }))
    const before = await newer.row()
    expect(before).toMatchObject({ conflict: { kind: 'newerFiles' }, decision: 'newVersion', widthMm: 450 })
    const { code } = before.conflict!
    const { id } = await getSheet(world.pool, world.lead, code, null)
    await setItemStates(work, world.lead, [id], 'approved')
    await file(newer)
    const after = await getSheet(world.pool, world.lead, code, null)
    expect([after.version.number, after.state]).toEqual([2, 'inReview'])
    expect(after.versions.map(v => [v.number, v.isApproved])).toEqual([
      [2, false],
      [1, true],
    ])
    await takeBackRows(work, world.lead, newer.batchId, [before.id])
    expect((await getSheet(world.pool, world.lead, code, null)).version.number).toBe(1)
    await setItemStates(work, world.lead, [id], 'draft')
  })

  it('that only looks alike is shown beside it, and kept as well', async () => {
    const alike = await deliver(await encodeSet('Ash_Board', { change: (role, v) => (role === 'basecolor' ? v * 0.93 + 4 : v) }))
    const row = await alike.row()
    expect(row).toMatchObject({ conflict: { kind: 'nearDuplicate' }, decision: 'keepBoth' })
    expect(row.conflict!.differentBits).toBeLessThanOrEqual(6)
    await editBatchItems(work, world.lead, alike.batchId, { ids: [row.id], widthMm: 300, decision: 'link' })
    expect((await alike.row()).decision).toBe('link')
    await editBatchItems(work, world.lead, alike.batchId, { ids: [row.id], decision: 'keepBoth' })
    await file(alike)
    expect(await itemCount()).toBe(3)
    const accepted = await alike.row()
    await takeBackRows(work, world.lead, alike.batchId, [row.id])
    expect((await getSheet(world.pool, world.lead, accepted.itemCode!, null)).state).toBe('withdrawn')
    expect(await itemCount()).toBe(2)
  })

  it('another picture under the same name is said to be that', async () => {
    const other = await deliver(await encodeSet('Oak_Plank', { change: (_role, _v, i) => ((i * 7919) % 251) ^ ((i >> 6) & 255) }))
    const taken = await other.row()
    expect(taken).toMatchObject({
      conflict: { kind: 'sameName', otherName: `${taken.name} Test Makers` },
      decision: 'keepBoth',
    })
  })

  it('of a model: the same triangles in a file that was saved anew', async () => {
    const { NodeIO } = await import('@gltf-transform/core')
    const document = await new NodeIO().readBinary(await makeModelBytes())
    document.getRoot().getAsset().generator = 'another program'
    const saved = await deliver({ 'Chairs/Hocker.glb': await new NodeIO().writeBinary(document) })
    expect(await saved.row()).toMatchObject({ conflict: { kind: 'newerFiles', name: 'Stool', differentBits: null } })
  })

  it('is not looked for in another library', async () => {
    const elsewhere = await deliver(await encodeSet('Oak_Plank'), 'client')
    expect((await elsewhere.row()).conflict).toBeNull()
    expect(await takeBackRows(work, world.lead, elsewhere.batchId, [(await elsewhere.row()).id])).toEqual({
      changed: [],
      refused: [],
    })
    await expect(takeBackRows(work, world.insider, elsewhere.batchId, [1])).rejects.toMatchObject({ code: 'notAllowed' })
  })
})
