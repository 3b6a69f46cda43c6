import { readFile } from 'node:fs/promises'
import { eq, sql } from 'drizzle-orm'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest'
import { copyForScreensJob } from '../../src/server/library/pictures/copy-for-screens.job'
import { storeBytes } from '../../src/server/platform/storage/stored-files'
import type { WorkContext } from '../../src/server/platform/work-context'
import { items, screenCopies, versionFiles, versions } from '../../src/server/tables/library.table'
import { collect } from '../../src/server/upkeep/collect'
import { sweep } from '../../src/server/upkeep/sweep'
import { createTestWorld, type TestWorld } from '../test-database'
import { serve } from './serve'

let world: TestWorld
let app: Awaited<ReturnType<typeof serve>>
let versionId: number

const stored: Record<'baseColor' | 'roughness' | 'definition', string> = { baseColor: '', roughness: '', definition: '' }

beforeAll(async () => {
  world = await createTestWorld()
  app = await serve(world)
  const { db } = world.context
  const color = await sharp({ create: { width: 1500, height: 1500, channels: 3, background: '#9c6b3f' } })
    .png()
    .toBuffer()
  stored.baseColor = (await storeBytes(world.context, color, 'image/png')).hash
  stored.roughness = (await storeBytes(world.context, color.subarray(0, color.length / 2), 'image/png')).hash
  stored.definition = (await storeBytes(world.context, Buffer.from('<materialx/>'), 'text/plain')).hash
  const oak = { libraryId: 2, category: 'surfaces', kind: 'material', code: 'OAK-1', name: 'Oak', state: 'approved' } as const
  const [item] = await db.insert(items).values(oak).returning()
  const [version] = await db
    .insert(versions)
    .values({ itemId: item.id, number: 1, authorId: world.lead.id, inputKey: 'oak' })
    .returning()
  versionId = version.id
  await db
    .insert(versionFiles)
    .values(
      Object.entries(stored).map(([role, hash], position) => ({ versionId, position, role, path: `oak_${role}.png`, hash })),
    )
})
afterAll(async () => {
  await app.close()
  await world.close()
})

async function asker(name: string) {
  const response = await fetch(`${app.base}/api/session`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ email: `${name}@studio.example`, password: `${name}-password` }),
  })
  const headers = { Cookie: response.headers.getSetCookie()[0].split(';')[0] }
  return (position: number, query: string) =>
    fetch(`${app.base}/api/versions/${versionId}/files/${position}/screen${query}`, { headers })
}
const copiesOf = (hash: string) => world.context.db.select().from(screenCopies).where(eq(screenCopies.sourceHash, hash))

describe('a map for the screen', () => {
  it('comes smaller, made once for all who ask; where it is small enough it is the file itself', async () => {
    const ask = await asker('lena')
    const together = await Promise.all([1, 2, 3].map(() => ask(0, '?px=1024')))
    expect(together.map(r => [r.status, r.headers.get('content-type')])).toEqual([1, 2, 3].map(() => [200, 'image/jpeg']))
    expect(together[0].headers.get('cache-control')).toContain('immutable')
    expect(await sharp(await together[0].arrayBuffer()).metadata()).toMatchObject({ width: 1024, height: 1024 })
    expect((await ask(0, '?px=2048')).headers.get('content-type')).toBe('image/png')
    const copies = await copiesOf(stored.baseColor)
    expect(copies.map(c => [c.longerPx, c.hash === stored.baseColor]).sort()).toEqual([
      [1024, false],
      [2048, true],
    ])
  })

  it('is shown to nobody who may not see its item, and at no other size', async () => {
    expect((await fetch(`${app.base}/api/versions/${versionId}/files/0/screen?px=1024`)).status).toBe(401)
    const outside = await asker('arne')
    expect((await outside(0, '?px=1024')).status).toBe(404)
    const ask = await asker('lena')
    expect((await ask(0, '')).status).toBe(400)
    expect((await ask(0, '?px=1000')).status).toBe(400)
  })

  it('says what is wrong with one that does not read, and with what is no picture', async () => {
    const ask = await asker('lena')
    const broken = await ask(1, '?px=1024')
    expect([broken.status, (await broken.json()).message]).toEqual([400, expect.stringContaining('damaged')])
    expect(await copiesOf(stored.roughness)).toEqual([])
    expect((await ask(2, '?px=1024')).status).toBe(400)
  })

  it('is made ahead of all that pages open, but of what does not read; a smaller one of the larger one', async () => {
    const { context } = world
    const work = { ...context, intakePool: app.compute } as WorkContext
    await context.db.delete(screenCopies)
    const asked = vi.spyOn(app.compute, 'run')
    await copyForScreensJob(work, { inputKey: 'oak' })
    expect((await copiesOf(stored.baseColor)).map(c => c.longerPx)).toEqual([1024])
    expect(await copiesOf(stored.roughness)).toEqual([])
    expect(await copiesOf(stored.definition)).toEqual([])
    await copyForScreensJob(work, { inputKey: 'oak' })
    const original = await context.storage.localPath(stored.baseColor)
    const readers = () =>
      asked.mock.calls.filter(([, input]) => (input as { file: { diskPath: string } }).file.diskPath === original)
    expect(readers()).toHaveLength(1)
    const ask = await asker('lena')
    expect(await sharp(await (await ask(0, '?px=512')).arrayBuffer()).metadata()).toMatchObject({ width: 512, height: 512 })
    expect(readers()).toHaveLength(1)
    asked.mockRestore()
  })

  it('that was never made is made after the next start', async () => {
    const { context } = world
    const waiting = async () => {
      world.sent.length = 0
      await sweep(context)
      return world.sent.flatMap(({ queue, job }) => (queue === 'copy-for-screens' ? [job] : []))
    }
    // The roughness does not read, and is tried again.
    await context.db.update(versionFiles).set({ role: 'specular' }).where(eq(versionFiles.hash, stored.roughness))
    await context.db.update(items).set({ currentVersionId: versionId }).where(eq(items.code, 'OAK-1'))
    const drafted = [{ inputKey: 'oak' }]
    expect(await waiting()).toEqual(drafted)
    await context.db.delete(screenCopies)
    expect(await waiting()).toEqual([...drafted, ...drafted])
    await copyForScreensJob({ ...context, intakePool: app.compute } as WorkContext, { inputKey: 'oak' })
  })

  it('is kept as long as its item is, and collected with it', async () => {
    const { db, storage } = world.context
    const copy = (await copiesOf(stored.baseColor)).find(c => c.longerPx === 1024)!
    const collectOld = async () => {
      await db.execute(sql`update files set last_put_at = now() - interval '40 days'`)
      await collect(world.context, world.lead, { days: 30, dryRun: false })
    }
    await collectOld()
    await readFile(await storage.localPath(copy.hash))
    await db.delete(versionFiles).where(eq(versionFiles.versionId, versionId))
    await collectOld()
    expect(await copiesOf(stored.baseColor)).toEqual([])
    await expect(readFile(await storage.localPath(copy.hash))).rejects.toMatchObject({ code: 'ENOENT' })
  })
})
