import { describe, expect, it } from 'vitest'
import { decodeSrgb, encodeSrgb, SRGB_TO_LINEAR } from '../color/srgb'
import type { ByteImage, Image } from '../image/image'
import { createRandom } from '../math/random'
import { createMaterial } from './open-pbr'
import {
  isShifted,
  joinTint,
  NO_SHIFT,
  shiftColors,
  shiftMaps,
  shiftNormals,
  shiftParameters,
  shiftValues,
  splitTint,
} from './shift'

const random = createRandom(5)
const noise = (channels: number, size = 8): ByteImage => ({
  width: size,
  height: size,
  channels,
  data: Uint8Array.from({ length: size * size * channels }, () => Math.floor(random.next() * 256)),
})

describe('a shifted material', () => {
  it('has colours times the tint in linear light, at 8 and 16 bits and in floats alike', () => {
    const image = noise(4)
    const halved = shiftColors(image, [0.5, 1, 2])
    for (let i = 0; i < image.data.length; i += 4) {
      expect(halved.data[i]).toBe(Math.round(encodeSrgb(SRGB_TO_LINEAR[image.data[i]] * 0.5) * 255))
      expect(halved.data[i + 1]).toBe(image.data[i + 1])
      expect(SRGB_TO_LINEAR[halved.data[i + 2]]).toBeCloseTo(Math.min(1, SRGB_TO_LINEAR[image.data[i + 2]] * 2), 1)
      expect(halved.data[i + 3]).toBe(image.data[i + 3])
    }
    const deep: Image<Uint16Array> = { width: 1, height: 1, channels: 3, data: Uint16Array.of(30_000, 30_000, 30_000) }
    const shifted = shiftColors(deep, [0.25, 1, 1]).data
    expect(decodeSrgb(shifted[0] / 65535) / decodeSrgb(30_000 / 65535)).toBeCloseTo(0.25, 4)
    const floats: Image<Float32Array> = { width: 1, height: 1, channels: 3, data: Float32Array.of(0.5, 4, 1) }
    expect([...shiftColors(floats, [2, 2, 2]).data]).toEqual([1, 8, 2])
  })

  it('takes a grey picture by the light of the tint alone', () => {
    const grey: ByteImage = { width: 1, height: 1, channels: 1, data: Uint8Array.of(128) }
    expect(shiftColors(grey, [1, 0, 0]).data[0]).toBe(Math.round(encodeSrgb(SRGB_TO_LINEAR[128] * 0.2126) * 255))
  })

  it('has roughness times a factor, of gloss too, and in its own channel alone', () => {
    const image = noise(3)
    const rougher = shiftValues(image, 1.5, 1)
    const fromGloss = shiftValues(image, 0.5, 0, true)
    for (let i = 0; i < image.data.length; i += 3) {
      expect(Math.abs(rougher.data[i + 1] - Math.min(255, image.data[i + 1] * 1.5))).toBeLessThanOrEqual(0.501)
      expect([rougher.data[i], rougher.data[i + 2]]).toEqual([image.data[i], image.data[i + 2]])
      expect(Math.abs(255 - fromGloss.data[i] - (255 - image.data[i]) * 0.5)).toBeLessThanOrEqual(0.501)
    }
  })

  it('has slopes that are so many times as steep, of length one, whichever way green points', () => {
    const z = Math.sqrt(1 - 0.3 ** 2 - 0.2 ** 2)
    const codes = [0.3, -0.2, z].map(v => Math.round(((v + 1) / 2) * 65535))
    const map: Image<Uint16Array> = { width: 1, height: 1, channels: 3, data: Uint16Array.from(codes) }
    const [x, y, up] = [...shiftNormals(map, 2).data].map(v => (v / 65535) * 2 - 1)
    expect(x / up).toBeCloseTo((0.3 / z) * 2, 3)
    expect(y / up).toBeCloseTo((-0.2 / z) * 2, 3)
    expect(Math.hypot(x, y, up)).toBeCloseTo(1, 3)
    expect(shiftNormals(map, 0).data[2]).toBe(65535)
  })

  it('leaves to the other slots what they share with the one that is shifted', () => {
    const packed = noise(3)
    const material = createMaterial(
      'm',
      {},
      {
        textures: {
          specularRoughness: { image: 0, channel: 1 },
          baseMetalness: { image: 0, channel: 2 },
          displacement: { image: 1, channel: 0 },
        },
        tileSizeM: [2, 2],
      },
    )
    const shift = { ...NO_SHIFT, roughness: 0.5, relief: 3 }
    const { material: made, images } = shiftMaps(shiftParameters(material, shift), [packed, noise(1)], shift)
    expect(made.textures.specularRoughness).toEqual({ image: 2, channel: 1 })
    expect(made.textures.baseMetalness).toEqual({ image: 0, channel: 2 })
    expect(images[0]).toBe(packed)
    expect(made.reliefM).toBeCloseTo(0.06)
    expect(made.parameters.specularRoughness).toBeCloseTo(0.15)
  })

  it('tells what shifts nothing, and splits a tint into a colour and its light and back', () => {
    expect(isShifted(NO_SHIFT)).toBe(false)
    expect(isShifted({ ...NO_SHIFT, relief: 0.9 })).toBe(true)
    const tint: [number, number, number] = [0.5, 0.25, 0.125]
    const { color, stops } = splitTint(tint)
    expect([color, stops]).toEqual([[1, 0.5, 0.25], -1])
    expect(joinTint({ color, stops })).toEqual(tint)
    expect(splitTint([0, 0, 0]).color).toEqual([1, 1, 1])
  })
})
