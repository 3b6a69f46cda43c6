import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { createBatch } from '../../src/server/intake/batches'
import { publish } from '../../src/server/platform/notify'
import { batchFiles } from '../../src/server/tables/intake.table'
import { ENDPOINTS } from '../../src/shared/contracts/endpoints'
import { problemSchema } from '../../src/shared/contracts/failure.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { serve } from './serve'
import { createWork, takeIn } from './take-in'

let world: TestWorld
let base: string
let close: () => Promise<void>

beforeAll(async () => {
  world = await createTestWorld()
  ;({ base, close } = await serve(world, { MUSCOVITE_MAX_UPLOAD_GB: '0.001' }))
})
afterAll(async () => {
  await close()
  await world.close()
})

const post = (path: string, body: unknown, headers: Record<string, string> = {}) =>
  fetch(base + path, { method: 'POST', headers: { 'Content-Type': 'application/json', ...headers }, body: JSON.stringify(body) })

async function signIn(name: string): Promise<{ Cookie: string }> {
  const response = await post('/api/session', { email: `${name}@studio.example`, password: `${name}-password` })
  expect(response.status).toBe(200)
  return { Cookie: response.headers.getSetCookie()[0].split(';')[0] }
}

const problemOf = async (response: Response) => ({ status: response.status, ...problemSchema.parse(await response.json()) })

describe('signing in', () => {
  it('sets a cookie that scripts cannot read and other sites cannot send', async () => {
    const response = await post('/api/session', { email: 'LENA@studio.example', password: 'lena-password' })
    const [cookie] = response.headers.getSetCookie()
    expect(cookie).toMatch(/HttpOnly/i)
    expect(cookie).toMatch(/SameSite=Lax/i)
    expect(await response.json()).toMatchObject({
      person: { name: 'lena', role: 'lead' },
      libraries: [{ key: 'house' }, { key: 'client' }],
    })
    const { rows } = await world.context.db.execute<{ sess: { personId: number } }>(sql`select sess from sessions`)
    expect(rows.some(r => r.sess.personId === world.lead.id)).toBe(true)
  })

  it('says the same of a wrong password and of an unknown person', async () => {
    const wrong = await problemOf(await post('/api/session', { email: 'lena@studio.example', password: 'x' }))
    const unknown = await problemOf(await post('/api/session', { email: 'nobody@studio.example', password: 'x' }))
    expect(wrong).toMatchObject({ status: 401, code: 'notSignedIn' })
    expect(unknown).toEqual(wrong)
  })

  it('keeps passwords as argon2id only', async () => {
    const { rows } = await world.context.db.execute<{ password_hash: string }>(sql`select password_hash from people`)
    expect(rows.every(r => r.password_hash.startsWith('$argon2id$'))).toBe(true)
  })

  it('ends with signing out', async () => {
    const cookie = await signIn('arne')
    expect((await fetch(`${base}/api/items`, { headers: cookie })).status).toBe(200)
    await fetch(`${base}/api/session`, { method: 'DELETE', headers: cookie })
    expect((await fetch(`${base}/api/items`, { headers: cookie })).status).toBe(401)
  })
})

describe('every request', () => {
  it('of a person who is not signed in is refused, but for signing in, health and the description', async () => {
    for (const { method, path, ...rest } of Object.values(ENDPOINTS)) {
      if ('open' in rest) continue
      const response = await fetch(base + path.replace(/\{\w+\}/g, '1'), { method: method.toUpperCase() })
      expect([path, response.status]).toEqual([path, 401])
    }
    for (const path of [
      '/api/live',
      '/api/uploads',
      '/api/previews/1',
      '/api/versions/1/files/0',
      '/api/versions/1/files/0/screen?px=1024',
      '/api/projects/1/exports/1/zip',
    ])
      expect((await fetch(base + path)).status).toBe(401)
  })

  it('that makes no sense gets a sentence and the field, never a stack trace', async () => {
    const cookie = await signIn('lena')
    const bad = await problemOf(await post('/api/batches', { library: 'house', title: '' }, cookie))
    expect(bad).toMatchObject({ status: 400, code: 'badRequest', fields: { title: 'Give the batch a title.' } })
    const long = await problemOf(await post('/api/batches', { library: 'house', title: 'x'.repeat(1000) }, cookie))
    expect(long).toMatchObject({ status: 400, message: expect.stringMatching(/^Title: at most \d+ characters\.$/) })
    const broken = await fetch(`${base}/api/batches`, {
      method: 'POST',
      headers: { ...cookie, 'Content-Type': 'application/json' },
      body: '{',
    })
    expect(await problemOf(broken)).toMatchObject({ status: 400 })
    expect(await problemOf(await fetch(`${base}/api/items?limit=many`, { headers: cookie }))).toMatchObject({ status: 400 })
    expect(await problemOf(await fetch(`${base}/api/items/NO-0001`, { headers: cookie }))).toMatchObject({ status: 404 })
    expect(await problemOf(await fetch(`${base}/api/nowhere`, { headers: cookie }))).toMatchObject({ status: 404 })
    expect(await problemOf(await post('/api/items/states', { ids: [1], state: 'approved' }, await signIn('arne')))).toMatchObject(
      { status: 403 },
    )
    const text = JSON.stringify(await (await fetch(`${base}/api/versions/abc/files/0`, { headers: cookie })).json())
    expect(text).not.toMatch(/at .*\.(ts|js):/)
  })

  it('may be as large as a desk with everything on it; what is larger is refused with a sentence, and nothing of it done', async () => {
    const cookie = await signIn('arne')
    const items = Array.from({ length: 50_000 }, (_, i) => ({ code: `TIM-${10_000 + i}`, version: 1, isWhole: true }))
    const told = await post('/api/personal/desks', { name: 'Studio 4', isAll: true, items }, cookie)
    expect(told.status).toBe(200)
    expect(((await told.json()) as { unknown: string[] }).unknown).toHaveLength(50_000)
    const larger = await post('/api/personal/desks', { name: 'Studio 5', isAll: true, items: [...items, ...items] }, cookie)
    expect(await problemOf(larger)).toMatchObject({
      status: 413,
      code: 'tooLarge',
      message: expect.stringMatching(/Do it in parts/),
    })
    const { desks } = (await (await fetch(`${base}/api/personal`, { headers: cookie })).json()) as { desks: { name: string }[] }
    expect(desks.map(d => d.name)).toEqual(['Studio 4'])
  })

  it('is described, and answered as described', async () => {
    const description = (await (await fetch(`${base}/api/openapi.json`)).json()) as {
      paths: Record<string, Record<string, { operationId: string }>>
    }
    const described = Object.values(description.paths).flatMap(p => Object.values(p).map(o => o.operationId))
    expect(described.sort()).toEqual(Object.keys(ENDPOINTS).sort())
    const cookie = await signIn('ilse')
    for (const endpoint of [
      ENDPOINTS.getWall,
      ENDPOINTS.listCategories,
      ENDPOINTS.listBatches,
      ENDPOINTS.listProjects,
      ENDPOINTS.getUpkeep,
      ENDPOINTS.listMembers,
    ])
      endpoint.response.parse(await (await fetch(base + endpoint.path, { headers: cookie })).json())
  })

  it('for anything else shows the one page', async () => {
    expect(await (await fetch(`${base}/items/TIM-0001`)).text()).toContain('<title>Muscovite</title>')
    expect(await (await fetch(`${base}/api/health`)).json()).toMatchObject({ status: 'ok' })
  })
})

const encode = (text: string) => Buffer.from(text).toString('base64')

describe('uploads', () => {
  const start = (cookie: { Cookie: string }, batchId: number, path: string, length: number) =>
    fetch(`${base}/api/uploads`, {
      method: 'POST',
      headers: {
        ...cookie,
        'Tus-Resumable': '1.0.0',
        'Upload-Length': String(length),
        'Upload-Metadata': `batchId ${encode(String(batchId))},path ${encode(path)}`,
      },
    })
  const send = (cookie: { Cookie: string }, location: string, offset: number, bytes: string) =>
    fetch(new URL(location, base), {
      method: 'PATCH',
      headers: {
        ...cookie,
        'Tus-Resumable': '1.0.0',
        'Upload-Offset': String(offset),
        'Content-Type': 'application/offset+octet-stream',
      },
      body: bytes,
    })

  it('go on where they stopped, and end in their batch', async () => {
    const cookie = await signIn('lena')
    const batchId = await createBatch(world.context, world.lead, { library: 'house', title: 'Up' })
    const created = await start(cookie, batchId, 'folder/note.txt', 11)
    expect(created.status).toBe(201)
    const location = created.headers.get('location')!
    expect((await send(cookie, location, 0, 'hello ')).status).toBe(204)
    const head = await fetch(new URL(location, base), { method: 'HEAD', headers: { ...cookie, 'Tus-Resumable': '1.0.0' } })
    expect(head.headers.get('upload-offset')).toBe('6')
    expect((await send(cookie, location, 6, 'world')).status).toBe(204)
    const rows = await world.context.db.select().from(batchFiles)
    const row = rows.find(r => r.batchId === batchId)!
    expect(row).toMatchObject({ path: 'folder/note.txt', size: 11 })
    expect(row.hash).toBe('b94d27b9934d3e08a52e52d7da7dabfac484efe37a5380ee9088f7ace2efcde9')
  })

  describe('whose server ended between the last byte and the end', () => {
    /** What then lies on disk: all bytes, and nobody told the batch. */
    const breakOff = async (batchId: number, path: string) => {
      const cookie = await signIn('lena')
      const location = (await start(cookie, batchId, path, 5)).headers.get('location')!
      await writeFile(join(world.context.storage.sharedFolder, 'uploads', location.split('/').at(-1)!), 'whole')
      return { cookie, location: new URL(location, base) }
    }
    const arrived = async (batchId: number) =>
      (await world.context.db.select().from(batchFiles)).filter(f => f.batchId === batchId).map(f => [f.path, f.size])
    const sort = (cookie: { Cookie: string }, batchId: number, body: object) => post(`/api/batches/${batchId}/sort`, body, cookie)

    it('are in their batch once their sender is told that they are whole', async () => {
      const batchId = await createBatch(world.context, world.lead, { library: 'house', title: 'Broken off' })
      const { cookie, location } = await breakOff(batchId, 'a/note.txt')
      expect(await arrived(batchId)).toEqual([])
      // Twice at once, as an impatient sender asks.
      const ask = () => fetch(location, { method: 'HEAD', headers: { ...cookie, 'Tus-Resumable': '1.0.0' } })
      const heads = await Promise.all([ask(), ask()])
      expect(heads.map(head => [head.status, head.headers.get('upload-offset')])).toContainEqual([200, '5'])
      expect(heads.every(head => head.status === 200 || head.status === 404)).toBe(true)
      expect(await arrived(batchId)).toEqual([['a/note.txt', 5]])
      // Asked once more there is nothing left to go on with.
      expect((await ask()).status).toBe(404)
    })

    it('are in their batch when it is sorted, whoever asks for that', async () => {
      const batchId = await createBatch(world.context, world.lead, { library: 'house', title: 'Broken off' })
      await Promise.all(['a.txt', 'b.txt'].map(path => breakOff(batchId, path)))
      expect((await sort(await signIn('ilse'), batchId, { expected: 2 })).status).toBe(200)
      expect((await arrived(batchId)).sort()).toEqual([
        ['a.txt', 5],
        ['b.txt', 5],
      ])
    })

    it('are told as the server’s own trouble where it cannot keep them, and kept for another try', async () => {
      const batchId = await createBatch(world.context, world.lead, { library: 'house', title: 'Full disk' })
      const cookie = await signIn('lena')
      const location = (await start(cookie, batchId, 'big.txt', 5)).headers.get('location')!
      const { place } = world.context.storage
      world.context.storage.place = async () => {
        throw Object.assign(new Error('no space left on device'), { code: 'ENOSPC' })
      }
      const refused = await send(cookie, location, 0, 'whole')
      world.context.storage.place = place
      expect([refused.status, await refused.json()]).toMatchObject([500, { message: 'The server could not keep this file.' }])
      const head = await fetch(new URL(location, base), { method: 'HEAD', headers: { ...cookie, 'Tus-Resumable': '1.0.0' } })
      expect(head.status).toBe(200)
      expect(await arrived(batchId)).toEqual([['big.txt', 5]])
    })

    it('and are waited for: with fewer files than their sender knows of, nothing is sorted', async () => {
      const batchId = await createBatch(world.context, world.lead, { library: 'house', title: 'Broken off' })
      const { cookie } = await breakOff(batchId, 'a.txt')
      const refused = await sort(cookie, batchId, { expected: 3 })
      expect([refused.status, await refused.json()]).toMatchObject([
        409,
        { message: expect.stringContaining('Only 1 of 3 files') },
      ])
      expect((await sort(cookie, batchId, {})).status).toBe(200)
    })
  })

  it('are refused for a batch one may not see, and past the limit', async () => {
    const outsider = await signIn('arne')
    const batchId = await createBatch(world.context, world.lead, { library: 'client', title: 'Secret' })
    expect((await start(outsider, batchId, 'x.txt', 5)).status).toBe(404)
    expect((await start(await signIn('lena'), batchId, 'x.txt', 50_000_000)).status).toBe(413)
  })
})

describe('the live line', () => {
  it('tells each listener of their own libraries only', async () => {
    const listen = async (name: string) => {
      const controller = new AbortController()
      const response = await fetch(`${base}/api/live`, { headers: await signIn(name), signal: controller.signal })
      const heard: string[] = []
      const reader = response.body!.getReader()
      const reading = (async () => {
        for (;;) {
          const { done, value } = await reader.read()
          if (done) return
          heard.push(new TextDecoder().decode(value))
        }
      })().catch(() => {})
      return {
        heard,
        close: () => {
          controller.abort()
          return reading
        },
      }
    }
    const inside = await listen('ilse')
    const outside = await listen('arne')
    const { db } = world.context
    await publish(db, { topic: 'item', libraryId: 2, itemId: 7 })
    // Of a desk only who sits at it hears.
    await publish(db, { topic: 'desk', personId: world.insider.id })
    await publish(db, { topic: 'item', libraryId: 1, itemId: 8 })
    await expect
      .poll(() => inside.heard.join('') + outside.heard.join(''), { timeout: 5000 })
      .toMatch(/"itemId":8[\s\S]*"itemId":8/)
    expect(inside.heard.join('')).toContain('"itemId":7')
    expect(outside.heard.join('')).not.toContain('"itemId":7')
    expect(inside.heard.join('')).toContain('"topic":"desk"')
    expect(outside.heard.join('')).not.toContain('desk')
    await inside.close()
    await outside.close()
  })
})

describe('files', () => {
  it('come with their type, are kept by the browser, and are called by their name when downloaded', async () => {
    const work = createWork(world)
    const { file } = await takeIn(world, work, 'house', /Seating/)
    await file()
    await work.threads.close()
    const cookie = await signIn('arne')
    const { rows } = await world.context.db.execute<{ id: number }>(sql`select id from versions order by id desc limit 1`)
    const response = await fetch(`${base}/api/versions/${rows[0].id}/files/0?download`, { headers: cookie })
    expect(response.headers.get('content-type')).toBe('model/gltf-binary')
    expect(response.headers.get('cache-control')).toContain('immutable')
    expect(response.headers.get('content-disposition')).toContain('Cube_Stool.glb')
    expect((await response.arrayBuffer()).byteLength).toBeGreaterThan(1000)
  })
})
