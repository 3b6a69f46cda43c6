import { eq } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { HOUSE_RIGS } from '../../src/core/render/rigs/house-rigs'
import { NO_RULES } from '../../src/core/standard/category-rules'
import { editItem } from '../../src/server/library/edit-items'
import { getSheet } from '../../src/server/library/sheet'
import {
  getFidelityPicture,
  listFidelity,
  requestFidelity,
  requestMissingFidelity,
} from '../../src/server/previews/fidelity/fidelity'
import { measureFidelityJob } from '../../src/server/previews/fidelity/measure-fidelity.job'
import { setRules } from '../../src/server/standard/rules/category-rules'
import { findings } from '../../src/server/tables/library.table'
import { rigs } from '../../src/server/tables/rig.table'
import { fidelityQuerySchema } from '../../src/shared/contracts/fidelity.contract'
import { editItemSchema } from '../../src/shared/contracts/items.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork, takeIn } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
const jobs = () => world.sent.filter(s => s.queue === 'measure-fidelity').map(s => s.job as { inputKey: string })
const everything = fidelityQuerySchema.parse({ state: '' })

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  await (await takeIn(world, work, 'house', /Seating|[Oo]ak/)).file()
  // A rig with small pictures, so that five renderings take seconds.
  const stage = HOUSE_RIGS['material-stage']
  const data = { ...stage, revision: 9, draft: { ...stage.draft, width: 64 } }
  await world.context.db.insert(rigs).values({ name: stage.name, revision: 9, data, state: 'adopted' })
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

describe('of an item', () => {
  it('is measured when asked, shown on the sheet, listed over a limit, and a finding over the house limit', async () => {
    const { db } = world.context
    const id = (await getSheet(world.pool, world.lead, 'TIM-0001', null)).id
    // A tuned version with a fuzz that two of the targets have no word for.
    await editItem(work, world.lead, id, editItemSchema.parse({ constants: { fuzzWeight: 1, specularWeight: 0.2 } }))
    const sheet = await getSheet(world.pool, world.lead, 'TIM-0001', null)
    expect(sheet.version).toMatchObject({ number: 2, note: 'specularWeight 1 to 0.2; fuzzWeight 0 to 1' })
    expect(sheet.constants).toEqual({ fuzzWeight: 1, specularWeight: 0.2 })
    expect(sheet.fidelity).toEqual([])
    await requestFidelity(work, world.artist, id)
    await measureFidelityJob(work, jobs()[0])
    const { fidelity, findings: seen } = await getSheet(world.pool, world.artist, 'TIM-0001', null)
    expect(fidelity.map(f => f.target)).toEqual(['gltf', 'materialX', 'usdPreviewSurface', 'objMtl'])
    expect(fidelity[1]).toMatchObject({ meanFlip: 0, lost: [] })
    const usd = fidelity[2]
    expect(usd.lost).toEqual(expect.arrayContaining(['fuzzWeight', 'specularWeight']))
    expect(usd.meanFlip).toBeGreaterThan(0.05)
    expect(
      seen
        .filter(f => f.code === 'targetLosesLook')
        .map(f => f.message)
        .join(),
    ).toContain('UsdPreviewSurface')
    const rows = (
      await listFidelity(db, world.artist, { ...everything, category: 'surfaces.timber', target: 'usdPreviewSurface' })
    ).rows
    expect(rows).toMatchObject([{ code: 'TIM-0001', target: 'usdPreviewSurface' }])
    expect((await listFidelity(db, world.artist, { ...everything, over: 0.9 })).rows).toEqual([])
    const pictureId = Number(usd.picture.split('/')[3])
    expect(await getFidelityPicture(db, world.artist, pictureId, 'picture')).toMatch(/^[0-9a-f]{64}$/)
    expect(await getFidelityPicture(db, world.artist, pictureId, 'original')).not.toBe(
      await getFidelityPicture(db, world.artist, pictureId, 'picture'),
    )
    // A form that the category is not delivered in may lose what it likes, from now on and of what was measured before.
    const told = async () => {
      const sheet = await getSheet(world.pool, world.lead, 'TIM-0001', null)
      return sheet.findings.filter(f => f.code === 'targetLosesLook').length
    }
    const before = await told()
    await setRules(world.context, world.lead, { path: 'surfaces', rules: { ...NO_RULES, targets: ['materialX'] } })
    expect(await told()).toBe(0)
    await setRules(world.context, world.lead, { path: 'surfaces', rules: NO_RULES })
    expect(await told()).toBe(before)
    // Measured again, the findings are not doubled.
    await measureFidelityJob(work, jobs()[0])
    const stored = await db.select().from(findings).where(eq(findings.code, 'targetLosesLook'))
    expect(new Set(stored.map(f => JSON.stringify([f.versionId, f.evidence.target]))).size).toBe(stored.length)
  })

  it('only what was not measured is asked for in bulk, and only by leads', async () => {
    await expect(requestMissingFidelity(work, world.artist, everything)).rejects.toMatchObject({ code: 'notAllowed' })
    const counts = await listFidelity(world.context.db, world.lead, everything)
    world.sent.length = 0
    expect(await requestMissingFidelity(work, world.lead, everything)).toBe(counts.unmeasured)
    expect(jobs()).toHaveLength(counts.unmeasured)
    expect(counts.measured).toBeGreaterThan(0)
  })

  it('is for materials; nothing is there for who does not exist', async () => {
    const chair = await getSheet(world.pool, world.lead, 'CHR-0001', null)
    await expect(requestFidelity(work, world.lead, chair.id)).rejects.toMatchObject({ code: 'badRequest' })
    await expect(requestFidelity(work, world.lead, 999_999)).rejects.toMatchObject({ code: 'notFound' })
    await expect(getFidelityPicture(world.context.db, world.lead, 999_999, 'picture')).rejects.toMatchObject({ code: 'notFound' })
    await measureFidelityJob(work, { inputKey: 'nobody has this' })
  })
})

describe('tuned parameters', () => {
  it('are refused outside their bounds, and under a name that is none', () => {
    for (const constants of [
      { fuzzWeight: 2 },
      { specularIor: 0.5 },
      { baseColor: [1, 1] },
      { shininess: 3 },
      { coatWeight: 'much' },
    ])
      expect(editItemSchema.safeParse({ constants }).success, JSON.stringify(constants)).toBe(false)
    expect(editItemSchema.safeParse({ constants: { baseColor: [0.1, 0.2, 0.3], geometryThinWalled: true } }).success).toBe(true)
  })
})
