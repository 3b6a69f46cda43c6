import { eq } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { place } from '../../src/core/mock-up/scene/pieces'
import { shotSchema } from '../../src/core/mock-up/scene/scene'
import { decide, replacePin } from '../../src/server/decisions/decide'
import { listDecisions } from '../../src/server/decisions/list-decisions'
import { listRevisions } from '../../src/server/decisions/list-revisions'
import { orderComparison } from '../../src/server/decisions/order-comparison'
import { editItem, setItemStates } from '../../src/server/library/edit-items'
import { getSheet } from '../../src/server/library/sheet'
import { standBeside } from '../../src/server/library/stand-beside'
import { changeMockUp, createMockUp, getMockUp } from '../../src/server/mock-ups/mock-ups'
import { findItems } from '../../src/server/mock-ups/resolve-items'
import { renderPreviewJob } from '../../src/server/previews/render-preview.job'
import { editProject } from '../../src/server/projects/edit-project'
import { createProject, getProject, listProjects, pinItems } from '../../src/server/projects/projects'
import { items } from '../../src/server/tables/library.table'
import { mockUpPictures } from '../../src/server/tables/mock-up.table'
import { versionDifferences } from '../../src/server/tables/project.table'
import { type Decide, decideSchema } from '../../src/shared/contracts/decisions.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { refused } from './refused'
import { createWork, takeIn } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
let context: ReturnType<typeof createWork> & { compute: ReturnType<typeof createWork>['threads'] }
/** Of the house, approved: materials in the order of their codes, and a model. */
let oak: typeof items.$inferSelect
let other: typeof items.$inferSelect
let model: typeof items.$inferSelect
let serial = 0

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  context = { ...work, compute: work.threads }
  await (await takeIn(world, work, 'house')).file()
  const all = await world.context.db.select().from(items).orderBy(items.code)
  await setItemStates(
    world.context,
    world.lead,
    all.map(i => i.id),
    'approved',
  )
  oak = all.find(i => i.kind === 'material')!
  model = all.find(i => i.kind === 'model')!
  await editItem(work, world.lead, oak.id, { widthMm: 777 })
  const { id } = await standBeside(world.context, world.lead, oak.id, 'Another')
  await setItemStates(world.context, world.lead, [id], 'approved')
  ;[other] = await world.context.db.select().from(items).where(eq(items.id, id))
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

const begin = async (ids: readonly number[] = [oak.id]) => {
  const id = await createProject(world.context, world.lead, { code: `P${++serial}`, title: 'Project', library: 'house' })
  await pinItems(world.context, world.artist, id, ids)
  return id
}
const asked = (id: number, actor = world.artist) => listDecisions(context, actor, id)
const decided = (id: number, given: Decide, actor = world.artist) => decide(world.context, actor, id, decideSchema.parse(given))
const pinOf = async (id: number, code = oak.code) =>
  (await getProject(world.context, world.artist, id)).pinned.find(p => p.chip.code === code)
/** A new version of the oak, of another size, approved. */
async function revise(widthMm: number) {
  await editItem(work, world.lead, oak.id, { widthMm, note: `Measured again at ${widthMm}` })
  await setItemStates(world.context, world.lead, [oak.id], 'approved')
}

/** Renders the newest drafts that were asked for. */
async function renderDrafts() {
  const jobs = world.sent.filter(s => s.queue === 'render-draft').slice(-6)
  for (const { job } of jobs) await renderPreviewJob(work, job as Parameters<typeof renderPreviewJob>[1])
}

describe('a newer version', () => {
  it('asks every open project that pins it, with what it says differently, and only a frozen one not', async () => {
    const [first, second, frozen] = [await begin(), await begin(), await begin()]
    await editProject(world.context, world.lead, frozen, { phase: 'frozen' })
    expect(await asked(first)).toEqual([])
    await revise(1200)
    const [decision] = await asked(first)
    expect(decision).toMatchObject({
      code: oak.code,
      isWithdrawn: false,
      from: { number: 1 },
      to: { number: 3, note: 'Measured again at 1200' },
      stays: null,
      files: [],
    })
    expect(decision.facts.map(f => f.name)).toContain('widthMm')
    expect(await asked(second)).toHaveLength(1)
    expect(await asked(frozen)).toEqual([])
    const counts = new Map((await listProjects(world.context, world.artist)).map(p => [p.id, p.outdated]))
    expect([first, second, frozen].map(id => counts.get(id))).toEqual([1, 1, 0])
    // Each goes its own way.
    await decided(first, { ids: [oak.id], kind: 'take' })
    await decided(second, { ids: [oak.id], kind: 'stay', until: '2999-01-01', why: 'Already printed.' })
    expect(await pinOf(first)).toMatchObject({ versionNumber: 3, isAsked: false })
    expect(await pinOf(second)).toMatchObject({ versionNumber: 1, isAsked: false })
    expect((await asked(second))[0].stays).toMatchObject({ until: '2999-01-01', why: 'Already printed.', person: 'arne' })
    const [revision] = await listRevisions(world.context.db, world.lead)
    expect(revision.code).toBe(oak.code)
    expect(new Map(revision.projects.map(p => [p.id, p.state]))).toEqual(
      new Map([
        [second, 'stays'],
        [frozen, 'frozen'],
        [first, 'upToDate'],
      ]),
    )
    // The next version asks all of them again, the one that stayed too.
    await revise(1300)
    expect((await asked(second))[0]).toMatchObject({ stays: null, to: { number: 4 } })
    // Thawed, it is asked what it missed.
    await editProject(world.context, world.lead, frozen, { phase: 'open' })
    expect((await asked(frozen))[0]).toMatchObject({ from: { number: 1 }, to: { number: 4 } })
  })

  it('that stays until a day is asked about again after it', async () => {
    const id = await begin()
    await revise(1400)
    await decided(id, { ids: [oak.id], kind: 'stay', until: '2001-01-01', why: 'Until the review.' })
    expect(await asked(id)).toMatchObject([{ stays: null }])
    expect(() => decideSchema.parse({ ids: [oak.id], kind: 'stay' })).toThrow()
  })

  it('taken goes into the project’s mock-ups too, and undone comes out of them again', async () => {
    const id = await begin([oak.id, model.id])
    const mockUp = await createMockUp(world.context, world.artist, { title: 'Corner', projectId: id, from: undefined })
    const [piece, wood] = await findItems(world.context, world.artist, [model.id, oak.id])
    const change = {
      ...place('a', piece.ref, { name: 'Thing', at: [0, 0, 0] }),
      stage: {
        kind: 'empty' as const,
        materials: {
          ground: { material: wood.ref, turnDeg: 0, offsetM: [0, 0] as [number, number], mapping: 'own' as const, override: {} },
        },
      },
      shots: {
        one: shotSchema.parse({ name: 'One', place: 1, position: [0, 1, 2], target: [0, 0, 0], focalMm: 35, aspect: 1.5 }),
      },
    }
    await changeMockUp(world.context, world.artist, mockUp, { page: 'page', base: 0, change })
    const shown = async () => (await getMockUp(world.context, world.artist, mockUp)).scene.stage.materials.ground.material.version
    const before = await shown()
    await revise(1500)
    expect((await asked(id))[0].mockUps).toMatchObject([{ title: 'Corner', shots: [{ id: 'one', name: 'One' }], breaks: [] }])
    // Seen before it is decided: the same shot with either version.
    const pictures = await orderComparison(world.context, world.artist, id, { itemId: oak.id, mockUpId: mockUp, shot: 'one' })
    const rows = await world.context.db.select().from(mockUpPictures).orderBy(mockUpPictures.id)
    expect(rows.filter(r => pictures.includes(r.id)).map(r => r.scene.stage.materials.ground.material.version)).toEqual([
      before,
      before + 1,
    ])
    await decided(id, { ids: [oak.id], kind: 'take' })
    expect(await shown()).toBe(before + 1)
    expect(await decided(id, { ids: [oak.id], kind: 'undo' })).toMatchObject({ changed: [oak.id] })
    expect(await shown()).toBe(before)
    expect(await pinOf(id)).toMatchObject({ versionNumber: before, isAsked: true })
    expect((await decided(id, { ids: [oak.id], kind: 'undo' })).refused).toHaveLength(1)
    await decided(id, { ids: [oak.id], kind: 'take', withMockUps: false })
    expect(await shown()).toBe(before)
  })

  it('is laid over the one before on the rig once, however many projects ask', async () => {
    const projects = [await begin(), await begin(), await begin()]
    await revise(2400)
    expect((await asked(projects[0]))[0].difference).toEqual({ state: 'waiting' })
    await renderDrafts()
    const before = (await world.context.db.select().from(versionDifferences)).length
    for (const id of projects) await asked(id)
    const there = async () => (await asked(projects[1]))[0].difference
    await expect.poll(there, { timeout: 60_000 }).toMatchObject({ state: 'there' })
    expect((await world.context.db.select().from(versionDifferences)).length).toBe(before + 1)
    const difference = await there()
    expect(difference.state === 'there' && difference.meanFlip > 0 && difference.meanFlip < 0.5).toBe(true)
  })
})

describe('who decides', () => {
  it('are the people of a project, where any are named, and leads', async () => {
    const id = await begin()
    await revise(1600)
    await editProject(world.context, world.lead, id, { personIds: [world.insider.id] })
    expect((await getProject(world.context, world.artist, id)).mayDecide).toBe(false)
    expect(await refused(decided(id, { ids: [oak.id], kind: 'take' }))).toBe('notAllowed')
    await decided(id, { ids: [oak.id], kind: 'take' }, world.insider)
    expect(await pinOf(id)).toMatchObject({ isAsked: false })
    expect(await refused(editProject(world.context, world.artist, id, { notes: 'Mine' }))).toBe('notAllowed')
    expect((await listRevisions(world.context.db, world.lead, oak.id))[0].projects.find(p => p.id === id)!.people).toHaveLength(1)
  })

  it('of a frozen project is nobody, until it is open again', async () => {
    const id = await begin()
    await revise(1700)
    await editProject(world.context, world.lead, id, { phase: 'frozen' })
    expect(await refused(decided(id, { ids: [oak.id], kind: 'take' }))).toBe('badRequest')
    expect(await pinOf(id)).toMatchObject({ isAsked: false })
  })
})

describe('a withdrawn item', () => {
  it('asks for what comes in its place, which goes into the pins and the mock-ups, and can be taken back', async () => {
    const id = await begin([other.id])
    const version = (await pinOf(id, other.code))!.versionNumber
    await setItemStates(world.context, world.lead, [other.id], 'withdrawn')
    expect(await asked(id)).toMatchObject([{ code: other.code, isWithdrawn: true, difference: { state: 'none' } }])
    expect((await decided(id, { ids: [other.id], kind: 'take' })).refused[0].reason).toMatch(/withdrawn/)
    expect(await refused(replacePin(world.context, world.artist, id, { itemId: other.id, byId: model.id }))).toBe('badRequest')
    await replacePin(world.context, world.artist, id, { itemId: other.id, byId: oak.id })
    expect((await getProject(world.context, world.artist, id)).pinned.map(p => p.chip.code)).toEqual([oak.code])
    await decided(id, { ids: [other.id], kind: 'undo' })
    expect(await pinOf(id, other.code)).toMatchObject({ versionNumber: version, isAsked: true })
    await decided(id, { ids: [other.id], kind: 'stay', why: 'Built already.' })
    expect(await asked(id)).toMatchObject([{ stays: { why: 'Built already.', until: null } }])
    await setItemStates(world.context, world.lead, [other.id], 'approved')
    expect(await asked(id)).toEqual([])
  })

  it('taken back leaves what the project had pinned for itself', async () => {
    const id = await begin([oak.id, other.id])
    const own = (await pinOf(id))!.versionNumber
    await replacePin(world.context, world.artist, id, { itemId: other.id, byId: oak.id })
    expect(await pinOf(id, other.code)).toBeUndefined()
    await decided(id, { ids: [other.id], kind: 'undo' })
    expect(await pinOf(id)).toMatchObject({ versionNumber: own })
    expect(await pinOf(id, other.code)).toBeDefined()
  })
})

describe('a version that stands beside', () => {
  it('is an item of its own, approved by itself, and asks no project', async () => {
    const id = await begin()
    const { approvedVersionId } = (await world.context.db.select().from(items).where(eq(items.id, oak.id)))[0]
    await editItem(work, world.lead, oak.id, { widthMm: 1800, note: 'Another cut' })
    const made = await standBeside(world.context, world.lead, oak.id, 'Oak, another cut')
    const [sheet, beside] = [
      await getSheet(world.pool, world.lead, oak.code, null),
      await getSheet(world.pool, world.lead, made.code, null),
    ]
    expect(sheet).toMatchObject({ state: 'approved', version: { id: approvedVersionId } })
    expect(beside).toMatchObject({ name: 'Oak, another cut', state: 'inReview', widthMm: 1800, version: { number: 1 } })
    expect(await asked(id)).toEqual([])
    expect(await refused(standBeside(world.context, world.lead, oak.id, 'Again'))).toBe('badRequest')
    expect(await refused(standBeside(world.context, world.artist, oak.id, 'Mine'))).toBe('notAllowed')
    // The next version of the item goes on counting.
    await editItem(work, world.lead, oak.id, { widthMm: 1900, note: 'Next' })
    expect((await getSheet(world.pool, world.lead, oak.code, null)).version.number).toBe(sheet.versions.length + 1)
  })
})
