import { eq, sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { loadRigBook } from '../../src/server/house/rig-book'
import { createBatch, listBatches, sortBatch } from '../../src/server/intake/batches'
import { editBatchItems } from '../../src/server/intake/edit-rows'
import { computeInputKey } from '../../src/server/items/input-key'
import { getChips } from '../../src/server/library/chips'
import { editItem, requestFinalPreview, setItemStates } from '../../src/server/library/edit-items'
import { getSheet } from '../../src/server/library/sheet'
import { getWall } from '../../src/server/library/wall'
import { addPerson, signIn } from '../../src/server/people/people'
import { getPerson } from '../../src/server/platform/access'
import type { PreviewJob } from '../../src/server/platform/queue'
import { renderPreviewJob } from '../../src/server/previews/render-preview.job'
import { getExportFile } from '../../src/server/projects/exports/exports'
import { orderExport } from '../../src/server/projects/exports/order-export'
import { createProject, getProject, listProjects, pinItems } from '../../src/server/projects/projects'
import { batches, batchItems } from '../../src/server/tables/intake.table'
import { events, findings, items } from '../../src/server/tables/library.table'
import { projectExports } from '../../src/server/tables/project.table'
import { sweep } from '../../src/server/upkeep/sweep'
import { getUpkeep } from '../../src/server/upkeep/upkeep'
import { wallQuerySchema } from '../../src/shared/contracts/find.contract'
import { orderExportSchema } from '../../src/shared/contracts/projects.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork, DRAFT_WIDTH, measureRows, takeIn } from './take-in'
import { getBatch } from './whole-batch'

let world: TestWorld
let work: ReturnType<typeof createWork>
let ids: Record<string, number>

const everything = wallQuerySchema.parse({})

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  await (await takeIn(world, work)).file()
  const { chips } = await getWall(world.context, world.lead, everything)
  ids = Object.fromEntries(chips.map(c => [c.code, c.id]))
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

describe('keys of what a picture depends on', () => {
  const files = [
    { role: 'baseColor', hash: 'a', handednessHint: null },
    { role: 'normal', hash: 'b', handednessHint: null },
  ]
  const base = { files, widthMm: 600, constants: {} }

  it('change with every input, and with nothing else', () => {
    const key = computeInputKey(base)
    expect(computeInputKey({ ...base, files: [...files].reverse() })).toBe(key)
    expect(computeInputKey({ ...base, files: [...files, { role: 'picture', hash: 'z', handednessHint: null }] })).toBe(key)
    expect(computeInputKey({ ...base, files: [...files, { role: 'alternate', hash: 'z', handednessHint: null }] })).toBe(key)
    for (const other of [
      { ...base, widthMm: 601 },
      { ...base, widthMm: null },
      { ...base, constants: { specularIor: 1.4 } },
      { ...base, files: files.slice(1) },
      { ...base, files: [{ ...files[0], hash: 'c' }, files[1]] },
      { ...base, files: [files[0], { ...files[1], handednessHint: 'directX' as const }] },
    ])
      expect(computeInputKey(other)).not.toBe(key)
  })

  it('every category has a rig of its kind', async () => {
    const book = await loadRigBook(world.context.db)
    expect(book.rigFor('surfaces.timber').stage).toBe('materialSheet')
    expect(book.rigFor('vegetation.trees').name).toBe('plant-three-quarter')
    expect(book.rigFor('environments.skies').stage).toBe('panorama')
  })
})

describe('chips', () => {
  it('carry the figure of their kind, in the order asked for', async () => {
    const order = [ids['SKY-0001'], ids['TIM-0001'], ids['CHR-0001']]
    const chips = await getChips(world.pool, world.artist, order)
    expect(chips.map(c => c.code)).toEqual(['SKY-0001', 'TIM-0001', 'CHR-0001'])
    expect(chips.map(c => c.figure)).toEqual(['clear 35°', '600 mm wide', '0.5 × 0.72 m'])
    expect(await getChips(world.pool, world.artist, [])).toEqual([])
    expect(await getChips(world.pool, world.artist, [999_999])).toEqual([])
  })
})

describe('states', () => {
  it('are changed for many at once, each with an event; what is there already is left alone', async () => {
    const { db } = world.context
    const list = [ids['SKY-0001'], ids['SKY-0002']]
    await setItemStates(work, world.lead, list, 'inReview')
    await setItemStates(work, world.lead, list, 'inReview')
    const written = await db.select().from(events).where(eq(events.subjectId, list[0]))
    expect(written.filter(e => e.verb === 'state')).toHaveLength(1)
    expect(written.at(-1)).toMatchObject({ personId: world.lead.id, before: { state: 'draft' }, after: { state: 'inReview' } })
  })

  it('a withdrawn item leaves the wall and the counts, and can be asked for', async () => {
    const before = (await getWall(world.context, world.artist, everything)).total
    await setItemStates(work, world.lead, [ids['SKY-0002']], 'withdrawn')
    const after = await getWall(world.context, world.artist, everything)
    expect(after.total).toBe(before - 1)
    expect(after.facets!.terms.state!.find(v => v.value === 'withdrawn')!.count).toBe(1)
    expect((await getWall(world.context, world.artist, { ...everything, state: ['withdrawn'] })).chips.map(c => c.code)).toEqual([
      'SKY-0002',
    ])
    await setItemStates(work, world.lead, [ids['SKY-0002']], 'draft')
    expect((await getWall(world.context, world.artist, everything)).total).toBe(before)
  })

  it('approving asks for the final picture', async () => {
    world.sent.length = 0
    await setItemStates(work, world.lead, [ids['TIM-0001']], 'approved')
    expect(world.sent).toMatchObject([{ queue: 'render-final', job: { rig: 'material-stage', quality: 'final' } }])
  })
})

describe('edits of an item', () => {
  it('a new name is found by its words at once, the old one no more', async () => {
    await editItem(work, world.lead, ids['CHR-0001'], { name: 'Ferry stool' })
    const total = async (words: string) => (await getWall(world.context, world.artist, { ...everything, words })).total
    expect(await total('ferry')).toBe(1)
    expect(await total('cube')).toBe(0)
  })

  it('a category of another kind is refused, another of its own taken; the code stays', async () => {
    await expect(editItem(work, world.lead, ids['CHR-0001'], { category: 'surfaces.metal' })).rejects.toMatchObject({
      code: 'badRequest',
    })
    await expect(editItem(work, world.lead, ids['CHR-0001'], { category: 'no.such' })).rejects.toMatchObject({
      code: 'badRequest',
    })
    await editItem(work, world.lead, ids['CHR-0001'], { category: 'furniture.tables' })
    const sheet = await getSheet(world.pool, world.artist, 'CHR-0001', null)
    expect(sheet).toMatchObject({ category: 'furniture.tables', code: 'CHR-0001' })
    expect(
      (await getWall(world.context, world.artist, { ...everything, category: ['furniture'] })).facets!.categories,
    ).toMatchObject({
      furniture: 1,
      'furniture.tables': 1,
    })
  })

  it('the width of a model is no fact to set', async () => {
    await editItem(work, world.lead, ids['CHR-0001'], { widthMm: 500 })
    expect((await getSheet(world.pool, world.artist, 'CHR-0001', null)).version.number).toBe(1)
  })

  it('nothing is there for who does not exist', async () => {
    await expect(editItem(work, world.lead, 999_999, { name: 'x' })).rejects.toMatchObject({ code: 'notFound' })
    await expect(requestFinalPreview(work, world.artist, 999_999)).rejects.toMatchObject({ code: 'notFound' })
    await expect(getSheet(world.pool, world.lead, 'TIM-0001', 99)).rejects.toMatchObject({ code: 'notFound' })
  })
})

describe('previews of many qualities', () => {
  it('the wall shows the final one when there is one', async () => {
    const { db } = world.context
    const draft = world.sent.find(s => s.queue.startsWith('render-'))!.job as PreviewJob
    await renderPreviewJob(work, { ...draft, quality: 'draft' })
    const shown = async () => (await getSheet(world.pool, world.artist, 'TIM-0001', null)).preview
    expect(await shown()).toMatchObject({ quality: 'draft', width: DRAFT_WIDTH })
    await db.execute(sql`
      insert into previews (input_key, rig, rig_revision, renderer_revision, quality, seed, hash, width, height, samples, achieved_error, seconds)
      select input_key, rig, rig_revision, renderer_revision, 'final', seed, hash, 768, 576, samples, achieved_error, seconds from previews
      where input_key = ${draft.inputKey}`)
    expect(await shown()).toMatchObject({ quality: 'final', width: 768 })
  })

  it('a wish for inputs that nobody has any more is dropped', async () => {
    await renderPreviewJob(work, { inputKey: 'gone', rig: 'material-stage', revision: 2, quality: 'draft' })
    const { rows } = await world.context.db.execute(sql`select 1 from previews where input_key = 'gone'`)
    expect(rows).toEqual([])
  })
})

describe('projects', () => {
  it('show covers, counts, and what is out of date', async () => {
    const { db } = world.context
    const id = await createProject(work, world.artist, { code: 'P-1', title: 'Pier', library: 'house' })
    await pinItems(work, world.artist, id, [ids['TIM-0001']])
    const refusedPins = await pinItems(work, world.artist, id, [ids['SKY-0001']])
    expect(refusedPins.refused[0].reason).toContain('No version')
    expect(await listProjects(world.context, world.artist)).toMatchObject([{ code: 'P-1', pins: 1, outdated: 0 }])
    expect((await listProjects(world.context, world.artist))[0].covers).toHaveLength(1)
    const again = await pinItems(work, world.artist, id, [ids['TIM-0001']])
    expect(again.changed).toEqual([ids['TIM-0001']])
    expect((await getProject(world.context, world.artist, id)).pins).toBe(1)
    const written = await db.select().from(events).where(eq(events.subject, 'project'))
    expect(written.filter(e => e.verb === 'pinned')).toHaveLength(1)
  })

  it('a delivery that is not written yet cannot be fetched', async () => {
    const { db } = world.context
    const [{ id }] = await listProjects(world.context, world.artist)
    const deliveryId = await orderExport(work, world.artist, id, orderExportSchema.parse({}))
    await expect(getExportFile(db, world.artist, id, deliveryId)).rejects.toMatchObject({ code: 'notReady' })
    await expect(getExportFile(db, world.artist, id, 999)).rejects.toMatchObject({ code: 'notFound' })
  })
})

describe('upkeep', () => {
  it('counts what it says', async () => {
    const { db } = world.context
    const sheet = await getSheet(world.pool, world.lead, 'SKY-0001', null)
    await db
      .insert(findings)
      .values({ versionId: sheet.version.id, code: 'fewLevels', severity: 'shouldFix', evidence: { levels: 200 } })
    const state = await getUpkeep(db, world.artist)
    expect(state).toMatchObject({ items: 4, unused: 3, byState: { approved: 1 } })
    // The worst first.
    const order = state.findings.map(f => ['mustFix', 'shouldFix', 'note'].indexOf(f.severity))
    expect([...order].sort()).toEqual(order)
    const planted = state.findings.find(f => f.code === 'fewLevels')
    expect(planted).toMatchObject({ severity: 'shouldFix', items: 1 })
    expect(planted!.example).toContain('200')
    expect(state.files).toBeGreaterThan(5)
    expect(state.bytes).toBeGreaterThan(10_000)
  })
})

describe('what says that it waits, and has no job', () => {
  it('is sent again: batches to sort, rows to measure, exports to write, pictures that are missing', async () => {
    const { db } = world.context
    const sorting = await createBatch(work, world.lead, { library: 'house', title: 'Left' })
    await db.update(batches).set({ state: 'sorting' }).where(eq(batches.id, sorting))
    const [row] = await db.select().from(batchItems).limit(1)
    await db.update(batchItems).set({ state: 'measuring' }).where(eq(batchItems.id, row.id))
    const [waiting] = await db.select().from(projectExports)
    world.sent.length = 0
    await sweep(work)
    expect(world.sent).toContainEqual({ queue: 'sort-batch', job: { batchId: sorting } })
    expect(world.sent).toContainEqual({ queue: 'measure-item', job: { batchItemId: row.id } })
    expect(world.sent).toContainEqual({ queue: 'write-export', job: { exportId: waiting.id } })
    const wished = (queue: string) => world.sent.filter(s => s.queue === queue).map(s => s.job as PreviewJob)
    const drafts = wished('render-draft').map(job => job.rig)
    expect(drafts).toContain('environment-strip')
    // The oak has its draft.
    expect(drafts).not.toContain('material-stage')
    const { rows: approved } = await db.execute<{ inputKey: string; hasFinal: boolean }>(sql`
      select v.input_key as "inputKey",
        exists (select from previews p where p.input_key = v.input_key and p.quality = 'final') as "hasFinal"
      from items i join versions v on v.id = i.approved_version_id where i.state = 'approved'`)
    expect(approved.length).toBeGreaterThan(0)
    // What is approved has its final, or one is wished for.
    expect(new Set(wished('render-final').map(job => job.inputKey))).toEqual(
      new Set(approved.filter(a => !a.hasFinal).map(a => a.inputKey)),
    )
  })
})

describe('batches', () => {
  it('need files before they can be sorted, and a title to begin', async () => {
    const id = await createBatch(work, world.artist, { library: 'house', title: 'Empty' })
    await expect(sortBatch(work, world.artist, id)).rejects.toMatchObject({ code: 'badRequest' })
    await expect(createBatch(work, world.artist, { library: 'house', title: '  ' })).rejects.toThrow()
    await expect(createBatch(work, world.artist, { library: 'client', title: 'x' })).rejects.toMatchObject({ code: 'notFound' })
    expect((await listBatches(world.context.db, world.artist)).find(b => b.id === id)).toMatchObject({
      state: 'receiving',
      files: 0,
      person: 'arne',
    })
  })

  it('rows are set aside and taken back; a row that moves is measured again', async () => {
    const { batchId, rowIds } = await takeIn(world, work, 'house', /Timber/)
    const row = async () => (await getBatch(world.context.db, world.lead, batchId)).items[0]
    await editBatchItems(work, world.lead, batchId, { ids: rowIds, setAside: true })
    expect(await row()).toMatchObject({ state: 'setAside' })
    await editBatchItems(work, world.lead, batchId, { ids: rowIds, setAside: false })
    expect(await row()).toMatchObject({ state: 'measuring' })
    await measureRows(work, batchId)
    expect(await row()).toMatchObject({ state: 'ready' })
    world.sent.length = 0
    await editBatchItems(work, world.lead, batchId, { ids: rowIds, category: 'surfaces.stone' })
    expect(await row()).toMatchObject({ state: 'measuring', category: 'surfaces.stone', categoryConfidence: 1 })
    expect(world.sent).toContainEqual({ queue: 'measure-item', job: { batchItemId: rowIds[0] } })
  })
})

describe('people', () => {
  it('sign in by address in any case; adding one twice changes nothing', async () => {
    const { db } = world.context
    expect(await signIn(db, { email: '  LENA@Studio.Example ', password: 'lena-password' })).toEqual(world.lead)
    await expect(signIn(db, { email: 'lena@studio.example', password: 'Lena-password' })).rejects.toMatchObject({
      code: 'notSignedIn',
    })
    const again = await addPerson(db, {
      email: 'lena@studio.example',
      name: 'Other',
      role: 'artist',
      password: 'x',
      libraryIds: [],
    })
    expect(again).toEqual(world.lead)
    expect(await getPerson(db, 999)).toBeNull()
    expect((await db.select().from(items)).length).toBeGreaterThan(3)
  })
})
