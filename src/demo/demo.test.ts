import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { analyseEnvironment } from '#core/environment/analyse-environment'
import { type Finding, HOUSE_HABITS } from '#core/findings/finding'
import { analyseModel } from '#core/geometry/analyse-model'
import { parseGlb } from '#core/geometry/read-gltf'
import { analyseMaterial } from '#core/material/analyse-material'
import type { MaterialMap } from '#core/material/material-subject'
import { parseMapName } from '#core/material/texture-set'
import { findCategory } from '#core/standard/categories'
import { collectSources } from '#files/reading/collect-sources'
import { recognizeDelivery } from '#files/recognition/recognize-delivery'
import { makeFaultyDelivery } from './faulty-delivery'
import { DEMO_PIECES, makePiece } from './make-file'
import { CONSTANT_RECIPES, TEXTURE_RECIPES } from './materials'
import { writeGlb } from './model-file'
import { MODEL_RECIPES } from './models'
import { PLANT_RECIPES } from './plants'
import { makeSky, SKY_RECIPES } from './skies'
import { makeMaps } from './texture-set'
import { clamp01, ramp, tileCells, tileFbm, tileNoise } from './tile-noise'

describe('tiling noise', () => {
  it('repeats after one, and stays within 0..1', () => {
    for (const [u, v] of [
      [0.13, 0.77],
      [0.99, 0.01],
      [0.5, 0.5],
    ]) {
      expect(tileNoise(3, u, v, 8, 5)).toBeCloseTo(tileNoise(3, u + 1, v - 1, 8, 5), 9)
      expect(tileFbm(3, u, v, 8, 5, 4)).toBeCloseTo(tileFbm(3, u - 1, v + 1, 8, 5, 4), 9)
      expect(tileCells(3, u, v, 9).nearest).toBeCloseTo(tileCells(3, u + 1, v, 9).nearest, 9)
      expect(tileFbm(3, u, v, 8, 5, 4)).toBeGreaterThanOrEqual(0)
      expect(tileFbm(3, u, v, 8, 5, 4)).toBeLessThanOrEqual(1)
    }
    expect(ramp(0, 1, 2)).toBe(1)
    expect(clamp01(-1)).toBe(0)
  })
})

describe('the demo world', () => {
  it('has what was promised of it', () => {
    expect(TEXTURE_RECIPES.length + CONSTANT_RECIPES.length).toBeGreaterThanOrEqual(20)
    expect(MODEL_RECIPES).toHaveLength(14)
    expect(PLANT_RECIPES).toHaveLength(8)
    expect(SKY_RECIPES).toHaveLength(8)
    expect(new Set(DEMO_PIECES.map(p => `${p.folder}/${p.stem}`)).size).toBe(DEMO_PIECES.length)
  })

  for (const recipe of TEXTURE_RECIPES)
    it(`${recipe.stem} is a sound tiling material`, () => {
      const maps = makeMaps({ ...recipe, sizePx: 256 })
      const subject: MaterialMap[] = maps.map(m => ({
        role: parseMapName(`x_${m.role}.png`).role!,
        path: m.role,
        image: m,
        widthPx: m.width,
        heightPx: m.height,
        bitsPerChannel: m.data instanceof Uint16Array ? 16 : 8,
        byContentOnly: false,
        profile: null,
      }))
      const category = DEMO_PIECES.find(p => p.stem === recipe.stem)!
      const place = category.folder.split('/').at(-1)!.toLowerCase()
      const { facts, findings } = analyseMaterial({ maps: subject, widthMm: recipe.widthMm, category: `surfaces.${place}` })
      expect(findings.filter(f => f.severity !== 'note').map(f => [f.code, f.evidence])).toEqual([])
      expect(facts.normalMapHandedness).not.toBe('directX')
      expect(facts.lrv!).toBeGreaterThan(2)
    })

  it('makes the same pixels every time', () => {
    const recipe = { ...TEXTURE_RECIPES[3], sizePx: 64 }
    expect(makeMaps(recipe)).toEqual(makeMaps(recipe))
  })

  for (const recipe of [...MODEL_RECIPES, ...PLANT_RECIPES])
    it(`${recipe.stem} is a sound model in metres with named parts`, async () => {
      const parts = await recipe.build()
      // Textures are tested by themselves; here the shapes count.
      const bare = parts.map(p => ({
        ...p,
        finish: { ...p.finish, recipe: undefined, color: [0.3, 0.25, 0.2] as [number, number, number] },
      }))
      const model = await parseGlb(await writeGlb({ ...recipe, parts: bare }))
      const { facts, findings } = analyseModel(model, { expectedSizeM: null, triangleBudget: 500_000 })
      expect(findings.filter(f => f.severity !== 'note' && f.code !== 'pivotOffBase').map(f => [f.code, f.subject])).toEqual([])
      expect(facts.parts).toBe(parts.length)
      const largest = Math.max(facts.widthM, facts.heightM, facts.depthM)
      expect(largest).toBeGreaterThan(0.15)
      expect(largest).toBeLessThan(15)
    })

  it.each<[string, string, string, [number, number] | null]>([
    ['Clear_Noon_Lake', 'exterior', 'clear', [-42, 56]],
    ['Low_Sun_Morning', 'exterior', 'lowSun', [68, 7.5]],
    ['Broken_Cloud_Afternoon', 'exterior', 'partlyCloudy', [24, 36]],
    ['Overcast_Soft_Sky', 'exterior', 'overcast', null],
    ['Dusk_Harbour_Sky', 'exterior', 'twilight', null],
    ['Night_Quay_Sky', 'exterior', 'night', null],
    ['Reading_Room_Windows', 'interior', 'none', null],
    ['Studio_Three_Softboxes', 'studio', 'none', null],
  ])('%s is seen as what it was made', (stem, setting, sky, sun) => {
    const recipe = SKY_RECIPES.find(r => r.stem === stem)!
    // The house's habits are no faults: a sky comes with whatever heading and exposure it was taken with.
    const faultsOf = (list: readonly Finding[]) => list.map(f => f.code).filter(code => !HOUSE_HABITS.has(code))
    const { facts, findings } = analyseEnvironment(makeSky({ ...recipe, widthPx: 1024 }))
    expect([facts.setting, facts.sky, facts.sunPresent]).toEqual([setting, sky, sun !== null])
    if (sun) {
      expect(facts.sunAzimuthDeg!).toBeCloseTo(sun[0], 0)
      expect(Math.abs(facts.sunElevationDeg! - sun[1])).toBeLessThan(0.5)
    }
    expect(faultsOf(findings)).toEqual([])
    // At the size it is delivered in, a sun's even disc is several pixels wide, and is no cut-off.
    if (sun) expect(faultsOf(analyseEnvironment(makeSky(recipe)).findings)).toEqual([])
  })
})

describe('deliveries of the demo world', () => {
  let root: string
  beforeAll(async () => {
    root = await mkdtemp(join(tmpdir(), 'muscovite-demo-'))
  })
  afterAll(() => rm(root, { recursive: true, force: true }))

  it('a definition alone is a material, in its category, with its constants', async () => {
    const piece = DEMO_PIECES.find(p => p.stem === 'Glass_Frosted')!
    await makePiece(piece, join(root, 'glass'))
    const { items } = await recognizeDelivery((await collectSources([join(root, 'glass')])).files)
    expect(items).toHaveLength(1)
    expect(items[0]).toMatchObject({
      kind: 'material',
      category: 'surfaces.glass',
      constants: { transmissionWeight: 1, specularIor: 1.52 },
    })
    expect(findCategory(items[0].category)!.prefix).toBe('GLA')
  })

  it('the faulty one has its faults found, and its sound sets kept', async () => {
    const paths = await makeFaultyDelivery(join(root, 'faulty'))
    const { files } = await collectSources([join(root, 'faulty')])
    expect(files).toHaveLength(paths.length)
    const { items, failures, leftOver } = await recognizeDelivery(files)
    const names = items.map(i => i.name)
    for (const name of ['Brick ivory', 'Lime render pale', 'Oak plank smoked', 'Wool twill slate']) expect(names).toContain(name)
    expect(items.length).toBeGreaterThan(35)
    expect(new Set(failures.map(f => f.code))).toEqual(new Set(['emptyFile', 'truncated', 'typeMismatch']))
    expect(leftOver.map(l => l.reason)).toEqual(['document'])
  })
})
