import { eq, sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { HOUSE_RIGS } from '../../src/core/render/rigs/house-rigs'
import type { Rig } from '../../src/core/render/rigs/rig'
import { loadRigBook, loadRigRevision } from '../../src/server/house/rig-book'
import { countView, getSheet } from '../../src/server/library/sheet'
import { getWall, listCategories } from '../../src/server/library/wall'
import type { PreviewJob } from '../../src/server/platform/queue'
import { renderPreviewJob } from '../../src/server/previews/render-preview.job'
import { setRerenderState, startRerender } from '../../src/server/previews/rerenders'
import {
  adoptProposal,
  discardProposal,
  listRigs,
  proposeCategoryRig,
  proposeRig,
  rerenderOlder,
} from '../../src/server/previews/rigs/rigs'
import { rerenderItems, rerenders } from '../../src/server/tables/rig.table'
import { sweep } from '../../src/server/upkeep/sweep'
import { wallQuerySchema } from '../../src/shared/contracts/find.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork, takeIn } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>

/** A rig that renders in a moment. */
const quick = (rig: Rig): Rig => ({ ...rig, draft: { width: 64, noiseSteps: 64, maxSamples: 4 } })
const changeOf = ({ name: _, revision: __, ...change }: Rig) => change
const jobs = () => world.sent.filter(s => s.queue.startsWith('render-')).map(s => s.job as PreviewJob)

async function renderSent(): Promise<number> {
  const list = jobs()
  world.sent.length = 0
  for (const job of list) await renderPreviewJob(work, job)
  return list.length
}

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  const { file } = await takeIn(world, work)
  await file()
  world.sent.length = 0
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

describe('the rigs in force', () => {
  it('are the shipped ones until a studio changes one', async () => {
    const book = await loadRigBook(world.context.db)
    expect(book.rigFor('surfaces.timber')).toEqual(HOUSE_RIGS['material-stage'])
    expect(book.rigFor('surfaces.textile').name).toBe('cloth-drape')
    expect(book.rigFor('nowhere.at.all').name).toBe('material-stage')
    expect(book.categoriesOf('environment-strip')).toContain('environments.skies')
    expect(await loadRigRevision(world.context.db, 'material-stage', 999)).toBeNull()
    const list = await listRigs(world.context.db, world.artist)
    expect(list.mayEdit).toBe(false)
    expect(list.rigs.map(r => r.rig.name).sort()).toEqual(Object.keys(HOUSE_RIGS).sort())
    expect(list.rigs.every(r => r.isShipped)).toBe(true)
  })

  it('may be changed by leads only, and only to another of their kind', async () => {
    const change = changeOf(HOUSE_RIGS['material-stage'])
    await expect(proposeRig(work, world.artist, 'material-stage', change)).rejects.toMatchObject({ code: 'notAllowed' })
    await expect(proposeRig(work, world.lead, 'no-such-rig', change)).rejects.toMatchObject({ code: 'notFound' })
    await expect(proposeRig(work, world.lead, 'material-stage', { ...change, stage: 'panorama' })).rejects.toMatchObject({
      code: 'badRequest',
    })
    await expect(proposeCategoryRig(work, world.artist, 'surfaces.timber', 'material-wall')).rejects.toMatchObject({
      code: 'notAllowed',
    })
    await expect(proposeCategoryRig(work, world.lead, 'surfaces.timber', 'environment-strip')).rejects.toMatchObject({
      code: 'badRequest',
    })
    await expect(proposeCategoryRig(work, world.lead, 'surfaces.timber', 'material-stage')).rejects.toMatchObject({
      code: 'conflict',
    })
    await expect(adoptProposal(work, world.artist, 1)).rejects.toMatchObject({ code: 'notAllowed' })
    await expect(adoptProposal(work, world.lead, 999)).rejects.toMatchObject({ code: 'notFound' })
  })
})

describe('a changed rig', () => {
  it('is tried on samples, adopted, and rendered anew in the background while the wall keeps the old pictures', async () => {
    const { db } = world.context
    // A quick rig first, so that the rest of the test is about the change.
    const first = await proposeRig(work, world.lead, 'material-stage', changeOf(quick(HOUSE_RIGS['material-stage'])))
    await adoptProposal(work, world.lead, first.id)
    await renderSent()
    while ((await renderSent()) > 0);
    const wall = async () => (await getWall(world.context, world.artist, wallQuerySchema.parse({ category: 'surfaces' }))).chips
    const before = await wall()
    expect(before.length).toBeGreaterThan(0)
    expect(before.every(c => c.preview !== null && !c.isOlderPreview)).toBe(true)

    const book = await loadRigBook(db)
    const current = book.current('material-stage')!
    expect(current.revision).toBe(HOUSE_RIGS['material-stage'].revision + 1)
    const proposal = await proposeRig(work, world.lead, 'material-stage', {
      ...changeOf(current),
      camera: { ...current.camera, azimuthDeg: -40 },
    })
    expect(proposal.rig).toMatchObject({ revision: current.revision + 1, camera: { azimuthDeg: -40 } })
    expect(proposal.stake.previews).toBe(before.length)
    expect(proposal.stake.minutes).toBeGreaterThan(0)
    expect(proposal.samples.length).toBeGreaterThan(0)
    expect(proposal.samples.length).toBeLessThanOrEqual(3)
    expect(proposal.samples.every(s => s.before !== null && s.after === null)).toBe(true)
    await renderSent()
    const tried = (await listRigs(db, world.lead)).rigs.find(r => r.rig.name === 'material-stage')!
    expect(tried.rig.revision).toBe(current.revision)
    expect(tried.proposal!.samples.every(s => s.after !== null && s.after !== s.before)).toBe(true)
    // What is only tried out is shown nowhere else.
    expect((await wall()).map(c => c.preview)).toEqual(before.map(c => c.preview))

    const run = await adoptProposal(work, world.lead, proposal.id)
    await expect(adoptProposal(work, world.lead, proposal.id)).rejects.toMatchObject({ code: 'conflict' })
    const after = await wall()
    const samples = new Set(proposal.samples.map(s => s.code))
    for (const chip of after) expect(chip.isOlderPreview, chip.code).toBe(!samples.has(chip.code))
    if (run === null) expect(after.length).toBe(samples.size)
    else while ((await renderSent()) > 0);
    expect((await wall()).every(c => !c.isOlderPreview)).toBe(true)
    expect((await listRigs(db, world.lead)).rerenders.every(r => r.state === 'done' && r.done === r.total)).toBe(true)
  })

  it('is dropped without a trace when nobody wants it, and a newer proposal replaces an open one', async () => {
    const { db } = world.context
    const current = (await loadRigBook(db)).current('material-wall')!
    const a = await proposeRig(work, world.lead, 'material-wall', { ...changeOf(current), exposureEv: 1 })
    const b = await proposeRig(work, world.lead, 'material-wall', { ...changeOf(current), exposureEv: 2 })
    expect(b.rig.revision).toBe(a.rig.revision + 1)
    await expect(adoptProposal(work, world.lead, a.id)).rejects.toMatchObject({ code: 'conflict' })
    await discardProposal(work, world.lead, b.id)
    await expect(discardProposal(work, world.lead, b.id)).rejects.toMatchObject({ code: 'conflict' })
    expect((await loadRigBook(db)).current('material-wall')).toEqual(current)
    expect((await listRigs(db, world.lead)).rigs.every(r => r.proposal === null)).toBe(true)
  })
})

describe('another rig for a category', () => {
  it('shows the old picture until the new one is there', async () => {
    const { db } = world.context
    world.sent.length = 0
    const small = await proposeRig(work, world.lead, 'material-close-up', changeOf(quick(HOUSE_RIGS['material-close-up'])))
    await adoptProposal(work, world.lead, small.id)
    world.sent.length = 0
    const proposal = await proposeCategoryRig(work, world.lead, 'surfaces.timber', 'material-close-up')
    expect(proposal.category).toBe('surfaces.timber')
    const listed = await listRigs(db, world.lead)
    expect(listed.proposals.map(p => p.id)).toEqual([proposal.id])
    await adoptProposal(work, world.lead, proposal.id)
    expect((await listCategories(world.context, world.lead)).find(c => c.path === 'surfaces.timber')!.rig).toBe(
      'material-close-up',
    )
    const sheet = async () => (await getSheet(world.pool, world.artist, 'TIM-0001', null)).preview!
    expect(await sheet()).toMatchObject({ rig: 'material-stage', isOlder: true })
    while ((await renderSent()) > 0);
    expect(await sheet()).toMatchObject({ rig: 'material-close-up', isOlder: false })
    expect((await sheet()).linearUrl).toMatch(/^\/api\/previews\/\d+\/linear$/)
  })
})

describe('a background run', () => {
  it('begins with what people look at most', async () => {
    const { db } = world.context
    const { chips } = await getWall(world.context, world.lead, wallQuerySchema.parse({ kind: 'environment' }))
    expect(chips.length).toBeGreaterThan(1)
    const liked = chips[chips.length - 1]
    for (let k = 0; k < 3; k++) await countView(db, world.artist, liked.id)
    const current = (await loadRigBook(db)).current('environment-strip')!
    const proposal = await proposeRig(work, world.lead, 'environment-strip', changeOf(quick(current)))
    expect(proposal.samples[0].code).toBe(liked.code)
    const id = (await adoptProposal(work, world.lead, proposal.id))!
    const [first] = await db.select().from(rerenderItems).where(eq(rerenderItems.rerenderId, id)).orderBy(rerenderItems.position)
    const { rows } = await db.execute<{ key: string }>(sql`
      select v.input_key as key from versions v join items i on i.current_version_id = v.id where i.id = ${liked.id}`)
    expect(first.inputKey).toBe(rows[0].key)
    while ((await renderSent()) > 0);
    expect((await db.select().from(rerenders).where(eq(rerenders.id, id)))[0].state).toBe('done')
    expect(await rerenderOlder(work, world.lead, 'environment-strip')).toBeNull()
  })

  it('hands out a few at a time; pauses, goes on, ends; survives a stopped worker', async () => {
    const { db } = world.context
    const list = Array.from({ length: 9 }, (_, k) => ({
      inputKey: `made-up-${k}`,
      rig: 'material-wall',
      revision: 2,
      quality: 'draft' as const,
    }))
    const start = async () => {
      world.sent.length = 0
      return (await startRerender(work.db, work.queue, world.lead, 'nine', list))!
    }
    const stateOf = async (id: number) => (await db.select().from(rerenders).where(eq(rerenders.id, id)))[0].state
    const id = await start()
    expect(jobs().map(j => j.inputKey)).toEqual(list.slice(0, 4).map(j => j.inputKey))
    await setRerenderState(work, world.lead, id, 'paused')
    const held = jobs()
    world.sent.length = 0
    for (const job of held) await renderPreviewJob(work, job)
    // What was under way is finished; nothing more is handed out.
    expect(jobs()).toEqual([])
    await setRerenderState(work, world.lead, id, 'running')
    expect(jobs()).toHaveLength(4)
    // The worker is stopped with four in hand; the next one takes them up.
    world.sent.length = 0
    await sweep(work)
    expect(jobs().filter(j => j.rerender?.id === id)).toHaveLength(4)
    const run = (await listRigs(db, world.lead)).rerenders.find(r => r.id === id)!
    expect(run).toMatchObject({ total: 9, done: 4, failed: 0, state: 'running', title: 'nine' })
    world.sent.splice(0, world.sent.length, ...world.sent.filter(s => (s.job as PreviewJob).rerender))
    while ((await renderSent()) > 0);
    expect(await stateOf(id)).toBe('done')
    await expect(setRerenderState(work, world.lead, id, 'paused')).rejects.toMatchObject({ code: 'conflict' })

    const second = await start()
    await expect(setRerenderState(work, world.artist, second, 'cancelled')).rejects.toMatchObject({ code: 'notAllowed' })
    await setRerenderState(work, world.lead, second, 'cancelled')
    world.sent.length = 0
    await sweep(work)
    expect(jobs().some(j => j.rerender)).toBe(false)
    expect(await stateOf(second)).toBe('cancelled')
  })
})
