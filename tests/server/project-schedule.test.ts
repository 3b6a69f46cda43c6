import { and, eq } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest'
import type { Change } from '../../src/core/mock-up/scene/change'
import { place } from '../../src/core/mock-up/scene/pieces'
import type { ItemRef } from '../../src/core/mock-up/scene/scene'
import { setItemFacts } from '../../src/server/library/item-facts'
import { changeMockUp, createMockUp, editMockUp, getMockUp } from '../../src/server/mock-ups/mock-ups'
import { findItems } from '../../src/server/mock-ups/resolve-items'
import { createProject, pinItems, unpinItems } from '../../src/server/projects/projects'
import { listKeptSchedules, setKeptRemoved } from '../../src/server/schedules/kept-schedules'
import { getProjectSchedule, keepProjectSchedule, saveProjectSchedule } from '../../src/server/schedules/project-schedule'
import { setQuantities } from '../../src/server/schedules/quantities'
import { events, items, versions } from '../../src/server/tables/library.table'
import { DEFAULT_LAYOUT, projectScheduleQuerySchema } from '../../src/shared/contracts/schedules.contract'
import { cellOf } from '../../src/shared/schedule-layout'
import { createTestWorld, type TestWorld } from '../test-database'
import { refused } from './refused'
import { createWork, takeIn } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
let wood: ItemRef & { id: number }
let thing: ItemRef & { id: number }
let projectId: number
let mockUp: number

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  await (await takeIn(world, work, 'house')).file()
  const { db } = world.context
  await db.update(items).set({ state: 'approved', approvedVersionId: items.currentVersionId }).where(eq(items.libraryId, 1))
  const all = await db.select().from(items).where(eq(items.libraryId, 1))
  const refOf = async (kind: string) => {
    const [found] = await findItems(world.context, world.lead, [all.find(i => i.kind === kind)!.id])
    return { ...found.ref, id: found.id! }
  }
  wood = await refOf('material')
  thing = await refOf('model')
  await setItemFacts(world.context, world.lead, [{ id: wood.id, facts: { price: '10', maker: 'Oddmere' } }])
  projectId = await createProject(world.context, world.lead, { title: 'Harbour hotel', code: 'HARBOUR', library: 'house' })
  await pinItems(world.context, world.artist, projectId, [wood.id, thing.id])
  mockUp = await createMockUp(world.context, world.artist, { title: 'Terrace', projectId, stage: undefined, from: undefined })
  await changeMockUp(world.context, world.artist, mockUp, {
    page: 'page',
    base: 0,
    change: {
      ...place('a', { code: thing.code, version: thing.version, inputKey: thing.inputKey }, { name: 'Thing', at: [0, 0, 0] }),
      stage: {
        kind: 'terrace',
        widthM: 4,
        depthM: 3,
        materials: {
          paving: {
            material: { code: wood.code, version: wood.version, inputKey: wood.inputKey },
            ...{ turnDeg: 0, offsetM: [0, 0], mapping: 'own', override: {} },
          },
        },
      },
    },
  })
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

const read = (mockUps: number[] = [], waste = 0, actor = world.artist) =>
  getProjectSchedule(work, actor, projectId, { waste, mockUps })
const rowOf = async (code: string, ...more: Parameters<typeof read>) => (await read(...more)).rows.find(r => r.code === code)!
const type = (itemId: number, amount: number | null, actor = world.artist) =>
  setQuantities(world.context, actor, projectId, [{ itemId, amount }])

describe('the schedule of a project', () => {
  it('lists what is pinned, and says nothing of how much until somebody does', async () => {
    const { rows, title } = await read()
    expect(title).toBe('Harbour hotel')
    expect(rows.map(r => r.code).sort()).toEqual([wood.code, thing.code].sort())
    const row = await rowOf(wood.code)
    expect(row).toMatchObject({ unit: 'm2', maker: 'Oddmere', pin: { itemId: wood.id, typed: null, measured: null } })
    expect(cellOf(row, 'quantity')).toEqual({ text: '', figure: null, unit: '' })
  })

  it('counts what was typed, with waste and cost, and gives back what was typed before', async () => {
    expect(await type(wood.id, 20)).toEqual([{ itemId: wood.id, amount: null }])
    expect(await rowOf(wood.code, [], 10)).toMatchObject({ net: 20, gross: 22, cost: 220, pin: { typed: 20 } })
    expect(await type(wood.id, 25)).toEqual([{ itemId: wood.id, amount: 20 }])
    await type(wood.id, null)
    expect((await rowOf(wood.code)).pin).toMatchObject({ typed: null })
  })

  it('measures in mock-ups of the project, and what was typed counts instead: never both', async () => {
    await type(wood.id, null)
    const measured = await rowOf(wood.code, [mockUp])
    expect(measured.net).toBeGreaterThan(12 - 0.01)
    expect(measured.pin).toMatchObject({ typed: null, measured: measured.net })
    expect(measured.where.map(w => w.of)).toContain('Terrace')
    expect(await rowOf(thing.code, [mockUp, mockUp])).toMatchObject({ unit: 'pieces', net: 1, pin: { measured: 1 } })
    await type(wood.id, 30)
    expect(await rowOf(wood.code, [mockUp])).toMatchObject({ net: 30, edgeM: null, pin: { typed: 30, measured: measured.net } })
    await type(wood.id, null)
  })

  it('opens a mock-up to measure it once, until something of it is otherwise', async () => {
    const run = vi.spyOn(work.threads, 'run')
    const measurings = () => run.mock.calls.filter(([task]) => task === 'measureTakeoff').length
    const { scene } = await getMockUp(world.context, world.artist, mockUp)
    const { stage } = scene
    if (stage.kind !== 'terrace') throw new Error('it stands on a terrace')
    const act = async (change: Change) => {
      const { revision } = await getMockUp(world.context, world.artist, mockUp)
      await changeMockUp(world.context, world.artist, mockUp, { page: 'page', base: revision, change })
    }
    await act({ stage: { ...stage, widthM: 5 } })
    const wider = await rowOf(wood.code, [mockUp])
    expect(measurings()).toBe(1)
    await type(thing.id, 3)
    await act({ skies: { s: { item: null, clear: null, name: 'Grey', turnDeg: 0, ev: 0, sun: 'asItIs', background: 'plain' } } })
    expect(await rowOf(wood.code, [mockUp])).toEqual(wider)
    expect(measurings()).toBe(1)
    await act({ stage: { ...stage, widthM: 6 } })
    expect((await rowOf(wood.code, [mockUp])).net).toBeGreaterThan(wider.net + 2.9)
    expect(measurings()).toBe(2)
    await act({ stage })
    await type(thing.id, null)
    run.mockRestore()
  })

  it('shows what stands in a mock-up and is not pinned, without a place to type', async () => {
    await unpinItems(world.context, world.artist, projectId, [thing.id])
    expect(await rowOf(thing.code, [mockUp])).toMatchObject({ net: 1, pin: null })
    expect((await read()).rows.some(r => r.code === thing.code)).toBe(false)
    await pinItems(world.context, world.artist, projectId, [thing.id])
  })

  it('tells two items with the same files apart', async () => {
    const { db } = world.context
    const [{ category, kind }] = await db.select().from(items).where(eq(items.id, wood.id))
    const [twin] = await db
      .insert(items)
      .values({ libraryId: 1, category, kind, code: 'TWIN-0001', name: 'Another name', state: 'approved' })
      .returning()
    const [version] = await db
      .insert(versions)
      .values({ itemId: twin.id, number: 1, authorId: world.lead.id, inputKey: wood.inputKey })
      .returning()
    await db.update(items).set({ currentVersionId: version.id, approvedVersionId: version.id }).where(eq(items.id, twin.id))
    await pinItems(world.context, world.artist, projectId, [twin.id])
    expect(await rowOf('TWIN-0001')).toMatchObject({ name: 'Another name', maker: '' })
    expect((await rowOf(wood.code)).maker).toBe('Oddmere')
    await unpinItems(world.context, world.artist, projectId, [twin.id])
  })

  it('keeps a quantity while its pin is away', async () => {
    await type(thing.id, 7)
    await unpinItems(world.context, world.artist, projectId, [thing.id])
    await pinItems(world.context, world.artist, projectId, [thing.id])
    expect(await rowOf(thing.code)).toMatchObject({ net: 7 })
    await type(thing.id, null)
  })

  it('refuses parts of pieces and what is not pinned, and then changes nothing', async () => {
    expect(await refused(type(thing.id, 2.5))).toBe('badRequest')
    const both = [
      { itemId: wood.id, amount: 5 },
      { itemId: 999_999, amount: 1 },
    ]
    expect(await refused(setQuantities(world.context, world.artist, projectId, both))).toBe('badRequest')
    expect((await rowOf(wood.code)).pin).toMatchObject({ typed: null })
  })

  it('takes thousands of lines at once, of one that is named twice the last', async () => {
    const many = Array.from({ length: 3000 }, (_, k) => ({ itemId: wood.id, amount: k }))
    await setQuantities(world.context, world.artist, projectId, many)
    expect((await rowOf(wood.code)).net).toBe(2999)
    await type(wood.id, null)
  })

  it('measures in no mock-up of another project, and in none that was removed', async () => {
    const own = await createMockUp(world.context, world.artist, {
      title: 'Own',
      projectId: null,
      stage: undefined,
      from: undefined,
    })
    expect(await refused(read([own]))).toBe('notFound')
    const gone = await createMockUp(world.context, world.artist, { title: 'Gone', projectId, stage: undefined, from: undefined })
    await editMockUp(world.context, world.artist, gone, { isRemoved: true })
    expect(await refused(read([gone]))).toBe('notFound')
    expect(projectScheduleQuerySchema.parse({ mockUps: '3,4' }).mockUps).toEqual([3, 4])
    expect(projectScheduleQuerySchema.parse({}).mockUps).toEqual([])
    expect(() => projectScheduleQuerySchema.parse({ mockUps: '3;4' })).toThrow(/no mock-ups/)
  })

  it('is written down, and is for nobody outside', async () => {
    await type(wood.id, 4)
    const { db } = world.context
    const told = await db
      .select()
      .from(events)
      .where(and(eq(events.subject, 'project'), eq(events.verb, 'quantified')))
    expect(told.at(-1)).toMatchObject({ after: { quantities: [{ itemId: wood.id, amount: 4 }] } })
    expect(await refused(read([], 0, world.guest))).toBe('notFound')
    expect(await refused(type(wood.id, 9, world.guest))).toBe('notFound')
    await type(wood.id, null)
  })

  it('is kept as it stands, and a later one says what grew, what is new and what went', async () => {
    await type(wood.id, 20)
    await unpinItems(world.context, world.artist, projectId, [thing.id])
    const first = await keepProjectSchedule(work, world.artist, projectId, { name: 'Tender', mockUps: [] })
    expect(await listKeptSchedules(world.context, world.artist, projectId)).toMatchObject([
      { id: first, name: 'Tender', person: world.artist.name, lines: 1 },
    ])
    await type(wood.id, 26)
    await pinItems(world.context, world.artist, projectId, [thing.id])
    const against = async (id: number, actor = world.artist) =>
      getProjectSchedule(work, actor, projectId, { waste: 10, mockUps: [], against: id })
    const later = await against(first)
    expect(later.rows.map(r => [r.code, r.net, r.before]).sort()).toEqual(
      [
        [wood.code, 26, { net: 20 }],
        [thing.code, 0, 'new'],
      ].sort(),
    )
    const second = await keepProjectSchedule(work, world.artist, projectId, { name: 'Order', mockUps: [] })
    await unpinItems(world.context, world.artist, projectId, [thing.id])
    // Nobody had said how many of it there were to be.
    expect((await against(second)).gone).toMatchObject([{ code: thing.code, unit: 'pieces', net: null }])
    const { bytes } = await saveProjectSchedule(work, world.artist, projectId, {
      ...{ form: 'csv', layout: DEFAULT_LAYOUT, mockUps: [], against: first },
    })
    expect(new TextDecoder().decode(bytes)).toMatch(new RegExp(`${wood.code},.*,26,m²,20`))
    // Taken away it is held against no more, until it is brought back.
    await setKeptRemoved(world.context, world.artist, projectId, first, true)
    expect(await refused(against(first))).toBe('notFound')
    await setKeptRemoved(world.context, world.artist, projectId, first, false)
    expect((await against(first)).rows[0].before).toEqual({ net: 20 })
    expect(await refused(listKeptSchedules(world.context, world.guest, projectId))).toBe('notFound')
    expect(await refused(setKeptRemoved(world.context, world.guest, projectId, first, true))).toBe('notFound')
    expect(await refused(keepProjectSchedule(work, world.guest, projectId, { name: 'Mine', mockUps: [] }))).toBe('notFound')
    await pinItems(world.context, world.artist, projectId, [thing.id])
    await type(wood.id, null)
  })

  it('lists the skies and maps that are pinned, of which there is no amount', async () => {
    const { db } = world.context
    const [sky] = await db.select().from(items).where(eq(items.kind, 'environment'))
    await pinItems(world.context, world.artist, projectId, [sky.id])
    const row = await rowOf(sky.code)
    expect(row).toMatchObject({ kind: 'environment', name: sky.name })
    expect(cellOf(row, 'quantity')).toEqual({ text: '', figure: null, unit: '' })
    await unpinItems(world.context, world.artist, projectId, [sky.id])
  })

  it.each(['csv', 'xlsx', 'pdf'] as const)('is saved as %s', async form => {
    await type(wood.id, 12)
    const { bytes, fileName } = await saveProjectSchedule(work, world.artist, projectId, {
      form,
      layout: DEFAULT_LAYOUT,
      mockUps: [],
    })
    expect(fileName).toBe(`harbour-hotel-schedule.${form}`)
    expect(bytes.length).toBeGreaterThan(100)
    if (form === 'csv') {
      const text = new TextDecoder().decode(bytes)
      expect(text).toMatch(new RegExp(`${wood.code},.*,12,m²`))
      // Of what nobody said how much is needed there is no figure, rather than none of it.
      expect(text).toMatch(new RegExp(`${thing.code},.*,,pcs`))
    }
  })
})
