import { eq } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { ByteImage } from '../../src/core/image/image'
import { acceptRows } from '../../src/server/intake/accept-rows'
import { chooseFixes } from '../../src/server/intake/choose-fixes'
import { editBatchItems } from '../../src/server/intake/edit-rows'
import { getRows } from '../../src/server/intake/worklist'
import { getSheet, getVersionFile } from '../../src/server/library/sheet'
import { batchFiles, batchItems } from '../../src/server/tables/intake.table'
import { items } from '../../src/server/tables/library.table'
import { makeSurfaceMaps } from '../fixtures'
import { writeLayeredExr } from '../formats/layered-exr'
import { USDA } from '../formats/models'
import { writeIes } from '../formats/photometry'
import { writeTga } from '../formats/pictures'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork, deliverFiles, measureRows } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
let batchId: number

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  const files: Record<string, Uint8Array> = { 'game/tray.usda': Buffer.from(USDA) }
  for (const map of makeSurfaceMaps(64)) {
    if (!(map.data instanceof Uint8Array)) continue
    const image: ByteImage = { width: map.width, height: map.height, channels: map.channels, data: map.data }
    files[`game/oak_${map.role}.tga`] = writeTga(image, { isPacked: map.role === 'roughness' })
  }
  batchId = await deliverFiles(world, work, files)
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

const rowsOf = () => work.db.select().from(batchItems).where(eq(batchItems.batchId, batchId)).orderBy(batchItems.kind)

describe('a delivery in forms that the house does not work with', () => {
  it('is measured in those it does, under the same names; what was delivered stays with the item', async () => {
    const [material, model] = await rowsOf()
    expect([material.kind, model.kind]).toEqual(['material', 'model'])
    expect([material.state, model.state]).toEqual(['ready', 'ready'])
    const shown = material.files.filter(f => f.role !== 'original')
    expect(shown.length).toBeGreaterThanOrEqual(3)
    expect(shown.every(f => f.path.endsWith('.png'))).toBe(true)
    const originals = material.files.filter(f => f.role === 'original')
    expect(originals.map(f => f.path.replace(/tga$/, 'png')).sort()).toEqual(shown.map(f => f.path).sort())
    expect(model.files.map(f => [f.path, f.role])).toEqual([
      ['game/tray.glb', 'model'],
      ['game/tray.usda', 'modelPart'],
    ])
    const outcomes = await work.db.select().from(batchFiles).where(eq(batchFiles.batchId, batchId))
    expect(outcomes.every(f => f.outcome === 'inItem')).toBe(true)
  })

  it('keeps both after a fix, and in the library; the original can be downloaded', async () => {
    const [material] = await rowsOf()
    const chosen = material.findings.find(f => f.code === 'normalNotUnitLength' || f.code === 'normalDirectX')
    if (chosen) {
      await chooseFixes(work, world.lead, batchId, { ids: [material.id], codes: [chosen.code], takeBack: false })
      await measureRows(work, batchId)
    }
    await editBatchItems(work, world.lead, batchId, { ids: [material.id], widthMm: 600 })
    const { refused } = await acceptRows(
      work,
      world.lead,
      batchId,
      (await rowsOf()).map(r => r.id),
    )
    expect(refused).toEqual([])
    const [item] = await work.db.select().from(items).where(eq(items.kind, 'material'))
    const sheet = await getSheet(world.pool, world.lead, item.code, null)
    const position = sheet.files.findIndex(f => f.role === 'original')
    expect(position).toBeGreaterThan(0)
    const file = await getVersionFile(work.db, world.artist, sheet.version.id, position)
    expect(file).toMatchObject({ mediaType: 'image/x-tga', path: expect.stringMatching(/\.tga$/) })
  })
})

describe('what comes as a description', () => {
  const definition = (material: string, color: string) => `<?xml version="1.0"?><materialx version="1.39">
    <checkerboard name="checks" type="color3"><input name="color1" type="color3" value="${color}"/></checkerboard>
    <standard_surface name="s" type="surfaceshader"><input name="base_color" type="color3" nodename="checks"/></standard_surface>
    <surfacematerial name="${material}" type="material"><input name="surfaceshader" type="surfaceshader" nodename="s"/></surfacematerial>
  </materialx>`
  const rowsIn = (id: number) => work.db.select().from(batchItems).where(eq(batchItems.batchId, id)).orderBy(batchItems.name)

  it('is a material with the maps of its graph, a set from layers, a luminaire by its curve, each ready', async () => {
    const flat = (value: number) => () => value
    const id = await deliverFiles(world, work, {
      'Chequer.mtlx': Buffer.from(definition('Chequer', '0.8, 0.1, 0.1')),
      'Layered.exr': writeLayeredExr(8, 8, [
        { channels: { 'baseColor.R': flat(0.3), 'baseColor.G': flat(0.2), 'baseColor.B': flat(0.1), 'roughness.Y': flat(0.6) } },
      ]),
      'Quay spot.ies': Buffer.from(
        writeIes({ planesDeg: [0], gammaDeg: [0, 5, 10, 20, 30, 60, 90], intensity: (_, g) => 4000 * Math.exp(-g / 6) }),
      ),
    })
    const [chequer, layered, spot] = await rowsIn(id)
    expect([chequer, layered, spot].map(r => [r.kind, r.state, r.message])).toEqual([
      ['material', 'ready', null],
      ['material', 'ready', null],
      ['light', 'ready', null],
    ])
    expect(chequer.files.map(f => [f.path, f.role])).toEqual([
      ['Chequer.mtlx', 'definition'],
      ['Chequer_baseColor.png', 'baseColor'],
    ])
    expect(layered.files.map(f => f.role)).toEqual(['original', 'baseColor', 'roughness'])
    expect(spot).toMatchObject({ category: 'luminaires.spots', givenFacts: { maker: 'Oddmere Lamps', number: 'OL-7' } })
    // Measured once more, nothing is made twice.
    await editBatchItems(work, world.lead, id, { ids: [chequer.id, layered.id], widthMm: 400 })
    await measureRows(work, id)
    expect((await rowsIn(id)).map(r => r.files.length)).toEqual([2, 3, 1])
    const { refused } = await acceptRows(
      work,
      world.lead,
      id,
      (await rowsIn(id)).map(r => r.id),
    )
    expect(refused).toEqual([])
    const [item] = await work.db.select().from(items).where(eq(items.kind, 'light'))
    expect(item.code).toBe('SPO-0001')
    const { facts } = await getSheet(world.pool, world.lead, item.code, null)
    expect(facts.map(f => f.name)).toEqual(expect.arrayContaining(['luminousFluxLm', 'beamAngleDeg', 'maker']))
  })

  it('is filed where earlier deliveries of its maker lie, where nothing else says so', async () => {
    const maker = 'Hollow Kilns'
    const name = (i: number) => ['Ardeer', 'Bellwood', 'Corrie', 'Dunlop'][i]
    const first = await deliverFiles(
      world,
      work,
      Object.fromEntries([0, 1, 2].map(i => [`${name(i)}.mtlx`, Buffer.from(definition(name(i), `0.${i + 2}, 0.3, 0.2`))])),
      { maker },
    )
    const ids = (await rowsIn(first)).map(r => r.id)
    await editBatchItems(work, world.lead, first, { ids, widthMm: 400, category: 'surfaces.enamel' })
    await measureRows(work, first)
    await acceptRows(work, world.lead, first, ids)
    const second = await deliverFiles(
      world,
      work,
      { 'Dunlop.mtlx': Buffer.from(definition('Dunlop', '0.1, 0.5, 0.6')) },
      { maker },
    )
    const [row] = await rowsIn(second)
    expect(row.category).toBe('surfaces.enamel')
    const [shown] = await getRows(work.db, world.lead, second, [row.id])
    expect(shown.votes).toContainEqual({ category: 'surfaces.enamel', weight: 1.5, from: 'maker', what: '3 of 3' })
  })
})
