import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { Document } from '@gltf-transform/core'
import { eq } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { readGltfBinary, writeGltfBinary } from '../../src/core/targets/gltf'
import { writeItemGlb } from '../../src/files/exports/write-export'
import { auditSceneJob, pictureAuditJob } from '../../src/server/audits/audit-scene.job'
import { beginAudit, getAudit, listAudits, orderCorrection, removeAudit } from '../../src/server/audits/audits'
import { getBeside, getBesidePictures, listAuditedScenes } from '../../src/server/audits/beside'
import { correctSceneJob } from '../../src/server/audits/correct-scene.job'
import { getSceneSchedule } from '../../src/server/audits/scene-schedule'
import { takeOutOfScene } from '../../src/server/audits/take-out-of-scene'
import { addBatchFile, createBatch, listBatches, sortBatch } from '../../src/server/intake/batches'
import { sortBatchJob } from '../../src/server/intake/sort-batch.job'
import { findVersionSource } from '../../src/server/items/version-source'
import { editItem, setItemStates } from '../../src/server/library/edit-items'
import { createProject, pinItems } from '../../src/server/projects/projects'
import { batches, batchItems } from '../../src/server/tables/intake.table'
import { items, versions } from '../../src/server/tables/library.table'
import { correctSceneSchema } from '../../src/shared/contracts/audits.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { refused } from './refused'
import { createWork, takeIn } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
let material: typeof items.$inferSelect
let model: typeof items.$inferSelect
let projectId: number
let serial = 0

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  await (await takeIn(world, work, 'house')).file()
  const all = await world.context.db.select().from(items).orderBy(items.code)
  await setItemStates(
    work,
    world.lead,
    all.map(i => i.id),
    'approved',
  )
  material = all.find(i => i.kind === 'material')!
  model = all.find(i => i.kind === 'model')!
  projectId = await createProject(work, world.artist, { code: 'FERRY', title: 'Ferry hall', library: 'house' })
  await pinItems(work, world.artist, projectId, [material.id, model.id])
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

async function exported({ id, code }: typeof items.$inferSelect, version = 1): Promise<Uint8Array> {
  const all = await world.context.db.select().from(versions).where(eq(versions.itemId, id))
  const { inputKey } = all.find(v => v.number === version)!
  return writeItemGlb((await findVersionSource(world.context, inputKey))!.source, { code, version })
}

/** A delivered material that somebody made rougher. */
async function rougher(): Promise<Uint8Array> {
  const document = await readGltfBinary(await exported(material))
  const [own] = document.getRoot().listMaterials()
  own.setRoughnessFactor(own.getRoughnessFactor() * 0.6)
  return writeGltfBinary(document)
}

async function send(bytes: Uint8Array, name = 'scene.glb', actor = world.artist, project: number | null = projectId) {
  const batchId = await createBatch(work, actor, { library: 'house', title: name, purpose: 'scene' })
  const disk = join(world.folder, `scene-${++serial}`)
  await writeFile(disk, bytes)
  await addBatchFile(work, actor, batchId, name, disk)
  return { batchId, auditId: await beginAudit(work, actor, { batchId, projectId: project }) }
}

async function audit(bytes: Uint8Array, name?: string, project: number | null = projectId) {
  const { auditId } = await send(bytes, name, world.artist, project)
  await auditSceneJob(work, { auditId })
  return getAudit(work, world.artist, auditId)
}

function beginScene() {
  const document = new Document()
  return { document, buffer: document.createBuffer(), scene: document.createScene('old') }
}

/** Half a box, 1.2 by 0.5 by 0.4 m. */
function wedge(document: Document, buffer: ReturnType<Document['createBuffer']>) {
  const list = (type: 'VEC3' | 'SCALAR', array: Float32Array | Uint32Array) =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer)
  const corners = [0, 0, 0, 1.2, 0, 0, 1.2, 0, 0.4, 0, 0, 0.4, 0, 0.5, 0, 1.2, 0.5, 0]
  return document
    .createPrimitive()
    .setAttribute('POSITION', list('VEC3', new Float32Array(corners)))
    .setIndices(list('SCALAR', new Uint32Array([0, 1, 2, 0, 2, 3, 0, 5, 1, 0, 4, 5, 3, 2, 5, 3, 5, 4, 0, 3, 4, 1, 5, 2])))
    .setMaterial(document.createMaterial('somebody’s ash').setBaseColorFactor([0.4, 0.3, 0.2, 1]))
}

describe('a scene', () => {
  it('as it was handed over is as pinned, and stands in no list of deliveries', async () => {
    const said = await audit(await exported(material))
    expect(said).toMatchObject({ state: 'ready', project: 'FERRY', shares: { byArea: { pinned: 1 } } })
    expect(said.materials).toMatchObject([
      { class: 'pinned', code: material.code, version: 1, changes: [], isCorrectable: false },
    ])
    expect((await audit(await exported(model))).models).toMatchObject([{ class: 'pinned', code: model.code, changes: [] }])
    expect((await listBatches(world.context.db, world.artist)).map(b => b.title)).not.toContain('scene.glb')
    const listed = await listAudits(world.context.db, world.artist, projectId)
    expect(listed.map(a => a.id)).toEqual([expect.any(Number), expect.any(Number)])
    for (const { id, shares, things } of listed)
      expect(await getAudit(world.context, world.artist, id)).toMatchObject({ shares, things })
    const [ofModel, ofMaterial] = await Promise.all(listed.map(a => getSceneSchedule(world.context, world.artist, a.id, 10)))
    // A patch of one repeat, 600 by 600 mm, and a tenth more to buy.
    expect(ofMaterial.rows[0]).toMatchObject({ code: material.code, version: 1, unit: 'm2', maker: 'Test Makers' })
    expect(ofMaterial.rows[0].net).toBeCloseTo(0.36, 5)
    expect(ofMaterial.rows[0].gross).toBeCloseTo(0.396, 5)
    expect(ofModel.rows.find(r => r.code === model.code)).toMatchObject({ unit: 'pieces', net: 1, kind: 'model' })
    expect(ofModel.rows.filter(r => r.code === null).every(r => r.kind === 'own' && r.unit === 'm2')).toBe(true)
  })

  it('with something altered is rendered beside the library, corrected in one step, and clean when it is audited again', async () => {
    const said = await audit(await rougher())
    expect(said.materials[0]).toMatchObject({ class: 'altered', code: material.code, isCorrectable: true, pictures: null })
    expect(said.materials[0].changes.map(c => c.what)).toContain('specularRoughness')
    await pictureAuditJob(work, { auditId: said.id })
    const pictured = (await getAudit(work, world.artist, said.id)).materials[0]
    expect(pictured.pictures).toHaveLength(2)
    expect(pictured.flipMean).toBeGreaterThan(0.001)
    await orderCorrection(work, world.artist, said.id, correctSceneSchema.parse({ materials: [said.materials[0].index] }))
    await correctSceneJob(work, { auditId: said.id })
    const { correction } = await getAudit(work, world.artist, said.id)
    expect(correction).toMatchObject({ state: 'ready', done: 1, refused: [], url: `/api/audits/${said.id}/corrected` })
    await auditSceneJob(work, { auditId: correction!.auditId! })
    const again = await getAudit(work, world.artist, correction!.auditId!)
    expect(again.materials).toMatchObject([{ class: 'pinned', changes: [] }])
  })

  it('of before a new version is older where the project took it, and as pinned where it did not', async () => {
    const before = await exported(material)
    await editItem(work, world.lead, material.id, { constants: { baseColor: [0.2, 0.2, 0.3] }, widthMm: 640 } as never)
    await setItemStates(work, world.lead, [material.id], 'approved')
    expect((await audit(before)).materials).toMatchObject([{ class: 'pinned', version: 1 }])
    const other = await createProject(work, world.lead, { code: 'QUAY', title: 'Quay', library: 'house' })
    await pinItems(work, world.lead, other, [material.id])
    const { materials } = await audit(before, 'scene.glb', other)
    expect(materials[0].code).toBe(material.code)
    expect((await audit(before, 'scene.glb', null)).materials[0].code).toBe(material.code)
  })

  it('of nothing that is known is foreign, with what is most like it, and goes to Intake with its maps', async () => {
    const document = await readGltfBinary(await exported(material))
    const [own] = document.getRoot().listMaterials()
    own.setName('Somebody’s stone').setExtras({}).setBaseColorFactor([0.05, 0.3, 0.02, 1])
    own.setBaseColorTexture(null).setNormalTexture(null).setMetallicRoughnessTexture(null).setRoughnessFactor(0.37)
    document.getRoot().getAsset().extras = {}
    const said = await audit(await writeGltfBinary(document), 'old project.glb')
    expect(said.materials).toMatchObject([{ class: 'foreign', code: null }])
    const context = { ...work, compute: work.threads }
    const batchId = await takeOutOfScene(context, world.artist, said.id, { materials: [said.materials[0].index], models: [] })
    await sortBatchJob(work, { batchId })
    const rows = await world.context.db.select().from(batchItems).where(eq(batchItems.batchId, batchId))
    expect(rows).toMatchObject([{ kind: 'material', name: expect.stringContaining('Somebody') }])
    expect(await refused(takeOutOfScene(context, world.artist, said.id, { materials: [99], models: [] }))).toBe('badRequest')
  })

  it('beside another says what makes one item look otherwise in the two, and shows it', async () => {
    const context = { ...work, compute: work.threads }
    const first = await audit(await exported(material), 'first.glb')
    const second = await audit(await rougher(), 'second.glb')
    const third = await audit(await exported(model), 'third.glb')
    const beside = await getBeside(context, world.artist, second.id, first.id)
    expect(beside).toMatchObject({ own: { title: 'second.glb', project: 'FERRY' }, onlyOwn: [], onlyOther: [] })
    expect(beside.materials).toMatchObject([
      { code: material.code, own: { class: 'altered' }, other: { class: 'pinned' }, changes: [{ what: 'specularRoughness' }] },
    ])
    const [{ from, to }] = beside.materials[0].changes
    expect(Number(to) / Number(from)).toBeCloseTo(0.6, 1)
    const pictures = await getBesidePictures(context, world.artist, second.id, first.id, material.code)
    expect(pictures.flipMean).toBeGreaterThan(0.001)
    expect(pictures.own).toMatch(/^data:image\/webp;base64,/)
    const same = await getBeside(context, world.artist, first.id, first.id)
    expect(same.materials).toMatchObject([{ code: material.code, changes: [] }])
    const apart = await getBeside(context, world.artist, first.id, third.id)
    expect(apart).toMatchObject({ materials: [], models: [], onlyOwn: [material.code], onlyOther: [model.code] })
    const models = await getBeside(context, world.artist, third.id, third.id)
    expect(models).toMatchObject({
      models: [{ code: model.code, own: { class: 'pinned', version: 1 }, other: { class: 'pinned' }, changes: [] }],
      ...{ lights: [], views: [], onlyOwn: [], onlyOther: [] },
    })
    const listed = (await listAuditedScenes(world.context.db, world.artist)).map(s => s.title)
    expect(listed.slice(0, 3)).toEqual(['third.glb', 'second.glb', 'first.glb'])
    expect(await refused(getBeside(context, world.artist, first.id, 9999))).toBe('notFound')
    expect(await refused(getBesidePictures(context, world.artist, first.id, second.id, 'NOT-0001'))).toBe('notFound')
  })

  it('has foreign models that go to Intake with their parts, each shape once', async () => {
    const { buffer, document, scene } = beginScene()
    const mesh = document.createMesh('bench').addPrimitive(wedge(document, buffer))
    for (const x of [1, 4, 7]) scene.addChild(document.createNode(`Bench ${x}`).setMesh(mesh).setTranslation([x, 0, 3]))
    const said = await audit(await writeGltfBinary(document), 'old project.glb')
    expect(said.models.map(m => m.class)).toEqual(['foreign', 'foreign', 'foreign'])
    const context = { ...work, compute: work.threads }
    const models = said.models.map(m => m.node)
    const batchId = await takeOutOfScene(context, world.artist, said.id, { materials: [], models })
    await sortBatchJob(work, { batchId })
    const rows = await world.context.db.select().from(batchItems).where(eq(batchItems.batchId, batchId))
    expect(rows).toMatchObject([{ kind: 'model', name: expect.stringContaining('Bench') }])
  })

  it('that does not read says why, and so does one that is none', async () => {
    const whole = await exported(model)
    const cut = await audit(whole.slice(0, whole.length - 4000))
    expect(cut.state === 'failed' || cut.failures.length > 0 || cut.materials.some(m => m.class === 'missing')).toBe(true)
    const none = await audit(new TextEncoder().encode('shopping list'), 'list.txt')
    expect(none).toMatchObject({ state: 'failed', message: expect.stringContaining('There is no scene') })
  })

  it('may be looked at by who sees its library, ordered about only when it is read, and forgotten by who brought it', async () => {
    const { batchId, auditId } = await send(await exported(material))
    const { db } = world.context
    expect(await refused(getAudit(work, world.guest, auditId))).toBe('notFound')
    expect(await refused(beginAudit(work, world.guest, { batchId, projectId }))).toBe('notAllowed')
    expect(await refused(orderCorrection(work, world.artist, auditId, { materials: [0], models: [], lights: [] }))).toBe(
      'conflict',
    )
    expect(await refused(sortBatch(work, world.artist, batchId))).toBe('conflict')
    const ownProject = await createProject(work, world.insider, { code: 'CLIENT', title: 'Of a client', library: 'client' })
    const own = await send(await exported(material), 'client.glb', world.insider, ownProject)
    expect(await refused(getAudit(work, world.artist, own.auditId))).toBe('notFound')
    expect(await refused(listAudits(db, world.artist, ownProject))).toBe('notFound')
    expect(await refused(beginAudit(work, world.artist, { batchId: own.batchId, projectId: ownProject }))).toBe('notFound')
    expect(await refused(removeAudit(db, world.insider, auditId))).toBe('notAllowed')
    await removeAudit(db, world.artist, auditId)
    expect(await refused(getAudit(work, world.artist, auditId))).toBe('notFound')
    expect(await db.$count(batches, eq(batches.id, batchId))).toBe(0)
    expect(await db.$count(batches, eq(batches.id, own.batchId))).toBe(1)
  })
})
