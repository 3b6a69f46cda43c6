import { WebIO } from '@gltf-transform/core'
import { ALL_EXTENSIONS } from '@gltf-transform/extensions'
import { eq } from 'drizzle-orm'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { acceptRows, takeBackRows } from '../../src/server/intake/accept-rows'
import { editBatchItems } from '../../src/server/intake/edit-rows'
import { regroup, undoRegroup } from '../../src/server/intake/regroup/regroup'
import { checkItemJob } from '../../src/server/library/check-item.job'
import { editItem } from '../../src/server/library/edit-items'
import { getSheet } from '../../src/server/library/sheet'
import { batchFiles, batchItems } from '../../src/server/tables/intake.table'
import { items } from '../../src/server/tables/library.table'
import { makeModelBytes } from '../fixtures'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork, deliverFiles, measureRows } from './take-in'
import { getBatch } from './whole-batch'

let world: TestWorld
let work: ReturnType<typeof createWork>

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

/** Grain of a colour, so that no two pictures are the same. */
const picture = (side: number, seed: number) =>
  sharp(
    Uint8Array.from({ length: side * side * 3 }, (_, i) => 90 + (((i * 2654435761 + seed * 40503) >>> 16) % 60)),
    { raw: { width: side, height: side, channels: 3 } },
  )
    .png()
    .toBuffer()

const deliver = (files: Record<string, Uint8Array>, maker?: string) => deliverFiles(world, work, files, { maker })
const rowsOf = (batchId: number) =>
  world.context.db.select().from(batchItems).where(eq(batchItems.batchId, batchId)).orderBy(batchItems.id)
const measure = (batchId: number) => measureRows(work, batchId)
const rolesOf = async (id: number) => {
  const [row] = await world.context.db.select().from(batchItems).where(eq(batchItems.id, id))
  return Object.fromEntries(row.files.map(f => [f.path, f.role]))
}
const leftOver = async (batchId: number) =>
  (await world.context.db.select().from(batchFiles).where(eq(batchFiles.batchId, batchId)))
    .filter(f => f.outcome === 'leftOver')
    .map(f => f.path)
    .sort()

describe('a delivery of which not everything is wanted', () => {
  let batchId: number
  let oak: number
  let ash: number

  beforeAll(async () => {
    batchId = await deliver({
      'Oak/4K/Oak_basecolor.png': await picture(128, 1),
      'Oak/2K/Oak_basecolor.png': await picture(64, 1),
      'Oak/1K/Oak_basecolor.png': await picture(32, 1),
      'Oak/4K/Oak_roughness.png': await picture(128, 2),
      'Oak/2K/Oak_roughness.png': await picture(64, 2),
      'Oak/4K/Oak_height.png': await picture(128, 3),
      'Ash/Ash_basecolor.png': await picture(64, 4),
      'Ash/Ash_height.png': await picture(64, 5),
    })
    const rows = await rowsOf(batchId)
    oak = rows.find(r => r.name.startsWith('Oak'))!.id
    ash = rows.find(r => r.name.startsWith('Ash'))!.id
    expect(rows).toHaveLength(2)
  })

  it('sizes in folders beside each other are one item, the largest leading', async () => {
    expect(await rolesOf(oak)).toEqual({
      'Oak/4K/Oak_basecolor.png': 'baseColor',
      'Oak/4K/Oak_roughness.png': 'roughness',
      'Oak/4K/Oak_height.png': 'height',
      'Oak/2K/Oak_basecolor.png': 'alternate',
      'Oak/2K/Oak_roughness.png': 'alternate',
      'Oak/1K/Oak_basecolor.png': 'alternate',
    })
  })

  it('another size leads: of each map the nearest that is not larger; the rest stands aside or is left out', async () => {
    const before = await rolesOf(oak)
    const smaller = await regroup(work, world.lead, batchId, { action: 'chooseSize', ids: [oak, ash], px: 64, leaveRest: false })
    expect(await rolesOf(oak)).toEqual({
      ...before,
      'Oak/4K/Oak_basecolor.png': 'alternate',
      'Oak/4K/Oak_roughness.png': 'alternate',
      'Oak/2K/Oak_basecolor.png': 'baseColor',
      'Oak/2K/Oak_roughness.png': 'roughness',
    })
    await undoRegroup(work, world.lead, batchId, smaller.undo)
    expect(await rolesOf(oak)).toEqual(before)
    await regroup(work, world.lead, batchId, { action: 'chooseSize', ids: [oak], px: 20, leaveRest: true })
    // None is that small: the smallest there is.
    expect(await rolesOf(oak)).toEqual({
      'Oak/1K/Oak_basecolor.png': 'baseColor',
      'Oak/2K/Oak_roughness.png': 'roughness',
      'Oak/4K/Oak_height.png': 'height',
    })
    expect(await leftOver(batchId)).toEqual(['Oak/2K/Oak_basecolor.png', 'Oak/4K/Oak_basecolor.png', 'Oak/4K/Oak_roughness.png'])
  })

  it('a kind of file is left out of many rows, but never what an item is made of', async () => {
    await regroup(work, world.lead, batchId, { action: 'leaveRoles', ids: [oak, ash], roles: ['height'] })
    expect(Object.values(await rolesOf(ash))).toEqual(['baseColor'])
    await regroup(work, world.lead, batchId, { action: 'leaveRoles', ids: [ash], roles: ['baseColor'] })
    expect(Object.values(await rolesOf(ash))).toEqual(['baseColor'])
  })

  it('the rest goes into what was accepted later: as its next version, from what is stored', async () => {
    await measure(batchId)
    await editBatchItems(work, world.lead, batchId, { ids: [ash], widthMm: 700, facts: { series: 'North' } })
    await acceptRows(work, world.lead, batchId, [ash])
    await regroup(work, world.lead, batchId, { action: 'take', itemId: ash, paths: ['Ash/Ash_height.png'] })
    await measure(batchId)
    const made = (await rowsOf(batchId)).at(-1)!
    expect(made).toMatchObject({
      name: 'Ash',
      state: 'ready',
      widthMm: 700,
      decision: 'newVersion',
      givenFacts: { series: 'North' },
    })
    expect(made.files.map(f => f.role)).toEqual(['baseColor', 'height'])
    expect(await acceptRows(work, world.lead, batchId, [made.id])).toMatchObject({ changed: [made.id] })
    const [item] = await world.context.db.select().from(items).where(eq(items.name, 'Ash'))
    const sheet = await getSheet(world.pool, world.lead, item.code, null)
    expect(sheet.version.number).toBe(2)
    expect(sheet.files.map(f => f.role)).toEqual(['baseColor', 'height'])
  })
})

describe('a picture that does not repeat', () => {
  it('has no seam to find; it is accepted so, rendered so, and repeats again when somebody says so on its sheet', async () => {
    // Bright on the left and dark on the right: its edges do not join.
    const ramp = await sharp(
      Uint8Array.from({ length: 64 * 64 * 3 }, (_, i) => 60 + 2 * (Math.floor(i / 3) % 64)),
      {
        raw: { width: 64, height: 64, channels: 3 },
      },
    )
      .png()
      .toBuffer()
    const batchId = await deliver({ 'Rug/Rug_basecolor.png': ramp })
    const [row] = await rowsOf(batchId)
    await editBatchItems(work, world.lead, batchId, { ids: [row.id], widthMm: 2000 })
    const codes = async () => (await rowsOf(batchId))[0].findings.map(f => f.code)
    expect(await codes()).toContain('tileSeam')
    await editBatchItems(work, world.lead, batchId, { ids: [row.id], tiling: 'once' })
    await measure(batchId)
    expect(await codes()).not.toContain('tileSeam')
    const [once] = await rowsOf(batchId)
    expect(once.inputKey).not.toBe(row.inputKey)
    await acceptRows(work, world.lead, batchId, [row.id])
    const [item] = await world.context.db.select().from(items).where(eq(items.name, 'Rug'))
    const sheet = () => getSheet(world.pool, world.lead, item.code, null)
    expect(await sheet()).toMatchObject({ tiling: 'once', widthMm: 2000 })
    await editItem(work, world.lead, item.id, { tiling: 'repeat' })
    expect(await sheet()).toMatchObject({ tiling: 'repeat', version: { number: 2, note: 'Repeats' } })
    // What it is checked for has changed with that: it is checked anew, and the seam is there again.
    const wanted = world.sent.findLast(s => s.queue === 'check-item')!.job as { itemId: number; versionId: number }
    await editItem(work, world.lead, item.id, { name: 'Rug of the hall' })
    await checkItemJob(work, wanted)
    expect((await sheet()).findings.map(f => f.code)).toContain('tileSeam')
    expect((await sheet()).facts.find(f => f.name === 'maker')?.value).toBe('Test Makers')
    await checkItemJob(work, { ...wanted, versionId: wanted.versionId - 1 })
    expect((await sheet()).findings.filter(f => f.code === 'tileSeam').length).toBeGreaterThan(0)
    await editItem(work, world.lead, item.id, { tiling: 'once', widthMm: 1800 })
    expect((await sheet()).version.note).toBe('Real-world width 2000 to 1800 mm; Stands once, does not repeat')
  })
})

describe('what a supplier calls their maps', () => {
  const set = async (stem: string, seed: number) => ({
    [`${stem}/${stem}_basecolor.png`]: await picture(64, seed),
    [`${stem}/${stem}_zeta.png`]: await picture(64, seed + 1),
  })
  const zetaOf = async (batchId: number) => (await rowsOf(batchId)).flatMap(r => r.files).find(f => f.path.includes('zeta'))?.role

  it('is remembered for them, and for nobody else, until it is taken back', async () => {
    const first = await deliver(await set('Clay', 10), 'Odd Maps')
    // Its name says nothing, so it stands by itself at first.
    const [row, other] = await rowsOf(first)
    expect(other.files.map(f => f.path)).toEqual(['Clay/Clay_zeta.png'])
    await regroup(work, world.lead, first, { action: 'merge', ids: [row.id, other.id] })
    const { undo } = await regroup(work, world.lead, first, {
      action: 'setRole',
      itemId: row.id,
      path: 'Clay/Clay_zeta.png',
      role: 'gloss',
    })
    const next = await deliver(await set('Loam', 20), 'odd maps')
    expect(await zetaOf(next)).toBe('gloss')
    expect(await rowsOf(next)).toHaveLength(1)
    expect(await zetaOf(await deliver(await set('Silt', 30), 'Other Makers'))).not.toBe('gloss')
    // Said otherwise later, and that taken back: it means again what it did.
    const [loam] = await rowsOf(next)
    const wrong = { action: 'setRole', itemId: loam.id, path: 'Loam/Loam_zeta.png', role: 'roughness' } as const
    const { undo: undoWrong } = await regroup(work, world.lead, next, wrong)
    expect(await zetaOf(await deliver(await set('Peat', 50), 'Odd Maps'))).toBe('roughness')
    await undoRegroup(work, world.lead, next, undoWrong)
    expect(await zetaOf(await deliver(await set('Sand', 60), 'Odd Maps'))).toBe('gloss')
    await undoRegroup(work, world.lead, first, undo)
    expect(await zetaOf(await deliver(await set('Marl', 40), 'Odd Maps'))).not.toBe('gloss')
  })
})

describe('the same thing twice in one delivery', () => {
  it('is told, and accepted once: the second is linked to what the first became', async () => {
    const bytes = await picture(64, 77)
    const batchId = await deliver({ 'A/Slate_basecolor.png': bytes, 'B/Copy_basecolor.png': bytes })
    const rows = await rowsOf(batchId)
    const seen = (await getBatch(world.context.db, world.lead, batchId)).items
    expect(seen.map(i => i.twinOf).sort()).toEqual([rows[0].name, null].sort())
    await editBatchItems(work, world.lead, batchId, { ids: [rows[0].id], widthMm: 500 })
    // The second has no width; it needs none to be linked.
    const { changed, refused } = await acceptRows(
      work,
      world.lead,
      batchId,
      rows.map(r => r.id),
    )
    const accepted = await rowsOf(batchId)
    const made = await world.context.db.select().from(items)
    expect({ changed: changed.length, refused, same: accepted[0].itemId === accepted[1].itemId }).toEqual({
      changed: 2,
      refused: [],
      same: true,
    })
    expect(made.filter(i => i.id === accepted[0].itemId)).toHaveLength(1)
  })

  it('taken back together and accepted again, the second does not hang on what was withdrawn', async () => {
    const bytes = await picture(64, 79)
    const batchId = await deliver({ 'E/Gneiss_basecolor.png': bytes, 'F/Schist_basecolor.png': bytes })
    const ids = (await rowsOf(batchId)).map(r => r.id)
    await editBatchItems(work, world.lead, batchId, { ids, widthMm: 500 })
    await acceptRows(work, world.lead, batchId, ids)
    expect(await takeBackRows(work, world.lead, batchId, ids)).toMatchObject({ refused: [] })
    const seen = (await getBatch(world.context.db, world.lead, batchId)).items
    expect(seen.map(i => i.conflict)).toEqual([null, null])
    expect(seen.filter(i => i.twinOf !== null)).toHaveLength(1)
    // The one that was only linked, alone.
    const linked = seen.find(i => i.twinOf !== null)!
    await acceptRows(work, world.lead, batchId, [linked.id])
    const [row] = (await rowsOf(batchId)).filter(r => r.id === linked.id)
    const [item] = await world.context.db.select().from(items).where(eq(items.id, row.itemId!))
    expect(item).toMatchObject({ state: 'draft', name: linked.name })
  })

  it('is accepted twice all the same where somebody says so', async () => {
    const bytes = await picture(64, 78)
    const batchId = await deliver({ 'C/Flint_basecolor.png': bytes, 'D/Chert_basecolor.png': bytes })
    const rows = await rowsOf(batchId)
    const ids = rows.map(r => r.id)
    await editBatchItems(work, world.lead, batchId, { ids, widthMm: 500 })
    await editBatchItems(work, world.lead, batchId, { ids, decision: 'keepBoth' })
    expect((await getBatch(world.context.db, world.lead, batchId)).items.map(i => i.twinOf)).toEqual([null, null])
    await acceptRows(work, world.lead, batchId, ids)
    expect(new Set((await rowsOf(batchId)).map(r => r.itemId)).size).toBe(2)
  })
})

describe('a model whose texture did not come along', () => {
  it('is given the one of that name which the library holds', async () => {
    const io = new WebIO().registerExtensions(ALL_EXTENSIONS)
    const document = await io.readBinary(await makeModelBytes())
    const texture = document
      .createTexture('bark')
      .setImage(new Uint8Array(await picture(64, 91)))
      .setMimeType('image/png')
    document.getRoot().listMaterials()[0].setBaseColorTexture(texture.setURI('Bark_basecolor.png'))
    document.getRoot().listBuffers()[0].setURI('stool.bin')
    const { json, resources } = await io.writeJSON(document)
    const model = {
      'Stool/stool.gltf': new TextEncoder().encode(JSON.stringify(json)),
      'Stool/stool.bin': resources['stool.bin'],
    }
    const codes = async (batchId: number) => (await rowsOf(batchId)).flatMap(r => r.findings.map(f => f.code))
    expect(await codes(await deliver(model))).toContain('externalFileMissing')
    const bark = await deliver({ 'Bark/Bark_basecolor.png': await picture(64, 91) })
    const [row] = await rowsOf(bark)
    await editBatchItems(work, world.lead, bark, { ids: [row.id], widthMm: 300 })
    await acceptRows(work, world.lead, bark, [row.id])
    const again = await deliver(model)
    expect(await codes(again)).not.toContain('externalFileMissing')
    const [whole] = await rowsOf(again)
    expect(whole.facts.textures).toBe(1)
    expect(whole.files.map(f => f.path)).toContain('Bark/Bark_basecolor.png')
  })
})
