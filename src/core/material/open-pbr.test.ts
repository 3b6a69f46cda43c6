import { describe, expect, it } from 'vitest'
import { tokenizeName } from '../file-names'
import { FileError, toFailure } from '../findings/failure'
import { createFinding, FINDING_SEVERITY } from '../findings/finding'
import { buildMaterialFromMaps } from './build-material'
import { createMaterial, OPEN_PBR_DEFAULTS } from './open-pbr'
import { MAP_ROLES } from './texture-set'

describe('createMaterial', () => {
  it('takes what is given, keeps defaults for the rest, and never lets undefined win', () => {
    const material = createMaterial('oak', { specularRoughness: 0.2, specularIor: undefined })
    expect(material.parameters).toEqual({ ...OPEN_PBR_DEFAULTS, specularRoughness: 0.2 })
    expect(material).toMatchObject({ name: 'oak', textures: {}, tileSizeM: null })
  })

  it('never changes the defaults', () => {
    const before = structuredClone(OPEN_PBR_DEFAULTS)
    createMaterial('x', { baseColor: [1, 0, 0] }).parameters.baseWeight = 0.1
    expect(OPEN_PBR_DEFAULTS).toEqual(before)
  })
})

describe('a material from its maps', () => {
  it('has a place for every role', () => {
    for (const role of MAP_ROLES) {
      const material = buildMaterialFromMaps('x', [{ role, image: 0 }], [1, 1])
      // A specular map belongs to another workflow, and is kept as a file only.
      expect(Object.keys(material.textures).length).toBeGreaterThan(role === 'specular' ? -1 : 0)
    }
  })

  it('glows only when there is a map for it, and takes constants where there is none', () => {
    expect(buildMaterialFromMaps('x', [{ role: 'emission', image: 0 }], null).parameters.emissionLuminance).toBeGreaterThan(0)
    const plain = buildMaterialFromMaps('x', [], [2, 1], { specularRoughness: 0.1, baseColor: [0.2, 0.3, 0.4] })
    expect(plain.parameters).toMatchObject({ emissionLuminance: 0, specularRoughness: 0.1, baseColor: [0.2, 0.3, 0.4] })
    expect(plain.tileSizeM).toEqual([2, 1])
    expect(buildMaterialFromMaps('x', [], null).parameters.specularRoughness).toBe(0.5)
  })

  it('keeps the handedness of its normal map', () => {
    expect(
      buildMaterialFromMaps('x', [{ role: 'normal', image: 3, handedness: 'directX' }], null).textures.geometryNormal,
    ).toEqual({
      image: 3,
      channel: 0,
      handedness: 'directX',
    })
  })
})

describe('names', () => {
  it.each([
    ['Oak_Plank-BaseColor_2K.png', ['oak', 'plank', 'base', 'color', '2k']],
    ['a/b/brickWall4k.exr', ['brick', 'wall', '4k']],
    ['Linen (flax).tif', ['linen', 'flax']],
    ['no-extension', ['no', 'extension']],
  ])('%s', (path, words) => {
    expect(tokenizeName(path)).toEqual(words)
  })
})

describe('findings and failures', () => {
  it('a finding has the severity of its code, and a subject only where there is one', () => {
    expect(createFinding('tileSeam', { axis: 'x' })).toEqual({
      code: 'tileSeam',
      severity: FINDING_SEVERITY.tileSeam,
      evidence: { axis: 'x' },
    })
    expect(createFinding('normalFlat', {}, 'normal.png')).toMatchObject({ subject: 'normal.png', severity: 'note' })
  })

  it('an expected failure keeps its sentence; anything else says nothing of the inside', () => {
    expect(toFailure(new FileError('truncated', 'It ends early.'))).toEqual({ code: 'truncated', message: 'It ends early.' })
    expect(toFailure(new TypeError('x of undefined'))).toEqual({
      code: 'unreadable',
      message: 'The file could not be read; it may be damaged.',
    })
  })
})
