import { eq, sql } from 'drizzle-orm'
import { unzipSync } from 'fflate'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { sourceOfBytes } from '../../src/core/codecs/byte-source'
import { listExrLayers } from '../../src/core/codecs/exr'
import { parseGlb } from '../../src/core/geometry/read-gltf'
import type { Change } from '../../src/core/mock-up/scene/change'
import { place } from '../../src/core/mock-up/scene/pieces'
import type { ItemRef, Shot } from '../../src/core/mock-up/scene/scene'
import { readGltfBinary } from '../../src/core/targets/gltf'
import { setItemStates } from '../../src/server/library/edit-items'
import {
  changeMockUp,
  createMockUp,
  editMockUp,
  getMockUp,
  keepVersion,
  listMockUpChanges,
  listMockUps,
  listVersions,
  pinMockUp,
  takeVersion,
} from '../../src/server/mock-ups/mock-ups'
import {
  cancelPicture,
  getInterimFile,
  getPictureFile,
  listPictures,
  orderPictures,
  saveMockUp,
  savePasses,
  savePicture,
} from '../../src/server/mock-ups/order-pictures'
import { proposeShift } from '../../src/server/mock-ups/propose-shift'
import { renderMockUpJob } from '../../src/server/mock-ups/render-mock-up.job'
import { findItems } from '../../src/server/mock-ups/resolve-items'
import { createProject, getProject } from '../../src/server/projects/projects'
import { batches, batchFiles } from '../../src/server/tables/intake.table'
import { items, versionFiles, versions } from '../../src/server/tables/library.table'
import { mockUpPictures } from '../../src/server/tables/mock-up.table'
import { createTestWorld, type TestWorld } from '../test-database'
import { refused } from './refused'
import { createWork, takeIn } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
/** Of the house: a model, a material, a sky; and a model of the client's. */
const refs = {} as Record<'model' | 'material' | 'environment' | 'secret', ItemRef>

const refOf = async (kind: 'model' | 'material' | 'environment', libraryId: number): Promise<ItemRef> => {
  const all = await world.context.db.select().from(items).where(eq(items.libraryId, libraryId))
  const item = all.find(i => i.kind === kind)!
  const [found] = await findItems(world.context, world.lead, [item.id])
  return found.ref
}

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  for (const library of ['house', 'client']) await (await takeIn(world, work, library)).file()
  // The client's things are their own, though the delivery was the same.
  await world.context.db.execute(sql`
    update versions v set input_key = encode(sha256((v.input_key || 'client')::bytea), 'hex')
    from items i where i.id = v.item_id and i.library_id = 2`)
  for (const kind of ['model', 'material', 'environment'] as const) refs[kind] = await refOf(kind, 1)
  refs.secret = await refOf('model', 2)
  const house = await world.context.db.select({ id: items.id }).from(items).where(eq(items.libraryId, 1))
  await setItemStates(
    world.context,
    world.lead,
    house.map(i => i.id),
    'approved',
  )
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

const begin = (title: string, projectId: number | null = null, actor = world.artist) =>
  createMockUp(world.context, actor, { title, projectId })
const standing = (id: string, ref: ItemRef = refs.model, x = 0): Change => place(id, ref, { name: 'Thing', at: [x, 0, 0] })
const shot: Shot = {
  name: 'Front',
  place: 1,
  position: [0, 1, 3],
  target: [0, 0.3, 0],
  focalMm: 35,
  aspect: 1.5,
  isUpright: true,
  ev: 0,
  sky: 'sky',
  variants: {},
  focus: null,
}
const change = (id: number, of: Change, base = 0, page = 'page', actor = world.artist) =>
  changeMockUp(world.context, actor, id, { page, base, change: of })

describe('a mock-up', () => {
  it('keeps what is done to it, change by change, and says what is in it', async () => {
    const id = await begin('Mine')
    expect(await change(id, standing('a'))).toMatchObject({
      revision: 1,
      changes: [{ revision: 1, page: 'page', person: 'arne' }],
    })
    await change(
      id,
      {
        skies: {
          sky: { item: refs.environment, clear: null, sun: 'asItIs', name: 'Sky', turnDeg: 0, ev: 0, background: 'shown' },
        },
      },
      1,
    )
    const read = await getMockUp(world.context, world.artist, id)
    expect(Object.keys(read.scene.pieces)).toEqual(['a'])
    expect(read.items.map(i => [i.kind, i.state])).toEqual([
      ['model', 'approved'],
      ['environment', 'approved'],
    ])
    expect(read.items[0].files[0].url).toMatch(/^\/api\/versions\/\d+\/files\/\d+$/)
    expect((await listMockUps(world.context, world.artist)).find(m => m.id === id)).toMatchObject({
      title: 'Mine',
      pieces: 1,
      isOwn: true,
    })
  })

  it('of two who work on it takes both: what they did to different things goes together, and of the same thing the later stands', async () => {
    const project = await createProject(world.context, world.lead, { code: 'FERRY', title: 'Ferry', library: 'house' })
    const id = await begin('Ours', project)
    await change(id, standing('a'))
    await change(id, standing('b', refs.model, 1), 0, 'other', world.insider)
    const moved = (x: number) => standing('a', refs.model, x)
    await change(id, moved(5), 2)
    const answer = await change(id, moved(9), 2, 'other', world.insider)
    expect(answer.changes?.map(c => [c.revision, c.page])).toEqual([
      [3, 'page'],
      [4, 'other'],
    ])
    const { scene } = await getMockUp(world.context, world.artist, id)
    expect(Object.keys(scene.pieces)).toEqual(['a', 'b'])
    expect(scene.pieces.a.position[0]).toBe(9)
    expect((await listMockUpChanges(world.context, world.artist, id, 3)).changes).toHaveLength(1)
    // A page that was told of a revision that is not there reads the whole.
    expect(await listMockUpChanges(world.context, world.artist, id, 99)).toEqual({ revision: 4, changes: null })
  })

  it('goes back to a state that was kept, as a change that can be followed', async () => {
    const id = await begin('Versions')
    await change(id, standing('a'))
    const version = await keepVersion(world.context, world.artist, id, 'One thing')
    await change(id, standing('b', refs.model, 2), 1)
    const answer = await takeVersion(world.context, world.artist, id, version, 'versions')
    expect(answer.changes?.[0]?.change).toEqual({ pieces: { b: null } })
    expect(Object.keys((await getMockUp(world.context, world.artist, id)).scene.pieces)).toEqual(['a'])
    expect(await listVersions(world.context, world.artist, id)).toMatchObject([{ name: 'One thing', person: 'arne' }])
  })

  it('begins as a copy, and can be put aside and back', async () => {
    const id = await begin('First')
    await change(id, standing('a'))
    const copy = await createMockUp(world.context, world.artist, { title: 'Second', projectId: null, from: id })
    expect(Object.keys((await getMockUp(world.context, world.artist, copy)).scene.pieces)).toEqual(['a'])
    const titles = async () => (await listMockUps(world.context, world.artist)).map(m => m.title)
    await editMockUp(world.context, world.artist, copy, { isRemoved: true })
    expect(await titles()).not.toContain('Second')
    await editMockUp(world.context, world.artist, copy, { isRemoved: false })
    expect(await titles()).toContain('Second')
  })

  it('lets go of a group or a sky that is taken out, wherever it was referred to', async () => {
    const id = await begin('Whole')
    const grouped: Change = {
      pieces: { a: { ...standing('a').pieces!.a!, group: 'g' } },
      groups: { g: { name: 'Seats', isHidden: false, isLocked: false } },
    }
    await change(id, grouped)
    await change(id, { groups: { g: null } }, 1)
    expect((await getMockUp(world.context, world.artist, id)).scene.pieces.a.group).toBeNull()
  })
})

describe('a mock-up as a file', () => {
  it('has the same surfaces in every form, and textures no larger than was asked for', async () => {
    const id = await begin('As a file')
    await change(id, place('a', refs.model, { name: 'One', at: [1, 0, 2] }))
    const glb = await saveMockUp(work, world.artist, id, { form: 'glb', texture: '512', detail: 'full' })
    expect(glb.fileName).toMatch(/\.glb$/)
    const { parts, images } = await parseGlb(glb.bytes)
    const triangles = parts.reduce((sum, p) => sum + p.mesh.indices.length / 3, 0)
    for (const { bytes } of images) {
      const { width = 0, height = 0 } = await sharp(bytes).metadata()
      expect(Math.max(width, height)).toBeLessThanOrEqual(512)
    }
    const obj = await saveMockUp(work, world.artist, id, { form: 'obj', texture: '512', detail: 'full' })
    expect(obj.fileName).toMatch(/\.zip$/)
    const [text] = Object.entries(unzipSync(obj.bytes)).flatMap(([name, bytes]) =>
      name.endsWith('.obj') ? [new TextDecoder().decode(bytes)] : [],
    )
    expect(text.match(/^f /gm)).toHaveLength(triangles)
    const usdz = await saveMockUp(work, world.artist, id, { form: 'usdz', texture: '512', detail: 'full' })
    expect(usdz.fileName).toMatch(/\.usdz$/)
    expect(Object.keys(unzipSync(usdz.bytes))[0]).toMatch(/\.usd[ac]?$/)
    // Of what is only referred to the file says what it is and its files' hashes, and has none of them.
    const referring = await saveMockUp(work, world.artist, id, { form: 'references', texture: '512', detail: 'full' })
    expect(referring.fileName).toBe('as-a-file-references.glb')
    const root = (await readGltfBinary(referring.bytes)).getRoot()
    const { references } = (root.getExtras() as { muscovite: { references: { code: string; files: { sha256: string }[] }[] } })
      .muscovite
    expect(references.map(r => r.code)).toEqual([refs.model.code])
    expect(references[0].files.every(f => /^[0-9a-f]{64}$/.test(f.sha256))).toBe(true)
    expect(references[0].files.length).toBeGreaterThan(0)
    expect(root.listTextures()).toEqual([])
    // As OpenUSD its parts stand below the piece, which says what it is of.
    const layer = new TextDecoder('latin1').decode(usdz.bytes)
    expect(layer).toMatch(
      new RegExp(`def Xform "One" \\(\\s+customData = \\{\\s+dictionary muscovite = \\{\\s+string code = "${refs.model.code}"`),
    )
  })
})

describe('who sees a mock-up', () => {
  it("of one's own: nobody else, until it is shared; then everybody who sees its library", async () => {
    const id = await begin('Private')
    await change(id, standing('a'))
    expect(await refused(getMockUp(world.context, world.insider, id))).toBe('notFound')
    expect(await refused(change(id, standing('b'), 1, 'x', world.insider))).toBe('notFound')
    expect(await refused(editMockUp(world.context, world.insider, id, { title: 'Theirs' }))).toBe('notFound')
    await editMockUp(world.context, world.artist, id, { isShared: true })
    expect((await getMockUp(world.context, world.insider, id)).title).toBe('Private')
    expect(await refused(getMockUp(world.context, world.guest, id))).toBe('notFound')
    expect(await refused(editMockUp(world.context, world.insider, id, { isShared: false }))).toBe('notAllowed')
  })

  it("holds nothing of a client's library where others see it who may not", async () => {
    const own = await begin('Secret corner', null, world.insider)
    await change(own, standing('s', refs.secret), 0, 'page', world.insider)
    expect(await refused(editMockUp(world.context, world.insider, own, { isShared: true }))).toBe('badRequest')
    const project = await createProject(world.context, world.lead, { code: 'HALL', title: 'Hall', library: 'house' })
    const inHouse = await begin('Hall', project, world.insider)
    await expect(change(inHouse, standing('s', refs.secret), 0, 'page', world.insider)).rejects.toThrow(refs.secret.code)
    // Who may not see it is not told that it is there.
    await expect(change(await begin('Guessed'), standing('s', refs.secret))).rejects.toThrow('Not there, or not yours to see')
    const clients = await createProject(world.context, world.lead, { code: 'CLIENT', title: 'Client', library: 'client' })
    const theirs = await begin('Theirs', clients, world.insider)
    await change(theirs, standing('s', refs.secret), 0, 'page', world.insider)
    expect(await refused(getMockUp(world.context, world.artist, theirs))).toBe('notFound')
    expect((await listMockUps(world.context, world.artist)).map(m => m.title)).not.toContain('Theirs')
  })

  it('of a thing that is not there any more the others stay, and it is said to be hidden', async () => {
    const id = await begin('Lost one', null, world.insider)
    await change(id, standing('s', refs.secret), 0, 'page', world.insider)
    await change(id, standing('a'), 1, 'page', world.insider)
    await world.context.db.execute(sql`delete from library_members where person_id = ${world.insider.id}`)
    const read = await getMockUp(world.context, world.insider, id)
    expect(read.items.map(i => i.state).sort()).toEqual(['approved', 'hidden'])
    expect(read.items.find(i => i.state === 'hidden')).toMatchObject({ files: [], preview: null, id: null })
    // What is there already is no new reference: the rest can still be worked on.
    await change(id, { pieces: { a: { ...read.scene.pieces.a, position: [3, 0, 0] } } }, 2, 'page', world.insider)
    await world.context.db.execute(sql`insert into library_members (library_id, person_id) values (2, ${world.insider.id})`)
  })
})

describe('pictures of a mock-up', () => {
  let id: number
  beforeAll(async () => {
    const project = await createProject(world.context, world.lead, { code: 'ROOM', title: 'Room', library: 'house' })
    id = await begin('Room', project)
    await change(id, {
      ...standing('a'),
      skies: {
        sky: {
          item: refs.environment,
          clear: null,
          sun: 'asItIs' as const,
          name: 'Sky',
          turnDeg: 20,
          ev: 0,
          background: 'shown',
        },
      },
      shots: { front: shot },
    })
  })
  const stateOf = async (picture: number) =>
    (await world.context.db.select().from(mockUpPictures).where(eq(mockUpPictures.id, picture)))[0]

  it('are rendered as ordered, each shot under each sky, and made again the same to the byte', async () => {
    const ordered = await orderPictures(work, world.artist, id, {
      shots: ['front'],
      skies: ['sky', null],
      choice: null,
      quality: 'draft',
      longerPx: null,
      newer: [],
    })
    expect(ordered).toHaveLength(2)
    expect(world.sent.filter(s => s.queue === 'draft-mock-up')).toHaveLength(2)
    for (const pictureId of ordered) await renderMockUpJob(work, { pictureId })
    const pictures = await listPictures(work, world.artist, id)
    expect(pictures.map(p => [p.state, p.skyName])).toEqual([
      ['ready', null],
      ['ready', 'Sky'],
    ])
    expect(pictures[0].width).toBeGreaterThan(100)
    const [again] = await orderPictures(work, world.artist, id, {
      shots: ['front'],
      skies: [],
      choice: null,
      quality: 'draft',
      longerPx: null,
      newer: [],
    })
    // Broken off half way and begun again, as after a restart.
    await world.context.db.update(mockUpPictures).set({ state: 'rendering', share: 0.4 }).where(eq(mockUpPictures.id, again))
    await renderMockUpJob(work, { pictureId: again })
    const hashOf = (picture: number) => getPictureFile(world.context.db, world.artist, picture, 'linear')
    expect(await hashOf(again)).toBe(await hashOf(ordered[0]))
    expect(await hashOf(ordered[1])).not.toBe(await hashOf(ordered[0]))
    // Saved, it says what it is.
    const saved = await savePicture(work, world.artist, again, 'png')
    expect(saved.fileName).toMatch(/^room-front-\d+\.png$/)
    expect(Buffer.from(saved.bytes).toString('latin1')).toContain('Display-encoded')
    const linear = await savePicture(work, world.artist, again, 'exr')
    expect(Buffer.from(linear.bytes).toString('latin1')).toContain('Linear Rec.709')
    expect(await refused(getPictureFile(world.context.db, world.guest, again, 'display'))).toBe('notFound')
  })

  it('are saved with what is where in them, as one file of named parts', async () => {
    const [picture] = (await listPictures(work, world.artist, id)).filter(p => p.state === 'ready')
    const { bytes, fileName } = await savePasses(work, world.artist, picture.id)
    expect(fileName).toMatch(/-passes\.exr$/)
    const layers = listExrLayers(sourceOfBytes(bytes))
    expect(layers.slice(0, 4).map(l => l.name)).toEqual(['picture', 'base colour', 'normal', 'depth'])
    expect(layers.every(l => l.width === picture.width && l.height === picture.height)).toBe(true)
    expect(layers.map(l => l.name)).toContain('things.Thing')
    expect(layers.some(l => l.name.startsWith(`items.${refs.model.code}_`))).toBe(true)
    expect(await refused(savePasses(work, world.guest, picture.id))).toBe('notFound')
  })

  it('that are cancelled end at once, also while they are rendered, and nothing comes of them', async () => {
    const [waiting, running] = await orderPictures(work, world.artist, id, {
      shots: ['front'],
      skies: ['sky', null],
      choice: null,
      quality: 'final',
      longerPx: null,
      newer: [],
    })
    await cancelPicture(work, world.artist, id, waiting)
    await renderMockUpJob(work, { pictureId: waiting })
    expect(await stateOf(waiting)).toMatchObject({ state: 'cancelled', hash: null })
    const job = renderMockUpJob(work, { pictureId: running })
    // It shows itself while it is made, to who may see it.
    await expect
      .poll(async () => (await listPictures(work, world.artist, id)).find(p => p.id === running)?.interimUrl, { timeout: 60_000 })
      .toMatch(/interim\?number=1$/)
    const { bytes } = await getInterimFile(world.context.db, world.artist, running)
    expect(bytes?.subarray(8, 12).toString()).toBe('WEBP')
    expect(await refused(getInterimFile(world.context.db, world.guest, running))).toBe('notFound')
    const began = performance.now()
    await cancelPicture(work, world.artist, id, running)
    await job
    expect(performance.now() - began).toBeLessThan(5000)
    expect(await stateOf(running)).toMatchObject({ state: 'cancelled', hash: null })
    expect(await getInterimFile(world.context.db, world.artist, running)).toEqual({ bytes: null, isEnded: false })
    expect((await listPictures(work, world.artist, id)).every(p => p.state === 'ready')).toBe(true)
  })

  it('that are finals are as large as was asked; drafts are drafts', async () => {
    const order = { shots: ['front'], skies: [], choice: null, longerPx: 320, newer: [] }
    const [final] = await orderPictures(work, world.artist, id, { ...order, quality: 'final' })
    const [draft] = await orderPictures(work, world.artist, id, { ...order, quality: 'draft' })
    await renderMockUpJob(work, { pictureId: final })
    const found = (await listPictures(work, world.artist, id)).find(p => p.id === final)!
    expect(Math.max(found.width!, found.height!)).toBe(320)
    expect(found.state).toBe('ready')
    expect((await stateOf(draft)).longerPx).toBeNull()
    for (const pictureId of [final, draft]) await cancelPicture(work, world.artist, id, pictureId)
  })

  it('that were broken off wait, until a worker goes on with them', async () => {
    const { db } = world.context
    const [ordered] = await orderPictures(work, world.artist, id, {
      ...{ shots: ['front'], skies: [], choice: null, quality: 'final', longerPx: null, newer: [] },
    })
    await db.update(mockUpPictures).set({ state: 'rendering', share: 0.4 }).where(eq(mockUpPictures.id, ordered))
    const told = async () => (await listPictures(work, world.artist, id)).find(p => p.id === ordered)
    expect(await told()).toMatchObject({ state: 'waiting', share: 0.4 })
    await db.execute(sql`
      insert into pgboss.job (name, data, state, singleton_key, policy)
      values ('render-mock-up', '{}', 'active', ${String(ordered)}, 'short')`)
    expect(await told()).toMatchObject({ state: 'rendering', share: 0.4 })
    await db.execute(sql`delete from pgboss.job where singleton_key = ${String(ordered)}`)
    await cancelPicture(work, world.artist, id, ordered)
  })

  it('of shots or skies that are gone are refused, and nothing is ordered', async () => {
    const before = (await listPictures(work, world.artist, id)).length
    expect(
      await refused(
        orderPictures(work, world.artist, id, {
          shots: ['gone'],
          skies: [],
          choice: null,
          quality: 'draft',
          longerPx: null,
          newer: [],
        }),
      ),
    ).toBe('badRequest')
    expect(
      await refused(
        orderPictures(work, world.artist, id, {
          shots: ['front'],
          skies: ['gone'],
          choice: null,
          quality: 'draft',
          longerPx: null,
          newer: [],
        }),
      ),
    ).toBe('badRequest')
    expect(await listPictures(work, world.artist, id)).toHaveLength(before)
  })

  it('and what they show is pinned in the project with one action', async () => {
    const { changed, refused: not } = await pinMockUp(work, world.artist, id)
    expect(changed).toHaveLength(2)
    expect(not).toEqual([])
    const mockUp = await getMockUp(work, world.artist, id)
    expect((await getProject(work, world.artist, mockUp.project!.id)).pinned.map(p => p.chip.kind).sort()).toEqual([
      'environment',
      'model',
    ])
    expect(await refused(pinMockUp(work, world.artist, await begin('Nobody’s')))).toBe('badRequest')
  })
})

describe('a material that was adjusted in a mock-up', () => {
  const shift = { tint: [0.5, 0.4, 0.3] as [number, number, number], roughness: 1.4, relief: 2 }
  const heldItem = async (code: string) => (await world.context.db.select().from(items).where(eq(items.code, code)))[0]
  const filesOf = async (versionId: number) =>
    new Map(
      (await world.context.db.select().from(versionFiles).where(eq(versionFiles.versionId, versionId))).map(f => [
        f.role,
        f.hash,
      ]),
    )
  const propose = async (as: 'version' | 'item' | 'intake', actor = world.lead, version = refs.material.version) =>
    proposeShift(work, actor, await begin(`Study of ${as}`, null, actor), {
      ...{ itemId: (await heldItem(refs.material.code)).id, version, shift, constants: { coatWeight: 0.5 }, as },
      name: 'Darker',
    })
  const meanOf = async (hash: string) => (await sharp(await world.context.storage.localPath(hash)).stats()).channels[0].mean

  it('becomes an item of its own with its maps worked out, and the one it is of stays', async () => {
    const before = await heldItem(refs.material.code)
    const { made, batchId } = await propose('item')
    expect(batchId).toBeNull()
    const item = await heldItem(made!.code)
    expect(item).toMatchObject({ name: 'Darker', state: 'inReview', category: before.category, approvedVersionId: null })
    const [own, from] = [await filesOf(item.currentVersionId!), await filesOf(before.currentVersionId!)]
    expect([...own.keys()].sort()).toEqual([...from.keys()].sort())
    expect(await meanOf(own.get('baseColor')!)).toBeLessThan((await meanOf(from.get('baseColor')!)) * 0.85)
    expect(await meanOf(own.get('roughness')!)).toBeGreaterThan(await meanOf(from.get('roughness')!))
    const [version] = await world.context.db.select().from(versions).where(eq(versions.id, item.currentVersionId!))
    expect(version).toMatchObject({ number: 1, widthMm: 600, inputKey: made!.inputKey, constants: { coatWeight: 0.5 } })
    expect(version.note).toBe(`Adjusted in Study of item, from ${refs.material.code}, version ${refs.material.version}`)
    expect(await heldItem(refs.material.code)).toEqual(before)
  })

  it('goes to Intake from somebody who is no lead, with all its maps', async () => {
    expect(await refused(propose('version', world.artist))).toBe('notAllowed')
    const { batchId, made } = await propose('intake', world.artist)
    expect(made).toBeNull()
    const [batch] = await world.context.db.select().from(batches).where(eq(batches.id, batchId!))
    expect(batch).toMatchObject({ maker: 'Test Makers', licence: 'All projects' })
    expect(batch.title).toContain('Darker, from Study of intake')
    const arrived = await world.context.db.select().from(batchFiles).where(eq(batchFiles.batchId, batchId!))
    expect(arrived.length).toBeGreaterThan(2)
    expect(arrived.map(f => f.path)).toContain('Darker/Darker_baseColor.png')
    expect(await refused(propose('intake', world.guest))).toBe('notAllowed')
  })

  it('is the next version where nothing newer is there, and the approved one stays approved', async () => {
    const before = await heldItem(refs.material.code)
    const { made } = await propose('version')
    expect(made).toMatchObject({ code: refs.material.code, version: refs.material.version + 1 })
    expect(await heldItem(refs.material.code)).toMatchObject({ state: 'inReview', approvedVersionId: before.approvedVersionId })
    expect(await refused(propose('version'))).toBe('conflict')
    // Approved, it is the newer of what a mock-up has: pictures can be had of both.
    const id = await begin('Both versions')
    await change(id, standing('a'))
    await change(
      id,
      {
        pieces: {
          a: {
            ...(await getMockUp(world.context, world.artist, id)).scene.pieces.a,
            materials: { top: { material: refs.material, turnDeg: 0, offsetM: [0, 0], mapping: 'own', override: {} } },
          },
        },
        shots: { front: { ...shot, sky: null } },
      },
      1,
    )
    const order = {
      shots: ['front'],
      skies: [],
      choice: null,
      quality: 'draft' as const,
      longerPx: null,
      newer: [refs.material.code],
    }
    expect(await refused(orderPictures(work, world.artist, id, order))).toBe('badRequest')
    // Brought in at the version that is approved: what is only proposed is not offered as newer, nor the older one.
    const [found] = await findItems(world.context, world.lead, [before.id])
    expect(found).toMatchObject({ ref: { version: refs.material.version }, newer: null })
    const { currentVersionId } = await heldItem(refs.material.code)
    await world.context.db.update(items).set({ approvedVersionId: currentVersionId }).where(eq(items.id, before.id))
    expect(await orderPictures(work, world.artist, id, order)).toHaveLength(2)
    const ordered = await world.context.db.select().from(mockUpPictures).where(eq(mockUpPictures.mockUpId, id))
    expect(ordered.map(p => p.scene.pieces.a.materials.top.material.version).sort()).toEqual([
      refs.material.version,
      refs.material.version + 1,
    ])
    expect(ordered.map(p => p.variantNames.at(-1))).toContain(`${refs.material.code}: version ${refs.material.version + 1}`)
  })
})
