import { eq, sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { NO_RULES } from '../../src/core/standard/category-rules'
import { acceptRows } from '../../src/server/intake/accept-rows'
import { editBatchItems, renameBatchItems } from '../../src/server/intake/edit-rows'
import { measureItemJob } from '../../src/server/intake/measure-item.job'
import { checkItemJob } from '../../src/server/library/check-item.job'
import { renameItems } from '../../src/server/library/rename-items'
import { getWall } from '../../src/server/library/wall'
import type { Jobs } from '../../src/server/platform/queue'
import { listOffStandard, listRules, setRules } from '../../src/server/standard/rules/category-rules'
import { batchItems } from '../../src/server/tables/intake.table'
import { findings, items } from '../../src/server/tables/library.table'
import { wallQuerySchema } from '../../src/shared/contracts/find.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork, takeIn } from './take-in'
import { getBatch } from './whole-batch'

let world: TestWorld
let work: ReturnType<typeof createWork>
let batchId: number
let ids: number[]

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  ;({ batchId, rowIds: ids } = await takeIn(world, work, 'house', /Oak_Test|Seating/))
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

const rowNamed = async (name: string) => (await getBatch(world.context.db, world.lead, batchId)).items.find(i => i.name === name)!
const rule = (path: string, rules: Partial<typeof NO_RULES>) =>
  setRules(world.context, world.lead, { path, rules: { ...NO_RULES, ...rules } })

describe('the rules of a category', () => {
  it('are changed by leads only, and only to what reads', async () => {
    await expect(setRules(world.context, world.artist, { path: 'surfaces', rules: NO_RULES })).rejects.toMatchObject({
      code: 'notAllowed',
    })
    await expect(rule('nowhere', {})).rejects.toMatchObject({ code: 'notFound' })
    await expect(rule('surfaces', { namePattern: '{name' })).rejects.toThrow('no } after it')
    await expect(rule('furniture', { expectedSizeM: [2, 1] })).rejects.toThrow('below the largest')
    expect((await listRules(world.context.db)).every(r => r.isShipped)).toBe(true)
  })

  it('hold for what is below as well, and are told apart from those that ship', async () => {
    await rule('surfaces', { requiredFacts: ['maker', 'licence', 'series'], namePattern: '[{series} ]{name:title}' })
    const timber = (await listRules(world.context.db)).find(r => r.path === 'surfaces.timber')!
    expect(timber).toMatchObject({
      isShipped: true,
      own: { namePattern: null },
      resolved: { namePattern: '[{series} ]{name:title}' },
    })
  })

  it('a row says what is missing of it and how it would be called; facts are given for many', async () => {
    const oak = await rowNamed('Oak test')
    expect(oak).toMatchObject({ missingFacts: ['series'], proposedName: 'Oak Test' })
    await editBatchItems(world.context, world.lead, batchId, { ids: [oak.id], facts: { series: 'Old barn' } })
    expect(await rowNamed('Oak test')).toMatchObject({
      missingFacts: [],
      proposedName: 'Old barn Oak Test',
      givenFacts: { series: 'Old barn' },
    })
    await editBatchItems(world.context, world.lead, batchId, { ids: [oak.id], facts: { series: null } })
    expect((await rowNamed('Oak test')).missingFacts).toEqual(['series'])
    await editBatchItems(world.context, world.lead, batchId, { ids: [oak.id], facts: { series: 'Old barn' } })
    await renameBatchItems(world.context, world.lead, batchId, [{ id: oak.id, name: 'Old barn Oak Test' }])
    await expect(renameBatchItems(world.context, world.artist, batchId, [{ id: oak.id, name: 'x' }])).rejects.toMatchObject({
      code: 'notAllowed',
    })
  })

  it('a size and a budget are what a model is measured against', async () => {
    const stool = await rowNamed('Cube stool')
    expect(stool.findings.map(f => f.code)).not.toContain('overTriangleBudget')
    await rule(stool.category, { triangleBudget: 4, expectedSizeM: [3, 4] })
    await world.context.db.update(batchItems).set({ state: 'measuring' }).where(eq(batchItems.id, stool.id))
    await measureItemJob(work, { batchItemId: stool.id })
    expect((await rowNamed('Cube stool')).findings.map(f => f.code)).toEqual(
      expect.arrayContaining(['overTriangleBudget', 'unitSuspect']),
    )
  })

  it('what is accepted and off standard is listed, renamed in bulk, and named back', async () => {
    await acceptRows(world.context, world.lead, batchId, ids)
    const { rows } = await world.context.db.execute<{ text: string }>(sql`select text from facts where name = 'series'`)
    expect(rows).toEqual([{ text: 'Old barn' }])
    await rule('surfaces', { requiredFacts: ['maker', 'sheen'], namePattern: '{name:sentence}' })
    const off = await listOffStandard(world.context.db, world.lead, 'surfaces')
    expect(off).toMatchObject([{ name: 'Old barn Oak Test', missingFacts: ['sheen'], proposedName: 'Old barn oak test' }])
    const names = off.map(o => ({ id: o.id, name: o.proposedName! }))
    await expect(renameItems(world.context, world.artist, names)).rejects.toMatchObject({ code: 'notAllowed' })
    expect(await renameItems(world.context, world.lead, [...names, { id: 999_999, name: 'gone' }])).toMatchObject({
      changed: [off[0].id],
      refused: [{ id: 999_999 }],
    })
    const found = await getWall(world.context, world.artist, wallQuerySchema.parse({ words: 'old barn oak', limit: 5 }))
    expect(found.chips.map(c => c.name)).toEqual(['Old barn oak test'])
    expect((await listOffStandard(world.context.db, world.lead, 'surfaces'))[0].proposedName).toBeNull()
    await renameItems(
      world.context,
      world.lead,
      off.map(o => ({ id: o.id, name: o.name })),
    )
    expect((await world.context.db.select().from(items).where(eq(items.id, off[0].id)))[0].name).toBe('Old barn Oak Test')
    expect(await listOffStandard(world.context.db, world.lead, 'environments')).toEqual([])
  })

  it('with another budget what is accepted is checked anew, each item by a job of its own', async () => {
    const { db } = world.context
    const [stool] = await db.select().from(items).where(eq(items.name, 'Cube stool'))
    const codes = async () =>
      (await db.select().from(findings).where(eq(findings.versionId, stool.currentVersionId!))).map(f => f.code)
    expect(await codes()).toContain('overTriangleBudget')
    world.sent.length = 0
    await rule(stool.category, { triangleBudget: 4000, expectedSizeM: [3, 4], namePattern: '{name:sentence}' })
    const wanted = world.sent.filter(s => s.queue === 'check-item').map(s => s.job as Jobs['check-item'])
    expect(wanted).toEqual([{ itemId: stool.id, versionId: stool.currentVersionId }])
    await checkItemJob(work, wanted[0])
    expect(await codes()).toContain('unitSuspect')
    expect(await codes()).not.toContain('overTriangleBudget')
    // A pattern of names is no matter of checks.
    world.sent.length = 0
    await rule(stool.category, { triangleBudget: 4000, expectedSizeM: [3, 4] })
    expect(world.sent.filter(s => s.queue === 'check-item')).toEqual([])
  })
})
