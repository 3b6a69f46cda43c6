import { describe, expect, it } from 'vitest'
import { OPEN_PBR_DEFAULTS } from '../material/open-pbr'
import { compareUses, type MaterialUse } from './compare-uses'

const use = (parameters: object = {}, repeatM: number | null = 0.6): MaterialUse => ({
  print: { name: 'oak', stamp: null, parameters: { ...OPEN_PBR_DEFAULTS, ...parameters }, maps: {}, missing: [] },
  repeatM,
})

describe('one material in two scenes', () => {
  it('is the same where nothing that is seen differs', () => {
    expect(compareUses(use(), use(), ['gltf', 'gltf'])).toEqual([])
    expect(compareUses(use({}, 0.6), use({}, 0.605), ['gltf', 'gltf'])).toEqual([])
    expect(compareUses(use({}, 0.6), use({}, null), ['gltf', 'gltf'])).toEqual([])
  })

  it('is told apart by its parameters and by how large it is laid, from the other to this one', () => {
    expect(compareUses(use({ specularRoughness: 0.5 }, 1.2), use({ specularRoughness: 0.3 }), ['gltf', 'gltf'])).toEqual([
      { what: 'specularRoughness', from: 0.3, to: 0.5 },
      { what: 'repeat', from: '600 mm', to: '1.2 m' },
    ])
  })

  it('is not told apart by what the form of one of them cannot hold', () => {
    const coated = use({ coatWeight: 1 })
    expect(compareUses(coated, use(), ['gltf', 'gltf'])).toHaveLength(1)
    expect(compareUses(coated, use(), ['gltf', 'obj'])).toEqual([])
    expect(compareUses(use(), coated, ['usd', 'gltf'])).toEqual([])
    // It can hold a coat, only not every program writes it.
    expect(compareUses(coated, use(), ['obj', 'gltf'])).toHaveLength(1)
  })
})
