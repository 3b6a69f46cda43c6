import { eq } from 'drizzle-orm'
import papaparse from 'papaparse'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { setCells } from '../../src/server/library/set-cells'
import { exportTable, getTable } from '../../src/server/library/table'
import { getWall } from '../../src/server/library/wall'
import { events, facts, items, versions } from '../../src/server/tables/library.table'
import { wallQuerySchema } from '../../src/shared/contracts/find.contract'
import type { Person } from '../../src/shared/contracts/session.contract'
import { tableQuerySchema } from '../../src/shared/contracts/table.contract'
import { createTestWorld, type TestWorld } from '../test-database'

let world: TestWorld
let ids: number[]

const MADE = [
  { code: 'TIM-0001', name: 'Oak 10', widthMm: 1200, maker: 'Oddmere', hex: '#8a6a40' },
  { code: 'TIM-0002', name: 'Oak 9', widthMm: 300, maker: 'Hollowbrook', hex: '#a03020' },
  { code: 'TIM-0003', name: '=SUM(A1)', widthMm: undefined, maker: 'Oddmere', hex: '#a83828' },
  { code: 'TIM-0004', name: 'Ash', widthMm: 800, maker: undefined, hex: '#202020' },
]

async function addItem(libraryId: number, { code, name, widthMm, maker, hex }: (typeof MADE)[number]): Promise<number> {
  const { db } = world.context
  const [item] = await db
    .insert(items)
    .values({ libraryId, category: 'surfaces.timber', kind: 'material', code, name, state: 'draft' })
    .returning()
  const [version] = await db
    .insert(versions)
    .values({ itemId: item.id, number: 1, authorId: world.lead.id, inputKey: code })
    .returning()
  const said = [
    { name: 'palette', text: `${hex} 1` },
    { name: 'sheen', text: 'matt' },
    { name: 'appearance', text: 'nothing for people' },
    ...(maker ? [{ name: 'maker', text: maker }] : []),
    ...(widthMm ? [{ name: 'widthMm', number: widthMm }] : []),
  ]
  await db.insert(facts).values(said.map((fact, position) => ({ versionId: version.id, position, ...fact })))
  await db.update(items).set({ currentVersionId: version.id }).where(eq(items.id, item.id))
  return item.id
}

beforeAll(async () => {
  world = await createTestWorld()
  ids = []
  for (const made of MADE) ids.push(await addItem(1, made))
  await addItem(2, { ...MADE[0], code: 'CLI-TIM-0001', name: 'Hidden' })
})
afterAll(() => world.close())

const ask = (who: Person, given: Record<string, string> = {}) => getTable(world.context, who, tableQuerySchema.parse(given))
const codesBy = async (order: string) => (await ask(world.artist, { order })).rows.map(r => r.chip.code.slice(-1)).join('')

describe('the wall as a table', () => {
  it('has what the view is narrowed by, the facts that were asked for, and the names of those that could be', async () => {
    const { rows, total, known } = await ask(world.artist, { facts: 'sheen' })
    expect(total).toBe(4)
    expect(rows[0]).toMatchObject({
      chip: { code: 'TIM-0001' },
      figures: { widthMm: 1200 },
      terms: { maker: ['Oddmere'], library: ['House library'] },
      facts: { sheen: 'matt' },
    })
    expect(rows[2].figures.widthMm).toBeUndefined()
    expect(known).toEqual(['maker', 'palette', 'sheen', 'widthMm'])
  })

  it('is ordered by any column, up or down, with what has no value last', async () => {
    expect(await codesBy('widthMm')).toBe('2413')
    expect(await codesBy('-widthMm')).toBe('1423')
    // By the number in a name, not its digits; down is the other way round.
    expect(await codesBy('name')).toBe('3421')
    expect(await codesBy('-name')).toBe('1243')
    expect(await codesBy('maker')).toBe('2134')
    expect(await codesBy('-maker')).toBe('1324')
    expect(await codesBy('-code')).toBe('4321')
  })

  it('leaves as comma-separated values, all of it, with nothing that a spreadsheet would run', async () => {
    const given = tableQuerySchema.parse({ order: 'widthMm', facts: 'sheen' })
    let text = ''
    for await (const part of exportTable(world.context, world.artist, given)) text += part
    const lines = papaparse.parse<Record<string, string>>(text.trim(), { header: true }).data
    expect(lines.map(l => l.code)).toEqual(['TIM-0002', 'TIM-0004', 'TIM-0001', 'TIM-0003'])
    expect(lines[0]).toMatchObject({ maker: 'Hollowbrook', widthMm: '300', sheen: 'matt', category: 'Timber' })
    expect(lines[0].added).toMatch(/^\d{4}-\d\d-\d\d$/)
    expect(lines[3].name).toBe("'=SUM(A1)")
    expect(text).not.toContain('Hidden')
  })

  it('is written in: names and facts at once, each with its event, and put back as one', async () => {
    const { db } = world.context
    const result = await setCells(world.context, world.lead, [
      { id: ids[0], name: 'Oak ten', facts: { sheen: 'satin', maker: null } },
      { id: ids[1], facts: { sheen: 'matt' } },
      { id: ids[3], name: 'Ash pale', facts: {} },
    ])
    expect(result.changed.sort()).toEqual([ids[0], ids[3]])
    expect(result.refused).toEqual([])
    const after = await ask(world.artist, { facts: 'sheen' })
    expect(after.rows.map(r => [r.chip.name, r.facts.sheen, r.terms.maker?.[0]])).toEqual([
      ['Oak ten', 'satin', undefined],
      ['Oak 9', 'matt', 'Hollowbrook'],
      ['=SUM(A1)', 'matt', 'Oddmere'],
      ['Ash pale', 'matt', undefined],
    ])
    expect((await db.select().from(events).where(eq(events.subjectId, ids[0]))).map(e => e.verb).sort()).toEqual([
      'described',
      'edited',
    ])
    await setCells(world.context, world.lead, result.before)
    const back = await ask(world.artist, { facts: 'sheen' })
    expect(back.rows.map(r => r.chip.name)).toEqual(MADE.map(m => m.name))
    expect(back.rows[0]).toMatchObject({ facts: { sheen: 'matt' }, terms: { maker: ['Oddmere'] } })
    await expect(setCells(world.context, world.artist, [{ id: ids[0], name: 'Mine', facts: {} }])).rejects.toMatchObject({
      code: 'notAllowed',
    })
    await expect(setCells(world.context, world.lead, [{ id: ids[0], facts: { widthMm: '2' } }])).rejects.toMatchObject({
      code: 'badRequest',
    })
    const gone = await setCells(world.context, world.lead, [{ id: 9999, name: 'Nothing', facts: { sheen: 'matt' } }])
    expect(gone).toMatchObject({ changed: [], refused: [{ id: 9999 }] })
  })
})

describe('a view put together', () => {
  const groupsOf = async (group: string, more: Record<string, string> = {}) => {
    const view = await getWall(world.context, world.artist, wallQuerySchema.parse({ group, ...more }))
    return { groups: view.groups, codes: view.chips.map(c => c.code.slice(-1)).join('') }
  }

  it('counts each group, in the order of the groups, and keeps the order within', async () => {
    expect(await groupsOf('maker', { order: 'widthMm' })).toEqual({
      groups: [
        { value: 'Hollowbrook', count: 1 },
        { value: 'Oddmere', count: 2 },
        { value: '', count: 1 },
      ],
      codes: '2134',
    })
    expect((await groupsOf('color')).groups).toEqual([
      { value: 'red', count: 2 },
      { value: 'brown', count: 1 },
      { value: 'black', count: 1 },
    ])
    expect((await groupsOf('')).groups).toBeNull()
  })
})
