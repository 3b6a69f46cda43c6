import { eq, sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { isWithin } from '../../src/core/find/query/find-query'
import type { LicenceReach } from '../../src/core/hand-over/licence'
import { createRandom } from '../../src/core/math/random'
import { HOUSE_CATEGORIES } from '../../src/core/standard/categories'
import { LibraryFinder } from '../../src/server/find/library-finder'
import { toPrefixQuery } from '../../src/server/items/search-words'
import { listFacetValues, suggestWords } from '../../src/server/library/suggest-words'
import { getWall } from '../../src/server/library/wall'
import { isOneOf, openDatabase } from '../../src/server/platform/database'
import { setLicence } from '../../src/server/standard/licences/licences'
import { facts, findings, items, versions } from '../../src/server/tables/library.table'
import { projects } from '../../src/server/tables/project.table'
import { STATES } from '../../src/shared/contracts/chip.contract'
import { facetValuesQuerySchema, narrowingSchema, wallQuerySchema } from '../../src/shared/contracts/find.contract'
import { createTestWorld, type TestWorld } from '../test-database'

let world: TestWorld
// None of them is another word for one of the others.
const WORDS = ['oak', 'oaken', 'walnut', 'knotty', 'smoked', 'terrazzo', 'harbour', 'linen', 'quarter', 'rustic']

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
  await world.context.db.insert(items).values(rows)
})
afterAll(() => world.close())

const ask = (given: Record<string, unknown>) => getWall(world.context, world.artist, wallQuerySchema.parse(given))
const countsOf = (view: Awaited<ReturnType<typeof ask>>, facet: 'kind' | 'state' | 'maker') =>
  Object.fromEntries((view.facets!.terms[facet] ?? []).map(v => [v.value, v.count]))

/** Gives an item a version, with facts. */
async function describeItem(id: number, given: Record<string, number | string>): Promise<number> {
  const { db } = world.context
  const [version] = await db
    .insert(versions)
    .values({ itemId: id, number: 1, authorId: world.lead.id, inputKey: `k${id}` })
    .returning()
  await db.insert(facts).values(
    Object.entries(given).map(([name, value], position) => ({
      versionId: version.id,
      name,
      position,
      ...(typeof value === 'number' ? { number: value } : { text: value }),
    })),
  )
  await db.update(items).set({ currentVersionId: version.id }).where(eq(items.id, id))
  return version.id
}

describe('typed words', () => {
  it('become prefixes for a split, all of them wanted, and never break the query language', () => {
    expect(toPrefixQuery('Oak pl')).toBe('oak:* & pl:*')
    expect(toPrefixQuery("  '; drop table items; -- ")).toBe('drop:* & table:* & items:*')
    expect(toPrefixQuery('& | ! <-> :*')).toBeNull()
  })

  it('find by the start of every word, and names come before other matches', async () => {
    const all = (await listAll()).filter(i => i.state !== 'withdrawn')
    const expected = all.filter(i => ['smo', 'har'].every(start => i.name.split(' ').some(w => w.startsWith(start)))).length
    expect(expected).toBeGreaterThan(3)
    expect((await ask({ words: 'smo har' })).total).toBe(expected)
    const [one] = all
    expect((await ask({ words: one.code })).chips[0].code).toBe(one.code)
    expect((await ask({ words: one.code.replace('-', '') })).chips[0].code).toBe(one.code)
    const { chips } = await ask({ words: 'timber', limit: 240 })
    expect(chips.length).toBeGreaterThan(0)
  })

  it('in other languages and with mistakes find the same, and say what they were taken for', async () => {
    const { total } = await ask({ words: 'walnut' })
    expect(total).toBeGreaterThan(20)
    expect((await ask({ words: 'Nussbaum' })).total).toBe(total)
    const mistaken = await ask({ words: 'wlanut' })
    expect([mistaken.total, mistaken.takenFor]).toEqual([total, [{ typed: 'wlanut', meant: 'walnut' }]])
  })
})

describe('what a project may use', () => {
  it('is what the house and its client have, as far as licences let it out for it today', async () => {
    const { db } = world.context
    const [hall, other] = await db
      .insert(projects)
      .values(['HALL', 'OTHER'].map(code => ({ code, title: code, libraryId: 1 })))
      .returning()
    const ours = (await listAll()).filter(i => i.state === 'approved').slice(0, 3)
    await describeItem(ours[0].id, { licence: 'Rented' })
    await describeItem(ours[1].id, { licence: 'Everywhere' })
    const usable = async (usableIn: string) => {
      const view = await ask({ usableIn, state: 'approved', limit: 240 })
      expect(view.total).toBe(view.chips.length)
      return new Set(view.chips.map(c => c.id))
    }
    const [rentedId, otherId, plainId] = ours.map(i => i.id)
    const all = await usable('')
    // Nobody has said anything of its licence: it lets out everything.
    expect(await usable('HALL')).toEqual(all)
    const say = (reach: LicenceReach, projectIds: number[] = [], until: string | null = null) =>
      setLicence(world.context, world.lead, { wording: 'Rented', reach, projectIds, until })
    await say('projects', [other.id])
    expect(await usable('HALL')).toEqual(new Set([...all].filter(id => id !== rentedId)))
    expect(await usable('OTHER')).toEqual(all)
    expect(await usable('')).toEqual(all)
    await say('projects', [hall.id, other.id], '2020-01-31')
    expect((await usable('HALL')).has(rentedId)).toBe(false)
    await say('none')
    const left = await usable('OTHER')
    expect([left.has(rentedId), left.has(otherId), left.has(plainId)]).toEqual([false, true, true])
    // Nor is it counted among what may be narrowed by.
    const { facets: counted } = await ask({ usableIn: 'OTHER' })
    expect(counted!.terms.licence?.some(l => l.value === 'Rented') ?? false).toBe(false)
    await db
      .update(items)
      .set({ currentVersionId: null })
      .where(isOneOf(items.id, [rentedId, otherId]))
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
      { kind: 'model|material', state: 'draft|approved' },
      { words: 'smoked', kind: 'material' },
      { words: 'terrazzo quarter' },
      { words: 'rustic', category: 'vegetation', state: 'withdrawn' },
    ] as Record<string, string>[]) {
      const view = await ask(query)
      const isOneOf = (value: string, wanted?: string) => !wanted || wanted.split('|').includes(value)
      const matches = (skip: string) =>
        all.filter(
          i =>
            (skip === 'category' || isWithin(i.category, query.category ?? '')) &&
            (skip === 'kind' || isOneOf(i.kind, query.kind)) &&
            (skip === 'state' || (query.state ? isOneOf(i.state, query.state) : i.state !== 'withdrawn')) &&
            (!query.words || query.words.split(' ').every(q => i.name.includes(q))),
        )
      // Stone and terrazzo is a place, and whatever lies there is found by its title too.
      if (query.words?.includes('terrazzo')) expect(view.total).toBeGreaterThanOrEqual(matches('').length)
      else {
        expect(view.total).toBe(matches('').length)
        const kinds = countsOf(view, 'kind')
        for (const kind of ['material', 'model', 'environment', 'light'])
          if (Object.keys(kinds).length > 0) expect(kinds[kind] ?? 0).toBe(matches('kind').filter(i => i.kind === kind).length)
        const states = countsOf(view, 'state')
        for (const state of STATES) expect(states[state] ?? 0).toBe(matches('state').filter(i => i.state === state).length)
        for (const { path } of HOUSE_CATEGORIES)
          expect(view.facets!.categories[path] ?? 0).toBe(matches('category').filter(i => isWithin(i.category, path)).length)
      }
    }
  })

  it('come with the first page alone', async () => {
    expect((await ask({ offset: 120 })).facets).toBeNull()
  })

  it('and pages of what a check found something in, of facts, figures and colours', async () => {
    const { db } = world.context
    const marked = (await listAll()).filter(i => i.state !== 'withdrawn' && i.kind === 'material').slice(0, 9)
    for (const [n, { id }] of marked.entries()) {
      const versionId = await describeItem(id, {
        maker: n < 4 ? 'Oddmere' : 'Hollowbrook',
        widthMm: 100 * (n + 1),
        palette: n === 0 ? '#b02018 1.000' : n === 1 ? '#f5f5f5 0.800, #b02018 0.200' : '#404040 1.000',
      })
      const code = n % 3 === 0 ? 'bakedLight' : 'tileSeam'
      await db.insert(findings).values({ versionId, code, severity: 'shouldFix', evidence: {} })
    }
    const seams = await ask({ finding: 'tileSeam' })
    expect([seams.total, seams.chips.length]).toEqual([6, 6])
    expect(countsOf(seams, 'maker')).toEqual({ Oddmere: 2, Hollowbrook: 4 })
    expect((await ask({ maker: 'Oddmere', finding: 'tileSeam' })).total).toBe(2)
    expect((await ask({ finding: 'badPixels' })).total).toBe(0)
    const wide = await ask({ widthMm: '350..700' })
    expect(wide.total).toBe(4)
    expect(wide.facets!.figures.widthMm!.counts.reduce((a, b) => a + b)).toBe(9)
    const red = await ask({ color: 'b02018' })
    expect(red.chips.map(c => c.id)).toEqual([marked[0].id, marked[1].id])
    expect((await ask({ color: 'b02018|ffffff~12' })).chips.map(c => c.id)).toEqual([marked[1].id])
  })

  it('pages join without a gap or a repetition, with words and without', async () => {
    for (const words of ['', 'smoked']) {
      const whole = await ask({ words, limit: 240 })
      const pages = []
      for (let offset = 0; offset < whole.chips.length; offset += 17)
        pages.push(...(await ask({ words, limit: 17, offset })).chips)
      expect(pages.map(c => c.id).slice(0, whole.chips.length)).toEqual(whole.chips.map(c => c.id))
    }
  })
})

describe('an empty view', () => {
  it('says which one condition to drop, the nearest words and the nearest items', async () => {
    const [item] = (await listAll()).filter(i => i.state !== 'withdrawn' && i.kind === 'model')
    const word = item.name.split(' ')[0]
    const view = await ask({ words: word, kind: 'environment', category: item.category })
    expect(view.total).toBe(0)
    const kind = view.nothing!.drops.find(d => d.key === 'kind')!
    expect(kind.count).toBe((await ask({ words: word, category: item.category })).total)
    expect(view.nothing!.nearest[0].name).toContain(word)
    // Of three conditions the nearest answers two.
    const answered = (c: { kind: string; category: string }) =>
      [c.kind === 'environment', isWithin(c.category, item.category)].filter(Boolean).length
    expect(answered(view.nothing!.nearest[0])).toBe(1)
    const mistyped = await ask({ words: 'terrazo', category: 'nowhere' })
    expect(mistyped.nothing!.drops.map(d => d.key)).toContain('category')
    expect((await ask({ words: 'xqzzy' })).nothing).toMatchObject({ drops: [{ key: 'word:xqzzy' }], words: [], nearest: [] })
  })
})

describe('suggestions', () => {
  it('are counted where one stands, with everywhere beside it', async () => {
    const suggestions = await suggestWords(
      world.context,
      world.artist,
      narrowingSchema.parse({ words: 'timb', category: 'surfaces' }),
    )
    expect(suggestions.values[0]).toMatchObject({ facet: 'category', value: 'surfaces.timber', title: 'Timber' })
    expect(suggestions.values[0].count).toBe((await ask({ category: 'surfaces.timber' })).total)
    expect(suggestions.everywhere).toBeGreaterThanOrEqual(suggestions.here)
    const figure = await suggestWords(world.context, world.artist, narrowingSchema.parse({ words: 'under 0.3 m' }))
    expect(figure.figure).toMatchObject({ facet: 'widthMm', high: 300, count: 3 })
    const makers = await listFacetValues(
      world.context,
      world.artist,
      facetValuesQuerySchema.parse({ facet: 'maker', letters: 'od' }),
    )
    expect(makers).toEqual([{ value: 'Oddmere', title: 'Oddmere', count: 4 }])
  })
})

describe('what is searched in memory', () => {
  /** All of what a fresh reading would find, against what has been kept up to date. */
  const compareWithFresh = async () => {
    const fresh = { ...world.context, finder: new LibraryFinder(world.context.db) }
    for (const given of [{}, { words: 'oak' }, { category: 'surfaces', state: 'approved' }, { words: 'metal' }]) {
      const query = wallQuerySchema.parse({ ...given, limit: 240 })
      expect(await getWall(world.context, world.lead, query)).toEqual(await getWall(fresh, world.lead, query))
    }
  }

  it('stays right through inserts, moves, renamed categories and deletions', async () => {
    const { db } = world.context
    await ask({})
    await db.execute(sql`update items set state = 'approved' where id % 3 = 0`)
    await compareWithFresh()
    await db.execute(sql`update items set category = 'surfaces.metal', kind = 'material' where id % 7 = 0`)
    await db.execute(sql`delete from items where id % 11 = 0 and current_version_id is null`)
    await compareWithFresh()
    await db.execute(sql`update categories set title = 'Oak and others' where path = 'surfaces.metal'`)
    await compareWithFresh()
  })

  it('misses no transaction, in whatever order they begin and end', async () => {
    const names = ['first', 'second', 'third'].map(n => `interleaved ${n}`)
    const [{ id }] = (await listAll()).filter(i => i.state !== 'withdrawn')
    const connections = [openDatabase(world.url, 1), openDatabase(world.url, 1)]
    try {
      const [slow, quick] = connections.map(c => c.db)
      await slow.execute(sql`begin`)
      await slow.execute(sql`update items set name = ${names[0]} where id = ${id}`)
      const before = (await ask({ words: 'interleaved' })).total
      for (const { id: other } of (await listAll()).slice(-2)) {
        await quick.execute(sql`update items set name = ${names[1]}, state = 'draft' where id = ${other}`)
        await ask({ words: 'interleaved' })
      }
      expect([before, (await ask({ words: 'interleaved' })).total]).toEqual([0, 2])
      await slow.execute(sql`commit`)
      expect((await ask({ words: 'interleaved' })).total).toBe(3)
      await compareWithFresh()
    } finally {
      await Promise.all(connections.map(c => c.close()))
    }
  })

  it('shows a writer at once what they wrote, with many asking meanwhile', async () => {
    const [{ id }] = (await listAll()).filter(i => i.state === 'approved')
    for (let turn = 0; turn < 20; turn++) {
      const name = `turned${String.fromCharCode(97 + turn)}`
      const others = Array.from({ length: 5 }, () => ask({ words: 'oak' }))
      await world.context.db.update(items).set({ name }).where(eq(items.id, id))
      expect((await ask({ words: name })).chips.map(c => c.name)).toEqual([name])
      await Promise.all(others)
    }
  })

  it('two people may approve at once, in whatever order', async () => {
    const { db } = world.context
    const ids = (await db.execute<{ id: number }>(sql`select id from items order by id limit 60`)).rows.map(r => r.id)
    const flip = (list: number[], state: string) =>
      db.transaction(async tx => {
        for (const id of list) await tx.execute(sql`update items set state = ${state} where id = ${id}`)
      })
    const even = ids.filter(i => i % 2 === 0)
    await Promise.all([flip(even, 'approved'), flip(ids.filter(i => i % 2 === 1).reverse(), 'draft')])
    await compareWithFresh()
  })
})
