import { textureCompress } from '@gltf-transform/functions'
import sharp from 'sharp'
import { FileError } from '#core/findings/failure'
import type { Model } from '#core/geometry/model'
import { parseGlb } from '#core/geometry/read-gltf'
import type { ModelDetail, ModelForm } from '#core/hand-over/profile'
import type { Stamp } from '#core/stamp'
import { readGltfBinary, stampDocument, writeGltfBinary } from '#core/targets/gltf'
import { CONSTANTS_MULTIPLY, writeMtl } from '#core/targets/obj-mtl'
import type { FileSpace } from '#core/targets/space'
import { createUniqueNames } from '#core/targets/unique-names'
import { packUsdz } from '#core/targets/usd/usdz'
import { writeUsdShape, writeUsdStage } from '#core/targets/usd/write-stage'
import { toObjName, writeObj } from '#core/targets/write-obj'
import { type ItemSource, lighterFiles, mainFile } from '../items/item-source'
import { readBytes, type SourceFile } from '../reading/source-file'
import type { WrittenFile } from './map-files'

export interface ModelOptions extends FileSpace {
  form: ModelForm
  detail?: ModelDetail
  maxSizePx: number | null
}

/** A model as files of one form. OpenUSD and OBJ hold its parts in the place where they stand, below or named by their groups. */
export async function writeModelFiles(
  source: ItemSource,
  name: string,
  { form, detail = 'full', maxSizePx, ...space }: ModelOptions,
  stamp: Stamp,
): Promise<WrittenFile[]> {
  const written: WrittenFile[] = []
  for (const { file, suffix } of filesOfDetail(source, detail)) {
    const path = `${name}${suffix}`
    const bytes = await readBytes(file)
    if (form === 'gltf') written.push({ path: `${path}.glb`, bytes: await stampGlb(bytes, maxSizePx, stamp) })
    else written.push(...(await writeParts(await parseGlb(bytes), path, { ...space, form, maxSizePx }, stamp)))
  }
  return written
}

/** Which of a model's files go out, and what the name of each ends in. */
function filesOfDetail(source: ItemSource, detail: ModelDetail): { file: SourceFile; suffix: string }[] {
  const { levels, standIn } = lighterFiles(source)
  const full = { file: mainFile(source), suffix: '' }
  switch (detail) {
    case 'full':
      return [full]
    case 'light':
      return [{ file: standIn ?? levels.at(-1) ?? full.file, suffix: '' }]
    case 'levels':
      return [
        full,
        ...levels.map((file, i) => ({ file, suffix: `_LOD${i + 1}` })),
        ...(standIn ? [{ file: standIn, suffix: '_stand-in' }] : []),
      ]
    default:
      return detail satisfies never
  }
}

/** Parts in the place where they stand, with their materials, as one OpenUSD package, which has lights and cameras as well, or as OBJ with its files. */
export async function writeParts(
  model: Model,
  name: string,
  { form, maxSizePx, ...space }: FileSpace & { form: Exclude<ModelForm, 'gltf'>; maxSizePx: number | null },
  stamp: Stamp | null,
): Promise<WrittenFile[]> {
  const pictures = await writePictures(model, name, maxSizePx)
  const files = new Map(pictures.map((p, i) => [i, p.path]))
  if (form === 'usdz') {
    const repeated = [...new Map(model.parts.filter(p => p.placement !== undefined).map(p => [p.mesh, p])).values()]
    const shapes = repeated.map((part, i) => ({ part, path: `shapes/${name}_${i + 1}.usda` }))
    const stage = writeUsdStage(
      { ...model, name, stamp },
      { ...space, files, areFactors: true, shapes: new Map(shapes.map(({ part, path }) => [part.mesh, path])) },
    )
    const layers = shapes.map(({ part, path }) => ({ path, bytes: writeUsdShape(part, space) }))
    return [{ path: `${name}.usdz`, bytes: packUsdz([{ path: `${name}.usda`, bytes: stage }, ...layers, ...pictures]) }]
  }
  const materials = nameMaterials(model)
  const entries = materials.map((m, i) => writeMtl(m, files, { stamp: model.materialStamps?.get(i) ?? stamp, areFactors: true }))
  const library = [`${CONSTANTS_MULTIPLY}\n`, ...entries].join('\n')
  const parts = model.parts.map(part => ({ ...part, material: materials[part.material]?.name ?? null }))
  return [
    { path: `${name}.obj`, bytes: writeObj({ library: `${name}.mtl`, parts, stamp }, space) },
    { path: `${name}.mtl`, bytes: new TextEncoder().encode(library) },
    ...pictures,
  ]
}

/** The model as its own file has it, stamped. */
export const writeModelGlb = async (source: ItemSource, maxSizePx: number | null, stamp: Stamp): Promise<Uint8Array> =>
  stampGlb(await readBytes(mainFile(source)), maxSizePx, stamp)

async function stampGlb(bytes: Uint8Array, maxSizePx: number | null, stamp: Stamp): Promise<Uint8Array> {
  const document = await readGltfBinary(bytes).catch(() => {
    throw new FileError('malformed', 'The model does not read.')
  })
  if (maxSizePx !== null) await document.transform(textureCompress({ encoder: sharp, resize: [maxSizePx, maxSizePx] }))
  stampDocument(document, stamp)
  return writeGltfBinary(document)
}

/** Every material under a name of its own. */
function nameMaterials({ materials }: Model) {
  const nameOf = createUniqueNames(toObjName)
  return materials.map((material, i) => ({ ...material, name: nameOf(material.name || `material ${i + 1}`) }))
}

/** The model's pictures as PNG or JPEG, which every reader of these forms has. */
const writePictures = ({ images }: Model, name: string, maxSizePx: number | null): Promise<WrittenFile[]> =>
  Promise.all(
    images.map(async ({ bytes, mediaType }, i) => {
      const extension = mediaType === 'image/jpeg' ? 'jpg' : 'png'
      const path = `textures/${name}_${i + 1}.${extension}`
      const { width = 0, height = 0 } = await sharp(bytes).metadata()
      const fits = maxSizePx === null || Math.max(width, height) <= maxSizePx
      if (fits && (mediaType === 'image/jpeg' || mediaType === 'image/png')) return { path, bytes }
      const pixels = fits ? sharp(bytes) : sharp(bytes).resize(maxSizePx, maxSizePx, { fit: 'inside' })
      const encoded = await (extension === 'jpg' ? pixels.jpeg({ quality: 92 }) : pixels.png()).toBuffer()
      return { path, bytes: new Uint8Array(encoded) }
    }),
  )
