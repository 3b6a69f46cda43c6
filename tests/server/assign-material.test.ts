import { mkdir, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { eq, sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { parseGlb } from '../../src/core/geometry/read-gltf'
import { createBox } from '../../src/core/geometry/shapes'
import { writeGlb } from '../../src/demo/model-file'
import { assignMaterial, proposeMaterials } from '../../src/server/intake/assign-material'
import { addBatchFile, createBatch, sortBatch } from '../../src/server/intake/batches'
import { chooseFixes } from '../../src/server/intake/choose-fixes'
import { measureItemJob } from '../../src/server/intake/measure-item.job'
import { sortBatchJob } from '../../src/server/intake/sort-batch.job'
import { batchItems } from '../../src/server/tables/intake.table'
import { items } from '../../src/server/tables/library.table'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork, takeIn } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
let batchId: number
let code: string

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  const { file } = await takeIn(world, work, 'house', /Oak_Test/)
  await file()
  ;[{ code }] = await world.context.db.select().from(items)
  const bench = await writeGlb({
    folder: '',
    stem: 'Bench',
    parts: ['oak seat', 'frame'].map((name, i) => ({
      name,
      // Half a metre wide, its texture coordinates in metres.
      mesh: createBox(0.5, 0.05, 0.5 + i),
      finish: { name: `Material ${i}`, color: [0.8, 0.8, 0.8] as [number, number, number], roughness: 0.5 },
    })),
  })
  batchId = await createBatch(world.context, world.lead, { library: 'house', title: 'Bare' })
  await mkdir(join(world.folder, 'bare'), { recursive: true })
  await writeFile(join(world.folder, 'bare', 'b'), bench)
  await addBatchFile(world.context, world.lead, batchId, 'Seating/Park_Bench.glb', join(world.folder, 'bare', 'b'))
  await sortBatch(world.context, world.lead, batchId)
  await sortBatchJob(work, { batchId })
  await measure()
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

const row = async () => (await world.context.db.select().from(batchItems).where(eq(batchItems.batchId, batchId)))[0]
const measure = async () => measureItemJob(work, { batchItemId: (await row()).id })
const model = async () => {
  const { readFile } = await import('node:fs/promises')
  const { files } = await row()
  return parseGlb(new Uint8Array(await readFile(await world.context.storage.localPath(files[0].hash))))
}
const bare = async () => (await row()).findings.filter(f => f.code === 'defaultSurface').map(f => f.subject)

describe('a part without a material', () => {
  it('is offered house materials, the one its name speaks of first', async () => {
    expect(await bare()).toEqual(['oak seat', 'frame'])
    const { id } = await row()
    const choices = await proposeMaterials(world.context, world.lead, batchId, id, 'oak seat')
    expect(choices[0]).toMatchObject({ code, reason: 'name' })
    await expect(proposeMaterials(world.context, world.lead, batchId, id, 'no such part')).rejects.toMatchObject({
      code: 'notFound',
    })
    await expect(
      assignMaterial(world.context, world.artist, batchId, { itemId: id, parts: ['frame'], code }),
    ).rejects.toMatchObject({
      code: 'notAllowed',
    })
    await expect(
      assignMaterial(world.context, world.lead, batchId, { itemId: id, parts: ['frame'], code: 'TIM-9999' }),
    ).rejects.toMatchObject({ code: 'notFound' })
  })

  it('wears the material at its true size, and no other part does', async () => {
    const { id } = await row()
    const delivered = await model()
    await assignMaterial(world.context, world.lead, batchId, { itemId: id, parts: ['oak seat'], code })
    await measure()
    expect((await row()).message).toBeNull()
    expect(await bare()).toEqual(['frame'])
    const assigned = await model()
    const seat = assigned.parts.find(p => p.name === 'oak seat')!
    const material = assigned.materials[seat.material]
    expect(material.name).toBe(`Oak test (${code})`)
    expect(Object.keys(material.textures).sort()).toContain('baseColor')
    // 600 mm are one repeat: half a metre is 0.83 of one, whatever the coordinates were.
    const before = delivered.parts.find(p => p.name === 'oak seat')!
    const span = (uvs: Float32Array, c: 0 | 1) => {
      const values = [...uvs].filter((_, i) => i % 2 === c)
      return Math.max(...values) - Math.min(...values)
    }
    const ratio = span(seat.mesh.uvs, 0) / span(before.mesh.uvs, 0)
    expect(ratio).toBeCloseTo(1 / 0.6, 1)
    expect(seat.mesh.positions.length).toBeGreaterThan(0)
    expect(assigned.materials[assigned.parts.find(p => p.name === 'frame')!.material].name).toBe('Material 1')
  })

  it('is put on with the others in one go, each once', async () => {
    const { id } = await row()
    await assignMaterial(world.context, world.lead, batchId, { itemId: id, parts: ['oak seat', 'frame'], code })
    await measure()
    expect(await bare()).toEqual([])
    expect((await row()).fixes.map(f => f.subject).sort()).toEqual(['frame', 'oak seat'])
    await chooseFixes(world.context, world.lead, batchId, {
      ids: [id],
      codes: ['defaultSurface'],
      subject: 'frame',
      takeBack: true,
    })
    await measure()
    expect(await bare()).toEqual(['frame'])
  })

  it('a part whose name says nothing is offered what has its colour first', async () => {
    const { id } = await row()
    const [{ text: mean }] = (
      await world.context.db.execute<{ text: string }>(sql`select text from facts where name = 'meanColor'`)
    ).rows
    const reasons = async (color: string) => {
      await world.context.db
        .update(batchItems)
        .set({ findings: (await row()).findings.map(f => ({ ...f, evidence: { ...f.evidence, color } })) })
        .where(eq(batchItems.id, id))
      return (await proposeMaterials(world.context, world.lead, batchId, id, 'frame')).map(c => c.reason)
    }
    expect(await reasons(mean)).toEqual(['look'])
    expect(await reasons('#0000ff')).toEqual(['any'])
  })

  it('is bare again when that is taken back', async () => {
    const { id } = await row()
    await chooseFixes(world.context, world.lead, batchId, {
      ids: [id],
      codes: ['defaultSurface'],
      subject: 'oak seat',
      takeBack: true,
    })
    await measure()
    expect(await bare()).toEqual(['oak seat', 'frame'])
    expect((await row()).fixes).toEqual([])
  })
})
