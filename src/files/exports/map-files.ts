import { basename } from 'node:path'
import { MEDIA_TYPES, resolveType } from '#core/codecs/sniff'
import { invertValues, joinPlanes, type Plane, pickChannel, toDepth, turnGreen } from '#core/hand-over/convert-map'
import { DELIVERED_MAPS } from '#core/hand-over/delivered-maps'
import type { Profile } from '#core/hand-over/profile'
import type { Image } from '#core/image/image'
import type { OpenPbrMaterial, TextureBinding, TextureSlot } from '#core/material/open-pbr'
import { decodeAsIs, readImageHeader } from '../reading/decode-image'
import { readBytes, readHead, type SourceFile } from '../reading/source-file'
import { encodeMap, openPixels } from '../writing/encode-map'

/** A file of a delivery: its path in the item's folder, and its bytes. */
export interface WrittenFile {
  path: string
  bytes: Uint8Array
}

/** What a profile says of maps; `maxSizePx` is what it says of this item's category. */
export type MapRules = Pick<Profile, 'normals' | 'roughness' | 'packing' | 'colorFiles' | 'dataFiles' | 'maxSizePx'>

export interface LaidOutMaps {
  /** The material, its slots naming the files that were written. */
  material: OpenPbrMaterial
  /** Path of the file for each image index. */
  names: Map<number, string>
  written: WrittenFile[]
}

/** Red, green and blue of a packed picture, and what stands where there is no map. */
const PACKED_SLOTS = ['ambientOcclusion', 'specularRoughness', 'baseMetalness'] as const
const COLOR_SLOTS: ReadonlySet<TextureSlot> = new Set(['baseColor', 'emissionColor', 'subsurfaceColor'])

/** What maps are called in the names of files. */
const MAP_WORDS: Partial<Record<TextureSlot, string>> = Object.fromEntries(
  Object.entries(DELIVERED_MAPS).map(([map, slot]) => [slot, map]),
)

type FileForm = Profile['colorFiles'] | Profile['dataFiles']

/**
 * Writes the maps of a material as a profile wants them. What is so already is copied byte by byte.
 * @param images file behind each image index
 * @param nameOf path without ending, by what the map is
 * @param sharers every map that may be in one picture with another, where only some are written
 */
export async function layOutMaps(
  material: OpenPbrMaterial,
  images: readonly SourceFile[],
  rules: MapRules,
  nameOf: (map: string) => string,
  sharers: OpenPbrMaterial['textures'] = material.textures,
): Promise<LaidOutMaps> {
  const laidOut: LaidOutMaps = { material: { ...material, textures: {} }, names: new Map(), written: [] }
  const { textures } = laidOut.material
  const known = new Map<string, number>()
  const open = createOpener(images)
  const put = async (key: string, map: string, write: () => Promise<Encoded>): Promise<number> => {
    const before = known.get(key)
    if (before !== undefined) return before
    const { bytes, extension } = await write()
    const image = laidOut.written.push({ path: `${nameOf(map)}.${extension}`, bytes }) - 1
    laidOut.names.set(image, laidOut.written[image].path)
    known.set(key, image)
    return image
  }
  const bindings = Object.entries(material.textures) as [TextureSlot, TextureBinding][]
  if (rules.packing === 'packed' && bindings.some(([slot]) => isPacked(slot) && slot !== 'ambientOcclusion')) {
    const packed = await packSurface(material, rules, open)
    const image = await put('packed', 'occlusionRoughnessMetalness', () => encode(packed, rules.dataFiles, rules.maxSizePx))
    for (const [channel, slot] of PACKED_SLOTS.entries())
      if (slot !== 'ambientOcclusion' || material.textures.ambientOcclusion)
        textures[slot] = {
          image,
          channel: channel as TextureBinding['channel'],
          ...(slot === 'specularRoughness' && rules.roughness === 'gloss' ? { inverted: true } : {}),
        }
  }
  for (const [slot, binding] of bindings) {
    if (textures[slot]) continue
    const isShared = Object.entries(sharers).some(([other, b]) => other !== slot && b.image === binding.image)
    const isApart = rules.packing === 'apart' && isShared && !COLOR_SLOTS.has(slot) && slot !== 'geometryNormal'
    const isTurned = isTurnedOver(slot, binding, rules)
    const form: FileForm = COLOR_SLOTS.has(slot) ? rules.colorFiles : rules.dataFiles
    const key = [binding.image, form, isApart && binding.channel, isTurned].join()
    const isGloss = slot === 'specularRoughness' && (binding.inverted === true) !== isTurned
    const image = await put(key, isGloss ? 'gloss' : (MAP_WORDS[slot] ?? slot), async () => {
      if (!isApart && !isTurned && form === 'asStored') return fitPicture(images[binding.image], rules.maxSizePx)
      const whole = await open(binding.image)
      const picked = isApart ? pickChannel(whole, binding.channel) : whole
      return encode(isTurned ? turnOver(picked, slot) : picked, form, rules.maxSizePx)
    })
    textures[slot] = {
      ...binding,
      image,
      ...(isApart ? { channel: 0 } : {}),
      ...(isTurned && slot === 'geometryNormal' ? { handedness: binding.handedness === 'directX' ? 'openGl' : 'directX' } : {}),
      ...(isTurned && slot !== 'geometryNormal' ? { inverted: !binding.inverted } : {}),
    }
  }
  return laidOut
}

export const isPacked = (slot: TextureSlot): boolean => (PACKED_SLOTS as readonly TextureSlot[]).includes(slot)

function isTurnedOver(slot: TextureSlot, binding: TextureBinding, { normals, roughness }: MapRules): boolean {
  if (slot === 'geometryNormal') return normals !== 'asStored' && (binding.handedness ?? 'openGl') !== normals
  if (slot === 'specularRoughness') return roughness !== 'asStored' && (roughness === 'gloss') !== (binding.inverted === true)
  return false
}

const turnOver = (image: Image, slot: TextureSlot): Image => (slot === 'geometryNormal' ? turnGreen(image) : invertValues(image))

/** Decodes each picture once. */
function createOpener(images: readonly SourceFile[]): (image: number) => Promise<Image> {
  const opened = new Map<number, Promise<Image>>()
  return image => {
    const opening = opened.get(image) ?? decodeAsIs(images[image].diskPath)
    opened.set(image, opening)
    return opening
  }
}

async function packSurface(material: OpenPbrMaterial, { roughness }: MapRules, open: (image: number) => Promise<Image>) {
  const { specularRoughness, baseMetalness } = material.parameters
  const isGloss = roughness === 'gloss'
  const constants = { ambientOcclusion: 1, specularRoughness: isGloss ? 1 - specularRoughness : specularRoughness, baseMetalness }
  const planes = await Promise.all(
    PACKED_SLOTS.map(async (slot): Promise<Plane> => {
      const binding = material.textures[slot]
      if (!binding) return constants[slot]
      const plane = pickChannel(await open(binding.image), binding.channel)
      const isTurned = (binding.inverted === true) !== (slot === 'specularRoughness' && isGloss)
      return isTurned ? invertValues(plane) : plane
    }),
  )
  return joinPlanes(planes as [Plane, Plane, Plane])
}

interface Encoded {
  bytes: Uint8Array
  extension: string
}

/** Of colour, where a profile wants JPEG: nothing of it is seen at full size. */
export const JPEG_QUALITY = 92

async function encode(image: Image, form: FileForm, maxSizePx: number | null): Promise<Encoded> {
  switch (form) {
    case 'asStored':
      return image.data instanceof Float32Array
        ? { bytes: await encodeMap(image, 'exr', maxSizePx), extension: 'exr' }
        : { bytes: await encodeMap(image, 'png', maxSizePx), extension: 'png' }
    case 'exr':
      return { bytes: await encodeMap(image, 'exr', maxSizePx), extension: 'exr' }
    case 'png':
      return { bytes: await encodeMap(image, 'png', maxSizePx), extension: 'png' }
    case 'png8':
    case 'png16':
      return { bytes: await encodeMap(toDepth(image, form === 'png8' ? 8 : 16), 'png', maxSizePx), extension: 'png' }
    case 'tiff':
      return { bytes: await encodeMap(image, 'tiff', maxSizePx), extension: 'tif' }
    case 'tiff16':
      return { bytes: await encodeMap(toDepth(image, 16), 'tiff', maxSizePx), extension: 'tif' }
    case 'jpeg': {
      const pixels = openPixels(toDepth(image, 8)).removeAlpha()
      const fitted =
        maxSizePx === null
          ? pixels
          : pixels.resize(maxSizePx, maxSizePx, { fit: 'inside', kernel: 'mitchell', withoutEnlargement: true })
      const bytes = await fitted.jpeg({ quality: JPEG_QUALITY, chromaSubsampling: '4:4:4' }).toBuffer()
      return { bytes: new Uint8Array(bytes), extension: 'jpg' }
    }
    default:
      return form satisfies never
  }
}

const EXTENSIONS: Record<string, string> = {
  'image/png': 'png',
  'image/jpeg': 'jpg',
  'image/webp': 'webp',
  'image/tiff': 'tif',
  'image/x-exr': 'exr',
}

/** The file as it is where it fits, else reduced at its own depth. */
async function fitPicture(file: SourceFile, maxSizePx: number | null): Promise<Encoded> {
  const mediaType = MEDIA_TYPES[resolveType(basename(file.path), await readHead(file.diskPath))]
  const extension = EXTENSIONS[mediaType]
  const { widthPx, heightPx } = await readImageHeader(file.diskPath)
  const fits = maxSizePx === null || Math.max(widthPx, heightPx) <= maxSizePx
  if (fits && extension) return { bytes: await readBytes(file), extension }
  return encode(await decodeAsIs(file.diskPath), 'asStored', fits ? null : maxSizePx)
}
