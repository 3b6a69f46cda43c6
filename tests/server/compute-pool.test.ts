import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises'
import { platform, tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { FileError } from '../../src/core/findings/failure'
import { EMPTY_SCENE, type Scene, shotSchema } from '../../src/core/mock-up/scene/scene'
import { HOUSE_RIGS } from '../../src/core/render/rigs/house-rigs'
import type { ItemSource } from '../../src/files/items/item-source'
import { ComputePool, Stopped } from '../../src/server/platform/compute/compute-pool'
import { makeModelBytes } from '../fixtures'
import { ROOT } from '../test-database'

const SHOT = shotSchema.parse({
  name: 'a',
  place: 0,
  position: [3, 1.6, 4],
  target: [0, 0, 0],
  focalMm: 28,
  aspect: 1.5,
  sky: null,
})

let folder: string
let pool: ComputePool
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-pool-'))
  pool = new ComputePool(1, new URL(`file://${join(ROOT, 'dist/node/compute.worker.js')}`))
})
afterAll(async () => {
  await pool.close()
  await rm(folder, { recursive: true, force: true })
})

async function modelSource(bytes: Uint8Array): Promise<ItemSource> {
  const diskPath = join(folder, `${Math.random()}.glb`)
  await writeFile(diskPath, bytes)
  return {
    kind: 'model',
    name: 'stool',
    widthMm: null,
    constants: {},
    files: [
      { file: { path: 'stool.glb', diskPath, size: bytes.length }, role: 'model', byContentOnly: false, handednessHint: null },
    ],
  }
}

/** Of each thread of this process. */
async function listNiceness(): Promise<number[]> {
  const threads = await readdir('/proc/self/task')
  const stats = await Promise.all(threads.map(id => readFile(`/proc/self/task/${id}/stat`, 'utf8').catch(() => '')))
  // Fields are counted from behind the name, which may have blanks in it.
  return stats.map(stat => Number(stat.slice(stat.lastIndexOf(')') + 2).split(' ')[16]))
}

describe('ComputePool', () => {
  it('computes, tells how far it is, and takes tasks in order', async () => {
    const source = await modelSource(await makeModelBytes())
    const shares: number[] = []
    const order: string[] = []
    const first = pool.run(
      'preview',
      { source, rig: HOUSE_RIGS['model-three-quarter'], quality: 'draft', seed: 1 },
      { onProgress: s => shares.push(s) },
    )
    const second = pool.run('inspect', { source, category: 'furniture.chairs' })
    first.then(() => order.push('preview'))
    second.then(() => order.push('inspect'))
    const { bytes, stats } = await first
    expect((await second).facts.parts).toBe(2)
    expect(order).toEqual(['preview', 'inspect'])
    expect(bytes.length).toBeGreaterThan(500)
    expect(stats).toMatchObject({ quality: 'draft', width: 384 })
    expect(shares.at(-1)).toBe(1)
    expect([...shares].sort((a, b) => a - b)).toEqual(shares)
  })

  it('a picture of a mock-up is the same alone and with the threads that have nothing to do', async () => {
    const scene: Scene = { ...EMPTY_SCENE, stage: { kind: 'terrace', materials: {}, widthM: 4, depthM: 4 }, shots: { a: SHOT } }
    const request = { scene, shot: 'a', quality: 'draft' as const, seed: 5, sources: {}, longerPx: 320 }
    const two = new ComputePool(2, new URL(`file://${join(ROOT, 'dist/node/compute.worker.js')}`))
    const interim: Uint8Array[] = []
    const alone = await pool.run('mockUp', request, { onInterim: bytes => interim.push(bytes) })
    const together = await two.run('mockUp', request)
    await two.close()
    expect(together.linear).toEqual(alone.linear)
    expect(together.stats.samples).toBe(alone.stats.samples)
    // It is to be seen before it is ended, whole.
    const { width, height, format } = await sharp(interim[0]).metadata()
    expect({ width, height, format }).toEqual({ width: alone.stats.width, height: alone.stats.height, format: 'webp' })
  })

  it('has a thread of its own for drafts of mock-ups, which does nothing else and goes before the others', async () => {
    const scene: Scene = { ...EMPTY_SCENE, shots: { a: SHOT } }
    const draft = { scene, shot: 'a', quality: 'draft' as const, seed: 5, sources: {}, longerPx: 64 }
    const item = { source: await modelSource(await makeModelBytes()), rig: HOUSE_RIGS['model-three-quarter'], seed: 1 }
    const one = new ComputePool(1, new URL(`file://${join(ROOT, 'dist/node/compute.worker.js')}`), { niceness: 13, forDrafts: 1 })
    const order: string[] = []
    const note = (name: string, task: Promise<unknown>) => task.then(() => order.push(name))
    const long = note('item', one.run('preview', { ...item, quality: 'draft' }))
    const second = note('second', one.run('preview', { ...item, quality: 'draft' }))
    const stop = new AbortController()
    const final = one.run('mockUp', { ...draft, quality: 'final' }, { stop: stop.signal }).catch((error: unknown) => error)
    await note('draft', one.run('mockUp', draft))
    // Two threads, of which one stands behind; what is not a draft stays in line for that one.
    expect(one.waiting).toBeGreaterThan(0)
    if (platform() === 'linux') expect(await listNiceness()).toContain(13)
    stop.abort()
    expect(await final).toBeInstanceOf(Stopped)
    await Promise.all([long, second])
    await one.close()
    expect(order.indexOf('draft')).toBeLessThan(order.indexOf('second'))
    expect(order.filter(name => name !== 'draft')).toEqual(['item', 'second'])
  })

  it('a bad input fails its own task with a sentence, and the next goes on', async () => {
    const bad = await modelSource((await makeModelBytes()).slice(0, 300))
    await expect(pool.run('inspect', { source: bad, category: 'furniture.chairs' })).rejects.toBeInstanceOf(FileError)
    await expect(pool.run('inspect', { source: { ...bad, files: [] }, category: 'x' })).rejects.toMatchObject({
      code: 'notFound',
    })
    const good = await modelSource(await makeModelBytes())
    expect((await pool.run('inspect', { source: good, category: 'furniture.chairs' })).facts.parts).toBe(2)
  })

  it('a bug in a task is told apart from a bad input', async () => {
    const broken = { source: null, category: 'x' } as unknown as { source: ItemSource; category: string }
    await expect(pool.run('inspect', broken)).rejects.not.toBeInstanceOf(FileError)
  })

  it('a thread that dies fails its task, and another takes its place', async () => {
    const doomed = new ComputePool(
      1,
      new URL(
        `data:text/javascript,${encodeURIComponent("import('node:worker_threads').then(w => w.parentPort.on('message', () => process.exit(3)))")}`,
      ),
    )
    const source = await modelSource(await makeModelBytes())
    for (let i = 0; i < 2; i++) await expect(doomed.run('inspect', { source, category: 'x' })).rejects.toThrow(/ended/)
    await doomed.close()
  })
})
