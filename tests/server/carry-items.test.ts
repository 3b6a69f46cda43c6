import { asc } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { carryItems } from '../../src/server/library/carry-items'
import { editItem, setItemStates } from '../../src/server/library/edit-items'
import { getSheet } from '../../src/server/library/sheet'
import { getWall } from '../../src/server/library/wall'
import { createProject, pinItems } from '../../src/server/projects/projects'
import { items } from '../../src/server/tables/library.table'
import { wallQuerySchema } from '../../src/shared/contracts/find.contract'
import type { Person } from '../../src/shared/contracts/session.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { refused } from './refused'
import { createWork, takeIn } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>

const everything = wallQuerySchema.parse({})
const sheetOf = (code: string, who: Person = world.lead) => getSheet(world.pool, who, code, null)
const codes = async () => (await world.context.db.select().from(items).orderBy(asc(items.id))).map(i => i.code)

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  await (await takeIn(world, work, 'house', /Seating|Skies/)).file()
  await (await takeIn(world, work, 'client', /Oak/)).file()
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

describe('codes', () => {
  it('of a client’s library have its mark and numbers of their own, so that the house’s have no gap', async () => {
    expect((await codes()).sort()).toEqual(['CHR-0001', 'CLI-TIM-0001', 'SKY-0001', 'SKY-0002'])
    await (await takeIn(world, work, 'house', /Oak/)).file()
    expect((await codes()).at(-1)).toBe('TIM-0001')
  })
})

describe('a copy', () => {
  it('is an item of its own with the same files, facts, findings and state, and knows where it came from', async () => {
    const source = await sheetOf('CHR-0001')
    await setItemStates(work, world.lead, [source.id], 'approved')
    const { changed, made } = await carryItems(work, world.lead, { ids: [source.id], library: 'client', as: 'copy' })
    expect(changed).toEqual([source.id])
    const before = await sheetOf('CHR-0001')
    const copy = await sheetOf('CLI-CHR-0001')
    expect(made).toEqual([copy.id])
    expect(copy).toMatchObject({
      name: before.name,
      state: 'approved',
      facts: before.facts,
      copiedFrom: { code: 'CHR-0001', versionNumber: 1 },
      version: { number: 1, isApproved: true },
    })
    expect(copy.files.map(f => f.hash)).toEqual(before.files.map(f => f.hash))
    expect(copy.findings.map(f => f.code)).toEqual(before.findings.map(f => f.code))
    // The one it came from goes its own way.
    await editItem(work, world.lead, source.id, { name: 'Another stool' })
    expect((await sheetOf('CLI-CHR-0001')).name).toBe(before.name)
  })

  it('does not tell where it came from to those who may not know', async () => {
    const oak = await sheetOf('CLI-TIM-0001')
    await carryItems(work, world.lead, { ids: [oak.id], library: 'house', as: 'copy' })
    const copy = await sheetOf('TIM-0002', world.artist)
    expect(copy.copiedFrom).toEqual({ code: null, name: null, versionNumber: 1 })
    expect(JSON.stringify(copy)).not.toMatch(/CLI|A client/)
    expect((await sheetOf('TIM-0002', world.insider)).copiedFrom?.code).toBe('CLI-TIM-0001')
  })
})

describe('a move', () => {
  it('takes the item with its versions, counts and words; its former code leads to it; coming back it has that again', async () => {
    const sky = await sheetOf('SKY-0001')
    const counts = async (who: Person) => (await getWall(world.context, who, { ...everything, kind: ['environment'] })).total
    expect(await counts(world.artist)).toBe(2)
    expect((await carryItems(work, world.lead, { ids: [sky.id], library: 'client', as: 'move' })).changed).toEqual([sky.id])
    expect(await counts(world.artist)).toBe(1)
    expect(await counts(world.insider)).toBe(2)
    expect(await sheetOf('SKY-0001', world.insider)).toMatchObject({
      id: sky.id,
      code: 'CLI-SKY-0001',
      formerCodes: ['SKY-0001'],
    })
    expect(await refused(sheetOf('SKY-0001', world.artist))).toBe('notFound')
    const words = { ...everything, words: 'cli-sky-0001' }
    expect((await getWall(world.context, world.insider, words)).chips.map(c => c.id)).toEqual([sky.id])
    await carryItems(work, world.lead, { ids: [sky.id], library: 'house', as: 'move' })
    const back = await sheetOf('SKY-0001', world.artist)
    expect(back).toMatchObject({ id: sky.id, code: 'SKY-0001', formerCodes: [] })
    expect(JSON.stringify(back)).not.toMatch(/CLI|A client/)
  })

  it('out of sight of a project that uses it is refused, and so is one to where it is', async () => {
    const chair = await sheetOf('CHR-0001')
    const project = await createProject(work, world.lead, { code: 'HOUSE', title: 'House', library: 'house' })
    await pinItems(work, world.lead, project, [chair.id])
    const into = (library: string) => carryItems(work, world.lead, { ids: [chair.id], library, as: 'move' })
    expect((await into('client')).refused[0].reason).toMatch(/copy it instead/)
    expect((await into('house')).refused[0].reason).toMatch(/there already/)
    expect((await sheetOf('CHR-0001', world.artist)).library).toBe('House library')
  })

  it('is for leads, into libraries that they may see, of items that they may see', async () => {
    const chair = await sheetOf('CHR-0001')
    const ask = (who: Person, library: string) => carryItems(work, who, { ids: [chair.id], library, as: 'copy' })
    expect(await refused(ask(world.insider, 'client'))).toBe('notAllowed')
    expect(await refused(ask(world.lead, 'nowhere'))).toBe('notFound')
    const stranger = { ...world.lead, id: world.artist.id }
    const hidden = await sheetOf('CLI-TIM-0001')
    expect(await refused(ask(stranger, 'client'))).toBe('notFound')
    expect(await carryItems(work, stranger, { ids: [hidden.id], library: 'house', as: 'copy' })).toMatchObject({ changed: [] })
  })
})
