import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Stage } from '../../src/core/mock-up/scene/scene'
import { addBatchFile, createBatch } from '../../src/server/intake/batches'
import { setItemStates } from '../../src/server/library/edit-items'
import { changeMockUp, createMockUp, editMockUp, getMockUp, keepVersion } from '../../src/server/mock-ups/mock-ups'
import { openSources } from '../../src/server/mock-ups/open-sources'
import { findItems } from '../../src/server/mock-ups/resolve-items'
import { getSchedule } from '../../src/server/mock-ups/schedule'
import type { Actor } from '../../src/server/platform/access'
import { createProject } from '../../src/server/projects/projects'
import { listProposals, rememberMaterials } from '../../src/server/stage-models/propose-materials'
import { readStageModelJob } from '../../src/server/stage-models/read-stage-model.job'
import { createStageModel, listStageModels, removeStageModel } from '../../src/server/stage-models/stage-models'
import { batches, batchFiles } from '../../src/server/tables/intake.table'
import { items } from '../../src/server/tables/library.table'
import { mockUps } from '../../src/server/tables/mock-up.table'
import { collect } from '../../src/server/upkeep/collect'
import { giveUp } from '../../src/server/upkeep/give-up'
import { createTestWorld, type TestWorld } from '../test-database'
import { refused } from './refused'
import { serve } from './serve'
import { createWork, takeIn } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
let app: Awaited<ReturnType<typeof serve>>
let oak: typeof items.$inferSelect
let ferry: number
let secret: number
let serial = 0

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  app = await serve(world)
  await (await takeIn(world, work, 'house')).file()
  const all = await world.context.db.select().from(items).orderBy(items.code)
  await setItemStates(
    work,
    world.lead,
    all.map(i => i.id),
    'approved',
  )
  oak = all.find(i => i.kind === 'material')!
  ferry = await createProject(work, world.artist, { code: 'FERRY', title: 'Ferry hall', library: 'house' })
  secret = await createProject(work, world.insider, { code: 'KETTLE', title: 'Kettle room', library: 'client' })
})
afterAll(async () => {
  await app.close()
  await work.threads.close()
  await world.close()
})

/** A plot and a wall in millimetres with two materials; one is called as an item of the library is. */
const site = (heightMm = 2500) => `mtllib site.mtl
v 0 0 0
v 4000 0 0
v 4000 0 3000
v 0 0 3000
v 0 ${heightMm} 0
v 4000 ${heightMm} 0
o floor
usemtl ${oak.name.replace(/ /g, '_')}
f 1 4 3 2
o wall
usemtl Putz
f 1 2 6 5
`

async function signIn(name: 'artist' | 'insider'): Promise<string> {
  const response = await fetch(`${app.base}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: app.base },
    body: JSON.stringify({ email: `${world[name].name}@studio.example`, password: `${world[name].name}-password` }),
  })
  return response.headers.get('set-cookie')!.split(';')[0]
}

async function bring(actor: Actor, projectId: number | null, text: string, library = 'house'): Promise<number> {
  const batchId = await createBatch(work, actor, { library, title: 'site.obj', purpose: 'scene' })
  const put = async (name: string, content: string) => {
    const path = join(world.folder, `site-${++serial}`)
    await writeFile(path, content)
    await addBatchFile(work, actor, batchId, name, path)
  }
  await put('site.obj', text)
  await put('site.mtl', `newmtl ${oak.name.replace(/ /g, '_')}\nKd 0.4 0.3 0.2\nnewmtl Putz\nKd 0.8 0.8 0.8\n`)
  const id = await createStageModel(work, actor, { batchId, projectId, unit: 'asSaid', up: 'y' })
  await readStageModelJob(work, { id })
  return id
}
const viewOf = async (actor: Actor, id: number, project?: number) =>
  (await listStageModels(work, actor, project)).find(m => m.id === id)
const stageOf = (key: string, more: object = {}): Stage => ({
  ...{ kind: 'model', materials: {}, model: { key, name: 'site.obj' }, wears: {}, without: [] },
  ...more,
})

describe('a model of one’s own', () => {
  it('is read once, stands under a mock-up, is measured with what it wears, and opened by who sees the mock-up', async () => {
    const id = await bring(world.artist, ferry, site())
    const model = (await viewOf(world.artist, id, ferry))!
    expect(model).toMatchObject({ state: 'ready', unit: 'mm', parts: 2, materials: 2, triangles: 4, missing: [] })
    expect(model.sizeM?.map(v => Math.round(v * 100) / 100)).toEqual([4, 2.5, 3])
    const key = model.key!
    const mockUp = await createMockUp(work, world.artist, { title: 'Site', projectId: ferry, stage: stageOf(key) })

    const { materials } = await listProposals(work, world.artist, id)
    expect(materials.map(m => m.name)).toEqual([oak.name.replace(/ /g, '_'), 'Putz'])
    const [first] = materials[0].proposals
    expect(first).toMatchObject({ code: oak.code, reasons: expect.arrayContaining(['name']) })
    const { items: known } = await getMockUp(work, world.artist, mockUp)
    expect(known.map(i => [i.ref.inputKey, i.files[0].url])).toEqual([[key, `/api/mock-ups/${mockUp}/stage?key=${key}`]])

    const all = await getMockUp(work, world.artist, mockUp)
    const [item] = await findItems(work, world.artist, [oak.id])
    const wears = {
      [materials[0].name]: {
        material: item.ref,
        turnDeg: 0,
        offsetM: [0, 0] as [number, number],
        mapping: 'own' as const,
        override: {},
      },
    }
    const change = { stage: stageOf(key, { wears }) }
    await changeMockUp(work, world.artist, mockUp, { page: 'p', base: all.revision, change })
    const { scene } = await getMockUp(work, world.artist, mockUp)
    expect(Object.keys(await openSources(work, world.artist, scene)).sort()).toEqual([item.ref.inputKey, key].sort())
    const schedule = await getSchedule({ ...work, compute: work.threads }, world.artist, mockUp, { waste: 0 } as never)
    expect(schedule.missing).toEqual([])
    expect(schedule.rows.find(r => r.code === oak.code)?.net).toBeCloseTo(12, 5)
    expect(schedule.rows.find(r => r.name === 'Putz')?.net).toBeCloseTo(10, 5)
    // It is named, and so it is kept.
    await collect(work, world.lead, { days: 1, dryRun: false })
    expect(Object.keys(await openSources(work, world.artist, scene))).toContain(key)
  })

  it('that would not read says why, and the next reading of the same files is another one', async () => {
    const id = await bring(world.artist, ferry, 'o nothing\n')
    const failed = (await viewOf(world.artist, id, ferry))!
    expect(failed).toMatchObject({ state: 'failed', key: null, message: expect.stringContaining('no faces') })
    expect(await refused(listProposals(work, world.artist, id))).toBe('notReady')
    const again = await createStageModel(work, world.artist, { batchId: failed.batchId, projectId: ferry, unit: 'cm', up: 'z' })
    expect(again).not.toBe(id)
    await giveUp(work, 'read-stage-model', { id: again }, 'x')
    expect(await viewOf(world.artist, again, ferry)).toMatchObject({ state: 'failed', unit: 'cm', up: 'z' })
  })

  it('is forgotten with its files by who brought it, and stays as long as something stands in it', async () => {
    const { db } = world.context
    const id = await bring(world.artist, ferry, site(2800))
    const { key, batchId } = (await viewOf(world.artist, id, ferry))!
    const mockUp = await createMockUp(work, world.artist, { title: 'Stands', projectId: ferry, stage: stageOf(key!) })
    expect(await refused(removeStageModel(work, world.insider, id))).toBe('notAllowed')
    await expect(removeStageModel(work, world.artist, id)).rejects.toThrow('A mock-up stands in site.obj')
    // What is read otherwise is of the same files.
    const turned = await createStageModel(work, world.artist, { batchId, projectId: ferry, unit: 'mm', up: 'z' })
    await readStageModelJob(work, { id: turned })
    await removeStageModel(work, world.artist, turned)
    expect(await db.$count(batches, eq(batches.id, batchId))).toBe(1)
    // Brought a second time it is there still when the first is forgotten.
    const twice = await bring(world.lead, ferry, site(2800))
    expect((await viewOf(world.lead, twice, ferry))!.key).toBe(key)
    await removeStageModel(work, world.artist, id)
    expect(await db.$count(batches, eq(batches.id, batchId))).toBe(0)
    expect(await db.$count(batchFiles, eq(batchFiles.batchId, batchId))).toBe(0)
    expect(await refused(removeStageModel(work, world.lead, twice))).toBe('conflict')
    const { scene, revision } = await getMockUp(work, world.artist, mockUp)
    expect(Object.keys(await openSources(work, world.artist, scene))).toContain(key)
    await keepVersion(work, world.artist, mockUp, 'As it was')
    const change = { stage: { kind: 'empty' as const, materials: {} } }
    await changeMockUp(work, world.artist, mockUp, { page: 'p', base: revision, change })
    expect(await refused(removeStageModel(work, world.lead, twice))).toBe('conflict')
    await editMockUp(work, world.artist, mockUp, { isRemoved: true })
    expect(await refused(removeStageModel(work, world.lead, twice))).toBe('conflict')
    await db
      .update(mockUps)
      .set({ removedAt: new Date(Date.now() - 2 * 86_400_000) })
      .where(eq(mockUps.id, mockUp))
    await removeStageModel(work, world.lead, twice)
    expect(await refused(removeStageModel(work, world.lead, twice))).toBe('notFound')
  })

  it('is remembered with what its materials are in the house, for the next of its project', async () => {
    const id = await bring(world.artist, ferry, site())
    await rememberMaterials(work, world.artist, id, { Putz: oak.code })
    const next = await bring(world.lead, ferry, site(2600))
    const proposed = (await listProposals(work, world.lead, next)).materials.find(m => m.name === 'Putz')!
    expect(proposed.proposals[0]).toMatchObject({ code: oak.code, confidence: 1, reasons: expect.arrayContaining(['before']) })
    await rememberMaterials(work, world.lead, next, { Putz: null })
    const forgotten = (await listProposals(work, world.lead, next)).materials.find(m => m.name === 'Putz')!
    expect(forgotten.proposals.every(p => !p.reasons.includes('before'))).toBe(true)
    expect(await refused(rememberMaterials(work, world.lead, next, { Putz: 'NOT-0001' }))).toBe('badRequest')
  })
})

describe('whose it is', () => {
  it('nobody outside sees, proposes for, or stands in a client’s model, and it goes into no mock-up of others', async () => {
    const id = await bring(world.insider, secret, site(2700), 'client')
    const { key } = (await viewOf(world.insider, id, secret))!
    expect(await viewOf(world.artist, id, secret)).toBeUndefined()
    expect(await refused(listProposals(work, world.artist, id))).toBe('notFound')
    expect(await refused(rememberMaterials(work, world.artist, id, {}))).toBe('notFound')
    const stage = stageOf(key!)
    expect(await refused(createMockUp(work, world.artist, { title: 'x', projectId: ferry, stage }))).toBe('badRequest')
    // Who sees both may not carry it over to those who do not.
    expect(await refused(createMockUp(work, world.lead, { title: 'x', projectId: ferry, stage }))).toBe('badRequest')
    const own = await createMockUp(work, world.lead, { title: 'x', projectId: null, stage })
    expect(await refused(editMockUp(work, world.lead, own, { isShared: true }))).toBe('badRequest')
    const there = await createMockUp(work, world.insider, { title: 'x', projectId: secret, stage })
    const url = (mockUp: number, of = key) => `/api/mock-ups/${mockUp}/stage?key=${of}`
    const asked = async (actor: 'artist' | 'insider', path: string) =>
      (await fetch(app.base + path, { headers: { cookie: await signIn(actor) } })).status
    expect(await asked('insider', url(there))).toBe(200)
    expect(await asked('artist', url(there))).toBe(404)
    // A hash that is known opens nothing by itself.
    const mine = await createMockUp(work, world.artist, { title: 'y', projectId: ferry })
    expect(await asked('artist', url(mine))).toBe(404)
    const change = { stage }
    expect(await refused(changeMockUp(work, world.artist, mine, { page: 'p', base: 0, change }))).toBe('badRequest')
  })

  it('one’s own is nobody else’s', async () => {
    const id = await bring(world.artist, null, site())
    expect(await viewOf(world.artist, id)).toMatchObject({ id })
    expect(await viewOf(world.insider, id)).toBeUndefined()
    expect(await refused(listProposals(work, world.insider, id))).toBe('notFound')
  })
})
