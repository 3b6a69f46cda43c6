import { type ChildProcess, fork } from 'node:child_process'
import { join } from 'node:path'
import { eq, sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { listenToNotices } from '../../src/server/platform/notify'
import { openBoss, type PreviewJob, toJobQueue } from '../../src/server/platform/queue'
import { requestPreviews } from '../../src/server/previews/previews'
import { previews } from '../../src/server/tables/library.table'
import { createTestWorld, ROOT, type TestWorld } from '../test-database'
import { createWork, takeIn } from './take-in'

let world: TestWorld
let running: ChildProcess | null = null

beforeAll(async () => {
  world = await createTestWorld()
})
afterAll(async () => {
  running?.kill('SIGKILL')
  await world.close()
})

const startWorker = (): Promise<ChildProcess> =>
  new Promise((resolve, reject) => {
    const child = fork(join(ROOT, 'dist/node/worker.js'), {
      env: { ...process.env, MUSCOVITE_DATABASE_URL: world.url, MUSCOVITE_DATA: world.folder, MUSCOVITE_THREADS: '1' },
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    })
    child.once('message', () => resolve(child))
    child.once('exit', status => reject(new Error(`worker ended with ${status}`)))
  })

describe('a worker that is killed in the middle of a rendering', () => {
  it('loses nothing: the picture is there after the next start, once', async () => {
    const work = createWork(world)
    const { file } = await takeIn(world, work, 'house', /Seating/)
    await file()
    await work.threads.close()
    const wish = world.sent.findLast(s => s.queue.startsWith('render-'))!.job as PreviewJob
    const boss = await openBoss(world.url, () => {})
    const shares: number[] = []
    const stopListening = await listenToNotices(world.url, message => {
      if (message.topic === 'preview') shares.push(message.share)
    })
    running = await startWorker()
    await toJobQueue(boss).send(world.context.db, 'render-draft', [wish])
    // In the middle: some of it is done, not all.
    await expect.poll(() => shares.some(s => s > 0 && s < 1), { timeout: 60_000, interval: 50 }).toBe(true)
    const ended = new Promise(resolve => running!.once('exit', resolve))
    running.kill('SIGKILL')
    await ended
    const count = async () => (await world.context.db.select().from(previews).where(eq(previews.inputKey, wish.inputKey))).length
    expect(await count()).toBe(0)
    running = await startWorker()
    await expect.poll(count, { timeout: 120_000, interval: 500 }).toBe(1)
    await expect.poll(() => shares.at(-1), { timeout: 10_000 }).toBe(1)
    running.kill('SIGTERM')
    await stopListening()
    await boss.stop({ graceful: false, wait: false, close: true })
  })
})

describe('the line of renderings', () => {
  it('holds one job for a picture, and what somebody looks at moves forward', async () => {
    const boss = await openBoss(world.url, () => {})
    const queue = toJobQueue(boss)
    const wish = { inputKey: 'waits', category: 'surfaces.timber', quality: 'draft' } as const
    await requestPreviews(world.context.db, queue, [wish])
    await requestPreviews(world.context.db, queue, [wish])
    const line = async () =>
      (
        await world.context.db.execute<{ priority: number }>(
          sql`select priority from pgboss.job where singleton_key like 'waits/%' and state = 'created'`,
        )
      ).rows
    expect(await line()).toEqual([{ priority: 0 }])
    await requestPreviews(world.context.db, queue, [wish], 35)
    expect(await line()).toEqual([{ priority: 35 }])
    await requestPreviews(world.context.db, queue, [wish], 5)
    expect(await line()).toEqual([{ priority: 35 }])
    await boss.stop({ graceful: false, wait: false, close: true })
  })
})
