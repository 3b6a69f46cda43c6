import { eq } from 'drizzle-orm'
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from 'vitest'
import { LibraryFinder } from '../../src/server/find/library-finder'
import { openDatabase } from '../../src/server/platform/database'
import { categories } from '../../src/server/tables/library.table'
import type { Category } from '../../src/shared/contracts/items.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { serve } from './serve'

let world: TestWorld
let served: { base: string; close: () => Promise<void> }
/** The database as only the server under test asks it. */
let asked: ReturnType<typeof openDatabase>
let lead: string
let artist: string

async function signIn(name: string): Promise<string> {
  const session = await fetch(`${served.base}/api/session`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ email: `${name}@studio.example`, password: `${name}-password` }),
  })
  expect(session.status).toBe(200)
  return session.headers.getSetCookie()[0].split(';')[0]
}

beforeAll(async () => {
  world = await createTestWorld()
  asked = openDatabase(world.url, 4)
  served = await serve({
    ...world,
    pool: asked.pool,
    context: { ...world.context, db: asked.db, pool: asked.pool, finder: new LibraryFinder(asked.db) },
  })
  lead = await signIn('lena')
  artist = await signIn('arne')
})
afterEach(() => {
  vi.restoreAllMocks()
})
afterAll(async () => {
  await served.close()
  await asked.close()
  await world.close()
})

const get = (path: string, cookie: string, headers: Record<string, string> = {}) =>
  fetch(new URL(path, served.base), { headers: { Cookie: cookie, ...headers } })

const countStatements = () => {
  const spy = vi.spyOn(asked.pool, 'query')
  return () => spy.mock.calls.length
}

describe('an answer that was given before', () => {
  it('is given again without reading it, for as long as nothing changes', async () => {
    const count = countStatements()
    // Transactions of any database of the cluster move the snapshot, and other tests share this cluster.
    const again = await vi.waitFor(
      async () => {
        const body = await (await get('/api/items?limit=60', lead)).json()
        const before = count()
        const answer = await get('/api/items?limit=60', lead)
        expect(await answer.json()).toEqual(body)
        expect(count() - before).toBe(1)
        return answer
      },
      { timeout: 30_000, interval: 20 },
    )
    const etag = again.headers.get('etag')!
    expect((await get('/api/items?limit=60', lead, { 'If-None-Match': etag, 'Cache-Control': 'max-age=0' })).status).toBe(304)
  })

  it('is read anew in the very next request after anybody, anywhere, has changed anything', async () => {
    const titles = async () => ((await (await get('/api/categories', lead)).json()) as Category[]).map(c => c.title)
    const [{ path }] = await world.context.db.select().from(categories).limit(1)
    for (let k = 0; k < 20; k++) {
      await world.context.db
        .update(categories)
        .set({ title: `Renamed ${k}` })
        .where(eq(categories.path, path))
      expect(await titles()).toContain(`Renamed ${k}`)
    }
  })

  it('does not see what is not yet committed, and sees it as soon as it is', async () => {
    const titles = async () => ((await (await get('/api/categories', lead)).json()) as Category[]).map(c => c.title)
    const [{ path }] = await world.context.db.select().from(categories).limit(1)
    await world.context.db.transaction(async tx => {
      await tx.update(categories).set({ title: 'Still open' }).where(eq(categories.path, path))
      expect(await titles()).not.toContain('Still open')
      expect(await titles()).not.toContain('Still open')
    })
    expect(await titles()).toContain('Still open')
  })

  it("is nobody else's", async () => {
    await get('/api/items?limit=60', lead)
    const count = countStatements()
    expect((await get('/api/items?limit=60', artist)).status).toBe(200)
    expect(count()).toBeGreaterThan(1)
    expect((await get('/api/items?limit=60', '')).status).toBe(401)
  })

  it('is shared by those who ask while it is still read', async () => {
    await world.context.db.update(categories).set({ retiredInto: null })
    const count = countStatements()
    const answers = await Promise.all(Array.from({ length: 40 }, () => get('/api/items?limit=59', lead).then(r => r.text())))
    expect(new Set(answers).size).toBe(1)
    // A session each; and the wall once, or a few times where the snapshot moved meanwhile, but never for each.
    expect(count()).toBeLessThan(40 + 40)
  })
})
