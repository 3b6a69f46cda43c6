import { eq, sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { applyValues } from '../../src/server/bulk/apply-action'
import { getBulk, listBulk, planBulk, startBulk, stopBulk, undoBulk } from '../../src/server/bulk/bulk-runs'
import { nextValue } from '../../src/server/bulk/read-values'
import { runBulkJob } from '../../src/server/bulk/run-bulk.job'
import { isOneOf } from '../../src/server/platform/database'
import { bulkItems, bulkRuns } from '../../src/server/tables/bulk.table'
import { events, facts, findings, items, toldFacts, versions, versionWords } from '../../src/server/tables/library.table'
import { pins, projects } from '../../src/server/tables/project.table'
import type { BulkAction } from '../../src/shared/contracts/bulk.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
const COUNT = 230

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  const { db } = world.context
  const made = await db
    .insert(items)
    .values(
      Array.from({ length: COUNT }, (_, n) => ({
        libraryId: 1,
        category: 'surfaces.timber',
        kind: 'material' as const,
        code: `TIM-${String(n).padStart(4, '0')}`,
        name: `Board ${n}`,
        state: n % 2 === 0 ? ('draft' as const) : ('inReview' as const),
      })),
    )
    .returning({ id: items.id })
  const stated = await db
    .insert(versions)
    .values(made.map(({ id }) => ({ itemId: id, number: 1, authorId: world.lead.id, inputKey: `k${id}` })))
    .returning({ id: versions.id, itemId: versions.itemId })
  await db.execute(sql`update items i set current_version_id = v.id from versions v where v.item_id = i.id`)
  await db.insert(facts).values(
    stated.flatMap(({ id }) => [
      { versionId: id, name: 'maker', position: 0, text: 'Oddmere' },
      { versionId: id, name: 'licence', position: 1, text: 'All projects' },
    ]),
  )
  await db.insert(versionWords).values(
    stated.flatMap(({ id }, n) =>
      (n % 5 === 0 ? ['oak', 'pale'] : ['pale']).map((word, position) => ({
        versionId: id,
        list: 'tags' as const,
        position,
        word,
      })),
    ),
  )
  await db
    .insert(findings)
    .values({ versionId: stated[3].id, code: 'texturesMissing' as never, severity: 'mustFix', evidence: {} })
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

const run = async (action: BulkAction, address = '', actor = world.lead) => {
  const id = await startBulk(world.context, actor, { address, action })
  await runBulkJob(work, { id })
  return getBulk(world.context, actor, id)
}
const undo = async (id: number) => {
  const undone = await undoBulk(world.context, world.lead, id)
  await runBulkJob(work, { id: undone })
  return getBulk(world.context, world.lead, undone)
}
const snapshot = async () =>
  (
    await world.context.db.execute(sql`
      select i.id, i.state, i.approved_version_id, i.category::text as category, (select string_agg(f.name || '=' || f.text, ';' order by f.name)
        from told_facts f where f.version_id = i.current_version_id) as facts from items i order by i.id`)
  ).rows

const getSheetTags = async (code: string) => {
  const { rows } = await world.context.db.execute<{ text: string }>(sql`
    select f.text from items i join told_facts f on f.version_id = i.current_version_id where i.code = ${code} and f.name = 'tags'`)
  return rows[0]?.text
}

describe('a change of everything in a view', () => {
  it('says first what would happen, does it with its events, says what was refused, and is undone as one', async () => {
    const before = await snapshot()
    const action: BulkAction = { do: 'state', state: 'approved' }
    expect(await planBulk(world.context, world.lead, { address: 'words=board', action })).toEqual({
      total: COUNT,
      same: 0,
      blocked: [{ reason: 'A finding of them must be fixed first.', count: 1 }],
    })
    const done = await run(action, 'words=board')
    expect(done).toMatchObject({ state: 'done', total: COUNT, done: COUNT, changed: COUNT - 1, refusedCount: 1 })
    expect(done.refused).toEqual([{ code: 'TIM-0003', reason: 'One finding must be fixed first.' }])
    const noted = await world.context.db.select().from(events).where(eq(events.verb, 'state'))
    expect(noted).toHaveLength(COUNT - 1)
    expect(await undo(done.id)).toMatchObject({ state: 'done', changed: COUNT - 1, isUndo: true })
    expect(await snapshot()).toEqual(before)
    await expect(undoBulk(world.context, world.lead, done.id)).rejects.toMatchObject({ code: 'conflict' })
  })

  it('puts words into lists and takes them out, leaving the others, and gives facts', async () => {
    const before = await snapshot()
    const done = await run({ do: 'words', list: 'tags', add: ['plank', 'Pale'], remove: ['OAK'] })
    expect(done.changed).toBe(COUNT)
    const tags = await world.context.db.select({ text: toldFacts.text }).from(toldFacts).where(eq(toldFacts.name, 'tags'))
    expect(new Set(tags.map(t => t.text))).toEqual(new Set(['pale, plank']))
    expect((await undo(done.id)).changed).toBe(COUNT)
    expect(await snapshot()).toEqual(before)
    const given = await run({ do: 'fact', fact: 'maker', value: 'Hollowbrook' }, 'tag=oak')
    expect(given).toMatchObject({ total: 46, changed: 46 })
    expect(
      await planBulk(world.context, world.lead, { address: '', action: { do: 'fact', fact: 'maker', value: 'Hollowbrook' } }),
    ).toMatchObject({
      same: 46,
    })
    await undo(given.id)
    expect(await snapshot()).toEqual(before)
    expect(nextValue({ do: 'words', list: 'tags', add: [], remove: ['a'] }, 'a')).toBeNull()
  })

  it('moves what fits and refuses the rest by name', async () => {
    const before = await snapshot()
    const done = await run({ do: 'category', category: 'surfaces.stone' }, 'tag=oak')
    expect(done).toMatchObject({ changed: 46, refusedCount: 0 })
    await undo(done.id)
    expect(await snapshot()).toEqual(before)
    const wrong = await run({ do: 'category', category: 'furniture.chairs' }, 'tag=oak')
    expect(wrong).toMatchObject({ changed: 0, refusedCount: 46 })
    expect(wrong.refused[0].reason).toMatch(/does not hold/)
  })

  it('names by the pattern of the category, and puts letters in the place of others', async () => {
    const before = await snapshot()
    const { db } = world.context
    const named = async () => (await db.select({ name: items.name }).from(items).orderBy(items.id)).map(r => r.name)
    const old = await named()
    const replaced = await run({ do: 'replace', find: 'Board', put: 'Long  plank' }, 'tag=oak')
    expect(replaced).toMatchObject({ changed: 46, mayUndo: true })
    expect((await named()).filter(n => n.startsWith('Long plank '))).toHaveLength(46)
    // What the pattern would call as it is called already stays.
    expect(await planBulk(world.context, world.lead, { address: '', action: { do: 'names' } })).toMatchObject({ same: COUNT })
    await undo(replaced.id)
    expect(await named()).toEqual(old)
    expect(await snapshot()).toEqual(before)
    await db.update(items).set({ name: '  board   9_' }).where(eq(items.code, 'TIM-0009'))
    const cleaned = await run({ do: 'names' })
    expect(cleaned).toMatchObject({ changed: 1 })
    expect((await named())[9]).not.toBe('  board   9_')
    await db.update(items).set({ name: 'Board 9' }).where(eq(items.code, 'TIM-0009'))
  })

  it('puts the words in that each thing says of itself, and takes none out', async () => {
    const before = await snapshot()
    const { db } = world.context
    await db.update(items).set({ name: 'Eichendiele 1' }).where(eq(items.code, 'TIM-0001'))
    const done = await run({ do: 'propose', list: 'tags' }, 'words=Eichendiele')
    expect(done).toMatchObject({ total: 1, changed: 1 })
    const tagged = await getSheetTags('TIM-0001')
    expect(tagged).toBe('pale, oak, plank')
    await undo(done.id)
    await db.update(items).set({ name: 'Board 1' }).where(eq(items.code, 'TIM-0001'))
    expect(await snapshot()).toEqual(before)
  })

  it('is of items by their ids as well, of those alone that the asker may see', async () => {
    const { db } = world.context
    const [hidden] = await db
      .insert(items)
      .values({
        libraryId: 2,
        category: 'surfaces.timber',
        kind: 'material',
        code: 'CLI-TIM-0001',
        name: 'Secret',
        state: 'draft',
      })
      .returning()
    const [{ id: known }] = await db.select({ id: items.id }).from(items).where(eq(items.code, 'TIM-0007'))
    const wish = { address: '', ids: [known, hidden.id], action: { do: 'dot', color: 5, on: true } as BulkAction }
    expect(await planBulk(world.context, world.artist, wish)).toMatchObject({ total: 1 })
    await expect(startBulk(world.context, world.artist, { ...wish, ids: [hidden.id] })).rejects.toMatchObject({
      code: 'notFound',
    })
    await db.delete(items).where(eq(items.id, hidden.id))
  })

  it('that broke off after a portion goes on where it was, and knows what everything was before', async () => {
    const before = await snapshot()
    const { db } = world.context
    const id = await startBulk(world.context, world.lead, { address: '', action: { do: 'fact', fact: 'maker', value: 'Broken' } })
    await runBulkJob(work, { id })
    // As if the last portion had been written and its progress lost.
    await db.update(bulkRuns).set({ done: 200, changed: 200, state: 'running' }).where(eq(bulkRuns.id, id))
    await db.execute(sql`update bulk_items set outcome = null where run_id = ${id} and place > 200`)
    await runBulkJob(work, { id })
    expect(await getBulk(world.context, world.lead, id)).toMatchObject({ state: 'done', done: COUNT, changed: COUNT })
    const kept = await db.select().from(bulkItems).where(eq(bulkItems.runId, id))
    expect(new Set(kept.map(k => k.before))).toEqual(new Set(['Oddmere']))
    await undo(id)
    expect(await snapshot()).toEqual(before)
  })

  it('stops when somebody says so, and can be undone as far as it came', async () => {
    const before = await snapshot()
    const id = await startBulk(world.context, world.lead, { address: '', action: { do: 'state', state: 'withdrawn' } })
    await stopBulk(world.context, world.lead, id)
    await runBulkJob(work, { id })
    expect(await getBulk(world.context, world.lead, id)).toMatchObject({ state: 'stopped', done: 0, changed: 0 })
    expect(await snapshot()).toEqual(before)
    await expect(undoBulk(world.context, world.lead, id)).rejects.toMatchObject({ code: 'badRequest' })
  })

  it('is the lead’s where it changes the library; dots and pins are anybody’s; nobody sees another’s', async () => {
    const { db } = world.context
    const action: BulkAction = { do: 'state', state: 'approved' }
    await expect(startBulk(world.context, world.artist, { address: '', action })).rejects.toMatchObject({ code: 'notAllowed' })
    const dotted = await run({ do: 'dot', color: 3, on: true }, 'tag=oak', world.artist)
    expect(dotted).toMatchObject({ changed: 46 })
    await expect(getBulk(world.context, world.lead, dotted.id)).rejects.toMatchObject({ code: 'notFound' })
    const [project] = await db.insert(projects).values({ code: 'FERRY', title: 'Ferry', libraryId: 1 }).returning()
    const pinned = await run({ do: 'pin', projectId: project.id }, 'tag=oak', world.artist)
    expect(pinned).toMatchObject({ changed: 0, refusedCount: 46 })
    expect(await db.select().from(pins)).toEqual([])
    await expect(startBulk(world.context, world.lead, { address: 'words=xqzzy', action })).rejects.toMatchObject({
      code: 'badRequest',
    })
    await expect(startBulk(world.context, world.lead, { address: 'kind=teapot', action })).rejects.toMatchObject({
      code: 'badRequest',
    })
  })

  it('moves into another library with what it is called there, and back to its old code', async () => {
    const { db } = world.context
    const before = await snapshot()
    const codes = async () => (await db.select({ id: items.id, code: items.code }).from(items).orderBy(items.id)).map(i => i.code)
    const called = await codes()
    const ids = (await db.select({ id: items.id }).from(items).where(eq(items.libraryId, 1)).orderBy(items.id).limit(3)).map(
      i => i.id,
    )
    const action: BulkAction = { do: 'library', library: 'client' }
    expect(await planBulk(world.context, world.lead, { address: '', ids, action })).toEqual({ total: 3, same: 0, blocked: [] })
    const id = await startBulk(world.context, world.lead, { address: '', ids, action })
    const there = await db.select().from(items).where(isOneOf(items.id, ids))
    expect(there.every(i => i.libraryId !== 1 && i.code.startsWith('CLI-'))).toBe(true)
    await undoBulk(world.context, world.lead, id)
    expect(await codes()).toEqual(called)
    expect(await snapshot()).toEqual(before)
    // Who may not see a library cannot send anything there.
    await expect(startBulk(world.context, world.artist, { address: '', ids, action })).rejects.toMatchObject({
      code: 'notAllowed',
    })
    await expect(
      startBulk(world.context, world.lead, { address: '', ids, action: { do: 'library', library: 'nowhere' } }),
    ).rejects.toMatchObject({ code: 'notFound' })
  })

  it('of a few items is done when the request is answered; what the queue does then changes nothing twice', async () => {
    const { db } = world.context
    const ids = (await db.select({ id: items.id }).from(items).orderBy(items.id).limit(5)).map(i => i.id)
    const id = await startBulk(world.context, world.lead, {
      address: '',
      ids,
      action: { do: 'fact', fact: 'maker', value: 'At once' },
    })
    expect(await getBulk(world.context, world.lead, id)).toMatchObject({ state: 'done', changed: 5, done: 5 })
    await runBulkJob(work, { id })
    expect(await getBulk(world.context, world.lead, id)).toMatchObject({ state: 'done', changed: 5, done: 5 })
    await undoBulk(world.context, world.lead, id)
  })

  it('two that are at it at once see to each item once', async () => {
    const id = await startBulk(world.context, world.lead, { address: '', action: { do: 'fact', fact: 'maker', value: 'Twice' } })
    await Promise.all([runBulkJob(work, { id }), runBulkJob(work, { id })])
    expect(await getBulk(world.context, world.lead, id)).toMatchObject({ state: 'done', changed: COUNT, done: COUNT })
    await undo(id)
  })

  it('is listed for who made it, with its undoing long after it was offered', async () => {
    const listed = await listBulk(world.context, world.lead)
    expect(listed[0]).toMatchObject({ action: { do: 'fact', value: 'Twice' }, changed: COUNT, mayUndo: false })
    expect(listed[0].undoneBy).toBeGreaterThan(listed[0].id)
    expect(listed.every(run => !run.isUndo)).toBe(true)
    const mine = await listBulk(world.context, world.artist)
    expect(mine.length).toBeGreaterThan(0)
    expect(mine.some(run => listed.some(other => other.id === run.id))).toBe(false)
  })

  it('of finals refuses by name what is gone out of sight meanwhile, and goes on with the rest', async () => {
    const { db } = world.context
    const ids = (await db.select({ id: items.id }).from(items).orderBy(items.id).limit(2)).map(i => i.id)
    const values = ids.map(itemId => ({ id: itemId, value: 'yes' }))
    const [{ libraryId }] = await db.select().from(items).where(eq(items.id, ids[0]))
    await db.execute(sql`update items set library_id = (select id from libraries where key = 'client') where id = ${ids[0]}`)
    const done = await applyValues(world.context, world.artist, { do: 'finals' }, values)
    expect(done.changed).toEqual([ids[1]])
    expect(done.refused).toEqual([expect.objectContaining({ id: ids[0] })])
    await db.update(items).set({ libraryId }).where(eq(items.id, ids[0]))
  })
})
