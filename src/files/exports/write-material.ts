import sharp, { type Sharp } from 'sharp'
import { MEDIA_TYPES, resolveType } from '#core/codecs/sniff'
import { FileError } from '#core/findings/failure'
import type { OpenPbrMaterial } from '#core/material/open-pbr'
import { createSamplePatch, type EncodedPicture, type Stamp, writeGltfBinary } from '#core/targets/gltf'
import { writeMaterialX } from '#core/targets/materialx/write-materialx'
import { type ItemSource, loadItem } from '../items/load-item'
import { readBytes, readHead, type SourceFile } from '../reading/source-file'

/** A file of a delivery: its path in the item's folder, and its bytes. */
export interface WrittenFile {
  path: string
  bytes: Uint8Array
}

/** Pixels only decide here which way up a normal map is. */
const PROBE_SIZE = 512

interface MaterialFiles {
  material: OpenPbrMaterial
  /** File behind each image index that the material's textures name. */
  images: SourceFile[]
  /** Map files that no slot of the preview model reads, but that a renderer may want. */
  others: { role: string; file: SourceFile }[]
}

async function openMaterial(source: ItemSource, fileName: string): Promise<MaterialFiles> {
  const { loaded, failures } = await loadItem(source, 'preview', PROBE_SIZE)
  if (loaded.kind !== 'material') throw new FileError('unsupported', 'Only a material can be written as one.')
  if (failures.length > 0) throw new FileError(failures[0].code, `${failures[0].path}: ${failures[0].message}`)
  const fileOf = (path: string) => source.files.find(f => f.file.path === path)!.file
  return {
    material: { ...loaded.material, name: fileName },
    images: loaded.maps.map(m => fileOf(m.path)),
    others: source.files
      .filter(f => (f.role === 'height' || f.role === 'ambientOcclusion') && !loaded.maps.some(m => m.path === f.file.path))
      .map(({ role, file }) => ({ role, file })),
  }
}

/** A MaterialX document and its textures in a folder beside it, every name relative. */
export async function writeMaterialXFiles(
  source: ItemSource,
  fileName: string,
  maxSizePx: number | null,
): Promise<WrittenFile[]> {
  const { material, images, others } = await openMaterial(source, fileName)
  const written: WrittenFile[] = []
  const names = new Map<number, string>()
  const put = async (file: SourceFile, role: string) => {
    const { bytes, extension } = await fitPicture(file, maxSizePx)
    const path = `textures/${fileName}_${role}.${extension}`
    written.push({ path, bytes })
    return path
  }
  for (const [slot, binding] of Object.entries(material.textures))
    if (binding && !names.has(binding.image)) names.set(binding.image, await put(images[binding.image], slot))
  for (const { role, file } of others) await put(file, role)
  written.push({ path: `${fileName}.mtlx`, bytes: new TextEncoder().encode(writeMaterialX(material, names)) })
  return written
}

/** A binary glTF with one repeat of the material on a patch of its real size. */
export async function writeMaterialGlb(
  source: ItemSource,
  fileName: string,
  maxSizePx: number | null,
  stamp: Stamp,
): Promise<WrittenFile[]> {
  const { material, images } = await openMaterial(source, fileName)
  const { textures } = material
  const size = maxSizePx ?? 16384
  const picture = async (name: string, pipeline: Sharp): Promise<EncodedPicture> => ({
    name: `${fileName} ${name}`,
    mediaType: 'image/png',
    bytes: new Uint8Array(await pipeline.png({ compressionLevel: 6 }).toBuffer()),
  })
  const open = (image: number) =>
    sharp(images[image].diskPath).resize(size, size, { fit: 'inside', withoutEnlargement: true, kernel: 'linear' })
  const channelOf = async (
    slot: 'specularRoughness' | 'baseMetalness',
  ): Promise<{ data: Buffer; width: number; height: number } | null> => {
    const binding = textures[slot]
    if (!binding) return null
    const { data, info } = await open(binding.image).raw({ depth: 'uchar' }).toBuffer({ resolveWithObject: true })
    const out = Buffer.alloc(info.width * info.height)
    const channel = Math.min(binding.channel, info.channels - 1)
    for (let i = 0; i < out.length; i++) {
      const v = data[i * info.channels + channel]
      out[i] = binding.inverted ? 255 - v : v
    }
    return { data: out, width: info.width, height: info.height }
  }
  const packed = async (): Promise<EncodedPicture | undefined> => {
    const roughness = await channelOf('specularRoughness')
    const metalness = await channelOf('baseMetalness')
    const frame = roughness ?? metalness
    if (!frame) return undefined
    const data = Buffer.alloc(frame.width * frame.height * 3)
    const { baseMetalness, specularRoughness } = material.parameters
    for (let i = 0; i < frame.width * frame.height; i++) {
      data[i * 3] = 255
      data[i * 3 + 1] = roughness ? roughness.data[i] : Math.round(specularRoughness * 255)
      // Maps of one set are one size; where they are not, the metalness of the nearest texel stands in.
      data[i * 3 + 2] = metalness ? metalness.data[nearest(i, frame, metalness)] : Math.round(baseMetalness * 255)
    }
    return picture('roughness and metalness', sharp(data, { raw: { width: frame.width, height: frame.height, channels: 3 } }))
  }
  const normal = async (): Promise<EncodedPicture | undefined> => {
    const binding = textures.geometryNormal
    if (!binding) return undefined
    const upright = open(binding.image).removeAlpha()
    // Green points up in glTF.
    return picture('normal', binding.handedness === 'directX' ? upright.linear([1, -1, 1], [0, 255, 0]) : upright)
  }
  const baseColor = async (): Promise<EncodedPicture | undefined> => {
    const binding = textures.baseColor
    if (!binding) return undefined
    const opaque = open(binding.image).removeAlpha().toColourspace('srgb')
    const mask = textures.geometryOpacity
    if (!mask) return picture('base colour', opaque)
    const { info } = await opaque.clone().toBuffer({ resolveWithObject: true })
    const alpha = await sharp(images[mask.image].diskPath)
      .resize(info.width, info.height, { fit: 'fill' })
      .extractChannel(0)
      .toBuffer()
    return picture('base colour', opaque.joinChannel(alpha))
  }
  const document = createSamplePatch(
    material,
    {
      baseColor: await baseColor(),
      roughnessMetalness: await packed(),
      normal: await normal(),
      emission: textures.emissionColor ? await picture('emission', open(textures.emissionColor.image).removeAlpha()) : undefined,
    },
    stamp,
  )
  return [{ path: `${fileName}.glb`, bytes: await writeGltfBinary(document) }]
}

interface Frame {
  width: number
  height: number
}

function nearest(index: number, from: Frame, to: Frame): number {
  const x = Math.min(to.width - 1, Math.floor((((index % from.width) + 0.5) / from.width) * to.width))
  const y = Math.min(to.height - 1, Math.floor(((Math.floor(index / from.width) + 0.5) / from.height) * to.height))
  return y * to.width + x
}

const EXTENSIONS: Record<string, string> = {
  'image/png': 'png',
  'image/jpeg': 'jpg',
  'image/webp': 'webp',
  'image/tiff': 'tif',
  'image/x-exr': 'exr',
}

/** The file as it is where it fits, else reduced as PNG at its own depth. */
async function fitPicture(file: SourceFile, maxSizePx: number | null): Promise<{ bytes: Uint8Array; extension: string }> {
  const mediaType = MEDIA_TYPES[resolveType(file.path, await readHead(file.diskPath))]
  const extension = EXTENSIONS[mediaType]
  const { width = 0, height = 0 } = await sharp(file.diskPath).metadata()
  const fits = maxSizePx === null || Math.max(width, height) <= maxSizePx
  if (fits && extension) return { bytes: await readBytes(file), extension }
  const size = maxSizePx ?? Math.max(width, height)
  const { depth, channels = 3 } = await sharp(file.diskPath).metadata()
  let pipeline = sharp(file.diskPath).resize(size, size, { fit: 'inside', kernel: 'linear' })
  if (depth === 'ushort') pipeline = pipeline.toColourspace(channels < 3 ? 'grey16' : 'rgb16')
  return { bytes: new Uint8Array(await pipeline.png({ compressionLevel: 6 }).toBuffer()), extension: 'png' }
}
