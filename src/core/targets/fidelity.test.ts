import { describe, expect, it } from 'vitest'
import { FileError } from '../findings/failure'
import { fromGltfAnisotropy, toGltfAnisotropy } from '../material/gltf-anisotropy'
import { createMaterial, type OpenPbrMaterial } from '../material/open-pbr'
import { TARGETS } from '../standard/target-names'
import { passThroughTarget } from './fidelity'
import { parseMtl, writeMtl } from './obj-mtl'
import { parseUsdPreviewSurface, writeUsdPreviewSurface } from './usd/usd-preview-surface'

const lostIn = async (material: OpenPbrMaterial) =>
  Object.fromEntries(await Promise.all(TARGETS.map(async t => [t, (await passThroughTarget(material, t)).lost] as const)))

describe('a material through each target and back', () => {
  it('a plain one loses nothing anywhere', async () => {
    const plain = createMaterial('plain', { baseColor: [0.4, 0.2, 0.1], specularRoughness: 0.6, baseMetalness: 1 })
    expect(await lostIn(plain)).toEqual({ gltf: [], materialX: [], usdPreviewSurface: [], objMtl: [] })
    for (const target of TARGETS) {
      const { material } = await passThroughTarget(plain, target)
      for (const k of [0, 1, 2]) expect(material.parameters.baseColor[k]).toBeCloseTo(plain.parameters.baseColor[k], 5)
      expect(material.parameters.specularRoughness).toBeCloseTo(0.6, 5)
    }
  })

  it('each loses what it has no word for', async () => {
    const velvet = createMaterial('velvet', { fuzzWeight: 0.8, fuzzColor: [0.5, 0.1, 0.2], fuzzRoughness: 0.3 })
    const lost = await lostIn(velvet)
    expect(lost.materialX).toEqual([])
    expect(lost.usdPreviewSurface).toContain('fuzzWeight')
    expect(lost.objMtl).toEqual(expect.arrayContaining(['fuzzColor', 'fuzzRoughness']))
    const soap = createMaterial('soap', { thinFilmWeight: 1, thinFilmThickness: 0.4 })
    expect((await lostIn(soap)).gltf).toEqual([])
    expect((await lostIn(soap)).objMtl).toContain('thinFilmWeight')
    const plaster = createMaterial('plaster', { baseDiffuseRoughness: 1 })
    const rough = await lostIn(plaster)
    expect(rough.gltf).toEqual(['baseDiffuseRoughness'])
    expect(rough.materialX).toEqual([])
    const lacquer = createMaterial('lacquer', { coatWeight: 1, coatColor: [0.5, 0.2, 0.1], coatRoughness: 0.2 })
    const coated = await lostIn(lacquer)
    expect(coated.gltf).toEqual(expect.arrayContaining(['coatColor', 'coatIor', 'coatDarkening']))
    expect(coated.gltf).not.toContain('coatRoughness')
  })

  it('brushed metal keeps its stretch and its grain in glTF', async () => {
    const steel = createMaterial('steel', {
      baseMetalness: 1,
      specularRoughness: 0.4,
      specularRoughnessAnisotropy: 0.7,
      geometryTangentRotation: 0.25,
    })
    expect((await lostIn(steel)).gltf).toEqual([])
    for (const roughness of [0.1, 0.3, 0.5])
      for (const anisotropy of [0.1, 0.5, 0.9]) {
        const there = toGltfAnisotropy(roughness, anisotropy)
        const back = fromGltfAnisotropy(there.roughness, there.strength)
        expect(back.roughness).toBeCloseTo(roughness, 6)
        expect(back.anisotropy).toBeCloseTo(anisotropy, 6)
      }
  })

  it('maps come along where there is a place for them', async () => {
    const mapped = createMaterial(
      'mapped',
      {},
      {
        textures: {
          baseColor: { image: 0, channel: 0 },
          specularRoughness: { image: 1, channel: 0 },
          geometryNormal: { image: 2, channel: 0, handedness: 'openGl' },
          displacement: { image: 3, channel: 0 },
          ambientOcclusion: { image: 4, channel: 0 },
        },
        tileSizeM: [0.6, 0.6],
      },
    )
    const { material, lost } = await passThroughTarget(mapped, 'usdPreviewSurface')
    expect(Object.keys(material.textures).sort()).toEqual(['baseColor', 'geometryNormal', 'specularRoughness'])
    expect(lost).toEqual(['displacement'])
    expect((await passThroughTarget(mapped, 'objMtl')).lost).toEqual([])
    // The metalness that no map gives is packed beside the roughness.
    expect((await passThroughTarget(mapped, 'gltf')).lost).toEqual(['displacement'])
  })
})

describe('UsdPreviewSurface and MTL as files', () => {
  const files = new Map([[0, 'textures/oak.png']])
  const oak = createMaterial('Oak plank 1', {}, { textures: { baseColor: { image: 0, channel: 0 } }, tileSizeM: [1, 1] })

  it('name their textures, and say in which space they are', () => {
    const usd = writeUsdPreviewSurface(oak, files)
    expect(usd).toContain('asset inputs:file = @textures/oak.png@')
    expect(usd).toContain('token inputs:sourceColorSpace = "sRGB"')
    expect(usd).toContain('inputs:diffuseColor.connect = </Oak_plank_1/baseColor.outputs:rgb>')
    expect(usd).not.toMatch(/inputs:diffuseColor = /)
    expect(writeMtl(oak, files)).toContain('map_Kd textures/oak.png')
  })

  it('refuse what is none of theirs', () => {
    for (const text of ['', 'words', '<xml/>', '#usda 1.0\n']) expect(() => parseUsdPreviewSurface(text)).toThrow(FileError)
    for (const text of ['', 'Kd 1 1 1', '# a comment']) expect(() => parseMtl(text)).toThrow(FileError)
    expect(parseMtl('newmtl a\nKd x y z\nPr 0.25\nnewmtl b\nPr 0.9\n')).toMatchObject({ specularRoughness: 0.25, coatWeight: 0 })
  })

  it('light that a lamp gives keeps its strength', () => {
    const lamp = createMaterial('lamp', { emissionLuminance: 1500, emissionColor: [1, 0.8, 0.5] })
    for (const back of [parseUsdPreviewSurface(writeUsdPreviewSurface(lamp, new Map())), parseMtl(writeMtl(lamp, new Map()))]) {
      expect(back.emissionLuminance).toBeCloseTo(1500, 2)
      expect(back.emissionColor![2]).toBeCloseTo(0.5, 4)
    }
  })
})
