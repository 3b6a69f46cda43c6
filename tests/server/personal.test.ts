import { eq } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { getWall } from '../../src/server/library/wall'
import { listDotMeanings, setDotMeaning, setDots } from '../../src/server/personal/dots'
import { addTray, getTray, listTrays, removeTray, saveTray, sendTray } from '../../src/server/personal/trays'
import { changeView, listViews, removeView, saveView, standInView } from '../../src/server/personal/views'
import { facts, items, versions } from '../../src/server/tables/library.table'
import { wallQuerySchema } from '../../src/shared/contracts/find.contract'
import type { Person } from '../../src/shared/contracts/session.contract'
import { createTestWorld, type TestWorld } from '../test-database'

let world: TestWorld
let house: number[]
let secret: number[]

async function addItem(libraryId: number, code: string, maker: string): Promise<number> {
  const { db } = world.context
  const [item] = await db
    .insert(items)
    .values({ libraryId, category: 'surfaces.timber', kind: 'material', code, name: `Board ${code}`, state: 'approved' })
    .returning()
  const [version] = await db
    .insert(versions)
    .values({ itemId: item.id, number: 1, authorId: world.lead.id, inputKey: code })
    .returning()
  await db.insert(facts).values({ versionId: version.id, name: 'maker', position: 0, text: maker })
  await db.update(items).set({ currentVersionId: version.id }).where(eq(items.id, item.id))
  return item.id
}

beforeAll(async () => {
  world = await createTestWorld()
  house = [
    await addItem(1, 'TIM-0001', 'Oddmere'),
    await addItem(1, 'TIM-0002', 'Oddmere'),
    await addItem(1, 'TIM-0003', 'Hollowbrook'),
  ]
  secret = [await addItem(2, 'CLI-TIM-0001', 'Hush works')]
})
afterAll(() => world.close())

const ask = (who: Person, given: Record<string, string> = {}) => getWall(world.context, who, wallQuerySchema.parse(given))
const codes = async (who: Person, given: Record<string, string>) => (await ask(who, given)).chips.map(c => c.code)

describe('dots', () => {
  it('are one person’s own: on chips, as a filter with counts, with a meaning that they write', async () => {
    const { db } = world.context
    expect(await setDots(db, world.artist, { ids: [...house, ...secret], color: 2, on: true })).toEqual(house)
    expect(await setDots(db, world.artist, { ids: [house[0]], color: 5, on: true })).toEqual([house[0]])
    expect(await setDots(db, world.artist, { ids: [house[0]], color: 5, on: true })).toEqual([])
    expect((await ask(world.artist)).chips[0].dots).toEqual([2, 5])
    expect((await ask(world.insider)).chips.flatMap(c => c.dots)).toEqual([])
    expect(await codes(world.artist, { dot: '5' })).toEqual(['TIM-0001'])
    expect(await codes(world.insider, { dot: '5' })).toEqual([])
    expect(await setDots(db, world.artist, { ids: house, color: 2, on: false })).toEqual(house)
    const { facets } = await ask(world.artist)
    expect(facets!.terms.dot).toMatchObject([
      { value: 'none', count: 2 },
      { value: '5', count: 1 },
    ])
    expect(await codes(world.artist, { dot: 'none' })).toEqual(['TIM-0002', 'TIM-0003'])
    await setDotMeaning(db, world.artist, 5, 'For the ferry hall')
    await setDotMeaning(db, world.artist, 5, 'For the quay')
    expect(await listDotMeanings(db, world.artist)).toEqual(['', '', '', '', 'For the quay', ''])
    expect(await listDotMeanings(db, world.insider)).toEqual(['', '', '', '', '', ''])
  })
})

describe('saved views', () => {
  it('say how many are in them and how many came in since one stood there', async () => {
    const id = await saveView(world.context, world.artist, { title: 'Boards', address: 'words=board', isShared: false })
    expect(await listViews(world.context, world.artist)).toMatchObject([{ id, title: 'Boards', count: 3, fresh: 0, owner: '' }])
    await addItem(1, 'TIM-0004', 'Oddmere')
    expect(await listViews(world.context, world.artist)).toMatchObject([{ count: 4, fresh: 1 }])
    await standInView(world.context, world.artist, id)
    expect(await listViews(world.context, world.artist)).toMatchObject([{ count: 4, fresh: 0 }])
    expect(await listViews(world.context, world.insider)).toEqual([])
    await changeView(world.context, world.artist, id, { isShared: true, title: 'All boards' })
    expect(await listViews(world.context, world.insider)).toMatchObject([{ title: 'All boards', owner: world.artist.name }])
    await expect(changeView(world.context, world.insider, id, { title: 'Mine' })).rejects.toMatchObject({ code: 'notFound' })
    await expect(removeView(world.context, world.insider, id)).rejects.toMatchObject({ code: 'notFound' })
    await expect(
      saveView(world.context, world.artist, { title: 'x', address: 'kind=teapot', isShared: false }),
    ).rejects.toMatchObject({
      code: 'badRequest',
    })
    await removeView(world.context, world.artist, id)
    expect(await listViews(world.context, world.insider)).toEqual([])
  })

  it('that name something of a client are not shown to who does not see that client', async () => {
    for (const address of ['library=client', 'maker=Hush+works', 'like=CLI-TIM-0001'])
      await saveView(world.context, world.insider, { title: address, address, isShared: true })
    await saveView(world.context, world.insider, { title: 'open', address: 'maker=Oddmere', isShared: true })
    expect((await listViews(world.context, world.lead)).map(v => v.title)).toHaveLength(4)
    expect((await listViews(world.context, world.artist)).map(v => v.title)).toEqual(['open'])
  })
})

describe('trays', () => {
  it('are kept by the server, one person’s own, and go to colleagues without what those may not see', async () => {
    const { db } = world.context
    const id = await addTray(db, world.insider, { title: 'Candidates', itemIds: [secret[0], house[1]] })
    expect((await getTray(world.context, world.insider, id)).chips.map(c => c.code)).toEqual(['CLI-TIM-0001', 'TIM-0002'])
    await expect(getTray(world.context, world.artist, id)).rejects.toMatchObject({ code: 'notFound' })
    await expect(saveTray(db, world.artist, id, { title: 'Mine' })).rejects.toMatchObject({ code: 'notFound' })
    const sent = await sendTray(world.context, world.insider, id, {
      personIds: [world.artist.id, world.lead.id, world.guest.id],
      note: 'Which of them?',
    })
    expect(new Map(sent.map(s => [s.name, s.leftOut]))).toEqual(
      new Map([
        [world.artist.name, 1],
        [world.lead.name, 0],
      ]),
    )
    const [received] = await listTrays(db, world.artist)
    expect(received).toMatchObject({ title: 'Candidates', count: 1, from: world.insider.name, note: 'Which of them?' })
    expect((await getTray(world.context, world.artist, received.id)).chips.map(c => c.code)).toEqual(['TIM-0002'])
    await saveTray(db, world.artist, received.id, { itemIds: [] })
    expect((await getTray(world.context, world.insider, id)).chips).toHaveLength(2)
    await removeTray(db, world.insider, id)
    expect(await listTrays(db, world.insider)).toEqual([])
    // An item that somebody may not see any more stands in no tray of theirs.
    const held = await addTray(db, world.artist, { itemIds: [secret[0], house[0]] })
    expect((await getTray(world.context, world.artist, held)).chips.map(c => c.code)).toEqual(['TIM-0001'])
  })
})
