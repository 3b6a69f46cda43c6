import type { Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import sharp from 'sharp'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { createFileWriter } from '../../src/demo/file-writer'
import { encodeMap } from '../../src/demo/make-file'
import { createFeedApp, SUPPLIER } from '../../src/feed/feed-app'
import type { OfferedVersion } from '../../src/feed/offer-items'
import { FeedPictures } from '../../src/server/feeds/feed-pictures'
import {
  addFeed,
  getFeed,
  getPictureAddress,
  listFeeds,
  refreshFeed,
  removeFeed,
  takeFromFeed,
} from '../../src/server/feeds/feeds'
import { fetchFeedJob } from '../../src/server/feeds/fetch-feed.job'
import { acceptRows } from '../../src/server/intake/accept-rows'
import { editBatchItems } from '../../src/server/intake/edit-rows'
import { measureItemJob } from '../../src/server/intake/measure-item.job'
import { sortBatchJob } from '../../src/server/intake/sort-batch.job'
import { batches, batchFiles, batchItems } from '../../src/server/tables/intake.table'
import { makeSurfaceMaps } from '../fixtures'
import { createTestWorld, type TestWorld } from '../test-database'
import { refused } from './refused'
import { createWork } from './take-in'
import { getBatch } from './whole-batch'

let world: TestWorld
let work: ReturnType<typeof createWork>
let server: Server
let url: string
let feedId: number

const oak = (version: number, sizePx: number): OfferedVersion => ({
  id: 'oak-test',
  title: 'Oak, test',
  kind: 'material',
  category: 'Wood / Flooring',
  tags: ['oak'],
  version,
  released: '2026-11-01',
  note: '',
  make: async root => {
    const { put, written } = createFileWriter(root)
    for (const map of makeSurfaceMaps(sizePx)) await put(`Oak_Feed_${map.role}.png`, await encodeMap(map))
    return written
  },
})
const OFFERED: OfferedVersion[] = [
  oak(1, 128),
  oak(2, 256),
  {
    ...oak(1, 128),
    id: 'notes',
    title: 'Notes',
    make: async root => {
      const { put, written } = createFileWriter(root)
      await put('deep/er/read me.txt', 'x'.repeat(200_000))
      return written
    },
  },
]
const RETRY_POLICY = { silenceMs: 400, attempts: 3, firstDelayMs: 5 }

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  const { app, ready } = createFeedApp(join(world.folder, '.feed'), OFFERED)
  server = app.listen(0, '127.0.0.1')
  await ready
  url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
})
afterAll(async () => {
  server.closeAllConnections()
  server.close()
  await work.threads.close()
  await world.close()
})
const control = (body: object) =>
  fetch(`${url}/control`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) })
beforeEach(() => control({ upToVersion: 1 }))

const fetchTaken = async (ids: string[]) => {
  const batchId = await takeFromFeed(world.context, world.lead, feedId, ids)
  await fetchFeedJob(work, { batchId }, RETRY_POLICY)
  return batchId
}
const filesOf = (batchId: number) =>
  world.context.db.select().from(batchFiles).where(eq(batchFiles.batchId, batchId)).orderBy(batchFiles.path)
const stateOf = async (id: string) => (await getFeed(world.context.db, world.lead, feedId)).items.find(i => i.id === id)?.state

describe('a feed', () => {
  it('is added by a lead after it was read once, and only once', async () => {
    await expect(addFeed(world.context, world.artist, { url, library: 'house' })).rejects.toMatchObject({ code: 'notAllowed' })
    await expect(addFeed(world.context, world.lead, { url: 'http://127.0.0.1:9', library: 'house' })).rejects.toThrow(
      'does not answer',
    )
    await expect(addFeed(world.context, world.lead, { url: 'ftp://x.example', library: 'house' })).rejects.toThrow()
    feedId = await addFeed(world.context, world.lead, { url: `${url}/`, library: 'house' })
    expect(await addFeed(world.context, world.lead, { url, library: 'house' })).toBe(feedId)
    expect(await listFeeds(world.context.db, world.artist)).toMatchObject([{ title: SUPPLIER, offers: 2, fresh: 2, newer: 0 }])
  })

  it('of a client library is seen by its team only', async () => {
    const id = await addFeed(world.context, world.lead, { url, library: 'client' })
    expect((await listFeeds(world.context.db, world.artist)).map(f => f.id)).toEqual([feedId])
    await expect(getFeed(world.context.db, world.artist, id)).rejects.toMatchObject({ code: 'notFound' })
    await removeFeed(world.context, world.lead, id)
    expect((await listFeeds(world.context.db, world.lead)).map(f => f.id)).toEqual([feedId])
    // Added again it is the same one, with all that was known of it.
    expect(await addFeed(world.context, world.lead, { url, library: 'client' })).toBe(id)
    await removeFeed(world.context, world.lead, id)
  })

  it('that does not answer keeps its last offer and says why', async () => {
    await control({ failure: 'error', upToVersion: 1 })
    const feed = await refreshFeed(world.context, world.lead, feedId)
    expect(feed.problem).toContain('answered with 503')
    expect(feed.items).toHaveLength(2)
    await control({ upToVersion: 1 })
    expect((await refreshFeed(world.context, world.lead, feedId)).problem).toBeNull()
  })

  it('is shown with the supplier’s pictures, made small and written anew; a broken one is told and not kept', async () => {
    const feed = await getFeed(world.context.db, world.lead, feedId)
    expect(feed.items.map(i => [i.id, i.picture])).toEqual([
      ['oak-test', `/api/feeds/${feedId}/pictures/oak-test?version=1`],
      ['notes', null],
    ])
    const pictures = new FeedPictures(world.context.fetchOutside)
    const address = await getPictureAddress(world.context.db, world.artist, feedId, 'oak-test')
    await control({ failure: 'error', times: 1, matching: '/pictures/', upToVersion: 1 })
    expect(await refused(pictures.get(address))).toBe('notFound')
    const { format, width, height } = await sharp(await pictures.get(address)).metadata()
    expect({ format, width, height }).toEqual({ format: 'webp', width: 320, height: 240 })
    expect(await refused(getPictureAddress(world.context.db, world.lead, feedId, 'notes'))).toBe('notFound')
    const file = `${url}/files/notes/1/${encodeURIComponent('deep')}/er/read%20me.txt`
    expect(await refused(pictures.get(file))).toBe('notFound')
  })

  for (const failure of ['error', 'cut', 'corrupt', 'hang'])
    it(`gives whole files after answers that are ${failure}`, async () => {
      await control({ failure, times: 2, matching: '/files/notes', upToVersion: 1 })
      const [file] = await filesOf(await fetchTaken(['notes']))
      expect(file).toMatchObject({ path: 'notes/deep/er/read me.txt', size: 200_000, outcome: 'received' })
      // What one test fetched, the next would be given by its hash.
      await world.context.db.delete(batchFiles)
    })

  it('names a file that never arrives whole, and takes the others in', async () => {
    await control({ failure: 'corrupt', matching: 'roughness', upToVersion: 1 })
    const files = await filesOf(await fetchTaken(['oak-test']))
    const failed = files.filter(f => f.outcome === 'failed')
    expect(failed).toMatchObject([{ path: 'oak-test/Oak_Feed_roughness.png', code: 'checksumWrong' }])
    expect(failed[0].message).toContain('tried 3 times')
    expect(files.length).toBeGreaterThan(3)
    expect(world.sent.at(-1)?.queue).toBe('sort-batch')
  })

  it('goes on where a killed worker stopped, and fetches nothing twice', async () => {
    const batchId = await takeFromFeed(world.context, world.lead, feedId, ['notes'])
    await fetchFeedJob(work, { batchId }, RETRY_POLICY)
    await world.context.db.update(batches).set({ state: 'receiving' }).where(eq(batches.id, batchId))
    await control({ failure: 'error', upToVersion: 1 })
    await fetchFeedJob(work, { batchId }, RETRY_POLICY)
    expect(await filesOf(batchId)).toMatchObject([{ outcome: 'received' }])
  })

  it('tells what was taken, what is newer, and what was withdrawn of what the library has', async () => {
    const batchId = await fetchTaken(['oak-test'])
    await sortBatchJob(work, { batchId })
    const rows = await world.context.db.select().from(batchItems).where(eq(batchItems.batchId, batchId))
    for (const row of rows) await measureItemJob(work, { batchItemId: row.id })
    const ids = rows.map(r => r.id)
    await editBatchItems(world.context, world.lead, batchId, { ids, widthMm: 600 })
    await acceptRows(world.context, world.lead, batchId, ids)
    const batch = await getBatch(world.context.db, world.lead, batchId)
    expect(batch).toMatchObject({ maker: SUPPLIER, expectedFiles: rows[0].files.length })
    expect(await stateOf('oak-test')).toBe('taken')
    await control({})
    const fresh = await refreshFeed(world.context, world.lead, feedId)
    expect(fresh.newer).toBe(1)
    expect(fresh.items.find(i => i.id === 'oak-test')).toMatchObject({
      state: 'newer',
      version: 2,
      takenVersion: 1,
      codes: [batch.items[0].itemCode],
    })
    await control({ withdrawn: ['oak-test'] })
    expect(await refreshFeed(world.context, world.lead, feedId)).toMatchObject({ withdrawn: 1, newer: 0 })
    await expect(takeFromFeed(world.context, world.lead, feedId, ['oak-test'])).rejects.toThrow('Nothing of this is on offer')
  })
})
