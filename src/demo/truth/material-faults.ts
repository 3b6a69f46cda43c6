import sharp from 'sharp'
import { linearToSrgbByte, SRGB_TO_LINEAR } from '#core/color/srgb'
import type { FindingCode } from '#core/findings/finding'
import type { Random } from '#core/math/random'
import { MAP_BUDGET_PX } from '#core/standard/categories'
import { encodeMap } from '../make-file'
import type { RawMap, TextureRecipe } from '../texture-set'

/** A map on its way to a file: its pixels, and how the file is called and marked. */
export interface MapFile {
  map: RawMap
  /** What the file's name says its role is. */
  word: string
  profile: 'p3' | null
}

/** One thing that can be wrong with a set of maps, and what else it then is. */
export interface MaterialFault {
  code: FindingCode
  /** Findings that follow from it, or may: neither right nor wrong. */
  entails: FindingCode[]
  fits: (recipe: TextureRecipe, maps: readonly RawMap[]) => boolean
  spoil: (files: MapFile[], random: Random) => Promise<MapFile[]> | MapFile[]
}

const has = (maps: readonly RawMap[], role: RawMap['role']) => maps.some(m => m.role === role)
function meanOf({ data }: RawMap): number {
  let sum = 0
  for (const v of data) sum += v
  return sum / data.length
}

const change = (files: MapFile[], role: RawMap['role'], turn: (map: RawMap) => RawMap): MapFile[] =>
  files.map(f => (f.map.role === role ? { ...f, map: turn(f.map) } : f))

const eachValue = (map: RawMap, turn: (value: number, index: number) => number): RawMap => {
  const top = map.data instanceof Uint16Array ? 65535 : 255
  return { ...map, data: map.data.map((v, i) => Math.min(top, Math.max(0, Math.round(turn(v, i))))) } as RawMap
}

async function resize(map: RawMap, width: number, height: number): Promise<RawMap> {
  const isDeep = map.data instanceof Uint16Array
  const { data } = await sharp(map.data, { raw: { width: map.width, height: map.height, channels: map.channels } })
    .resize(width, height, { fit: 'fill' })
    .toColourspace(map.channels === 1 ? (isDeep ? 'grey16' : 'b-w') : 'srgb')
    .raw({ depth: isDeep ? 'ushort' : 'uchar' })
    .toBuffer({ resolveWithObject: true })
  return {
    ...map,
    width,
    height,
    data: isDeep ? new Uint16Array(data.buffer.slice(data.byteOffset, data.byteOffset + data.byteLength)) : new Uint8Array(data),
  }
}

/** A part of the picture, as somebody cuts it out who does not think of tiling, brought back to the old size. */
async function cutOut(map: RawMap, share: number): Promise<RawMap> {
  const width = Math.round(map.width * share)
  const height = Math.round(map.height * share)
  const data =
    map.data instanceof Uint16Array
      ? new Uint16Array(width * height * map.channels)
      : new Uint8Array(width * height * map.channels)
  for (let y = 0; y < height; y++) {
    const from = y * map.width * map.channels
    data.set(map.data.subarray(from, from + width * map.channels), y * width * map.channels)
  }
  return resize({ ...map, width, height, data }, map.width, map.height)
}

export const MATERIAL_FAULTS: readonly MaterialFault[] = [
  {
    code: 'normalDirectX',
    entails: [],
    fits: () => true,
    spoil: files => change(files, 'normal', m => eachValue(m, (v, i) => (i % 3 === 1 ? 255 - v : v))),
  },
  {
    code: 'normalNotUnitLength',
    entails: [],
    fits: () => true,
    spoil: (files, random) => {
      const share = random.between(0.6, 0.85)
      return change(files, 'normal', m => eachValue(m, v => 127.5 + (v - 127.5) * share))
    },
  },
  {
    code: 'normalFlat',
    entails: [],
    fits: () => true,
    spoil: files => change(files, 'normal', m => eachValue(m, (_, i) => (i % 3 === 2 ? 255 : 128))),
  },
  {
    code: 'glossAsRoughness',
    entails: [],
    // Where the category's usual roughness leaves no doubt.
    fits: ({ folder }, maps) =>
      /Textiles|Plaster|Masonry|Timber/.test(folder) && meanOf(maps.find(m => m.role === 'roughness')!) / 255 > 0.8,
    spoil: files => change(files, 'roughness', m => eachValue(m, v => 255 - v)),
  },
  {
    code: 'albedoOutOfRange',
    entails: ['colorLooksLinear'],
    fits: ({ hasMetal }) => !hasMetal,
    spoil: (files, random) => {
      const darker = random.between(0.02, 0.08)
      const isBright = random.next() < 0.4
      return change(files, 'basecolor', m => eachValue(m, v => (isBright ? 244 + (v / 255) * 11 : v * darker)))
    },
  },
  {
    code: 'bakedLight',
    entails: ['tileSeam', 'albedoOutOfRange'],
    fits: ({ hasMetal }) => !hasMetal,
    spoil: (files, random) => {
      const [a, b] = [random.between(0.35, 0.6), random.between(0, 0.3)]
      const [p, q] = [random.between(0, 2 * Math.PI), random.between(0, 2 * Math.PI)]
      return change(files, 'basecolor', m =>
        eachValue(m, (v, i) => {
          const u = (Math.floor(i / 3) % m.width) / m.width
          const w = Math.floor(i / 3 / m.width) / m.height
          const light = Math.exp(a * Math.cos(2 * Math.PI * u + p) + b * Math.sin(2 * Math.PI * w + q) - a / 3)
          return linearToSrgbByte(Math.min(1, SRGB_TO_LINEAR[v] * light))
        }),
      )
    },
  },
  {
    code: 'visibleRepeat',
    entails: ['bakedLight', 'albedoOutOfRange'],
    // On boards and bricks of many tones one more spot is nothing.
    fits: ({ hasMetal, folder }) => !hasMetal && /Textiles|Plaster|Ground/.test(folder),
    spoil: (files, random) => {
      const [u0, v0, radius] = [random.next(), random.next(), random.between(0.06, 0.1)]
      const light = random.between(0.25, 0.45)
      const away = (a: number, b: number) => Math.min(Math.abs(a - b), 1 - Math.abs(a - b))
      return change(files, 'basecolor', m =>
        eachValue(m, (v, i) => {
          const u = (Math.floor(i / 3) % m.width) / m.width
          const w = Math.floor(i / 3 / m.width) / m.height
          const near = Math.exp(-0.5 * ((away(u, u0) ** 2 + away(w, v0) ** 2) / radius ** 2))
          return linearToSrgbByte(SRGB_TO_LINEAR[v] * (1 - near * (1 - light)))
        }),
      )
    },
  },
  {
    code: 'colorLooksLinear',
    entails: ['albedoOutOfRange'],
    // A colour so light that it would pass for a darker one is beyond telling.
    fits: ({ hasMetal }, maps) => {
      const mean = meanOf(maps.find(m => m.role === 'basecolor')!)
      return !hasMetal && mean > 45 && mean < 95
    },
    spoil: files => change(files, 'basecolor', m => eachValue(m, v => SRGB_TO_LINEAR[v] * 255)),
  },
  {
    code: 'colorProfileOther',
    entails: [],
    fits: () => true,
    spoil: files => files.map(f => (f.map.role === 'basecolor' ? { ...f, profile: 'p3' as const } : f)),
  },
  {
    code: 'tileSeam',
    entails: ['bakedLight', 'normalNotUnitLength'],
    // What is nearly one colour has no seam to see.
    fits: ({ folder }) => /Masonry|Stone|Ceramics|Ground/.test(folder),
    spoil: async (files, random) => {
      const share = random.between(0.62, 0.88)
      return Promise.all(files.map(async f => ({ ...f, map: await cutOut(f.map, share) })))
    },
  },
  {
    code: 'mapSizesDisagree',
    // Reduced normals are shorter than 1.
    entails: ['normalNotUnitLength'],
    fits: () => true,
    spoil: async (files, random) => {
      const role = (['normal', 'roughness', 'ao'] as const)[random.index(3)]
      return Promise.all(
        files.map(async f => (f.map.role === role ? { ...f, map: await resize(f.map, f.map.width / 2, f.map.height / 2) } : f)),
      )
    },
  },
  {
    code: 'mapNotPowerOfTwo',
    // Reduced normals are shorter than 1.
    entails: ['normalNotUnitLength'],
    fits: () => true,
    spoil: async (files, random) => {
      const size = 200 + random.index(40)
      return Promise.all(files.map(async f => ({ ...f, map: await resize(f.map, size, size) })))
    },
  },
  {
    code: 'heightBanding',
    entails: [],
    fits: (_, maps) => has(maps, 'height'),
    spoil: (files, random) => {
      const step = 65535 / (8 + random.index(200))
      return change(files, 'height', m => eachValue(m, v => Math.round(v / step) * step))
    },
  },
  {
    code: 'metalnessNotBinary',
    entails: ['albedoOutOfRange'],
    fits: (_, maps) => has(maps, 'metalness'),
    spoil: (files, random) => {
      const grey = random.between(0.3, 0.7) * 255
      return change(files, 'metalness', m => eachValue(m, () => grey))
    },
  },
  {
    code: 'baseColorMissing',
    entails: ['tileSeam'],
    fits: () => true,
    spoil: files => files.filter(f => f.map.role !== 'basecolor'),
  },
  {
    code: 'roleByContentOnly',
    entails: [],
    fits: () => true,
    spoil: files => files.map(f => (f.map.role === 'normal' ? { ...f, word: '' } : f)),
  },
  {
    code: 'mapsOverBudget',
    // Drawn out to one side, normals are shorter than 1 and relief runs one way only.
    entails: ['normalNotUnitLength', 'normalFlat', 'tileSeam'],
    fits: () => true,
    spoil: files => Promise.all(files.map(async f => ({ ...f, map: await resize(f.map, MAP_BUDGET_PX * 2, 128) }))),
  },
  {
    code: 'packedMaps',
    entails: [],
    fits: (_, maps) => has(maps, 'ao') && has(maps, 'roughness'),
    spoil: files => {
      const planeOf = (role: RawMap['role']) => files.find(f => f.map.role === role)?.map.data
      const [ao, roughness, metalness] = [planeOf('ao')!, planeOf('roughness')!, planeOf('metalness')]
      const data = new Uint8Array(ao.length * 3)
      for (let p = 0; p < ao.length; p++) data.set([ao[p], roughness[p], metalness?.[p] ?? 0], p * 3)
      const { width, height } = files[0].map
      const apart: readonly string[] = ['ao', 'roughness', 'metalness']
      return [
        ...files.filter(f => !apart.includes(f.map.role)),
        { map: { role: 'roughness', width, height, channels: 3, data }, word: 'orm', profile: null },
      ]
    },
  },
  {
    code: 'pictureUnfit',
    entails: ['pictureLooksLinear'],
    fits: () => true,
    // A piece of the surface and nothing round it: no preview of a rig looks so.
    spoil: async files => {
      const color = files.find(f => f.map.role === 'basecolor')!
      return [...files, { ...color, map: await resize(color.map, 200, 200), word: 'preview' }]
    },
  },
  {
    code: 'pictureLooksLinear',
    entails: ['pictureUnfit'],
    fits: () => true,
    spoil: files => [...files, { map: drawLinearBall(), word: 'preview', profile: null }],
  },
]

/** A lit ball on a dark ground as a renderer leaves it: linear light in eight bits, without the encoding of a display. */
function drawLinearBall(): RawMap {
  const [width, height, radius] = [400, 250, 105]
  const data = new Uint8Array(width * height * 3)
  for (let y = 0, p = 0; y < height; y++)
    for (let x = 0; x < width; x++, p++) {
      const [dx, dy] = [(x - width / 2) / radius, (y - height / 2) / radius]
      const depth = Math.sqrt(Math.max(0, 1 - dx * dx - dy * dy))
      const lit = Math.max(0, -0.5 * dx - 0.6 * dy + 0.62 * depth)
      const light = dx * dx + dy * dy < 1 ? 0.01 + 0.75 * lit ** 1.4 : 0.13
      data.fill(Math.round(light * 255), p * 3, p * 3 + 3)
    }
  return { role: 'basecolor', width, height, channels: 3, data }
}

export async function encodeMapFile({ map, profile }: MapFile): Promise<Uint8Array> {
  if (!profile) return new Uint8Array(await encodeMap(map))
  const raw = { width: map.width, height: map.height, channels: map.channels }
  return new Uint8Array(await sharp(map.data, { raw }).withIccProfile(profile).png().toBuffer())
}
