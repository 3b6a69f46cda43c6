import { eq, sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { createRandom } from '../../src/core/math/random'
import { HOUSE_CATEGORIES } from '../../src/core/standard/categories'
import { refreshDocuments, toPrefixQuery } from '../../src/server/items/search-words'
import { getWall, isWithin } from '../../src/server/library/wall'
import { findings, items, versions } from '../../src/server/tables/library.table'
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

/** The words that an item is found by. */
const wordsOf = (i: { name: string; code: string; category: string }) => {
  const titles = HOUSE_CATEGORIES.filter(c => isWithin(i.category, c.path)).map(c => c.title)
  return `${i.name} ${i.code} ${titles.join(' ')}`.toLowerCase().split(/[^a-z0-9]+/)
}

const ask = (given: Record<string, unknown>) => getWall(world.context, world.artist, wallQuerySchema.parse(given))

describe('typed words', () => {
  it('become prefixes, all of them wanted, and never break the query language', () => {
    expect(toPrefixQuery('Oak pl')).toBe('oak:* & pl:*')
    expect(toPrefixQuery("  '; drop table items; -- ")).toBe('drop:* & table:* & items:*')
    expect(toPrefixQuery('& | ! <-> :*')).toBeNull()
    expect(toPrefixQuery('Ébène')).toBe('ébène:*')
  })

  it('find by the start of every word, in name, code and category', async () => {
    const all = await listAll()
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
    const all = await listAll()
    for (const query of [
      {},
      { category: 'surfaces' },
      { category: 'surfaces.timber', state: 'approved' },
      { kind: 'model' },
      { words: 'oak', kind: 'material' },
      { words: 'o' },
      { words: 'oak plank', state: 'approved' },
      { words: 'walnut', category: 'vegetation', state: 'withdrawn' },
    ] as Record<string, string>[]) {
      const view = await ask(query)
      const matches = (skip: string) =>
        all.filter(
          i =>
            (skip === 'category' || isWithin(i.category, query.category ?? '')) &&
            (skip === 'kind' || !query.kind || i.kind === query.kind) &&
            (skip === 'state' || (query.state ? i.state === query.state : i.state !== 'withdrawn')) &&
            (!query.words || query.words.split(' ').every(q => wordsOf(i).some(w => w.startsWith(q)))),
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

  it('and pages of what a check found something in', async () => {
    const { db } = world.context
    const marked = (await listAll()).filter(i => i.state !== 'withdrawn' && i.kind === 'material').slice(0, 9)
    for (const [n, { id }] of marked.entries()) {
      const [version] = await db
        .insert(versions)
        .values({ itemId: id, number: 1, authorId: world.lead.id, inputKey: `k${id}` })
        .returning()
      await db.update(items).set({ currentVersionId: version.id }).where(eq(items.id, id))
      const code = n % 3 === 0 ? 'bakedLight' : 'tileSeam'
      await db.insert(findings).values({ versionId: version.id, code, severity: 'shouldFix', evidence: {} })
    }
    const seams = await ask({ finding: 'tileSeam' })
    expect([seams.total, seams.chips.length, seams.facets.kinds]).toEqual([6, 6, { material: 6 }])
    const [first] = seams.chips
    const word = first.name.split(' ')[0]
    const named = await ask({ finding: 'tileSeam', words: word, category: first.category })
    expect(named.chips.map(c => c.code)).toContain(first.code)
    expect(named.total).toBe(named.chips.length)
    expect((await ask({ finding: 'badPixels' })).total).toBe(0)
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
    const { rows: keptPrefixes } = await db.execute(
      sql`select prefix, library_id, category::text, kind, state, count from prefix_counts where count <> 0 order by 1, 2, 3, 4, 5`,
    )
    const { rows: countedPrefixes } = await db.execute(sql`
      select prefix, library_id, category::text, kind, state, count(distinct id)::int as count
      from items, unnest(tsvector_to_array(document)) word, lateral (select left(word, n) as prefix from generate_series(1, least(length(word), 12)) n) p
      group by 1, 2, 3, 4, 5 order by 1, 2, 3, 4, 5`)
    expect(keptPrefixes.length).toBeGreaterThan(100)
    expect(keptPrefixes).toEqual(countedPrefixes)
  })

  it('two people may approve at once, in whatever order', async () => {
    const { db } = world.context
    const ids = (await db.execute<{ id: number }>(sql`select id from items order by id limit 60`)).rows.map(r => r.id)
    const flip = (list: number[], state: string) =>
      db.transaction(async tx => {
        for (const id of list) await tx.execute(sql`update items set state = ${state} where id = ${id}`)
      })
    await Promise.all([
      flip(
        ids.filter(i => i % 2 === 0),
        'approved',
      ),
      flip(ids.filter(i => i % 2 === 1).reverse(), 'draft'),
    ])
  })

  it('pages of a search join without a gap where names end and other matches begin', async () => {
    const whole = await ask({ words: 'p', limit: 240 })
    const pages = []
    for (let offset = 0; offset < whole.chips.length; offset += 17)
      pages.push(...(await ask({ words: 'p', limit: 17, offset })).chips)
    expect(pages.map(c => c.id).slice(0, whole.chips.length)).toEqual(whole.chips.map(c => c.id))
  })

  it('pages join without a gap or a repetition', async () => {
    const whole = await ask({ limit: 240 })
    const pages = [...(await ask({ limit: 50 })).chips, ...(await ask({ limit: 50, offset: 50 })).chips]
    expect(pages.map(c => c.id)).toEqual(whole.chips.slice(0, 100).map(c => c.id))
  })
})
