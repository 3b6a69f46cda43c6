import { mkdir, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { eq, sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { encodeMap } from '../../src/demo/make-file'
import { acceptRows } from '../../src/server/intake/accept-rows'
import { addBatchFile, createBatch, sortBatch } from '../../src/server/intake/batches'
import { editBatchItems } from '../../src/server/intake/edit-rows'
import { mapSourceFolder } from '../../src/server/intake/map-source-folder'
import { measureItemJob } from '../../src/server/intake/measure-item.job'
import { sortBatchJob } from '../../src/server/intake/sort-batch.job'
import { getWall } from '../../src/server/library/wall'
import { batchItems } from '../../src/server/tables/intake.table'
import { wallQuerySchema } from '../../src/shared/contracts/find.contract'
import { makeModelBytes, makeSurfaceMaps } from '../fixtures'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork } from './take-in'
import { getBatch } from './whole-batch'

let world: TestWorld
let work: ReturnType<typeof createWork>
let count = 0

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

/** A delivery whose own order is its folders: two sets under one, a model under another. */
async function deliver(maker: string): Promise<number> {
  const batchId = await createBatch(world.context, world.lead, { library: 'house', title: 'Ordered', maker })
  const put = async (path: string, bytes: Uint8Array) => {
    const full = join(world.folder, `ordered-${count++}`, 'x')
    await mkdir(dirname(full), { recursive: true })
    await writeFile(full, bytes)
    await addBatchFile(world.context, world.lead, batchId, path, full)
  }
  for (const [name, more] of [
    ['Quern', 0],
    ['Vellum', 9],
  ] as const)
    for (const map of makeSurfaceMaps().slice(0, 2))
      await put(
        `Set/Group 7/${name}/${name}_${map.role}.png`,
        await encodeMap({ ...map, data: map.data.map(v => Math.min(255, v + more)) } as typeof map),
      )
  await put('Set/Seating/Zed.glb', await makeModelBytes())
  await sortBatch(world.context, world.lead, batchId)
  await sortBatchJob(work, { batchId })
  for (const row of await rowsOf(batchId)) await measureItemJob(work, { batchItemId: row.id })
  return batchId
}
const rowsOf = (batchId: number) =>
  world.context.db.select().from(batchItems).where(eq(batchItems.batchId, batchId)).orderBy(batchItems.name)

describe('the delivery’s own order', () => {
  let first: number
  it('stands beside the house tree with a proposal and how sure it is', async () => {
    first = await deliver('Vale & Sons')
    const { sourceFolders } = await getBatch(world.context.db, world.lead, first)
    expect(sourceFolders.map(p => [p.sourceFolder, p.kind, p.rows])).toEqual([
      ['Group 7', 'material', 2],
      ['Seating', 'model', 1],
    ])
    expect(sourceFolders[0].confidence).toBeLessThan(0.5)
  })

  it('is decided for all in a source folder at once, measured again where that changes what is usual, and by leads only', async () => {
    const wish = { sourceFolder: 'Group 7', kind: 'material', category: 'surfaces.metal' } as const
    await expect(mapSourceFolder(world.context, world.artist, first, wish)).rejects.toMatchObject({ code: 'notAllowed' })
    await expect(mapSourceFolder(world.context, world.lead, first, { ...wish, category: 'furniture' })).rejects.toMatchObject({
      code: 'badRequest',
    })
    expect(await mapSourceFolder(world.context, world.lead, first, wish)).toBe(2)
    const rows = await rowsOf(first)
    expect(rows.map(r => [r.name, r.category, r.state])).toEqual([
      ['Quern', 'surfaces.metal', 'measuring'],
      ['Vellum', 'surfaces.metal', 'measuring'],
      ['Zed', rows[2].category, 'ready'],
    ])
    expect(world.sent.slice(-2).map(s => s.queue)).toEqual(['measure-item', 'measure-item'])
    for (const row of rows) await measureItemJob(work, { batchItemId: row.id })
  })

  it('is remembered for the supplier, and for no other', async () => {
    const next = await deliver('vale & sons')
    expect((await rowsOf(next)).map(r => r.category).slice(0, 2)).toEqual(['surfaces.metal', 'surfaces.metal'])
    expect((await getBatch(world.context.db, world.lead, next)).sourceFolders[0]).toMatchObject({
      reason: 'remembered',
      astray: 0,
    })
    const other = await deliver('Somebody else')
    expect((await rowsOf(other))[0].category).not.toBe('surfaces.metal')
  })

  it('stays a fact of the accepted item, and finds it', async () => {
    const rows = await rowsOf(first)
    await editBatchItems(world.context, world.lead, first, { ids: rows.map(r => r.id), widthMm: 600 })
    await acceptRows(
      world.context,
      world.lead,
      first,
      rows.map(r => r.id),
    )
    const { rows: facts } = await world.context.db.execute<{ text: string }>(
      sql`select text from facts where name = 'deliveredAs' order by text`,
    )
    expect(facts.map(f => f.text)).toEqual(['Group 7', 'Group 7', 'Seating'])
    const found = await getWall(world.context, world.artist, wallQuerySchema.parse({ words: 'group 7', limit: 10 }))
    expect(found.chips.map(i => i.name).sort()).toEqual(['Quern', 'Vellum'])
  })
})
