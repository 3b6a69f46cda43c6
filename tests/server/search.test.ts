import { sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { createRandom } from '../../src/core/math/random'
import { HOUSE_CATEGORIES } from '../../src/core/standard/categories'
import { items } from '../../src/server/db/library.table'
import { refreshDocuments, toPrefixQuery } from '../../src/server/db/search'
import { getWall, isWithin } from '../../src/server/services/wall'
import { STATES, wallQuerySchema } from '../../src/shared/contracts/items.contract'
import { createTestWorld, type TestWorld } from '../test-database'

let world: TestWorld
const WORDS = ['oak', 'oaken', 'walnut', 'plank', 'smoked', 'terrazzo', 'harbour', 'linen', 'clear', 'sky']

const listAll = async () => (await world.context.db.select().from(items)).filter(i => i.libraryId === 1)

beforeAll(async () => {
  world = await createTestWorld()
  const random = createRandom(8)
  const rows = Array.from({ length: 600 }, (_, i) => {
    const category = HOUSE_CATEGORIES[random.index(HOUSE_CATEGORIES.length)]
    return {
      libraryId: random.next() < 0.9 ? 1 : 2,
      category: category.path,
      kind: category.kind,
      code: `${category.prefix}-${String(i).padStart(4, '0')}`,
      name: `${WORDS[random.index(WORDS.length)]} ${WORDS[random.index(WORDS.length)]}`,
      state: STATES[random.index(4)],
    }
  })
  const made = await world.context.db.insert(items).values(rows).returning({ id: items.id })
  await refreshDocuments(
    world.context.db,
    made.map(m => m.id),
  )
})
afterAll(() => world.close())

const ask = (given: Record<string, unknown>) => getWall(world.context.db, world.artist, wallQuerySchema.parse(given))

describe('typed words', () => {
  it('become prefixes, all of them wanted, and never break the query language', () => {
    expect(toPrefixQuery('Oak pl')).toBe('oak:* & pl:*')
    expect(toPrefixQuery("  '; drop table items; -- ")).toBe('drop:* & table:* & items:*')
    expect(toPrefixQuery('& | ! <-> :*')).toBeNull()
    expect(toPrefixQuery('Ébène')).toBe('ébène:*')
  })

  it('find by the start of every word, in name, code and category', async () => {
    const all = await listAll()
    const wordsOf = (i: (typeof all)[number]) => {
      const titles = HOUSE_CATEGORIES.filter(c => isWithin(i.category, c.path)).map(c => c.title)
      return `${i.name} ${i.code} ${titles.join(' ')}`.toLowerCase().split(/[^a-z0-9]+/)
    }
    const expected = all.filter(
      i => i.state !== 'withdrawn' && ['oak', 'pl'].every(start => wordsOf(i).some(w => w.startsWith(start))),
    ).length
    expect(expected).toBeGreaterThan(10)
    expect((await ask({ words: 'oak pl' })).total).toBe(expected)
    const [one] = all.filter(i => i.state === 'approved')
    expect((await ask({ words: one.code })).chips[0].code).toBe(one.code)
    expect((await ask({ words: 'nothing like this' })).total).toBe(0)
  })

  it('put names before other matches', async () => {
    const { chips } = await ask({ words: 'plank', limit: 240 })
    expect(chips.length).toBeGreaterThan(20)
    expect(chips.every(c => /plank/.test(c.name))).toBe(true)
  })
})

describe('counts', () => {
  it('of every view agree with counting by hand', async () => {
    const all = (await listAll()).map(i => ({ ...i, words: i.name }))
    for (const query of [
      {},
      { category: 'surfaces' },
      { category: 'surfaces.timber', state: 'approved' },
      { kind: 'model' },
      { words: 'oak', kind: 'material' },
      { words: 'walnut', category: 'vegetation', state: 'withdrawn' },
    ] as Record<string, string>[]) {
      const view = await ask(query)
      const matches = (skip: string) =>
        all.filter(
          i =>
            (skip === 'category' || isWithin(i.category, query.category ?? '')) &&
            (skip === 'kind' || !query.kind || i.kind === query.kind) &&
            (skip === 'state' || (query.state ? i.state === query.state : i.state !== 'withdrawn')) &&
            (!query.words || i.name.split(' ').some(w => w.startsWith(query.words))),
        )
      expect(view.total).toBe(matches('').length)
      for (const kind of ['material', 'model', 'environment'])
        expect(view.facets.kinds[kind] ?? 0).toBe(matches('kind').filter(i => i.kind === kind).length)
      for (const state of STATES)
        expect(view.facets.states[state] ?? 0).toBe(matches('state').filter(i => i.state === state).length)
      for (const { path } of HOUSE_CATEGORIES)
        expect(view.facets.categories[path] ?? 0).toBe(matches('category').filter(i => isWithin(i.category, path)).length)
    }
  })

  it('kept by trigger stay right through inserts, moves and deletions', async () => {
    const { db } = world.context
    await db.execute(sql`update items set state = 'approved' where id % 3 = 0`)
    await db.execute(sql`update items set category = 'surfaces.metal', kind = 'material' where id % 7 = 0`)
    await db.execute(sql`delete from items where id % 11 = 0`)
    const { rows: kept } = await db.execute(
      sql`select library_id, category::text, kind, state, count from item_counts where count <> 0 order by 1, 2, 3, 4`,
    )
    const { rows: counted } = await db.execute(
      sql`select library_id, category::text, kind, state, count(*)::int as count from items group by 1, 2, 3, 4 order by 1, 2, 3, 4`,
    )
    expect(kept).toEqual(counted)
  })

  it('pages join without a gap or a repetition', async () => {
    const whole = await ask({ limit: 240 })
    const pages = [...(await ask({ limit: 50 })).chips, ...(await ask({ limit: 50, offset: 50 })).chips]
    expect(pages.map(c => c.id)).toEqual(whole.chips.slice(0, 100).map(c => c.id))
  })
})
