import { createHash, randomBytes } from 'node:crypto'
import { createServer, request, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { eq } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { createBatch } from '../../src/server/intake/batches'
import { openDatabase } from '../../src/server/platform/database'
import { batchFiles } from '../../src/server/tables/intake.table'
import { createTestWorld, type TestWorld } from '../test-database'
import { serve } from './serve'

/** Two servers on one database and one store, behind a proxy that gives each request to the other one than the last. */
let world: TestWorld
let servers: { base: string; close: () => Promise<void> }[]
let second: ReturnType<typeof openDatabase>
let proxy: Server
let base: string
let cookie: string
const served = [0, 0]

beforeAll(async () => {
  world = await createTestWorld()
  second = openDatabase(world.url, 4)
  const other = { ...world, pool: second.pool, context: { ...world.context, db: second.db, pool: second.pool } }
  servers = [await serve(world), await serve(other)]
  let turn = 0
  proxy = createServer((req, res) => {
    const which = turn++ % servers.length
    served[which]++
    const on = request(new URL(req.url ?? '/', servers[which].base), { method: req.method, headers: req.headers }, answer => {
      res.writeHead(answer.statusCode ?? 502, answer.headers)
      answer.pipe(res)
    })
    on.on('error', () => res.destroy())
    req.pipe(on)
  })
  await new Promise<void>(resolve => proxy.listen(0, '127.0.0.1', resolve))
  base = `http://127.0.0.1:${(proxy.address() as AddressInfo).port}`
  const session = await fetch(`${base}/api/session`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ email: 'lena@studio.example', password: 'lena-password' }),
  })
  cookie = session.headers.getSetCookie()[0].split(';')[0]
})
afterAll(async () => {
  proxy.closeAllConnections()
  proxy.close()
  for (const { close } of servers) await close()
  await second.close()
  await world.close()
})

const tus = (path: string, init: RequestInit & { headers?: Record<string, string> } = {}) =>
  fetch(new URL(path, base), { ...init, headers: { Cookie: cookie, 'Tus-Resumable': '1.0.0', ...init.headers } })
const encode = (text: string) => Buffer.from(text).toString('base64')

async function begin(batchId: number, path: string, length: number): Promise<string> {
  const begun = await tus('/api/uploads', {
    method: 'POST',
    headers: { 'Upload-Length': String(length), 'Upload-Metadata': `batchId ${encode(String(batchId))},path ${encode(path)}` },
  })
  expect(begun.status).toBe(201)
  return begun.headers.get('location')!
}

describe('several servers', () => {
  it('take one upload in turns, piece by piece, and it ends in its batch once', async () => {
    const batchId = await createBatch(world.context, world.lead, { library: 'house', title: 'Spread' })
    const bytes = randomBytes(700_000)
    const location = await begin(batchId, 'Skies/Spread.hdr', bytes.length)
    const piece = 100_000
    for (let at = 0; at < bytes.length; at += piece) {
      const sent = await tus(location, {
        method: 'PATCH',
        headers: { 'Content-Type': 'application/offset+octet-stream', 'Upload-Offset': String(at) },
        body: bytes.subarray(at, at + piece),
      })
      expect(sent.status).toBe(204)
    }
    // Asked at both, whether it is all there.
    const heads = await Promise.all([0, 1, 2, 3].map(() => tus(location, { method: 'HEAD' })))
    expect(heads.every(h => h.status === 200 || h.status === 404 || h.status === 410)).toBe(true)
    const rows = await world.context.db.select().from(batchFiles).where(eq(batchFiles.batchId, batchId))
    expect(rows).toMatchObject([
      { path: 'Skies/Spread.hdr', size: bytes.length, hash: createHash('sha256').update(bytes).digest('hex') },
    ])
    expect(Math.min(...served)).toBeGreaterThan(4)
  })

  it('do not let two lines write to one upload at once', async () => {
    const batchId = await createBatch(world.context, world.lead, { library: 'house', title: 'Twice' })
    const bytes = randomBytes(400_000)
    const location = await begin(batchId, 'a.bin', bytes.length)
    const write = () =>
      tus(location, {
        method: 'PATCH',
        headers: { 'Content-Type': 'application/offset+octet-stream', 'Upload-Offset': '0' },
        body: bytes,
      })
    const answers = await Promise.all([write(), write()])
    // One writes; the other finds that something is there already, or that it is gone into its batch.
    expect(answers.filter(a => a.status === 204)).toHaveLength(1)
    const [row] = await world.context.db.select().from(batchFiles).where(eq(batchFiles.batchId, batchId))
    expect(row.hash).toBe(createHash('sha256').update(bytes).digest('hex'))
  })

  it('know who is signed in, and that somebody signed out, wherever it was said', async () => {
    for (let k = 0; k < 4; k++) expect((await fetch(`${base}/api/items`, { headers: { Cookie: cookie } })).status).toBe(200)
    await fetch(`${base}/api/session`, { method: 'DELETE', headers: { Cookie: cookie } })
    for (let k = 0; k < 4; k++) expect((await fetch(`${base}/api/items`, { headers: { Cookie: cookie } })).status).toBe(401)
  })
})
