import { eq } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { acceptRows } from '../../src/server/intake/accept-rows'
import { measureItemJob } from '../../src/server/intake/measure-item.job'
import { regroup, undoRegroup } from '../../src/server/intake/regroup/regroup'
import { batchFiles, batchItems } from '../../src/server/tables/intake.table'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork, takeIn } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
let batchId: number

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  ;({ batchId } = await takeIn(world, work))
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

const rows = () => world.context.db.select().from(batchItems).where(eq(batchItems.batchId, batchId)).orderBy(batchItems.id)
const named = async (name: string) => (await rows()).find(r => r.name === name)!
const measureAll = async () => {
  for (const row of await rows()) await measureItemJob(work, { batchItemId: row.id })
}
const outcomeOf = async (path: string) =>
  (await world.context.db.select().from(batchFiles).where(eq(batchFiles.batchId, batchId))).find(f => f.path === path)
/** Everything that tells rows apart, for comparing before and after. */
const picture = async () =>
  (await rows()).map(r => [
    r.id,
    r.name,
    r.kind,
    r.state,
    r.widthMm,
    r.files.map(f => `${f.role} ${f.path}`),
    r.findings.map(f => f.code),
  ])
const send = (wish: Parameters<typeof regroup>[3]) => regroup(world.context, world.lead, batchId, wish)

describe('sorting by hand', () => {
  it('is for leads only, and not for what is accepted', async () => {
    const oak = await named('Oak test')
    await expect(
      regroup(world.context, world.artist, batchId, { action: 'merge', ids: [oak.id, oak.id + 1] }),
    ).rejects.toMatchObject({ code: 'notAllowed' })
    await expect(send({ action: 'merge', ids: [oak.id, 999_999] })).rejects.toMatchObject({ code: 'notFound' })
  })

  it('makes a row of some files, measures both again, and puts all of it back to the letter', async () => {
    const before = await picture()
    const oak = await named('Oak test')
    const normal = oak.files.find(f => f.role === 'normal')!
    const { undo } = await send({ action: 'split', itemId: oak.id, paths: [normal.path] })
    await measureAll()
    const after = await rows()
    expect(after).toHaveLength(before.length + 1)
    const made = after.at(-1)!
    expect(made).toMatchObject({ kind: 'material', name: 'Oak test', state: 'ready', widthMm: 600 })
    expect(made.files.map(f => f.path)).toEqual([normal.path])
    expect(made.findings.map(f => f.code)).toContain('baseColorMissing')
    expect((await named('Oak test')).files.map(f => f.path)).not.toContain(normal.path)
    await undoRegroup(world.context, world.lead, batchId, undo)
    await measureAll()
    expect(await picture()).toEqual(before)
    await expect(undoRegroup(world.context, world.lead, batchId, undo)).rejects.toMatchObject({ code: 'notFound' })
  })

  it('makes one of two skies: the second stands beside the first as another size', async () => {
    const before = await picture()
    const [clear, other] = [await named('Clear test sky'), await named('Other test sky')]
    const { undo } = await send({ action: 'merge', ids: [clear.id, other.id] })
    expect((await rows()).map(r => r.id)).not.toContain(other.id)
    expect((await named('Clear test sky')).files.map(f => f.role)).toEqual(['environment', 'alternate'])
    await expect(send({ action: 'merge', ids: [clear.id, (await named('Cube stool')).id] })).rejects.toThrow('of one kind')
    await undoRegroup(world.context, world.lead, batchId, undo)
    await measureAll()
    expect(await picture()).toEqual(before)
  })

  it('leaves files out and takes them in again, into the row or as one of their own', async () => {
    const oak = await named('Oak test')
    const rough = oak.files.find(f => f.role === 'roughness')!
    const left = await send({ action: 'leave', itemId: oak.id, paths: [rough.path] })
    expect(await outcomeOf(rough.path)).toMatchObject({ outcome: 'leftOver', code: 'byHand' })
    await send({ action: 'take', itemId: oak.id, paths: [rough.path] })
    expect((await named('Oak test')).files.find(f => f.path === rough.path)?.role).toBe('roughness')
    expect(await outcomeOf(rough.path)).toMatchObject({ outcome: 'inItem', code: null })
    // Something was sorted on top of it: the older one cannot be taken back alone.
    await expect(undoRegroup(world.context, world.lead, batchId, left.undo)).rejects.toMatchObject({ code: 'conflict' })
    await expect(send({ action: 'take', itemId: null, paths: [rough.path] })).rejects.toThrow('in a row already')
    const note = await send({ action: 'take', itemId: oak.id, paths: ['read me.txt'] })
    expect((await named('Oak test')).files.at(-1)).toMatchObject({ path: 'read me.txt', role: 'document' })
    await undoRegroup(world.context, world.lead, batchId, note.undo)
    expect(await outcomeOf('read me.txt')).toMatchObject({ outcome: 'leftOver', code: 'document' })
  })

  it('a row with nothing of its own left goes, its files beside the others', async () => {
    const stool = await named('Cube stool')
    const { undo } = await send({ action: 'leave', itemId: stool.id, paths: stool.files.map(f => f.path) })
    expect(await named('Cube stool')).toBeUndefined()
    await undoRegroup(world.context, world.lead, batchId, undo)
    await measureAll()
    expect(await named('Cube stool')).toMatchObject({ id: stool.id, state: 'ready' })
  })

  it('gives a map another role; the one that had it stands aside', async () => {
    const oak = await named('Oak test')
    const [rough, height] = ['roughness', 'height'].map(role => oak.files.find(f => f.role === role)!)
    const { undo } = await send({ action: 'setRole', itemId: oak.id, path: height.path, role: 'roughness' })
    const files = (await named('Oak test')).files
    expect(files.find(f => f.path === height.path)?.role).toBe('roughness')
    expect(files.find(f => f.path === rough.path)?.role).toBe('alternate')
    await undoRegroup(world.context, world.lead, batchId, undo)
    await measureAll()
  })

  it('refuses what is accepted, and to undo under it', async () => {
    const oak = await named('Oak test')
    const rough = oak.files.find(f => f.role === 'roughness')!
    const { undo } = await send({ action: 'setRole', itemId: oak.id, path: rough.path, role: 'gloss' })
    await measureAll()
    await acceptRows(world.context, world.lead, batchId, [oak.id])
    await expect(send({ action: 'leave', itemId: oak.id, paths: [rough.path] })).rejects.toThrow('is accepted already')
    await expect(undoRegroup(world.context, world.lead, batchId, undo)).rejects.toThrow('was accepted since')
  })
})
