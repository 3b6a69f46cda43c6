import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { proposeTags, proposeUses } from '../../src/core/find/tags/propose-tags'
import { HOUSE_VOCABULARY } from '../../src/core/standard/house-vocabulary'
import { loadTagWords, loadWordLines } from '../../src/server/house/load-word-lines'
import { getWall } from '../../src/server/library/wall'
import { setWordLine } from '../../src/server/standard/words/word-lines'
import { items } from '../../src/server/tables/library.table'
import { wallQuerySchema } from '../../src/shared/contracts/find.contract'
import { createTestWorld, type TestWorld } from '../test-database'

let world: TestWorld

beforeAll(async () => {
  world = await createTestWorld()
  const item = { libraryId: 1, category: 'surfaces.timber', kind: 'material' as const, state: 'draft' as const }
  await world.context.db.insert(items).values([
    { ...item, code: 'TIM-0001', name: 'Smoked board' },
    { ...item, code: 'TIM-0002', name: 'Oak plank' },
  ])
})
afterAll(() => world.close())

const find = async (words: string) =>
  (await getWall(world.context, world.artist, wallQuerySchema.parse({ words }))).chips.map(c => c.name)
const set = (key: string, words: string[], actor = world.lead) => setWordLine(world.context, actor, { key, words })
const lineOf = async (key: string) => (await loadWordLines(world.context.db)).find(l => l.key === key)

describe('the house’s vocabulary', () => {
  it('is what ships at first; a new line is found by at once, by everybody, and no more when it is taken back', async () => {
    expect(await loadWordLines(world.context.db)).toHaveLength(HOUSE_VOCABULARY.length)
    expect(await find('Räuchern')).not.toContain('Smoked board')
    const made = await set('', ['smoked', 'Räuchern'])
    expect(await find('Räuchern')).toEqual(['Smoked board'])
    expect((await loadWordLines(world.context.db))[0]).toEqual({
      key: made.key,
      words: ['smoked', 'Räuchern'],
      isUse: false,
      origin: 'own',
    })
    await set(made.key, made.before)
    expect(await lineOf(made.key)).toBeUndefined()
    // And back again, under the same key.
    await set(made.key, ['smoked', 'Räuchern'])
    expect(await find('Räuchern')).toEqual(['Smoked board'])
  })

  it('a line that ships is changed, taken out and put back to what it was', async () => {
    expect(await find('rovere')).not.toContain('Oak plank')
    const { before } = await set('oak', ['oak', 'Eiche', 'rovere'])
    expect(before).toEqual(HOUSE_VOCABULARY.find(([word]) => word === 'oak'))
    expect(await find('rovere')).toContain('Oak plank')
    expect(await lineOf('oak')).toMatchObject({ origin: 'changed' })
    const gone = await set('oak', [])
    expect(gone.before).toEqual(['oak', 'Eiche', 'rovere'])
    expect(await lineOf('oak')).toBeUndefined()
    await set('oak', before)
    expect(await lineOf('oak')).toMatchObject({ origin: 'shipped', words: before })
  })

  it('says where things are used where the lead says so, and proposes it apart from what they are', async () => {
    const { key } = await setWordLine(world.context, world.lead, { key: '', words: ['sauna', 'steam room'], isUse: true })
    const bench = { name: 'Bench, steam room', folders: [], category: 'objects', kind: 'model', palette: [] }
    const proposed = async () => {
      const words = await loadTagWords(world.context.db)
      return [proposeTags(bench, [], words), proposeUses(bench, words)].map(list => list.map(w => w.word))
    }
    expect(await proposed()).toEqual([['bench'], ['sauna']])
    // Its words changed, it stays what it is.
    await set(key, ['sauna', 'steam room', 'hammam'])
    expect(await lineOf(key)).toMatchObject({ isUse: true })
    await setWordLine(world.context, world.lead, { key, words: ['sauna', 'steam room'], isUse: false })
    expect(await proposed()).toEqual([['bench', 'sauna'], []])
  })

  it('is changed by leads; a word alone, and a line that is not there, are refused', async () => {
    await expect(set('', ['a', 'b'], world.artist)).rejects.toMatchObject({ code: 'notAllowed' })
    await expect(set('', ['alone'])).rejects.toThrow('One word alone')
    await expect(set('', [])).rejects.toThrow('A line needs words')
    await expect(set('own:9999', ['a', 'b'])).rejects.toMatchObject({ code: 'notFound' })
    await expect(set('no such word', ['a', 'b'])).rejects.toMatchObject({ code: 'notFound' })
  })
})
