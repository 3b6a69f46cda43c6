import { eq, sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { batchItems } from '../../src/server/db/intake.table'
import { items } from '../../src/server/db/library.table'
import { changeTree, countMatching, undoTree } from '../../src/server/services/category-tree'
import { editItem } from '../../src/server/services/edit-items'
import { fileBatchItems } from '../../src/server/services/file-items'
import { editBatchItems } from '../../src/server/services/intake'
import { prepareCategories } from '../../src/server/services/prepare-categories'
import { getSheet } from '../../src/server/services/sheet'
import { getWall, listCategories } from '../../src/server/services/wall'
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
  await work.pool.close()
  await world.close()
})

const send = (wish: ChangeTree) => changeTree(world.context, world.lead, wish)
const paths = async () => (await listCategories(world.context.db, world.lead)).map(c => c.path)
const wall = async (query: object) =>
  (
    await getWall(world.context.db, world.artist, {
      words: '',
      category: '',
      kind: '',
      state: '',
      library: '',
      limit: 20,
      offset: 0,
      ...query,
    } as never)
  ).chips
const skies = async () => (await wall({ kind: 'environment' })).map(c => [c.name, c.category, c.code])

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
    await expect(send({ action: 'merge', path: 'surfaces', into: 'surfaces.timber' })).rejects.toThrow('has categories in it')
    await expect(send({ action: 'merge', path: 'surfaces.timber', into: 'surfaces.timber' })).rejects.toThrow('with itself')
  })

  it('a new title is one of the words by which its items are found, and is put back', async () => {
    const { undo } = await send({ action: 'rename', path: 'surfaces.timber', title: 'Boards' })
    expect((await wall({ words: 'boards' })).map(c => c.name)).toEqual(['Oak test'])
    await undoTree(world.context, world.lead, undo)
    expect(await wall({ words: 'boards' })).toEqual([])
    await expect(undoTree(world.context, world.lead, undo)).rejects.toMatchObject({ code: 'notFound' })
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
    expect(await countMatching(world.context.db, 'environments.skies', 'other')).toBe(1)
    const { undo, moved } = await send({
      action: 'split',
      path: 'environments.skies',
      title: 'Afternoon',
      prefix: 'AFT',
      words: 'other',
    })
    expect(moved).toBe(1)
    const [other] = await wall({ category: 'environments.skies.afternoon' })
    expect(other.name).toBe('Other test sky')
    expect(before.map(b => b[2])).toContain(other.code)
    expect((await getSheet(world.context.db, world.artist, other.code, null)).name).toBe('Other test sky')
    await undoTree(world.context, world.lead, undo)
    expect(await skies()).toEqual(before)
    expect(await paths()).not.toContain('environments.skies.afternoon')
  })

  it('is merged: its items, what waits in Intake, and its old address go where it went', async () => {
    const before = await skies()
    const { undo, moved } = await send({ action: 'merge', path: 'environments.skies', into: 'environments.interiors' })
    expect(moved).toBe(2)
    expect(await paths()).not.toContain('environments.skies')
    expect((await wall({ category: 'environments.skies' })).map(c => c.category)).toEqual([
      'environments.interiors',
      'environments.interiors',
    ])
    const rows = await world.context.db.select().from(batchItems).where(eq(batchItems.batchId, waiting))
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
    await fileBatchItems(
      world.context,
      world.lead,
      third.batchId,
      fresh.map(r => r.id),
    )
    await undoTree(world.context, world.lead, undo)
    expect(await skies()).toEqual(before)
    const { rows: history } = await world.context.db.execute<{ verb: string }>(
      sql`select verb from events where subject = 'standard' order by id`,
    )
    expect(history.every(h => h.verb === 'treeChangeUndone')).toBe(true)
    expect((await world.context.db.select().from(items)).length).toBeGreaterThan(3)
  })
})
