import { ClampToEdgeWrapping, DoubleSide, FrontSide, LinearSRGBColorSpace, RepeatWrapping, SRGBColorSpace } from 'three'
import { beforeAll, describe, expect, it, vi } from 'vitest'
import { createMaterial, type OpenPbrParameters } from '#core/material/open-pbr'
import { NO_SHIFT } from '#core/material/shift'
import { isGlass, toThreeMaterial } from './three-material'

beforeAll(() => {
  vi.spyOn(HTMLCanvasElement.prototype, 'getContext').mockReturnValue(null)
})

/** Three.js only passes a picture on. */
const bitmap = () => ({ width: 4, height: 4, close: () => {} }) as ImageBitmap
type Rest = Parameters<typeof createMaterial>[2]
const drawn = (parameters: Partial<OpenPbrParameters>, rest?: Rest, images: ImageBitmap[] = []) =>
  toThreeMaterial({ material: createMaterial('x', parameters, rest), images }, false)

describe('a material as a raster draws it', () => {
  it('has the constants of one without maps', () => {
    const three = drawn({
      baseColor: [0.2, 0.4, 0.6],
      specularRoughness: 0.35,
      baseMetalness: 1,
      specularIor: 1.7,
      coatWeight: 0.5,
    })
    expect([three.color.r, three.color.g, three.color.b]).toEqual([0.2, 0.4, 0.6].map(v => expect.closeTo(v, 6)))
    expect(three).toMatchObject({ roughness: 0.35, metalness: 1, ior: 1.7, clearcoat: 0.5, map: null, alphaTest: 0 })
  })

  it('has its maps, each as what it is: a colour, figures, and rows from the top', () => {
    const bound = (image: number) => ({ image, channel: 0 as const })
    const textures = {
      baseColor: bound(0),
      specularRoughness: bound(1),
      geometryNormal: { ...bound(2), handedness: 'openGl' as const },
    }
    const three = drawn({ specularRoughness: 0.2 }, { textures }, [bitmap(), bitmap(), bitmap()])
    expect(three.map).toMatchObject({ colorSpace: SRGBColorSpace, wrapS: RepeatWrapping, flipY: false })
    expect(three.roughnessMap).toMatchObject({ colorSpace: LinearSRGBColorSpace })
    // What the map says is not weakened by the constant.
    expect(three.roughness).toBe(1)
    expect(three.normalScale).toMatchObject({ x: 1, y: -1 })
    const other = drawn({}, { textures: { geometryNormal: { ...textures.geometryNormal, handedness: 'directX' } } }, [
      bitmap(),
      bitmap(),
      bitmap(),
    ])
    expect(other.normalScale).toMatchObject({ x: 1, y: 1 })
  })

  it('of what stands once has edges that go on', () => {
    const three = drawn({}, { tiling: 'once', textures: { baseColor: { image: 0, channel: 0 } } }, [bitmap()])
    expect(three.map).toMatchObject({ wrapS: ClampToEdgeWrapping, wrapT: ClampToEdgeWrapping })
  })

  it('is cut out by a map of its own, or by the fourth channel of its colour', () => {
    const own = drawn({}, { textures: { geometryOpacity: { image: 0, channel: 0 } } }, [bitmap()])
    expect(own.alphaTest).toBe(0.5)
    expect(own.alphaMap).not.toBeNull()
    const ofColor = drawn({}, { textures: { baseColor: { image: 0, channel: 0 }, geometryOpacity: { image: 0, channel: 3 } } }, [
      bitmap(),
    ])
    expect(ofColor.alphaTest).toBe(0.5)
    expect(ofColor.alphaMap).toBeNull()
  })

  it('of glass is seen through, in the colour that light has behind it', () => {
    const glass = { transmissionWeight: 1, transmissionColor: [0.7, 0.9, 0.8] as [number, number, number] }
    expect(isGlass(createMaterial('x', glass))).toBe(true)
    expect(isGlass(createMaterial('x', {}))).toBe(false)
    const three = drawn({ ...glass, baseColor: [1, 0, 0] })
    expect(three.transparent).toBe(true)
    expect(three.color.g).toBeCloseTo(0.9, 6)
  })

  it('that shines is shown no brighter than a screen can', () => {
    expect(drawn({ emissionLuminance: 2, emissionColor: [1, 1, 1] }).emissiveIntensity).toBe(2)
    expect(drawn({ emissionLuminance: 900, emissionColor: [1, 1, 1] }).emissiveIntensity).toBe(4)
  })

  it('is made once for each way it is looked at', () => {
    const look = { material: createMaterial('x'), images: [] }
    const [whole, wall] = [toThreeMaterial(look, false), toThreeMaterial(look, true)]
    expect(toThreeMaterial(look, false)).toBe(whole)
    expect(toThreeMaterial(look, true)).toBe(wall)
    expect([whole.side, wall.side]).toEqual([DoubleSide, FrontSide])
  })

  it('that is shifted as a whole has its maps times the factors', () => {
    const textures = { baseColor: { image: 0, channel: 0 as const }, geometryNormal: { image: 1, channel: 0 as const } }
    const shift = { ...NO_SHIFT, tint: [0.5, 0.5, 0.5] as [number, number, number], relief: 2, roughness: 0.25 }
    const look = { material: createMaterial('x', { specularRoughness: 0.4 }, { textures }), images: [bitmap(), bitmap()], shift }
    const three = toThreeMaterial(look, false)
    expect(three.color.r).toBeCloseTo(0.5, 6)
    expect(Math.abs(three.normalScale.y)).toBe(2)
    // Without a map of it the constant is shifted already.
    expect(three.roughness).toBe(0.4)
  })
})
