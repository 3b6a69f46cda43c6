import { eq } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { NO_RULES } from '../../src/core/standard/category-rules'
import { setItemStates } from '../../src/server/library/edit-items'
import { setItemFacts } from '../../src/server/library/item-facts'
import { getSheet } from '../../src/server/library/sheet'
import { getWall } from '../../src/server/library/wall'
import { listOffStandard, setRules } from '../../src/server/standard/rules/category-rules'
import { batchItems } from '../../src/server/tables/intake.table'
import { items, versionWords } from '../../src/server/tables/library.table'
import { wallQuerySchema } from '../../src/shared/contracts/find.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork, takeIn } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
let id: number
let code: string

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  const taken = await takeIn(world, work, 'house', /Oak_Test/)
  // As a delivery's own list would tag it.
  await world.context.db
    .update(batchItems)
    .set({ tags: ['eiche', 'rustic'] })
    .where(eq(batchItems.batchId, taken.batchId))
  await rule({ tags: [{ word: 'oak', synonyms: ['eiche', 'quercus'] }] })
  await taken.file()
  const [chip] = await find('oak')
  ;({ id, code } = chip)
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

const rule = (rules: Partial<typeof NO_RULES>) =>
  setRules(world.context, world.lead, { path: 'surfaces', rules: { ...NO_RULES, ...rules } })
const find = async (words: string) =>
  (await getWall(world.context, world.artist, wallQuerySchema.parse({ words, limit: 20 }))).chips
const factsOf = async () =>
  Object.fromEntries((await getSheet(world.pool, world.artist, code, null)).facts.map(f => [f.name, f.value]))

describe('facts that people give', () => {
  it('tags are accepted in the words of the category, and every other word for them finds the item', async () => {
    expect((await factsOf()).tags).toBe('oak, rustic')
    expect(await find('quercus')).toHaveLength(1)
    expect(await find('linden')).toHaveLength(0)
    await rule({
      tags: [
        { word: 'oak', synonyms: ['linden'] },
        { word: 'worn', synonyms: ['rustic'] },
      ],
    })
    expect(await find('linden')).toHaveLength(1)
    // What ships knows it too, whatever the house says of its tags.
    expect(await find('quercus')).toHaveLength(1)
    expect(await find('worn')).toHaveLength(1)
    expect(await listOffStandard(world.context.db, world.lead, 'surfaces')).toMatchObject([
      { proposedTags: 'oak, worn', strangeTags: [] },
    ])
  })

  it('are the lead\u2019s to give; what is measured stays as measured', async () => {
    const give = (facts: Record<string, string | null>, actor = world.lead) => setItemFacts(world.context, actor, [{ id, facts }])
    await expect(give({ maker: 'X' }, world.artist)).rejects.toMatchObject({ code: 'notAllowed' })
    await expect(give({ meanRoughness: '0.2' })).rejects.toThrow('mean roughness is measured')
    const before = await factsOf()
    const done = await setItemFacts(world.context, world.lead, [
      { id, facts: { tags: 'oak, worn', series: 'Old barn', licence: null } },
      { id: 999_999, facts: { maker: 'x' } },
    ])
    expect(done).toMatchObject({ changed: [id], refused: [{ id: 999_999 }] })
    const now = await factsOf()
    expect(now).toMatchObject({ tags: 'oak, worn', series: 'Old barn', meanRoughness: before.meanRoughness })
    expect(now.licence).toBeUndefined()
    // Words are kept one by one, and told like any other fact.
    const { currentVersionId } = (await world.context.db.select().from(items).where(eq(items.id, id)))[0]
    const isIts = eq(versionWords.versionId, currentVersionId!)
    const words = await world.context.db.select().from(versionWords).where(isIts).orderBy(versionWords.position)
    expect(words.map(w => [w.list, w.word])).toEqual([
      ['tags', 'oak'],
      ['tags', 'worn'],
    ])
    // No file changed: it is the same version.
    const sheet = await getSheet(world.pool, world.lead, code, null)
    expect(sheet.version.number).toBe(1)
    expect(sheet.events[0]).toMatchObject({ verb: 'described', before: { series: null }, after: { series: 'Old barn' } })
    expect((await give({ series: 'Old barn' })).changed).toEqual([])
    await setItemFacts(world.context, world.lead, done.before)
    expect(await factsOf()).toEqual(before)
  })

  it('those that a category asks for come before its approval', async () => {
    await rule({ requiredFacts: ['maker', 'sheen'], factRanges: [{ fact: 'widthMm', low: 1000, high: null }] })
    const { standard } = await getSheet(world.pool, world.lead, code, null)
    expect(standard).toMatchObject({ missingFacts: ['sheen'], outOfRange: [{ fact: 'widthMm', value: 600 }] })
    expect(await setItemStates(world.context, world.lead, [id], 'approved')).toMatchObject({
      changed: [],
      refused: [{ id, reason: 'Its category asks for its sheen.' }],
    })
    await setItemFacts(world.context, world.lead, [{ id, facts: { sheen: 'matt' } }])
    expect(await setItemStates(world.context, world.lead, [id], 'approved')).toMatchObject({ changed: [id], refused: [] })
    await expect(rule({ factRanges: [{ fact: 'lrv', low: 3, high: 2 }] })).rejects.toThrow('has to be below')
  })
})
