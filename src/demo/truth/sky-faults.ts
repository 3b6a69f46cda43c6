import { luminance } from '#core/color/srgb'
import { rollPanorama } from '#core/environment/fixes/environment-fixes'
import type { FindingCode } from '#core/findings/finding'
import type { FloatImage } from '#core/image/image'
import type { Random } from '#core/math/random'
import { percentile } from '#core/math/statistics'
import { HOUSE_HEADING_DEG } from '#core/standard/categories'
import type { SkyRecipe } from '../skies'

export interface SkyFault {
  code: FindingCode
  entails: FindingCode[]
  fits: (recipe: SkyRecipe) => boolean
  spoil: (map: FloatImage, random: Random, recipe: SkyRecipe) => FloatImage
}

const medianOf = ({ data }: FloatImage): number => {
  const values: number[] = []
  for (let i = 0; i < data.length; i += 3 * 37) values.push(luminance(data[i], data[i + 1], data[i + 2]))
  return percentile(values, 0.5)
}

export const SKY_FAULTS: readonly SkyFault[] = [
  {
    code: 'notTwoToOne',
    entails: [],
    fits: () => true,
    spoil: (map, random) => {
      const height = Math.round(map.height * random.between(0.6, 0.95))
      return { ...map, height, data: map.data.slice(0, map.width * height * 3) }
    },
  },
  {
    code: 'badPixels',
    entails: [],
    fits: () => true,
    spoil: (map, random) => {
      const data = map.data.slice()
      const count = 3 + random.index(60)
      for (let k = 0; k < count; k++) data[random.index(data.length)] = [Number.NaN, -0.5, Number.POSITIVE_INFINITY][k % 3]
      return { ...map, data }
    },
  },
  {
    code: 'fewLevels',
    entails: ['sunClipped'],
    fits: () => true,
    spoil: map => {
      const gain = 0.4 / Math.max(medianOf(map), 1e-6)
      return { ...map, data: map.data.map(v => Math.round(Math.min(1, v * gain) * 255) / 255) }
    },
  },
  {
    code: 'environmentSeam',
    // What is made brighter towards one edge may stand out there as a spot.
    entails: ['sunClipped'],
    fits: () => true,
    spoil: (map, random) => {
      const ramp = random.between(0.6, 1.6)
      return { ...map, data: map.data.map((v, i) => v * (1 + ramp * ((Math.floor(i / 3) % map.width) / map.width))) }
    },
  },
  {
    code: 'sunClipped',
    entails: [],
    fits: ({ sun }) => sun !== null && sun.elevationDeg > 15,
    spoil: (map, random) => {
      const most = medianOf(map) * random.between(15, 60)
      return { ...map, data: map.data.map(v => Math.min(v, most)) }
    },
  },
  {
    code: 'ringingPixels',
    entails: [],
    fits: () => true,
    spoil: (map, random) => {
      const data = map.data.slice()
      const depth = medianOf(map) * 0.02
      const count = 10 + random.index(80)
      for (let k = 0; k < count; k++) data[random.index(data.length)] = -depth * random.between(0.1, 1)
      return { ...map, data }
    },
  },
  {
    code: 'exposureOff',
    entails: [],
    fits: () => true,
    spoil: (map, random) => {
      const gain = 2 ** (random.between(5, 8) * (random.next() < 0.5 ? 1 : -1))
      return { ...map, data: map.data.map(v => v * gain) }
    },
  },
  {
    code: 'headingOff',
    entails: [],
    fits: ({ sun }) => sun !== null && sun.elevationDeg > 15,
    spoil: (map, random, { sun }) => {
      const azimuthDeg = HOUSE_HEADING_DEG + random.between(15, 345)
      return rollPanorama(map, ((azimuthDeg - sun!.azimuthDeg) / 360) * map.width)
    },
  },
]
