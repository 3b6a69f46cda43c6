import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { unzipSync } from 'fflate'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { parseExr } from '../../src/core/codecs/exr'
import { encodeMapRecipe, MAP_RECIPES } from '../../src/demo/map-pictures'
import { writeExport } from '../../src/files/exports/write-export'
import { acceptRows } from '../../src/server/intake/accept-rows'
import { chooseFixes } from '../../src/server/intake/choose-fixes'
import { editBatchItems } from '../../src/server/intake/edit-rows'
import { regroup, undoRegroup } from '../../src/server/intake/regroup/regroup'
import { findVersionSource } from '../../src/server/items/version-source'
import { checkItemJob } from '../../src/server/library/check-item.job'
import { editItem } from '../../src/server/library/edit-items'
import { makeMaterial } from '../../src/server/library/make-material'
import { getSheet } from '../../src/server/library/sheet'
import { getWall } from '../../src/server/library/wall'
import { batchItems } from '../../src/server/tables/intake.table'
import { items, versions } from '../../src/server/tables/library.table'
import { wallQuerySchema } from '../../src/shared/contracts/find.contract'
import { profileSchema } from '../../src/shared/contracts/profiles.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork, deliverFiles, measureRows } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
let batchId: number

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  const files: Record<string, Uint8Array> = {}
  for (const recipe of MAP_RECIPES) {
    // A quarter of the size, but for what is told by single texels.
    const small = { ...recipe, width: recipe.width / 4, height: recipe.height / 4 }
    files[`${recipe.folder}/${recipe.stem}.png`] = await encodeMapRecipe(recipe.channels === 4 ? recipe : small)
  }
  batchId = await deliverFiles(world, work, files)
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

const rows = () => work.db.select().from(batchItems).where(eq(batchItems.batchId, batchId)).orderBy(batchItems.name)
const named = async (name: string) => (await rows()).find(r => r.name === name)!
const sort = async (wish: Parameters<typeof regroup>[3]) => {
  const done = await regroup(work, world.lead, batchId, wish)
  await measureRows(work, batchId)
  return done
}
const undo = async (id: number) => {
  await undoRegroup(work, world.lead, batchId, id)
  await measureRows(work, batchId)
}

describe('a delivery of overlays', () => {
  it('is maps, each with its use and in its place of the tree; sheets are cut into their stamps', async () => {
    const found = await rows()
    expect(found.every(r => r.kind === 'map' && r.state === 'ready')).toBe(true)
    const signs = found.filter(r => r.name.startsWith('Car park signs'))
    const splashes = found.filter(r => r.name.startsWith('Splashes'))
    expect([signs.length, splashes.length, found.length]).toEqual([6, 5, 19])
    expect(signs.every(r => r.category === 'maps.stamps' && r.facts.mapUse === 'decal')).toBe(true)
    const rest = Object.fromEntries(
      found.filter(r => !signs.includes(r) && !splashes.includes(r)).map(r => [r.name, [r.facts.mapUse, r.category]]),
    )
    expect(rest).toEqual({
      'Smudges soft': ['grunge', 'maps.wear'],
      'Dust fine': ['grunge', 'maps.wear'],
      'Drips facade': ['grunge', 'maps.wear'],
      'Flaked paint mask': ['mask', 'maps.masks'],
      'Perforation staggered': ['pattern', 'maps.patterns'],
      'Wallpaper reed': ['pattern', 'maps.patterns'],
      'Floor shade ramp': ['gradient', 'maps.gradients'],
      'Artwork three hills': ['color', 'maps.pictures'],
    })
    expect((await named('Floor shade ramp')).facts.bitsPerChannel).toBe(16)
  })

  it('each stamp is a file of its own, its sheet beside it, and texel for texel what was on the sheet', async () => {
    const row = await named('Car park signs 3')
    expect(row.files.map(f => f.role)).toEqual(['map', 'original'])
    const [x, y, width, height] = String(row.givenFacts.cutOut).split(' ').map(Number)
    const read = async (hash: string) => sharp(await work.storage.localPath(hash))
    const own = await (await read(row.files[0].hash)).raw().toBuffer({ resolveWithObject: true })
    expect([own.info.width, own.info.height]).toEqual([width, height])
    const sheet = await read(row.files[1].hash)
    expect(own.data.equals(await sheet.extract({ left: x, top: y, width, height }).raw().toBuffer())).toBe(true)
  })

  it('stamps joined are their sheet again, and apart again when that is taken back', async () => {
    const signs = (await rows()).filter(r => r.name.startsWith('Car park signs'))
    const done = await sort({ action: 'merge', ids: signs.map(r => r.id) })
    const whole = await named('Car park signs')
    expect(whole).toMatchObject({ kind: 'map', state: 'ready', givenFacts: {} })
    expect(whole.files.map(f => f.role)).toEqual(['map'])
    expect(whole.facts).toMatchObject({ widthPx: 1536, heightPx: 1024 })
    await undo(done.undo)
    expect((await rows()).filter(r => r.name.startsWith('Car park signs'))).toHaveLength(6)
  })

  it('a fringe is fixed in the file, and the sheet stays as it came', async () => {
    const row = await named('Car park signs 5')
    expect(row.findings.map(f => f.code)).toEqual(['edgeFringe'])
    expect(row.findings[0].before).toMatch(/^[0-9a-f]{64}$/)
    await chooseFixes(work, world.lead, batchId, { ids: [row.id], codes: ['edgeFringe'], takeBack: false })
    await measureRows(work, batchId)
    const fixed = await named('Car park signs 5')
    expect(fixed.findings).toEqual([])
    expect(fixed.files[0].hash).not.toBe(row.files[0].hash)
    expect(fixed.files[1].hash).toBe(row.files[1].hash)
  })

  it('a map becomes a material that repeats or stands once, and a map again', async () => {
    const wallpaper = await named('Wallpaper reed')
    const artwork = await named('Artwork three hills')
    await sort({ action: 'setKind', ids: [wallpaper.id, artwork.id], kind: 'material', tiling: 'once' })
    const made = await named('Artwork three hills')
    expect(made).toMatchObject({ kind: 'material', tiling: 'once', category: 'surfaces' })
    expect(made.files.map(f => f.role)).toEqual(['baseColor'])
    expect(made.facts.lrv).toBeGreaterThan(10)
    // What stands once has no edges that meet.
    expect(made.findings.map(f => f.code)).not.toContain('tileSeam')
    await sort({ action: 'setKind', ids: [made.id, wallpaper.id], kind: 'map', tiling: 'repeat' })
    expect(await named('Artwork three hills')).toMatchObject({ kind: 'map', category: 'maps.pictures' })
  })

  it('of what is cut out the alpha becomes the opacity of the material, and goes when it is a map again', async () => {
    const sign = await named('Car park signs 1')
    const done = await sort({ action: 'setKind', ids: [sign.id], kind: 'material', tiling: 'once' })
    const made = await named('Car park signs 1')
    expect(made.files.map(f => f.role).sort()).toEqual(['baseColor', 'opacity', 'original'])
    await sort({ action: 'setKind', ids: [sign.id], kind: 'map', tiling: 'repeat' })
    expect((await named('Car park signs 1')).files.map(f => f.role)).toEqual(['map', 'original'])
    await expect(undo(done.undo)).rejects.toMatchObject({ code: 'conflict' })
    const ramp = await named('Floor shade ramp')
    await expect(sort({ action: 'setKind', ids: [ramp.id], kind: 'map', tiling: 'repeat' })).rejects.toThrow('None of these')
  })

  it('has a real width where somebody gives one, and needs none', async () => {
    const hills = await named('Artwork three hills')
    await editBatchItems(work, world.lead, batchId, { ids: [hills.id], widthMm: 1200 })
    const { refused } = await acceptRows(
      work,
      world.lead,
      batchId,
      (await rows()).map(r => r.id),
    )
    expect(refused).toEqual([])
    const sheet = await sheetOf('Artwork three hills')
    expect(sheet.facts.find(f => f.name === 'heightMm')?.value).toBe(800)
    expect(sheet.code).toBe('PIC-0001')
  })
})

const sheetOf = async (name: string) => {
  const [item] = await work.db.select().from(items).where(eq(items.name, name)).orderBy(items.id)
  return getSheet(world.pool, world.lead, item.code, null)
}

describe('maps in the library', () => {
  const look = (query: Record<string, string>) => getWall(work, world.lead, wallQuerySchema.parse(query))

  it('are narrowed by what they are for, and found by the word for it', async () => {
    const all = await look({ kind: 'map' })
    expect(all.total).toBe(19)
    const uses = Object.fromEntries(all.facets!.terms.mapUse!.map(v => [v.value, v.count]))
    expect(uses).toMatchObject({ decal: 6, stamp: 5, grunge: 3, pattern: 2 })
    expect((await look({ mapUse: 'pattern', mapChannels: 'colour' })).chips.map(c => c.name)).toEqual(['Wallpaper reed'])
    expect((await look({ words: 'gradient' })).chips.map(c => c.name)).toEqual(['Floor shade ramp'])
    // In the other languages of the house's vocabulary.
    expect((await look({ words: 'Verlauf' })).total).toBe(1)
    expect((await look({ words: 'Aufkleber' })).total).toBeGreaterThanOrEqual(6)
  })

  it('are like each other: a stamp brings the other stamps first', async () => {
    const { code } = await sheetOf('Splashes 2')
    const { chips } = await look({ like: code })
    expect(
      chips
        .slice(0, 5)
        .map(c => c.name)
        .every(n => n.startsWith('Splashes')),
    ).toBe(true)
  })

  it('get a new width as a new version', async () => {
    const before = await sheetOf('Smudges soft')
    await editItem(work, world.lead, before.id, { widthMm: 750 })
    const after = await sheetOf('Smudges soft')
    expect(after.versions).toHaveLength(2)
    expect(after.widthMm).toBe(750)
  })
})

describe('a material made of a map', () => {
  const wish = { name: 'Sign on asphalt', category: 'surfaces.ground', widthMm: 900, tiling: 'once' as const }

  it('has its picture and its alpha, says what it was made from, and is measured', async () => {
    const map = await sheetOf('Car park signs 3')
    const { id, code } = await makeMaterial(work, world.lead, map.id, wish)
    expect(code).toMatch(/^GRD-/)
    const [row] = await work.db.select().from(items).where(eq(items.id, id))
    await checkItemJob(work, { itemId: id, versionId: row.currentVersionId! })
    const made = await getSheet(world.pool, world.lead, code, null)
    expect(made).toMatchObject({ kind: 'material', widthMm: 900, tiling: 'once', name: 'Sign on asphalt' })
    expect(made.files.map(f => f.role)).toEqual(['baseColor', 'opacity'])
    const facts = Object.fromEntries(made.facts.map(f => [f.name, f.value]))
    expect(facts).toMatchObject({ madeFrom: map.code, maker: 'Test Makers', licence: 'All projects', widthMm: 900 })
    expect(facts.palette).toBeTruthy()
    // The alpha of the file, to the code.
    const pixels = async (role: string) => sharp(await work.storage.localPath(made.files.find(f => f.role === role)!.hash))
    const alpha = await (await pixels('baseColor')).extractChannel('alpha').raw().toBuffer()
    expect((await (await pixels('opacity')).toColourspace('b-w').raw().toBuffer()).equals(alpha)).toBe(true)
    expect((await sheetOf('Car park signs 3')).versions).toHaveLength(map.versions.length)
  })

  it('is for leads, of maps, in places that hold materials', async () => {
    const map = await sheetOf('Wallpaper reed')
    await expect(makeMaterial(work, world.artist, map.id, wish)).rejects.toMatchObject({ code: 'notAllowed' })
    await expect(makeMaterial(work, world.lead, map.id, { ...wish, category: 'maps' })).rejects.toThrow('does not hold materials')
    const material = await sheetOf('Sign on asphalt')
    await expect(makeMaterial(work, world.lead, material.id, wish)).rejects.toThrow('Only of a map')
  })
})

describe('maps written for a renderer', () => {
  const write = async (name: string, request: Record<string, unknown>) => {
    const { version } = await sheetOf(name)
    const [row] = await work.db.select().from(versions).where(eq(versions.id, version.id))
    const { source } = (await findVersionSource(work, row.inputKey))!
    const zip = join(world.folder, `${name}.zip`)
    const item = { source, code: 'GRA-0001', version: 1, category: 'maps', maker: '', licence: '' }
    const { manifest } = await writeExport([item], profileSchema.parse(request), { project: { code: 'P', title: 'P' } }, zip)
    expect(manifest.failures).toEqual([])
    const [{ path }] = manifest.items[0].files
    return {
      path,
      bytes: unzipSync(await readFile(zip))[path],
      original: await work.storage.localPath((await sheetOf(name)).files[0].hash),
    }
  }
  const deep = async (input: string | Uint8Array) => sharp(input).toColourspace('grey16').raw({ depth: 'ushort' }).toBuffer()

  it('keep 16 bits as PNG and TIFF, to the code', async () => {
    for (const [maps, ending] of [
      ['asStored', 'png'],
      ['png', 'png'],
      ['tiff', 'tif'],
    ]) {
      const { path, bytes, original } = await write('Floor shade ramp', { maps })
      expect(path.endsWith(`.${ending}`)).toBe(true)
      expect((await sharp(bytes).metadata()).depth).toBe('ushort')
      expect((await deep(bytes)).equals(await deep(original))).toBe(true)
    }
  })

  it('are floats as OpenEXR: the values that the codes stand for, in one channel', async () => {
    const { bytes, original } = await write('Floor shade ramp', { maps: 'exr' })
    const codes = new Uint16Array((await deep(original)).buffer.slice(0))
    const exr = parseExr(bytes)
    expect(exr.width).toBe(256)
    for (const k of [0, 100, 5000, 20_000]) expect(exr.data[k * exr.channels]).toBeCloseTo(codes[k] / 65535, 7)
  })

  it('are reduced where a size is asked for, with their alpha', async () => {
    const { bytes } = await write('Splashes 5', { maxSizePx: 512 })
    expect((await sharp(bytes).metadata()).hasAlpha).toBe(true)
    const { bytes: small } = await write('Car park signs 2', { maps: 'tiff', maxSizePx: 512 })
    expect((await sharp(small).metadata()).width).toBeLessThanOrEqual(512)
  })
})
