import sharp, { type Sharp } from 'sharp'
import { FileError } from '#core/findings/failure'
import { DELIVERED_MAPS, type DeliveredMap } from '#core/hand-over/delivered-maps'
import type { MaterialForm, Profile } from '#core/hand-over/profile'
import type { ByteImage } from '#core/image/image'
import { measureRelief } from '#core/material/estimate-relief'
import { type OpenPbrMaterial, reliefOf, type TextureSlot } from '#core/material/open-pbr'
import type { Stamp } from '#core/stamp'
import { createSamplePatch, type EncodedPicture, writeGltfBinary } from '#core/targets/gltf'
import { writeMaterialX } from '#core/targets/materialx/write-materialx'
import { writeMtl } from '#core/targets/obj-mtl'
import { samplePatch } from '#core/targets/sample-patch'
import type { FileSpace } from '#core/targets/space'
import { writeUsdStage } from '#core/targets/usd/write-stage'
import { writeObj } from '#core/targets/write-obj'
import type { ItemSource } from '../items/item-source'
import { outlineMaterial } from '../items/load-item'
import { decodeFullDepth } from '../reading/decode-image'
import type { SourceFile } from '../reading/source-file'
import { isPacked, JPEG_QUALITY, type LaidOutMaps, layOutMaps, type MapRules, type WrittenFile } from './map-files'

/** Pixels only decide here which way up a normal map is. */
const PROBE_SIZE = 512

interface MaterialFiles {
  material: OpenPbrMaterial
  /** File behind each image index that the material's textures name. */
  images: SourceFile[]
  /** What stands beside the slots that the preview reads: a height map under a normal map, occlusion. */
  beside: OpenPbrMaterial['textures']
  /** The normal map, reduced; null where there is none. */
  normal: ByteImage | null
}

const BESIDE = { height: 'displacement', ambientOcclusion: 'ambientOcclusion' } as const

async function openMaterial(source: ItemSource, fileName: string): Promise<MaterialFiles> {
  if (source.kind !== 'material') throw new FileError('unsupported', 'Only a material can be written as one.')
  const { material, images, normal } = await outlineMaterial(source, PROBE_SIZE)
  const beside: OpenPbrMaterial['textures'] = {}
  for (const { role, file } of source.files) {
    if (!(role in BESIDE) || images.includes(file)) continue
    beside[BESIDE[role as keyof typeof BESIDE]] = { image: images.push(file) - 1, channel: 0 }
  }
  return { material: { ...material, name: fileName }, images, beside, normal }
}

/** How high the heights under a normal map are, metres; null where the two do not tell of one surface. */
async function readRelief(material: OpenPbrMaterial, normal: ByteImage | null, file: SourceFile): Promise<number | null> {
  if (!normal || !material.tileSizeM) return null
  const heights = await decodeFullDepth(file.diskPath, PROBE_SIZE)
  const { handedness = 'openGl' } = material.textures.geometryNormal ?? {}
  const reliefM = measureRelief(heights, normal, handedness, material.tileSizeM)
  return reliefM === null ? null : Number(reliefM.toPrecision(3))
}

/** Names that a hand-over has for an item, without endings. */
export interface DeliveredNames {
  item: string
  texture: (map: string) => string
}

export interface WrittenMaterial {
  files: WrittenFile[]
  /** What the form does not say of it, in sentences. */
  notes: string[]
}

/** A material in a form that names its maps as files in a folder beside it, every name relative. */
export async function writeMaterialFiles(
  source: ItemSource,
  names: DeliveredNames,
  form: Exclude<MaterialForm, 'gltf'>,
  { unit, upAxis, ...rules }: MapRules & FileSpace,
  stamp: Stamp,
): Promise<WrittenMaterial> {
  const { material: opened, images, beside, normal } = await openMaterial(source, names.item)
  // Only under a normal map heights stand beside; without one they are what our previews take them for.
  const measuredReliefM = beside.displacement && (await readRelief(opened, normal, images[beside.displacement.image]))
  const whole: OpenPbrMaterial = { ...opened, textures: { ...opened.textures, ...beside }, reliefM: measuredReliefM ?? null }
  // OBJ has no words for gloss or for the way that green points: what stays as it is stored elsewhere is turned for it.
  const mapRules =
    form === 'objMtl'
      ? {
          ...rules,
          normals: rules.normals === 'asStored' ? ('openGl' as const) : rules.normals,
          roughness: rules.roughness === 'asStored' ? ('roughness' as const) : rules.roughness,
        }
      : rules
  const { material, names: files, written } = await layOutMaps(whole, images, mapRules, map => `textures/${names.texture(map)}`)
  const notes = noteMaps(material, files, form, measuredReliefM)
  // What nobody knows the height of would bend the surface at random.
  if (measuredReliefM === null) delete material.textures.displacement
  const put = (extension: string, bytes: Uint8Array) => written.push({ path: `${names.item}.${extension}`, bytes })
  const patch = { name: 'sample patch', mesh: samplePatch(material.tileSizeM), hasUvs: true }
  switch (form) {
    case 'materialX':
      put('mtlx', encodeText(writeMaterialX(material, files)))
      break
    case 'usd':
      put(
        'usda',
        writeUsdStage(
          { name: material.name, parts: [{ ...patch, material: 0 }], materials: [material], stamp },
          { unit, upAxis, files, withMaterialX: true },
        ),
      )
      break
    case 'objMtl':
      put('mtl', encodeText(writeMtl(material, files, { stamp })))
      put(
        'obj',
        writeObj({ library: `${names.item}.mtl`, parts: [{ ...patch, material: material.name }], stamp }, { unit, upAxis }),
      )
      break
    default:
      form satisfies never
  }
  return { files: written, notes }
}

/**
 * One map of a material by itself, as a profile wants it; of one that packs, the picture that it is packed in.
 * @throws FileError where the material has no such map
 */
export async function writeMaterialMap(
  source: ItemSource,
  names: DeliveredNames,
  rules: MapRules,
  map: DeliveredMap,
): Promise<WrittenFile> {
  const { material, images, beside } = await openMaterial(source, names.item)
  const slot: TextureSlot = DELIVERED_MAPS[map]
  const textures: OpenPbrMaterial['textures'] = { ...material.textures, ...beside }
  if (!textures[slot]) throw new FileError('notFound', `This material has no ${map} map.`)
  const comesAlong = (other: TextureSlot) => other === slot || (rules.packing === 'packed' && isPacked(slot) && isPacked(other))
  const wanted = Object.fromEntries(Object.entries(textures).filter(([other]) => comesAlong(other as TextureSlot)))
  // Whether a picture is shared is decided by all that share it.
  const laidOut = await layOutMaps({ ...material, textures: wanted }, images, rules, names.texture, textures)
  const image = laidOut.material.textures[slot]!.image
  return laidOut.written[image]
}

const encodeText = (text: string): Uint8Array => new TextEncoder().encode(text)

/** What becomes of the maps that a look is seldom made with. */
function noteMaps(
  material: OpenPbrMaterial,
  files: LaidOutMaps['names'],
  form: Exclude<MaterialForm, 'gltf'>,
  measuredReliefM: number | null | undefined,
): string[] {
  const { displacement, ambientOcclusion } = material.textures
  const notes: string[] = []
  if (displacement) {
    const file = files.get(displacement.image)
    const heightMm = `${Math.round(reliefOf(material) * 10_000) / 10} mm from black to white`
    const how = measuredReliefM ? 'as its normal map slopes' : 'which is what our previews take it for'
    notes.push(
      measuredReliefM === null
        ? `${file} is the height map; its normal map does not say how high it is, so nothing reads it.`
        : form === 'usd'
          ? `${file} is the height map, ${heightMm}, ${how}; this form has no displacement, so nothing reads it.`
          : form === 'objMtl'
            ? `${file} is the height map; this form does not say that it is ${heightMm}, ${how}.`
            : `${file} is the displacement, ${heightMm}, ${how}.`,
    )
  }
  if (ambientOcclusion)
    notes.push(`${files.get(ambientOcclusion.image)} holds occlusion; it is baked shadow, and no look here reads it.`)
  return notes
}

/** A binary glTF with one repeat of the material on a patch of its real size. */
export async function writeMaterialGlb(
  source: ItemSource,
  fileName: string,
  maxSizePx: number | null,
  stamp: Stamp,
  colorFiles: Profile['colorFiles'] = 'asStored',
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
    if (!mask && colorFiles === 'jpeg')
      return {
        name: `${fileName} base colour`,
        mediaType: 'image/jpeg',
        bytes: new Uint8Array(await opaque.jpeg({ quality: JPEG_QUALITY, chromaSubsampling: '4:4:4' }).toBuffer()),
      }
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
