import { sql } from 'drizzle-orm'
import type PgBoss from 'pg-boss'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { RENDERER_REVISION } from '../../src/core/render/pictures/preview'
import { openBoss, toJobQueue } from '../../src/server/platform/queue'
import { mayRenderNow } from '../../src/server/previews/may-render-now'
import { FINALS_PRIORITY, PREVIEW_SEED, putCheapFinalsFirst, requestPreviews } from '../../src/server/previews/previews'
import { previews } from '../../src/server/tables/library.table'
import { createTestWorld, type TestWorld } from '../test-database'

let world: TestWorld
let boss: PgBoss
beforeAll(async () => {
  world = await createTestWorld()
  boss = await openBoss(world.url, () => {})
})
afterAll(async () => {
  await boss.stop({ graceful: false, wait: false, close: true })
  await world.close()
})

describe('a rendering', () => {
  it('of a mock-up may take hours without being put in line a second time; other work may not', async () => {
    expect((await boss.getQueue('render-mock-up'))?.expireInSeconds).toBeGreaterThan(12 * 3600)
    expect((await boss.getQueue('measure-item'))?.expireInSeconds).toBe(3600)
    await toJobQueue(boss).send(world.context.db, 'render-mock-up', [{ pictureId: 1 }])
    const [job] = await boss.fetch('render-mock-up', { includeMetadata: true })
    expect(Number(job.expireInSeconds)).toBeGreaterThan(12 * 3600)
  })

  it('waits while anything is in line to be measured, but not where somebody waits for it', async () => {
    const { db } = world.context
    const queue = toJobQueue(boss)
    const may = () => mayRenderNow(db, 'render-draft', { unasked: true })
    const mayFinal = (unasked = true) => mayRenderNow(db, 'render-final', { unasked })
    const wish = { inputKey: 'oak', category: 'surfaces.timber', quality: 'draft' } as const
    await requestPreviews(db, queue, [wish])
    expect(await may()).toBe(true)
    await queue.send(db, 'measure-item', [{ batchItemId: 1 }, { batchItemId: 2 }])
    expect(await may()).toBe(false)
    // One is in hand and one still in line: the moment between two is no time to begin a rendering.
    await boss.fetch('measure-item', { batchSize: 1 })
    expect(await may()).toBe(false)
    await requestPreviews(db, queue, [wish], 35)
    expect(await may()).toBe(true)
    await boss.fetch('measure-item', { batchSize: 5 })
    // Every draft before the first final.
    expect(await mayFinal()).toBe(false)
    await boss.fetch('render-draft', { batchSize: 5 })
    expect(await mayFinal()).toBe(true)
    // Where finals are made only when asked for, one that was is.
    expect(await mayFinal(false)).toBe(false)
    await requestPreviews(db, queue, [{ ...wish, quality: 'final' }], 40)
    expect(await mayFinal(false)).toBe(true)
    await db.execute(sql`delete from pgboss.job where name in ('measure-item', 'render-draft', 'render-final')`)
  })

  it('for good that nobody waits for comes the sooner the less its draft took; one that is asked for comes before all', async () => {
    const { db } = world.context
    const queue = toJobQueue(boss)
    const wish = (inputKey: string) => ({ inputKey, category: 'surfaces.timber', quality: 'final' as const })
    const addDraft = (inputKey: string, seconds: number) =>
      db.insert(previews).values({
        ...{ inputKey, seconds, quality: 'draft', rig: 'material-stage', rigRevision: 1, rendererRevision: RENDERER_REVISION },
        ...{ seed: PREVIEW_SEED, hash: 'a'.repeat(64), width: 384, height: 288, samples: 1, achievedError: 0, convergedShare: 1 },
        fireflyShare: 0,
      })
    await db.execute(
      sql`insert into files (hash, size, media_type) values (${'a'.repeat(64)}, 1, 'image/webp') on conflict do nothing`,
    )
    await addDraft('dear', 60)
    await addDraft('cheap', 2)
    await requestPreviews(db, queue, ['dear', 'later', 'cheap', 'asked'].map(wish), FINALS_PRIORITY)
    // The draft of one comes when its final waits already.
    await addDraft('later', 9)
    await putCheapFinalsFirst(db, ['later'])
    await requestPreviews(db, queue, [wish('asked')], 10)
    await addDraft('asked', 600)
    await putCheapFinalsFirst(db, ['asked'])
    const order: string[] = []
    for (let k = 0; k < 4; k++) order.push((await boss.fetch<{ inputKey: string }>('render-final'))[0].data.inputKey)
    expect(order).toEqual(['asked', 'cheap', 'later', 'dear'])
    await db.execute(sql`delete from pgboss.job where name = 'render-final'`)
  })
})
