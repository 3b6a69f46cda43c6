import { SRGB_TO_LINEAR } from '../../color/srgb'
import type { FloatImage } from '../../image/image'
import { lightTables } from '../../image/reduce'
import { OPEN_PBR_DEFAULTS, type ParameterName, reliefOf } from '../../material/open-pbr'
import type { Camera } from '../film/camera'
import { FILTER_TABLE } from '../film/pixel-filter'
import type { LightGuide } from '../guide/light-guide'
import type { KernelMemory } from '../kernel/kernel-memory'
import { type Backdrop, EnvironmentLight } from '../lights/environment-light'
import { type PhotometricProfile, tabulateProfile } from '../lights/photometric-profile'
import type { Lamp } from '../scene/lamp'
import type { Scene, SceneMaterial, TextureRead } from '../scene/scene'
import type { MipTexture } from '../scene/texture'
import { type AlbedoTable, dielectricTables, perfectMirrorTable } from '../surface/albedo-tables'
import { fuzzAlbedoTable } from '../surface/fuzz'

/**
 * Puts a scene, and what it is looked at by, into the kernel's memory, in the forms that src/kernel/memory.ts and its neighbours describe.
 * Written once for a scene, whatever is rendered of it.
 */

const FILTER = 9728
const REFLECTED_TABLES = 16384
const SCENE_BYTES = 48
const VIEW_BYTES = 192
const ENVIRONMENT_BYTES = 72
const GUIDE_BYTES = 80
const LAMP_BYTES = 72
const MATERIAL_BYTES = 1792
const LIVE_AT = 1280
const READS_AT = 608
const PARAMETERS_BYTES = 512
const MOST_READS = 40
const TEXTURE_BYTES = 24 + 16 * 16
const TABLE_BYTES = (32 * 32 + 32) * 8

/** Where each parameter stands, in the order of the material model; colours take three places. */
const OFFSETS = (() => {
  const offsets = {} as Record<ParameterName, number>
  let at = 0
  for (const [name, value] of Object.entries(OPEN_PBR_DEFAULTS)) {
    offsets[name as ParameterName] = at
    at += Array.isArray(value) ? 24 : 8
  }
  return offsets
})()

/** What a scene's memory holds so far. */
interface Packed {
  /** The address of the scene with the materials and lamps that were put there last. */
  address: number
  materials: Scene['materials']
  lamps: Scene['lamps']
  /** Its header. */
  words: number[]
  lampRoom: number
  srgbTable: number
  halving: HalvingTables
  textures: Map<MipTexture, number>
  /** Every look has a light of its own, and none is kept for having been looked by. */
  environments: WeakMap<EnvironmentLight, number>
  /** Where maps and their tables lie; one that is turned is not put there again. */
  maps: WeakMap<FloatImage, readonly number[]>
}
const packed = new WeakMap<KernelMemory, Packed>()

// Places in the header.
const MATERIALS = 5
const LAMP_COUNT = 6
const LAMPS = 7
const PLAIN_TABLE = 10

/** The address of a scene in its own memory, put there when it is first asked for; later only what of it is another since. */
export function packScene(memory: KernelMemory, scene: Scene): number {
  const known = packed.get(memory)
  if (!known) {
    const all = putScene(memory, scene)
    packed.set(memory, all)
    return all.address
  }
  const { materials, lamps } = known
  known.materials = scene.materials
  known.lamps = scene.lamps
  if (lamps !== scene.lamps) changeLamps(memory, known)
  if (materials !== scene.materials) known.address = putMaterials(memory, known)
  return known.address
}

function putScene(memory: KernelMemory, { positions, normals, uvs, materialOf, uvDensity, materials, lamps }: Scene): Packed {
  putTables(memory)
  const words = [
    putFloats(memory, positions),
    putFloats(memory, normals),
    putFloats(memory, uvs),
    putBytes(memory, bytesOf(materialOf)),
    putFloats(memory, uvDensity),
    0,
    lamps.length,
    putLamps(memory, lamps),
    putTable(memory, perfectMirrorTable()),
    putTable(memory, fuzzAlbedoTable()),
    putDoubles(
      memory,
      Float64Array.from({ length: 256 }, (_, i) => Math.fround(i / 255)),
    ),
  ]
  makeTablesFor(memory)
  const srgbTable = putDoubles(memory, Float64Array.from(SRGB_TO_LINEAR))
  const { light, code } = lightTables()
  const halving = { light: putBytes(memory, bytesOf(light)), code: putBytes(memory, code) }
  const maps = { textures: new Map(), environments: new WeakMap(), maps: new WeakMap() }
  const all: Packed = { address: 0, materials, lamps, words, lampRoom: lamps.length, srgbTable, halving, ...maps }
  all.address = putMaterials(memory, all)
  return all
}

/** Writes other lamps over those before where there is room: whoever traced by them is at an end. */
function changeLamps(memory: KernelMemory, known: Packed): void {
  const { lamps, words, address } = known
  const fits = lamps.length <= known.lampRoom
  words[LAMPS] = putLamps(memory, lamps, fits ? words[LAMPS] : undefined)
  words[LAMP_COUNT] = lamps.length
  if (!fits) known.lampRoom = lamps.length
  new Uint32Array(memory.buffer, address, words.length).set(words)
}

/** Has the tables that the kernel asks for while it traces put into its memory. */
export function makeTablesFor(memory: KernelMemory): void {
  memory.onTable = (key, which) => putTable(memory, tableOf(key / 100, which))
}

/** The materials of a scene, with what of its pictures is not there yet, and its header. */
function putMaterials(memory: KernelMemory, { materials, words, srgbTable, halving, textures }: Packed): number {
  const addressOf = (texture: MipTexture): number => {
    const isInLight = texture.encoding === 'srgb'
    const put =
      textures.get(texture) ??
      putTexture(memory, texture, isInLight ? srgbTable : words[PLAIN_TABLE], isInLight ? halving : PLAIN_HALVING)
    textures.set(texture, put)
    return put
  }
  const at = memory.allocate(SCENE_BYTES)
  words[MATERIALS] = memory.allocate(Math.max(1, materials.length) * MATERIAL_BYTES)
  materials.forEach((material, i) => {
    putMaterial(memory, material, words[MATERIALS] + i * MATERIAL_BYTES, addressOf)
  })
  new Uint32Array(memory.buffer, at, words.length).set(words)
  return at
}

/** How the kernel looks at a scene: camera, background, size, seed, light. */
export interface KernelView {
  position: readonly number[]
  forward: readonly number[]
  right: readonly number[]
  up: readonly number[]
  tanHalfHeight: number
  aspect: number
  background: Backdrop | null
  width: number
  height: number
  seed: number
  environment: EnvironmentLight
  lens?: Camera['lens']
  guide?: LightGuide | null
}

export function packView(memory: KernelMemory, view: KernelView): number {
  const { environments, maps } = packed.get(memory)!
  const addressOf = (light: EnvironmentLight): number => {
    const put = environments.get(light) ?? putEnvironment(memory, light, maps)
    environments.set(light, put)
    return put
  }
  const environment = addressOf(view.environment)
  const { background } = view
  const isMap = background instanceof EnvironmentLight
  const behind = isMap ? addressOf(background) : 0
  const at = memory.allocate(VIEW_BYTES)
  const { position, forward, right, up, tanHalfHeight, aspect, width, height } = view
  const numbers = [
    ...position,
    ...forward,
    ...right,
    ...up,
    tanHalfHeight,
    aspect,
    ...(isMap || !background ? [0, 0, 0] : background),
    isMap ? 2 : background ? 1 : 0,
    width,
    height,
  ]
  new Float64Array(memory.buffer, at, numbers.length).set(numbers)
  new Uint32Array(memory.buffer, at + 160, 2).set([view.seed >>> 0, environment])
  new Float64Array(memory.buffer, at + 168, 2).set([view.lens?.radiusM ?? 0, view.lens?.sharpM ?? 1])
  const guide = view.guide ? putGuide(memory, view.guide) : 0
  new Uint32Array(memory.buffer, at + 184, 2).set([behind, guide])
  return at
}

function tableOf(ior: number, which: number): AlbedoTable {
  const tables = dielectricTables(ior, which !== 0)
  return which === 0 ? tables.reflected : which === 1 ? tables.outside! : tables.inside!
}

function putTables(memory: KernelMemory): void {
  new Float64Array(memory.buffer, FILTER, FILTER_TABLE.length).set(FILTER_TABLE)
  new Uint32Array(memory.buffer, REFLECTED_TABLES, 512 * 3).fill(0)
}

function putTable(memory: KernelMemory, table: AlbedoTable): number {
  const at = memory.allocate(TABLE_BYTES)
  const all = new Float64Array(memory.buffer, at, TABLE_BYTES / 8)
  all.set(table.values)
  all.set(table.means, table.values.length)
  return at
}

function putBytes(memory: KernelMemory, bytes: Uint8Array): number {
  const at = memory.allocate(bytes.length)
  new Uint8Array(memory.buffer, at, bytes.length).set(bytes)
  return at
}
const bytesOf = (numbers: ArrayBufferView<ArrayBufferLike>): Uint8Array =>
  new Uint8Array(numbers.buffer, numbers.byteOffset, numbers.byteLength)
const putFloats = (memory: KernelMemory, given: Float32Array): number => putBytes(memory, bytesOf(given))
const putDoubles = (memory: KernelMemory, given: Float64Array): number => putBytes(memory, bytesOf(given))

/** Addresses of what levels are halved by; see the kernel's `halve`. */
interface HalvingTables {
  light: number
  code: number
}
const PLAIN_HALVING: HalvingTables = { light: 0, code: 0 }

/** A picture, and its levels, which the kernel makes of it. */
function putTexture(
  memory: KernelMemory,
  { image, repeats, maxLevel }: MipTexture,
  table: number,
  { light, code }: HalvingTables,
): number {
  const { channels } = image
  const at = memory.allocate(TEXTURE_BYTES)
  const levels = [{ address: putBytes(memory, image.data), width: image.width, height: image.height }]
  while (levels.length <= maxLevel) {
    const { address: from, width, height } = levels[levels.length - 1]
    const [halfWidth, halfHeight] = [Math.max(1, width >> 1), Math.max(1, height >> 1)]
    const address = memory.allocate(halfWidth * halfHeight * channels)
    memory.kernel.halve(from, width, height, channels, address, light, code)
    levels.push({ address, width: halfWidth, height: halfHeight })
  }
  new Uint32Array(memory.buffer, at, 4).set([maxLevel, repeats ? 1 : 0, table, channels])
  new Float64Array(memory.buffer, at + 16, 1)[0] = Math.max(image.width, image.height)
  const list = new Uint32Array(memory.buffer, at + 24, levels.length * 4)
  levels.forEach(({ address, width, height }, i) => {
    list.set([address, width, height], i * 4)
  })
  return at
}

function putMaterial(
  memory: KernelMemory,
  { source, colors, scalars, normal, height, opacity }: SceneMaterial,
  at: number,
  addressOf: (texture: MipTexture) => number,
): void {
  const of = (read: TextureRead | null): number => (read ? addressOf(read.texture) : 0)
  const reads = [...colors, ...scalars].slice(0, MOST_READS)
  const addresses = reads.map(r => addressOf(r.texture))
  const [normalAt, heightAt, opacityAt] = [of(normal), of(height), of(opacity)]
  const numbers = new Float64Array(memory.buffer, at, READS_AT / 8)
  const live = new Float64Array(memory.buffer, at + LIVE_AT, PARAMETERS_BYTES / 8)
  for (const [name, value] of Object.entries(source.parameters)) {
    const offset = OFFSETS[name as ParameterName]
    if (offset === undefined) continue
    const list = Array.isArray(value) ? value : [Number(value)]
    numbers.set(list, offset / 8)
    live.set(list, offset / 8)
  }
  const words = new Uint32Array(memory.buffer, at + 512, 10)
  words.set([
    Math.min(colors.length, MOST_READS),
    reads.length - Math.min(colors.length, MOST_READS),
    normalAt,
    normal?.binding.handedness === 'directX' ? 1 : 0,
    heightAt,
    height?.binding.channel ?? 0,
    opacityAt,
    opacity?.binding.channel ?? 0,
    colors.some(r => r.name === 'emissionColor') ? 1 : 0,
    colors.length > 0 && !colors.some(r => r.name === 'subsurfaceColor') ? 1 : 0,
  ])
  const tile = source.tileSizeM ?? [1, 1]
  const relief = reliefOf(source)
  new Float64Array(memory.buffer, at + 560, 2).set([relief / tile[0], relief / tile[1]])
  const list = new Uint32Array(memory.buffer, at + READS_AT, reads.length * 4)
  reads.forEach(({ name, binding }, i) => {
    list.set([OFFSETS[name], addresses[i], binding.channel, binding.inverted ? 1 : 0], i * 4)
  })
}

function putLamps(
  memory: KernelMemory,
  lamps: readonly Lamp[],
  at = memory.allocate(Math.max(1, lamps.length) * LAMP_BYTES),
): number {
  const tabulated = new Map<PhotometricProfile, number>()
  lamps.forEach(({ position, radius, nearest, intensity, photometricProfile }, i) => {
    const known = photometricProfile && tabulated.get(photometricProfile)
    const profile = photometricProfile ? (known ?? putFloats(memory, tabulateProfile(photometricProfile))) : 0
    if (photometricProfile) tabulated.set(photometricProfile, profile)
    new Float64Array(memory.buffer, at + i * LAMP_BYTES, 8).set([...position, radius, nearest, ...intensity])
    new Uint32Array(memory.buffer, at + i * LAMP_BYTES + 64, 1)[0] = profile
  })
  return at
}

function putEnvironment(memory: KernelMemory, light: EnvironmentLight, maps: Packed['maps']): number {
  const addresses = maps.get(light.map) ?? putMap(memory, light)
  maps.set(light.map, addresses)
  const at = memory.allocate(ENVIRONMENT_BYTES)
  new Uint32Array(memory.buffer, at, addresses.length).set(addresses)
  new Float64Array(memory.buffer, at + 48, 3).set([light.gain, light.tables.sine, light.tables.cosine])
  return at
}

function putGuide(memory: KernelMemory, { grid, tableOf, sky, bounce }: LightGuide): number {
  const words = [
    putDoubles(memory, sky.strips),
    putBytes(memory, bytesOf(sky.columnBounds)),
    putBytes(memory, bytesOf(sky.rowBounds)),
    putBytes(memory, bytesOf(sky.binOfColumn)),
    putBytes(memory, bytesOf(sky.binOfRow)),
    putBytes(memory, bytesOf(tableOf)),
    putDoubles(memory, sky.tables),
    putDoubles(memory, bounce.tables),
    ...grid.cells,
  ]
  const at = memory.allocate(GUIDE_BYTES)
  new Uint32Array(memory.buffer, at, words.length).set(words)
  new Float64Array(memory.buffer, at + 48, 4).set([...grid.min, grid.cellM])
  return at
}

/** A map and what is drawn from it, which is the same however bright it is and wherever it is turned to. */
function putMap(memory: KernelMemory, { map, tables: t }: EnvironmentLight): readonly number[] {
  const rgb = map.channels === 3 ? map.data : toRgb(map)
  return [
    putFloats(memory, rgb),
    map.width,
    map.height,
    t.width,
    t.height,
    putDoubles(memory, t.rowCdf),
    putDoubles(memory, t.columnCdf),
    putFloats(memory, t.density),
    putBytes(memory, bytesOf(t.rowGuide)),
    putBytes(memory, bytesOf(t.columnGuide)),
    putDoubles(memory, t.rowSine),
  ]
}

function toRgb({ data, channels }: { data: Float32Array; channels: number }): Float32Array {
  const rgb = new Float32Array((data.length / channels) * 3)
  for (let i = 0; i < rgb.length / 3; i++)
    for (let k = 0; k < 3; k++) rgb[i * 3 + k] = data[i * channels + Math.min(k, channels - 1)]
  return rgb
}
