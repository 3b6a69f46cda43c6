import { eq } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Change } from '../../src/core/mock-up/scene/change'
import { place } from '../../src/core/mock-up/scene/pieces'
import type { ItemRef } from '../../src/core/mock-up/scene/scene'
import { setItemFacts } from '../../src/server/library/item-facts'
import { changeMockUp, createMockUp, keepVersion } from '../../src/server/mock-ups/mock-ups'
import { findItems } from '../../src/server/mock-ups/resolve-items'
import { getSchedule } from '../../src/server/mock-ups/schedule'
import { dropScheduleTemplate, keepScheduleTemplate, listScheduleTemplates } from '../../src/server/mock-ups/schedule-templates'
import { savePages, saveSchedule } from '../../src/server/mock-ups/write-documents'
import { items } from '../../src/server/tables/library.table'
import { DEFAULT_LAYOUT, layoutTextSchema } from '../../src/shared/contracts/schedules.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { refused } from './refused'
import { createWork, takeIn } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
let wood: ItemRef & { id: number }
let thing: ItemRef

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  await (await takeIn(world, work, 'house')).file()
  const all = await world.context.db.select().from(items).where(eq(items.libraryId, 1))
  const refOf = async (kind: string) => (await findItems(world.context, world.lead, [all.find(i => i.kind === kind)!.id]))[0]
  const found = await refOf('material')
  wood = { ...found.ref, id: found.id! }
  thing = (await refOf('model')).ref
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

const worn = (material: ItemRef) => ({
  material: { code: material.code, version: material.version, inputKey: material.inputKey },
  turnDeg: 0,
  offsetM: [0, 0] as [number, number],
  mapping: 'own' as const,
  override: {},
})
const terrace = (widthM: number): Change => ({
  stage: { kind: 'terrace', widthM, depthM: 3, materials: { paving: worn(wood) } },
})
async function begin() {
  const id = await createMockUp(world.context, world.artist, {
    title: 'Terrace',
    projectId: null,
    stage: undefined,
    from: undefined,
  })
  const act = (change: Change) => changeMockUp(world.context, world.artist, id, { page: 'page', base: 0, change })
  await act({ ...place('a', thing, { name: 'Thing', at: [0, 0, 0] }), ...terrace(4) })
  return { id, act }
}
const read = (id: number, more: { waste?: number; against?: number } = {}, actor = world.artist) =>
  getSchedule(work, actor, id, { waste: 0, ...more })

describe('the schedule of a mock-up', () => {
  it('measures materials and counts things, with what the library says of them', async () => {
    const { id } = await begin()
    await setItemFacts(work, world.lead, [
      { id: wood.id, facts: { coverageM2L: '6', coats: '2', price: '10', maker: 'Oddmere' } },
    ])
    const { rows, missing } = await read(id, { waste: 10 })
    const oak = rows.find(r => r.code === wood.code)!
    // The top of 4 by 3 m and the slab's sides of 6 cm.
    expect(oak.net).toBeCloseTo(12 + 2 * (4 + 3) * 0.06, 3)
    expect(oak).toMatchObject({ kind: 'material', unit: 'm2', maker: 'Oddmere', before: null })
    expect(oak.gross).toBeCloseTo(oak.net * 1.1, 6)
    expect(oak.litres).toBeCloseTo((oak.gross * 2) / 6, 6)
    expect(oak.cost).toBeCloseTo(oak.gross * 10, 6)
    expect(rows.find(r => r.code === thing.code)).toMatchObject({ kind: 'model', unit: 'pieces', net: 1 })
    // What the model came with is there by its own name.
    expect(rows.some(r => r.kind === 'own' && r.code === null && r.net > 0)).toBe(true)
    expect(missing).toEqual([])
  })

  it('says against a kept version what grew, what is new and what went', async () => {
    const { id, act } = await begin()
    const kept = await keepVersion(world.context, world.artist, id, 'First')
    await act({ ...terrace(8), pieces: { a: null } })
    const { rows, gone } = await read(id, { against: kept })
    const oak = rows.find(r => r.code === wood.code)!
    expect(oak.net / (oak.before as { net: number }).net).toBeCloseTo(24 / 12, 1)
    expect(gone).toContainEqual(expect.objectContaining({ code: thing.code, net: 1 }))
    expect(await refused(read(id, { against: 999_999 }))).toBe('notFound')
  })

  it('is for whoever sees the mock-up, and as a file too', async () => {
    const { id } = await begin()
    expect(await refused(read(id, {}, world.insider))).toBe('notFound')
    for (const form of ['csv', 'xlsx', 'pdf'] as const) {
      const { bytes, fileName } = await saveSchedule(work, world.artist, id, form, DEFAULT_LAYOUT)
      expect(fileName).toBe(`terrace-schedule.${form}`)
      const start = new TextDecoder('latin1').decode(bytes.subarray(0, 4))
      expect(start).toMatch({ csv: /^\u00ef\u00bb\u00bf/, xlsx: /^PK/, pdf: /^%PDF/ }[form])
    }
    expect(await refused(savePages(work, world.artist, id, [1]))).toBe('notReady')
  })

  it('is laid out as the house keeps it; templates are a lead’s to keep', async () => {
    const layout = { ...DEFAULT_LAYOUT, group: 'maker' as const, wastePercent: 5 }
    await keepScheduleTemplate(world.context, world.lead, { name: 'Tender', layout: DEFAULT_LAYOUT })
    const id = await keepScheduleTemplate(world.context, world.lead, { name: 'Tender', layout })
    expect(await listScheduleTemplates(world.context)).toEqual([{ id, name: 'Tender', layout }])
    expect(await refused(keepScheduleTemplate(world.context, world.artist, { name: 'Mine', layout }))).toBe('notAllowed')
    expect(await refused(dropScheduleTemplate(world.context, world.artist, id))).toBe('notAllowed')
    await dropScheduleTemplate(world.context, world.lead, id)
    expect(await refused(dropScheduleTemplate(world.context, world.lead, id))).toBe('notFound')
    expect(layoutTextSchema.parse(JSON.stringify(layout))).toEqual(layout)
    expect(layoutTextSchema.safeParse('{').success).toBe(false)
  })
})
