import { sql } from 'drizzle-orm'
import type PgBoss from 'pg-boss'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openBoss, toJobQueue } from '../../src/server/platform/queue'
import { mayRenderNow } from '../../src/server/previews/may-render-now'
import { requestPreviews } from '../../src/server/previews/previews'
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
})
