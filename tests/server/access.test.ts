import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { listBatches } from '../../src/server/intake/batches'
import { getBatchItemFile } from '../../src/server/intake/worklist'
import { setItemStates } from '../../src/server/library/edit-items'
import { getSheet, getVersionFile } from '../../src/server/library/sheet'
import { getWall, listCategories } from '../../src/server/library/wall'
import { listLibraries } from '../../src/server/people/libraries'
import { listMembers } from '../../src/server/people/members'
import { getPreviewFile } from '../../src/server/previews/previews'
import { renderPreviewJob } from '../../src/server/previews/render-preview.job'
import { createProject, getProject, listProjects, pinItems } from '../../src/server/projects/projects'
import { getUpkeep } from '../../src/server/upkeep/upkeep'
import { wallQuerySchema } from '../../src/shared/contracts/find.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { refused } from './refused'
import { createWork, takeIn } from './take-in'
import { getBatch } from './whole-batch'

let world: TestWorld
let work: ReturnType<typeof createWork>
let clientBatch: number
let clientItem: { id: number; code: string; versionId: number }

const everything = wallQuerySchema.parse({})

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  const house = await takeIn(world, work, 'house', /Skies\/Clear/)
  await house.file()
  const client = await takeIn(world, work, 'client', /Seating/)
  await client.file()
  clientBatch = client.batchId
  const { chips } = await getWall(world.context, world.lead, { ...everything, library: ['client'] })
  const sheet = await getSheet(world.pool, world.lead, chips[0].code, null)
  clientItem = { id: sheet.id, code: sheet.code, versionId: sheet.version.id }
  const wish = world.sent.findLast(s => s.queue.startsWith('render-'))!.job as Parameters<typeof renderPreviewJob>[1]
  await renderPreviewJob(work, wish)
  await setItemStates(work, world.lead, [clientItem.id], 'approved')
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

describe("a client's library, for somebody outside its team", () => {
  it('is not on the wall, in no count and in no facet', async () => {
    const { db } = world.context
    const inside = await getWall(world.context, world.insider, everything)
    const outside = await getWall(world.context, world.artist, everything)
    expect(inside.total).toBe(2)
    expect(outside.total).toBe(1)
    expect(outside.chips.map(c => c.code)).not.toContain(clientItem.code)
    expect(Object.keys(outside.facets!.categories)).toEqual(['environments', 'environments.skies'])
    expect(JSON.stringify(outside.facets)).not.toMatch(/client|furniture/)
    const chairs = async (who: typeof world.artist) =>
      (await listCategories(world.context, who)).find(c => c.path === 'furniture.chairs')!.count
    expect(await chairs(world.insider)).toBe(1)
    expect(await chairs(world.artist)).toBe(0)
    expect((await getUpkeep(db, world.artist)).items).toBe(1)
    expect((await getUpkeep(db, world.insider)).items).toBe(2)
  })

  it('is not found by words', async () => {
    const words = { ...everything, words: 'stool' }
    expect((await getWall(world.context, world.insider, words)).total).toBe(1)
    expect(await getWall(world.context, world.artist, words)).toMatchObject({
      total: 0,
      chips: [],
      facets: { categories: {}, terms: {}, figures: {} },
    })
    expect((await getWall(world.context, world.artist, { ...everything, library: ['client'] })).total).toBe(0)
  })

  it('gives no sheet, no file and no picture, as if it did not exist', async () => {
    const { db } = world.context
    expect(await refused(getSheet(world.pool, world.artist, clientItem.code, null))).toBe('notFound')
    expect(await refused(getVersionFile(db, world.artist, clientItem.versionId, 0))).toBe('notFound')
    expect(await refused(getBatch(db, world.artist, clientBatch))).toBe('notFound')
    expect(await refused(getBatchItemFile(db, world.artist, clientBatch, 1, 0))).toBe('notFound')
    const { preview } = await getSheet(world.pool, world.insider, clientItem.code, null)
    const id = Number(preview!.url.split('/').pop())
    expect(await getPreviewFile(world.pool, world.insider.id, id, { width: null })).toMatch(/^[0-9a-f]{64}$/)
    expect(await refused(getPreviewFile(world.pool, world.artist.id, id, 'linear'))).toBe('notFound')
    expect((await listBatches(db, world.artist)).map(b => b.id)).not.toContain(clientBatch)
    expect((await listLibraries(db, world.artist)).map(l => l.key)).toEqual(['house'])
    expect((await listMembers(db, world.artist)).flatMap(m => m.libraries.map(l => l.title))).not.toContain('A client')
  })

  it('cannot be carried out through a project of the house', async () => {
    const houseProject = await createProject(work, world.lead, { code: 'HOUSE', title: 'House', library: 'house' })
    const clientProject = await createProject(work, world.lead, { code: 'CLIENT', title: 'Client', library: 'client' })
    expect((await pinItems(work, world.lead, houseProject, [clientItem.id])).refused).toMatchObject([{ code: clientItem.code }])
    expect((await pinItems(work, world.lead, clientProject, [clientItem.id])).changed).toEqual([clientItem.id])
    expect((await listProjects(world.context, world.artist)).map(p => p.code)).toEqual(['HOUSE'])
    expect(await refused(getProject(world.context, world.artist, clientProject))).toBe('notFound')
    expect(await refused(pinItems(work, world.artist, clientProject, [clientItem.id]))).toBe('notFound')
    // An id that one may not see is no item at all.
    expect(await pinItems(work, world.artist, houseProject, [clientItem.id])).toEqual({ changed: [], refused: [] })
  })
})
