import { Document } from '@gltf-transform/core'
import { describe, expect, it } from 'vitest'
import { FileError } from '../findings/failure'
import { parseGlb } from '../geometry/read-gltf'
import { createMaterial, dispersionOf, type OpenPbrParameters, parametersOfDispersion } from '../material/open-pbr'
import { passThroughTarget } from './fidelity'
import { addGltfMaterial, createSamplePatch, readGltfBinary, writeGltfBinary } from './gltf'
import { parseMaterialX } from './materialx/read-materialx'
import { writeMaterialX } from './materialx/write-materialx'
import { writeMtl } from './obj-mtl'
import { writeUsdPreviewSurface } from './usd/usd-preview-surface'

describe('MaterialX', () => {
  const glass = createMaterial('Glass "clear" & thin', {
    transmissionWeight: 1,
    specularIor: 1.52,
    transmissionColor: [0.86, 0.94, 0.92],
    transmissionDepth: 0.05,
    geometryThinWalled: true,
  })

  it('carries every constant there and back', () => {
    const { parameters } = parseMaterialX(writeMaterialX(glass, new Map()))
    expect(parameters).toEqual({
      transmissionWeight: 1,
      specularIor: 1.52,
      transmissionColor: [0.86, 0.94, 0.92],
      transmissionDepth: 0.05,
      geometryThinWalled: true,
    })
  })

  it('names files relative, and states the real size of a repeat', () => {
    const oak = createMaterial(
      'oak',
      {},
      {
        textures: { baseColor: { image: 0, channel: 0 }, specularRoughness: { image: 1, channel: 0, inverted: true } },
        tileSizeM: [0.6, 0.3],
      },
    )
    const text = writeMaterialX(
      oak,
      new Map([
        [0, 'textures/a & b.png'],
        [1, 'textures/gloss.png'],
      ]),
    )
    const parsed = parseMaterialX(text)
    expect(parsed.files.sort()).toEqual(['textures/a & b.png', 'textures/gloss.png'])
    expect(parsed.tileSizeM).toEqual([0.6, 0.3])
    expect(text).toContain('<invert ')
  })

  it('refuses what is no MaterialX, and declares no entities', () => {
    for (const text of [
      '',
      '<materialx>',
      '<materialx version="1.39"></materialx>',
      '<!DOCTYPE x [<!ENTITY a "b">]><materialx/>',
      'words',
    ])
      expect(() => parseMaterialX(text)).toThrow(FileError)
  })
})

describe('what lies beneath a surface', () => {
  const onyx = { subsurfaceWeight: 0.8, subsurfaceColor: [0.9, 0.7, 0.4] as [number, number, number], subsurfaceRadius: 0.012 }

  it('goes there and back in MaterialX, and says that there is no depth where there is none', () => {
    const there = (parameters: Partial<OpenPbrParameters>) =>
      createMaterial('back', parseMaterialX(writeMaterialX(createMaterial('onyx', parameters), new Map())).parameters).parameters
    const deep = { ...onyx, subsurfaceRadiusScale: [1, 0.6, 0.3] as [number, number, number], subsurfaceScatterAnisotropy: 0.4 }
    expect(there(deep)).toMatchObject(deep)
    // To the standard a free path that is not given is a metre.
    const text = writeMaterialX(createMaterial('paint', { ...onyx, subsurfaceRadius: 0 }), new Map())
    expect(text).toContain('name="subsurface_radius" type="float" value="0"')
    expect(writeMaterialX(createMaterial('plain'), new Map())).not.toContain('subsurface')
  })

  it('is told as lost where a target has no words for it, and dispersion only where it becomes another', async () => {
    expect((await passThroughTarget(createMaterial('onyx', onyx), 'gltf')).lost).toContain('subsurfaceRadius')
    const crystal = createMaterial('crystal', {
      transmissionWeight: 1,
      transmissionDepth: 0.1,
      transmissionDispersionScale: 0.5,
      transmissionDispersionAbbeNumber: 15,
    })
    const { lost, material } = await passThroughTarget(crystal, 'gltf')
    expect(lost.filter(name => /Dispersion/.test(name))).toEqual([])
    expect(dispersionOf(material.parameters)).toBeCloseTo(20 / 30, 5)
    expect((await passThroughTarget(crystal, 'objMtl')).lost).toContain('transmissionDispersionScale')
    for (const strength of [0.2, 1, 3])
      expect(dispersionOf(createMaterial('x', parametersOfDispersion(strength)).parameters)).toBeCloseTo(strength, 6)
    expect(parametersOfDispersion(0)).toEqual({})
  })
})

describe('glTF', () => {
  it('carries what it can there and back', async () => {
    const source = createMaterial('lacquer', {
      baseColor: [0.2, 0.4, 0.6],
      baseMetalness: 0,
      specularRoughness: 0.35,
      specularIor: 1.6,
      specularWeight: 0.5,
      transmissionWeight: 1,
      transmissionColor: [0.3, 0.6, 0.5],
      transmissionDepth: 0.06,
    })
    const bytes = await writeGltfBinary(
      createSamplePatch({ ...source, tileSizeM: [0.4, 0.2] }, {}, { code: 'GLA-0001', version: 3 }),
    )
    const { materials, parts } = await parseGlb(bytes)
    expect(materials[0].name).toBe('lacquer')
    const p = materials[0].parameters
    expect(p.specularRoughness).toBeCloseTo(0.35, 5)
    expect(p.specularIor).toBeCloseTo(1.6, 5)
    expect(p.specularWeight).toBeCloseTo(0.5, 5)
    expect(p.transmissionWeight).toBe(1)
    p.transmissionColor.forEach((v, i) => {
      expect(v).toBeCloseTo(source.parameters.transmissionColor[i], 5)
    })
    expect(p.transmissionDepth).toBeCloseTo(0.06, 5)
    expect(parts[0].mesh.positions.reduce((a, b) => Math.max(a, b))).toBeCloseTo(0.2, 5)
  })

  it('is stamped with code and version', async () => {
    const bytes = await writeGltfBinary(createSamplePatch(createMaterial('x'), {}, { code: 'TIM-0001', version: 2 }))
    const asset = (await readGltfBinary(bytes)).getRoot().getAsset()
    expect(asset.extras).toMatchObject({ muscovite: { code: 'TIM-0001', version: 2 } })
  })
})

describe('a picture that stands once', () => {
  const files = new Map([[0, 'rug.png']])
  const rug = (tiling: 'repeat' | 'once') =>
    createMaterial('rug', {}, { textures: { baseColor: { image: 0, channel: 0 } }, tileSizeM: [2, 3], tiling })

  it('is held at its edges in every target, and what repeats is not', async () => {
    expect(writeMaterialX(rug('once'), files)).toContain('name="uaddressmode" type="string" value="clamp"')
    expect(writeMaterialX(rug('repeat'), files)).not.toContain('clamp')
    expect(writeUsdPreviewSurface(rug('once'), files)).toContain('inputs:wrapS = "clamp"')
    expect(writeUsdPreviewSurface(rug('repeat'), files)).toContain('inputs:wrapS = "repeat"')
    expect(writeMtl(rug('once'), files)).toContain('map_Kd -clamp on rug.png')
    expect(writeMtl(rug('repeat'), files)).toContain('map_Kd rug.png')
    const wrapOf = async (tiling: 'repeat' | 'once') => {
      const document = new Document()
      document.createBuffer()
      addGltfMaterial(document, rug(tiling), {
        baseColor: { name: 'rug', bytes: Uint8Array.from([0x89, 0x50, 0x4e, 0x47]), mediaType: 'image/png' },
      })
      const [material] = document.getRoot().listMaterials()
      return material.getBaseColorTextureInfo()!.getWrapS()
    }
    expect([await wrapOf('once'), await wrapOf('repeat')]).toEqual([33071, 10497])
  })
})
