import { eq, sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { GROUPS, ORDERS, SORTS } from '../../src/core/find/query/find-order'
import { createRandom, type Random } from '../../src/core/math/random'
import { setDots } from '../../src/server/personal/dots'
import { addTray } from '../../src/server/personal/trays'
import { saveView } from '../../src/server/personal/views'
import { batches } from '../../src/server/tables/intake.table'
import { facts, findings, items, versions, versionWords } from '../../src/server/tables/library.table'
import { pins, projects } from '../../src/server/tables/project.table'
import { ENDPOINTS, type Endpoint, type EndpointName } from '../../src/shared/contracts/endpoints'
import { createTestWorld, type TestWorld } from '../test-database'
import { serve } from './serve'

/** Once more, with whatever a run by hand wants to try. */
const SEEDS = process.env.LEAK_SEED ? [Number(process.env.LEAK_SEED)] : [1, 2]
const QUERIES = 70
const HOUSE_ITEMS = 36
const SECRET_ITEMS = 30

let world: TestWorld
let app: Awaited<ReturnType<typeof serve>>

beforeAll(async () => {
  world = await createTestWorld()
  app = await serve(world)
})
afterAll(async () => {
  await app.close()
  await world.close()
})

const pick = <T>(random: Random, list: readonly T[]): T => list[random.index(list.length)]
const WORDS = ['oak', 'walnut', 'linen', 'harbour', 'pale', 'smoked']
const SECRET_WORDS = ['kettle', 'enamelled', 'hushwood', 'oak']
const CATEGORIES = { material: ['surfaces.timber', 'surfaces.stone'], model: ['furniture.sofas', 'furniture.chairs'] } as const
const COLORS = ['#a03020', '#30a050', '#3050a0', '#d8d0c0', '#202020']

interface Makes {
  libraryId: number
  codes: string
  words: readonly string[]
  maker: string
}

async function makeItem(random: Random, n: number, { libraryId, codes, words, maker }: Makes) {
  const { db } = world.context
  const kind = random.next() < 0.6 ? 'material' : 'model'
  const [item] = await db
    .insert(items)
    .values({
      libraryId,
      kind,
      category: pick(random, CATEGORIES[kind]),
      code: `${codes}-${String(n).padStart(4, '0')}`,
      name: `${pick(random, words)} ${pick(random, words)} ${n}`,
      state: pick(random, ['draft', 'approved', 'inReview', 'withdrawn'] as const),
    })
    .returning()
  const [version] = await db
    .insert(versions)
    .values({
      itemId: item.id,
      number: 1,
      authorId: libraryId === 1 ? world.lead.id : world.insider.id,
      inputKey: `${codes}${n}`,
    })
    .returning()
  const width = random.between(100, 3000)
  const color = pick(random, COLORS)
  const said: { name: string; text?: string; number?: number }[] = [
    { name: 'maker', text: maker },
    { name: 'licence', text: libraryId === 1 ? 'All projects' : 'Confidential' },
    { name: 'palette', text: `${color} ${(0.5 + 0.5 * random.next()).toFixed(2)}` },
    { name: 'lrv', number: random.between(0, 100) },
    { name: 'meanRoughness', number: random.next() },
    ...(kind === 'material'
      ? [{ name: 'widthMm', number: width }]
      : ['widthM', 'heightM', 'depthM'].map(name => ({ name, number: (width / 1000) * random.between(0.5, 1.5) }))),
  ]
  await db.insert(facts).values(said.map((fact, position) => ({ versionId: version.id, position, ...fact })))
  await db.insert(versionWords).values({ versionId: version.id, list: 'tags', position: 0, word: pick(random, words) })
  await db.insert(findings).values({ versionId: version.id, code: 'realWorldSizeMissing', severity: 'shouldFix', evidence: {} })
  await db
    .update(items)
    .set({ currentVersionId: version.id, approvedVersionId: item.state === 'approved' ? version.id : null })
    .where(eq(items.id, item.id))
  return { id: item.id, versionId: version.id }
}

/** What somebody may ask of a wall, of every condition that there is, with the words and codes of what is hidden among the others. */
function makeNarrowing(random: Random): Record<string, string> {
  const asked: Record<string, string> = {}
  const maybe = (key: string, share: number, value: () => string) => {
    if (random.next() < share) asked[key] = value()
  }
  const words = [...WORDS, ...SECRET_WORDS, 'oka', 'hushwod', 'ketle', 'CLI-TIM-0003', 'CLI', 'sofa under 2 m']
  maybe('words', 0.5, () => pick(random, words))
  maybe('kind', 0.3, () => pick(random, ['material', 'model']))
  maybe('state', 0.3, () => pick(random, ['draft', 'approved', 'draft|withdrawn']))
  maybe('category', 0.3, () => pick(random, ['surfaces', 'surfaces.timber', 'furniture']))
  maybe('library', 0.15, () => pick(random, ['house', 'client', 'house|client']))
  maybe('maker', 0.15, () => pick(random, ['Oddmere', 'Hush works']))
  maybe('tag', 0.15, () => pick(random, [...WORDS, ...SECRET_WORDS]))
  maybe('licence', 0.1, () => pick(random, ['All projects', 'Confidential']))
  maybe('finding', 0.1, () => 'realWorldSizeMissing')
  maybe('author', 0.1, () => pick(random, ['lena', 'ilse']))
  maybe('project', 0.1, () => pick(random, ['FERRY', 'KETTLE', 'none']))
  maybe('usableIn', 0.1, () => pick(random, ['FERRY', 'KETTLE']))
  maybe('dot', 0.1, () => pick(random, ['2', '3', 'none']))
  maybe('widthMm', 0.2, () => pick(random, ['..800', '500..2000', '1500..']))
  maybe('color', 0.25, () => pick(random, ['a03020~12', 'd8d0c0', '30a050~20|3050a0~20']))
  maybe('like', 0.3, () => pick(random, ['TIM-0001', 'TIM-0002', 'TIM-0002|TIM-0005', 'CLI-TIM-0001']))
  maybe('order', 0.5, () => pick(random, [...ORDERS, ...SORTS]))
  maybe('group', 0.3, () => pick(random, GROUPS))
  return asked
}

const some = (random: Random, more: (random: Random) => Record<string, string> = () => ({})) =>
  Array.from({ length: QUERIES }, () => ({ ...makeNarrowing(random), ...more(random) }))

/** Numbers that anything the hidden things add could have. */
const NUMBERS = [1, 2, 3, 4, 5, 6, 7, 8]

/** What is asked of each endpoint that only reads: queries, and what stands in the place of its parameters. */
type Cases = (random: Random) => { params?: Record<string, string>; query?: Record<string, string> }[]
const ONCE: Cases = () => [{}]
const byNumber =
  (name: string): Cases =>
  () =>
    NUMBERS.map(n => ({ params: { [name]: String(n) } }))
const narrowed =
  (more?: (random: Random) => Record<string, string>): Cases =>
  random =>
    some(random, more).map(query => ({ query }))

type Reading = { [N in EndpointName]: (typeof ENDPOINTS)[N]['method'] extends 'get' ? N : never }[EndpointName]
const CASES: Record<Reading, Cases> = {
  getWall: narrowed(random => ({ counts: 'yes', limit: '50', offset: pick(random, ['0', '0', '10']) })),
  getTable: narrowed(() => ({ limit: '50', facts: 'lrv|tags' })),
  getColorMap: narrowed(),
  suggestWords: narrowed(),
  listFacetValues: narrowed(random => ({
    facet: pick(random, ['maker', 'tag', 'licence', 'author', 'library']),
    letters: pick(random, ['', 'h', 'o', 'con', 'il']),
  })),
  listCategories: ONCE,
  getChips: () => [{ query: { ids: Array.from({ length: 80 }, (_, k) => k + 1).join(',') } }],
  getSheet: () => ['TIM-0001', 'TIM-0004', 'CLI-TIM-0001', 'CLI-TIM-0003'].map(code => ({ params: { code } })),
  getFamily: () => ['surfaces', 'surfaces.timber'].map(category => ({ query: { category } })),
  getComparison: () => ['TIM-0001,TIM-0002', 'TIM-0001,CLI-TIM-0001'].map(of => ({ query: { of } })),
  listProjects: ONCE,
  getProject: byNumber('id'),
  listDecisions: byNumber('id'),
  checkHandOver: () => NUMBERS.map(n => ({ params: { id: String(n) }, query: { materials: 'gltf' } })),
  listAudits: byNumber('id'),
  getAudit: byNumber('id'),
  listAuditedScenes: ONCE,
  getBeside: () => NUMBERS.map(n => ({ params: { id: String(n), other: '1' } })),
  getBesidePictures: () => NUMBERS.map(n => ({ params: { id: String(n), other: '1', code: 'HSE-0001' } })),
  getSceneSchedule: byNumber('id'),
  listRevisions: () => [{}, { query: { item: '1' } }],
  listMockUps: ONCE,
  listStageModels: () => [{}, ...NUMBERS.map(n => ({ query: { project: String(n) } }))],
  proposeStageMaterials: byNumber('id'),
  getMockUp: byNumber('id'),
  listMockUpChanges: () => NUMBERS.map(n => ({ params: { id: String(n) }, query: { since: '0' } })),
  listMockUpVersions: byNumber('id'),
  listMockUpPictures: byNumber('id'),
  getSchedule: byNumber('id'),
  listKeptSchedules: byNumber('id'),
  getProjectSchedule: () =>
    NUMBERS.flatMap(n => ['', '1', '2,3'].map(mockUps => ({ params: { id: String(n) }, query: { mockUps } }))),
  listScheduleTemplates: ONCE,
  findMockUpItems: () => [{ query: { ids: Array.from({ length: 80 }, (_, k) => k + 1).join(',') } }],
  listBatches: ONCE,
  getBatch: byNumber('batchId'),
  getRows: () => NUMBERS.map(n => ({ params: { batchId: String(n) }, query: { ids: '1,2,3' } })),
  proposeMaterials: () => NUMBERS.map(n => ({ params: { batchId: String(n), itemId: '1' }, query: { part: 'seat' } })),
  listBulk: ONCE,
  getBulk: byNumber('id'),
  listFeeds: ONCE,
  getFeed: byNumber('id'),
  getPersonal: ONCE,
  getTray: byNumber('id'),
  listOwnPictures: ONCE,
  listFidelity: () => ['', 'surfaces'].map(category => ({ query: { category, state: '' } })),
  listRigs: ONCE,
  listRules: ONCE,
  listWordLines: ONCE,
  listProfiles: ONCE,
  listLicences: ONCE,
  countMatching: () => SECRET_WORDS.map(words => ({ query: { path: 'surfaces.timber', words } })),
  listOffStandard: () => ['surfaces', 'furniture'].map(path => ({ query: { path } })),
  getUpkeep: ONCE,
  listFailedWork: ONCE,
  listRecord: () => ['', ...SECRET_WORDS].map(words => ({ query: { words } })),
  listMembers: ONCE,
  listSessions: byNumber('id'),
  openLink: () => [{ params: { token: 'nobody-was-sent-this' } }],
  listTokens: ONCE,
  listManagedLibraries: ONCE,
  listLibraries: ONCE,
  getSession: ONCE,
  getAlive: ONCE,
}
/** They say when something was, and nothing of any library. */
const OF_THE_MOMENT: readonly string[] = ['listSessions', 'getAlive']

async function signIn(name: string): Promise<{ Cookie: string }> {
  const response = await fetch(`${app.base}/api/session`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ email: `${name}@studio.example`, password: `${name}-password` }),
  })
  return { Cookie: response.headers.getSetCookie()[0].split(';')[0] }
}

/** Everything that somebody can read, by what was asked. */
async function readEverything(headers: { Cookie: string }, seed: number): Promise<Map<string, string>> {
  const answers = new Map<string, string>()
  for (const [name, casesOf] of Object.entries(CASES)) {
    if (OF_THE_MOMENT.includes(name)) continue
    const endpoint: Endpoint = ENDPOINTS[name as Reading]
    for (const { params = {}, query = {} } of casesOf(createRandom(seed))) {
      const path = endpoint.path.replace(/\{(\w+)\}/g, (_, key: string) => params[key])
      const asked = `${path}?${new URLSearchParams(query)}`
      const response = await fetch(app.base + asked, { headers })
      answers.set(`${name} ${asked}`, `${response.status} ${await response.text()}`)
    }
  }
  return answers
}

describe('what a library holds that somebody may not see', () => {
  it('changes nothing of what they can read anywhere: no count, suggestion, value, likeness, order, view, tray, project or error', async () => {
    const { db } = world.context
    const random = createRandom(7)
    const house = []
    for (let n = 1; n <= HOUSE_ITEMS; n++)
      house.push(
        await makeItem(random, n, { libraryId: 1, codes: 'TIM', words: WORDS, maker: pick(random, ['Oddmere', 'Hollowbrook']) }),
      )
    const [ferry] = await db.insert(projects).values({ code: 'FERRY', title: 'Ferry hall', libraryId: 1 }).returning()
    await db
      .insert(pins)
      .values({ projectId: ferry.id, itemId: house[0].id, versionId: house[0].versionId, personId: world.artist.id })
    await setDots(db, world.artist, { ids: [house[0].id, house[3].id], color: 2, on: true })
    await saveView(world.context, world.artist, { title: 'Oak', address: 'words=oak', isShared: true })
    await saveView(world.context, world.lead, { title: 'All of it', address: '', isShared: true })
    await addTray(db, world.artist, { title: 'Mine', itemIds: [house[1].id] })
    const askers = await Promise.all(['arne', 'gita'].map(signIn))
    const before = []
    for (const asker of askers) for (const seed of SEEDS) before.push(await readEverything(asker, seed))
    // Something was said to them, and not only refused.
    expect([...before[0].values()].filter(a => a.startsWith('200')).length).toBeGreaterThan(150)

    const secret = []
    for (let n = 1; n <= SECRET_ITEMS; n++)
      secret.push(await makeItem(random, n, { libraryId: 2, codes: 'CLI-TIM', words: SECRET_WORDS, maker: 'Hush works' }))
    const [kettle] = await db.insert(projects).values({ code: 'KETTLE', title: 'Kettles', libraryId: 2 }).returning()
    for (const { id, versionId } of [...secret.slice(0, 5), house[0], house[3]])
      await db.insert(pins).values({ projectId: kettle.id, itemId: id, versionId, personId: world.insider.id })
    await setDots(db, world.insider, { ids: secret.map(s => s.id), color: 3, on: true })
    await saveView(world.context, world.insider, { title: 'Kettle oak', address: 'project=KETTLE', isShared: true })
    await saveView(world.context, world.insider, { title: 'Theirs', address: 'library=client', isShared: true })
    await addTray(db, world.insider, { title: 'Theirs', itemIds: secret.map(s => s.id) })
    await db.insert(batches).values({ libraryId: 2, personId: world.insider.id, title: 'Kettle delivery', state: 'open' })
    await db.execute(sql`analyze`)

    let turn = 0
    const leaks: string[] = []
    for (const asker of askers)
      for (const seed of SEEDS) {
        const was = before[turn++]
        for (const [asked, answer] of await readEverything(asker, seed))
          if (answer !== was.get(asked))
            leaks.push(`${asked}\n  was ${was.get(asked)?.slice(0, 600)}\n  is  ${answer.slice(0, 600)}`)
      }
    expect(leaks).toEqual([])
    // The same questions tell it to somebody of the team, so that they are ones that could have.
    const inside = await readEverything(await signIn('ilse'), SEEDS[0])
    const told = [...inside.values()].filter(a => /Hush works|CLI-TIM|KETTLE|Kettle/.test(a)).length
    expect(told).toBeGreaterThan(60)
  })
})
