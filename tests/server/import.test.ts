import { createHash } from 'node:crypto'
import { copyFile, mkdir, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { ImportError } from '../../src/cli/client'
import { type ImportWish, importDelivery, runImport } from '../../src/cli/import'
import { addBatchFile, createBatch } from '../../src/server/intake/batches'
import { claimFiles, findSizesHere } from '../../src/server/intake/claim-files'
import { batchFiles } from '../../src/server/tables/intake.table'
import { findKnownSizes } from '../../src/shared/sending'
import { writeDelivery } from '../fixtures'
import { createTestWorld, type TestWorld } from '../test-database'
import { serve } from './serve'

let world: TestWorld
let base: string
let close: () => Promise<void>
let root: string

beforeAll(async () => {
  world = await createTestWorld()
  ;({ base, close } = await serve(world))
  root = join(world.folder, 'Spring delivery')
  await writeDelivery(root)
  await writeFile(
    join(root, 'Noise_Speckle_basecolor.png'),
    await sharp({
      create: { width: 256, height: 256, channels: 3, background: '#888', noise: { type: 'gaussian', mean: 128, sigma: 30 } },
    })
      .png()
      .toBuffer(),
  )
})
afterAll(async () => {
  await close()
  await world.close()
})

const wish = (change: Partial<ImportWish> = {}): ImportWish => ({
  path: root,
  library: 'House library',
  server: base,
  email: 'lena@studio.example',
  password: 'lena-password',
  wait: false,
  ...change,
})
const filesOf = (batchId: number) =>
  world.context.db.select().from(batchFiles).where(eq(batchFiles.batchId, batchId)).orderBy(batchFiles.path)

describe('an import from the command line', () => {
  it('sends every file under its path and has them sorted; a second time what is large is here already', async () => {
    const first = await importDelivery(wish({ maker: 'Test Makers' }), () => {})
    const rows = await filesOf(first.batchId)
    expect(rows).toHaveLength(first.files)
    expect(rows.map(r => r.path)).toContain('Spring delivery/Timber/Oak_Test/Oak_Test_normal.png')
    expect(world.sent.at(-1)).toEqual({ queue: 'sort-batch', job: { batchId: first.batchId } })
    expect(first.known).toBe(0)
    const second = await importDelivery(wish(), () => {})
    expect(second.known).toBeGreaterThan(0)
    expect((await filesOf(second.batchId)).map(r => [r.path, r.hash])).toEqual(rows.map(r => [r.path, r.hash]))
    expect(first.address).toBe(`${base}/intake/${first.batchId}`)
  })

  for (const [what, change, sentence] of [
    ['no such path', { path: '/nowhere/at/all' }, /is not there/],
    ['no such library', { library: 'Attic' }, /There is no library Attic for lena. There are: house, client/],
    ['a wrong password', { password: 'x' }, /password/],
    ['nobody', { email: undefined }, /Say who asks/],
    ['no server', { server: 'http://127.0.0.1:9' }, /No Muscovite answers/],
  ] as const)
    it(`of ${what} says so and begins nothing`, async () => {
      const before = await world.context.db.select().from(batchFiles)
      await expect(importDelivery(wish(change), () => {})).rejects.toThrow(ImportError)
      await expect(importDelivery(wish(change), () => {})).rejects.toThrow(sentence)
      expect(await world.context.db.select().from(batchFiles)).toHaveLength(before.length)
    })

  it('prints a summary as JSON, and ends with 1 and a sentence when it could not', async () => {
    const printed: string[] = []
    const told: string[] = []
    const say = { print: (text: string) => printed.push(text), report: (line: string) => told.push(line) }
    expect(await runImport(wish({ title: 'As JSON' }), true, say)).toBe(0)
    expect(JSON.parse(printed[0])).toMatchObject({
      files: expect.any(Number),
      known: expect.any(Number),
      batchId: expect.any(Number),
    })
    expect(await runImport(wish({ library: 'Attic' }), true, say)).toBe(1)
    expect(told.at(-1)).toContain('There is no library Attic')
  })
})

describe('sizes of files about to be sent', () => {
  it('are asked for once, without what is small; those that several have are known without asking', async () => {
    const asked: number[][] = []
    const post = async (path: string, body: unknown) => {
      expect(path).toBe('/api/batches/7/sizes-here')
      const { sizes } = body as { sizes: number[] }
      asked.push(sizes)
      return { sizes: sizes.filter(size => size === 90_000) }
    }
    const files = [100, 100, 80_000, 80_000, 90_000, 70_000].map(size => ({ size }))
    expect(await findKnownSizes(post, 7, files)).toEqual(new Set([80_000, 90_000]))
    expect(asked).toEqual([[90_000, 70_000]])
    expect(await findKnownSizes(post, 7, [{ size: 100 }])).toEqual(new Set())
    expect(asked).toHaveLength(1)
  })
})

describe('files that are claimed by their hash', () => {
  it('are taken only where the asker could read them, and only with their true size', async () => {
    const { context, lead, artist, insider } = world
    const secret = join(world.folder, 'secret.txt')
    await writeFile(secret, 'drawn for one client only')
    const hash = createHash('sha256').update('drawn for one client only').digest('hex')
    const clientBatch = await createBatch(context, lead, { library: 'client', title: 'Secret' })
    await mkdir(join(world.folder, 'sent'), { recursive: true })
    await copyFile(secret, join(world.folder, 'sent', 'a'))
    await addBatchFile(context, lead, clientBatch, 'secret.txt', join(world.folder, 'sent', 'a'))
    const mine = await createBatch(context, artist, { library: 'house', title: 'Curious' })
    const claim = { path: 'stolen.txt', hash, size: 25 }
    expect(await claimFiles(context, artist, mine, { files: [claim] })).toEqual([])
    // Nor does its size tell that it is here.
    expect(await findSizesHere(context, artist, mine, { sizes: [25, 24] })).toEqual([])
    const theirs = await createBatch(context, insider, { library: 'house', title: 'Theirs' })
    expect(await claimFiles(context, insider, theirs, { files: [{ ...claim, size: 24 }] })).toEqual([])
    expect(await claimFiles(context, insider, theirs, { files: [claim, { ...claim, hash: '0'.repeat(64) }] })).toEqual([
      'stolen.txt',
    ])
    expect(await filesOf(mine)).toEqual([])
    expect(await findSizesHere(context, insider, theirs, { sizes: [25, 24] })).toEqual([25])
  })
})
