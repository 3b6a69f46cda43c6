import { appendFile, mkdir, readdir, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { listBatches } from '../../src/server/intake/batches'
import { sortBatchJob } from '../../src/server/intake/sort-batch.job'
import { type Watch, watchFolder } from '../../src/server/intake/watch-folder'
import { writeDelivery } from '../fixtures'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork } from './take-in'
import { getBatch } from './whole-batch'

let world: TestWorld
let work: ReturnType<typeof createWork>
let folder: string
let watch: Watch
const reports: string[] = []

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  folder = join(world.folder, 'watched')
  for (const library of ['house', 'client', 'nobody']) await mkdir(join(folder, library), { recursive: true })
  watch = watchFolder({ ...work, temporaryFolder: join(world.folder, 'temporary') }, folder, text => reports.push(text))
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

describe('a watched folder', () => {
  it('takes in what has come to rest, and only that; it stays, moved aside', async () => {
    await writeDelivery(join(folder, 'house', 'Spring'))
    await writeFile(join(folder, 'house', '.hidden'), 'x')
    await writeDelivery(join(folder, 'nobody', 'Lost'))
    expect(await watch.look()).toEqual([])
    // Somebody is still copying.
    await appendFile(join(folder, 'house', 'Spring', 'read me.txt'), 'More.\n')
    expect(await watch.look()).toEqual([])
    const [batchId] = await watch.look()
    expect(await readdir(join(folder, 'house'))).toEqual(['.hidden', 'taken'])
    await sortBatchJob(work, { batchId })
    const batch = await getBatch(world.context.db, world.lead, batchId)
    expect(batch).toMatchObject({ title: 'Spring', library: 'House library', person: world.lead.name })
    expect(batch.items.map(i => i.name).sort()).toEqual(['Clear test sky', 'Cube stool', 'Oak test', 'Other test sky'])
    expect(await watch.look()).toEqual([])
    // A folder that no library is called by is left alone.
    expect(await readdir(join(folder, 'nobody'))).toEqual(['Lost'])
  })

  it('takes a second delivery of the same name, and a single file, for the library they lie in', async () => {
    await mkdir(join(folder, 'client', 'Spring'))
    await writeFile(join(folder, 'client', 'Spring', 'notes.txt'), 'Only words.')
    await writeFile(join(folder, 'house', 'Spring'), 'a file of that name')
    await watch.look()
    expect(await watch.look()).toHaveLength(2)
    expect((await readdir(join(folder, 'house', 'taken'))).sort()).toEqual(['1 Spring', 'Spring'])
    expect((await listBatches(world.context.db, world.artist)).map(b => b.library)).not.toContain('A client')
  })

  it('puts an empty delivery aside and says so', async () => {
    await mkdir(join(folder, 'house', 'Hollow', '.git'), { recursive: true })
    await writeFile(join(folder, 'house', 'Hollow', '.git', 'x'), 'y')
    await watch.look()
    expect(await watch.look()).toEqual([])
    expect(await readdir(join(folder, 'house', 'refused'))).toEqual(['Hollow'])
    expect(reports.join()).toContain('holds no files')
  })
})
