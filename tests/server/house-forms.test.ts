import { eq } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { ByteImage } from '../../src/core/image/image'
import { acceptRows } from '../../src/server/intake/accept-rows'
import { chooseFixes } from '../../src/server/intake/choose-fixes'
import { editBatchItems } from '../../src/server/intake/edit-rows'
import { getSheet, getVersionFile } from '../../src/server/library/sheet'
import { batchFiles, batchItems } from '../../src/server/tables/intake.table'
import { items } from '../../src/server/tables/library.table'
import { makeSurfaceMaps } from '../fixtures'
import { USDA } from '../formats/models'
import { writeTga } from '../formats/pictures'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork, deliverFiles, measureRows } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
let batchId: number

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  const files: Record<string, Uint8Array> = { 'game/tray.usda': Buffer.from(USDA) }
  for (const map of makeSurfaceMaps(64)) {
    if (!(map.data instanceof Uint8Array)) continue
    const image: ByteImage = { width: map.width, height: map.height, channels: map.channels, data: map.data }
    files[`game/oak_${map.role}.tga`] = writeTga(image, { isPacked: map.role === 'roughness' })
  }
  batchId = await deliverFiles(world, work, files)
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

const rowsOf = () => work.db.select().from(batchItems).where(eq(batchItems.batchId, batchId)).orderBy(batchItems.kind)

describe('a delivery in forms that the house does not work with', () => {
  it('is measured in those it does, under the same names; what was delivered stays with the item', async () => {
    const [material, model] = await rowsOf()
    expect([material.kind, model.kind]).toEqual(['material', 'model'])
    expect([material.state, model.state]).toEqual(['ready', 'ready'])
    const shown = material.files.filter(f => f.role !== 'original')
    expect(shown.length).toBeGreaterThanOrEqual(3)
    expect(shown.every(f => f.path.endsWith('.png'))).toBe(true)
    const originals = material.files.filter(f => f.role === 'original')
    expect(originals.map(f => f.path.replace(/tga$/, 'png')).sort()).toEqual(shown.map(f => f.path).sort())
    expect(model.files.map(f => [f.path, f.role])).toEqual([
      ['game/tray.glb', 'model'],
      ['game/tray.usda', 'modelPart'],
    ])
    const outcomes = await work.db.select().from(batchFiles).where(eq(batchFiles.batchId, batchId))
    expect(outcomes.every(f => f.outcome === 'inItem')).toBe(true)
  })

  it('keeps both after a fix, and in the library; the original can be downloaded', async () => {
    const [material] = await rowsOf()
    const chosen = material.findings.find(f => f.code === 'normalNotUnitLength' || f.code === 'normalDirectX')
    if (chosen) {
      await chooseFixes(work, world.lead, batchId, { ids: [material.id], codes: [chosen.code], takeBack: false })
      await measureRows(work, batchId)
    }
    await editBatchItems(work, world.lead, batchId, { ids: [material.id], widthMm: 600 })
    const { refused } = await acceptRows(
      work,
      world.lead,
      batchId,
      (await rowsOf()).map(r => r.id),
    )
    expect(refused).toEqual([])
    const [item] = await work.db.select().from(items).where(eq(items.kind, 'material'))
    const sheet = await getSheet(world.pool, world.lead, item.code, null)
    const position = sheet.files.findIndex(f => f.role === 'original')
    expect(position).toBeGreaterThan(0)
    const file = await getVersionFile(work.db, world.artist, sheet.version.id, position)
    expect(file).toMatchObject({ mediaType: 'image/x-tga', path: expect.stringMatching(/\.tga$/) })
  })
})
