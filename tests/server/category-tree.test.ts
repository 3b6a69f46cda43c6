import { eq, sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { NO_RULES } from '../../src/core/standard/category-rules'
import { prepareCategories } from '../../src/server/house/prepare-categories'
import { acceptRows } from '../../src/server/intake/accept-rows'
import { editBatchItems } from '../../src/server/intake/edit-rows'
import { editItem, setItemStates } from '../../src/server/library/edit-items'
import { getSheet } from '../../src/server/library/sheet'
import { getWall, listCategories } from '../../src/server/library/wall'
import { listRules, setRules } from '../../src/server/standard/rules/category-rules'
import { changeTree, countMatching, undoTree } from '../../src/server/standard/tree/category-tree'
import { batchItems } from '../../src/server/tables/intake.table'
import { items } from '../../src/server/tables/library.table'
import { wallQuerySchema } from '../../src/shared/contracts/find.contract'
import type { ChangeTree } from '../../src/shared/contracts/standard.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork, takeIn } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
let waiting: number

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  const { file } = await takeIn(world, work)
  await file()
  // Another delivery waits in Intake.
  const second = await takeIn(world, work, 'house', /Skies/)
  waiting = second.batchId
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

const NO_RULE = { words: '', fact: '', is: 'equal' as const, value: '' }
const send = (wish: ChangeTree) => changeTree(world.context, world.lead, wish)
const paths = async () => (await listCategories(world.context, world.lead)).map(c => c.path)
const wall = async (query: object) =>
  (await getWall(world.context, world.artist, wallQuerySchema.parse({ limit: 20, ...query }))).chips
const skies = async () => (await wall({ kind: 'environment' })).map(c => [c.name, c.category, c.code])

const idsOf = async (code: string) =>
  (await world.context.db.select({ id: items.id }).from(items).where(eq(items.code, code))).map(i => i.id)

describe('the house tree', () => {
  it('is changed by leads only, and only where it makes sense', async () => {
    await expect(
      changeTree(world.context, world.artist, { action: 'rename', path: 'surfaces', title: 'x' }),
    ).rejects.toMatchObject({ code: 'notAllowed' })
    await expect(send({ action: 'rename', path: 'nowhere', title: 'x' })).rejects.toMatchObject({ code: 'badRequest' })
    await expect(send({ action: 'add', path: 'surfaces', title: 'Cork', prefix: 'TIM' })).rejects.toThrow('prefix of another')
    await expect(send({ action: 'add', path: 'surfaces', title: 'Timber', prefix: 'ZZZ' })).rejects.toThrow(
      'of that name already',
    )
    await expect(send({ action: 'add', path: 'surfaces', title: '···', prefix: 'ZZZ' })).rejects.toThrow('needs a letter')
    await expect(send({ action: 'merge', path: 'surfaces.timber', into: 'furniture' })).rejects.toThrow('holds models')
    await expect(send({ action: 'merge', path: 'surfaces', into: 'surfaces.timber' })).rejects.toThrow('with one in it')
    await expect(send({ action: 'merge', path: 'surfaces.timber', into: 'surfaces.timber' })).rejects.toThrow('with itself')
  })

  it('a new title is one of the words by which its items are found, and is put back', async () => {
    const { undo } = await send({ action: 'rename', path: 'surfaces.timber', title: 'Boards' })
    expect((await wall({ words: 'boards' })).map(c => c.name)).toEqual(['Oak test'])
    await undoTree(world.context, world.lead, undo)
    expect(await wall({ words: 'boards' })).toEqual([])
    await expect(undoTree(world.context, world.lead, undo)).rejects.toMatchObject({ code: 'conflict' })
  })

  it('a category that was added takes things, gives codes of its own, and stands where its parent is', async () => {
    const { undo } = await send({ action: 'add', path: 'surfaces', title: 'Cork & rubber', prefix: 'CRK' })
    const all = await paths()
    expect(all.indexOf('surfaces.corkrubber')).toBeGreaterThan(all.indexOf('surfaces'))
    expect(all.indexOf('surfaces.corkrubber')).toBeLessThan(all.indexOf('furniture'))
    const [oak] = await wall({ words: 'oak' })
    await editItem(world.context, world.lead, oak.id, { category: 'surfaces.corkrubber' })
    await editItem(world.context, world.lead, oak.id, { category: 'surfaces.timber' })
    await undoTree(world.context, world.lead, undo)
    expect(await paths()).not.toContain('surfaces.corkrubber')
  })

  it('is split by words: what is found by them moves, its code and sheet stay, and back again', async () => {
    const before = await skies()
    expect(await countMatching(world.context.db, world.lead, 'environments.skies', { ...NO_RULE, words: 'other' })).toBe(1)
    const { undo, moved } = await send({
      action: 'split',
      path: 'environments.skies',
      title: 'Afternoon',
      prefix: 'AFT',
      rule: { ...NO_RULE, words: 'other' },
    })
    expect(moved).toBe(1)
    const [other] = await wall({ category: 'environments.skies.afternoon' })
    expect(other.name).toBe('Other test sky')
    expect(before.map(b => b[2])).toContain(other.code)
    expect((await getSheet(world.pool, world.artist, other.code, null)).name).toBe('Other test sky')
    // What is usual in a category is what its checks go by.
    const [moving] = await idsOf(other.code)
    expect(world.sent.findLast(s => s.queue === 'check-item')?.job).toMatchObject({ itemId: moving })
    await undoTree(world.context, world.lead, undo)
    expect(await skies()).toEqual(before)
    expect(await paths()).not.toContain('environments.skies.afternoon')
  })

  it('is split by a fact that things have, compared as a figure or as a word', async () => {
    const { db } = world.context
    const count = (rule: object) => countMatching(db, world.lead, 'environments.skies', { ...NO_RULE, ...rule })
    expect(await count({ fact: 'maker', value: 'test MAKERS' })).toBe(2)
    expect(await count({ fact: 'maker', value: 'test makers', words: 'other' })).toBe(1)
    const stops = (await db.execute<{ number: number }>(sql`select number from facts where name = 'dynamicRangeStops'`)).rows
    const middle = stops.reduce((sum, s) => sum + s.number, 0) / stops.length
    const below = await count({ fact: 'dynamicRangeStops', is: 'below', value: String(middle) })
    const above = await count({ fact: 'dynamicRangeStops', is: 'above', value: String(middle).replace('.', ',') })
    expect([below + above, await count({ fact: 'dynamicRangeStops', is: 'above', value: '99' })]).toEqual([2, 0])
    await expect(count({ fact: 'dynamicRangeStops', is: 'above', value: 'bright' })).rejects.toThrow('no number')
    const rule = { ...NO_RULE, fact: 'maker', value: 'Test Makers' }
    const split = { action: 'split', path: 'environments.skies', title: 'From them', prefix: 'FRM', rule } as const
    const { undo, moved } = await send(split)
    expect([moved, (await wall({ category: 'environments.skies.fromthem' })).length]).toEqual([2, 2])
    await undoTree(world.context, world.lead, undo)
  })

  it('is moved with all that is in it: codes, rules, rigs, what waits, and old addresses hold; and back again', async () => {
    const { db } = world.context
    const before = await skies()
    await send({ action: 'add', path: 'environments.skies', title: 'Dusk', prefix: 'DSK' })
    await setRules(world.context, world.lead, { path: 'environments.skies', rules: { ...NO_RULES, requiredFacts: ['maker'] } })
    await expect(send({ action: 'move', path: 'environments.skies', into: 'environments.skies.dusk' })).rejects.toThrow(
      'in itself',
    )
    await expect(send({ action: 'move', path: 'environments.skies', into: 'surfaces' })).rejects.toThrow('holds materials')
    await expect(send({ action: 'move', path: 'environments.skies', into: 'environments' })).rejects.toThrow('already')
    const { undo, moved } = await send({ action: 'move', path: 'environments.skies', into: 'environments.studio' })
    expect(moved).toBe(before.length)
    const there = await paths()
    expect(there).toEqual(expect.arrayContaining(['environments.studio.skies', 'environments.studio.skies.dusk']))
    expect(there).not.toContain('environments.skies')
    expect(there.indexOf('environments.studio.skies')).toBeGreaterThan(there.indexOf('environments.studio'))
    expect((await wall({ category: 'environments.skies' })).map(c => c.code)).toEqual(before.map(b => b[2]))
    const rules = (await listRules(db)).find(r => r.path === 'environments.studio.skies')!
    expect(rules.own.requiredFacts).toEqual(['maker'])
    const listed = await listCategories(world.context, world.lead)
    const rigOf = (path: string) => listed.find(c => c.path === path)?.rig
    expect(rigOf('environments.studio.skies')).toBe('environment-strip')
    const rows = await db.select().from(batchItems).where(eq(batchItems.batchId, waiting))
    expect(new Set(rows.map(r => r.category))).toEqual(new Set(['environments.studio.skies']))
    // The next code follows the last one; the same delivery is known to the pixel, so it is accepted beside it by choice.
    await editBatchItems(world.context, world.lead, waiting, { ids: [rows[0].id], decision: 'keepBoth' })
    await acceptRows(world.context, world.lead, waiting, [rows[0].id])
    const codes = (await skies()).map(s => s[2])
    expect(codes).toHaveLength(before.length + 1)
    expect(new Set(codes.map(c => c.slice(0, 4)))).toEqual(new Set(['SKY-']))
    await undoTree(world.context, world.lead, undo)
    expect((await skies()).map(s => s[1])).toEqual(codes.map(() => 'environments.skies'))
    expect(await paths()).toEqual(expect.arrayContaining(['environments.skies', 'environments.skies.dusk']))
    expect((await listRules(db)).find(r => r.path === 'environments.skies')!.own.requiredFacts).toEqual(['maker'])
    // The place that was left leads back, and another move there is open.
    expect((await wall({ category: 'environments.studio.skies' })).length).toBe(codes.length)
    await setItemStates(world.context, world.lead, await idsOf(codes.at(-1)!), 'withdrawn')
    expect((await listRules(db)).find(r => r.path === 'environments.studio')!.isShipped).toBe(true)
    const again = await send({ action: 'move', path: 'environments.skies', into: 'environments.studio' })
    await undoTree(world.context, world.lead, again.undo)
    await setRules(world.context, world.lead, { path: 'environments.skies', rules: NO_RULES })
  })

  it('is merged: its items, what waits in Intake, and its old address go where it went', async () => {
    const before = await skies()
    const inOrder = await paths()
    const { undo, moved } = await send({ action: 'merge', path: 'environments.skies', into: 'environments.interiors' })
    // Two, and the withdrawn one.
    expect(moved).toBe(3)
    // What lay in it lies in the other one now.
    expect(await paths()).toContain('environments.interiors.dusk')
    expect(await paths()).not.toContain('environments.skies')
    expect((await wall({ category: 'environments.skies' })).map(c => c.category)).toEqual([
      'environments.interiors',
      'environments.interiors',
    ])
    const all = await world.context.db.select().from(batchItems).where(eq(batchItems.batchId, waiting))
    const rows = all.filter(r => r.state !== 'accepted')
    expect(new Set(rows.map(r => r.category))).toEqual(new Set(['environments.interiors']))
    await expect(
      editBatchItems(world.context, world.lead, waiting, { ids: [rows[0].id], category: 'environments.skies' }),
    ).rejects.toThrow('There is no category')
    // A new delivery goes there too, and a start does not bring it back.
    await prepareCategories(world.context.db)
    expect(await paths()).not.toContain('environments.skies')
    const third = await takeIn(world, work, 'house', /Skies/)
    const fresh = await world.context.db.select().from(batchItems).where(eq(batchItems.batchId, third.batchId))
    expect(new Set(fresh.map(r => r.category))).toEqual(new Set(['environments.interiors']))
    await acceptRows(
      world.context,
      world.lead,
      third.batchId,
      fresh.map(r => r.id),
    )
    await undoTree(world.context, world.lead, undo)
    expect(await skies()).toEqual(before)
    expect(await paths()).toEqual(inOrder)
    const { rows: history } = await world.context.db.execute<{ verb: string }>(
      sql`select verb from events where subject = 'standard' and verb like 'tree%' order by id`,
    )
    // The log only grows: taking back is an event of its own. All was taken back but the category that was added on the way.
    expect(history.filter(h => h.verb === 'treeChanged')).toHaveLength(8)
    expect(history.filter(h => h.verb === 'treeChangeUndone')).toHaveLength(7)
    expect((await world.context.db.select().from(items)).length).toBeGreaterThan(3)
  })
})
