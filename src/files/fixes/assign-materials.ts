import { type Document, Logger } from '@gltf-transform/core'
import { copyToDocument, prune } from '@gltf-transform/functions'
import { FileError } from '#core/findings/failure'
import type { Fix } from '#core/fixes/fix'
import { assignMaterial } from '#core/geometry/fixes/assign-material'
import { readGltfBinary, writeGltfBinary } from '#core/targets/gltf'
import { writeMaterialGlb } from '../exports/write-material'
import type { ItemSource } from '../items/item-source'

/** At the distance from which a piece of furniture is seen, more is not seen. */
const TEXTURE_PX = 1024

/**
 * Puts house materials on the parts that the fixes name.
 * @param materials by version
 * @throws FileError when the model or a material does not read
 */
export async function assignMaterials(
  bytes: Uint8Array,
  fixes: readonly Fix[],
  materials: Readonly<Record<number, ItemSource>>,
): Promise<Uint8Array> {
  if (fixes.length === 0) return bytes
  let document: Document
  try {
    document = await readGltfBinary(bytes)
  } catch {
    throw new FileError('malformed', 'The glTF structure does not read: its JSON or its buffers are damaged.')
  }
  document.setLogger(new Logger(Logger.Verbosity.SILENT))
  for (const { subject, parameters } of fixes) {
    const source = materials[Number(parameters.versionId)]
    if (!source) throw new FileError('notFound', `The house material ${parameters.code} is no longer there.`)
    const material = await bringMaterial(document, source, String(parameters.code))
    const hasTextures = material.getBaseColorTexture() ?? material.getNormalTexture() ?? material.getMetallicRoughnessTexture()
    const widthMm = Number(parameters.widthMm)
    await assignMaterial(document, subject ?? '', material, hasTextures ? (widthMm > 0 ? widthMm : 1000) / 1000 : null)
  }
  await document.transform(prune({ keepAttributes: true, keepIndices: true, keepLeaves: true, keepSolidTextures: true }))
  return writeGltfBinary(document)
}

/** The house material as one of the document's own, textures and all; the same one when it is there already. */
async function bringMaterial(document: Document, source: ItemSource, code: string) {
  const name = `${source.name} (${code})`
  const known = document
    .getRoot()
    .listMaterials()
    .find(m => m.getName() === name)
  if (known) return known
  const [{ bytes }] = await writeMaterialGlb(source, name, TEXTURE_PX, { code, version: 0 })
  const sample = await readGltfBinary(bytes)
  const [material] = sample.getRoot().listMaterials()
  const copied = copyToDocument(document, sample, [material]).get(material)
  return (copied as typeof material).setName(name)
}
