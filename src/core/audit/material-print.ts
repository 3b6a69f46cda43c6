import { Document } from '@gltf-transform/core'
import { readGltfMaterial } from '../geometry/read-gltf'
import type { ByteImage } from '../image/image'
import type { OpenPbrMaterial, OpenPbrParameters } from '../material/open-pbr'
import type { Vec3 } from '../math/vec3'
import type { Stamp } from '../stamp'
import { addGltfMaterial, type EncodedPicture } from '../targets/gltf'
import { AUDITED_SLOTS, type AuditedSlot, type Digest, type MapPrint, printMap } from './map-print'

/** What a material of a scene or of the library is known again by. */
export interface MaterialPrint {
  name: string
  stamp: Stamp | null
  /** As read back from the form it was delivered in, so that what a form cannot hold is no alteration. */
  parameters: OpenPbrParameters
  /** Maps; one of a single value counts as the parameter. */
  maps: Partial<Record<AuditedSlot, MapPrint>>
  /** Addresses of pictures that did not come along. */
  missing: string[]
}

/** A map that nowhere deviates more than this, 0 to 1, is a single value that was saved as a picture. */
const ONE_VALUE = 0.4 / 255
const isOneValue = ({ spread, detail }: MapPrint): boolean => Math.max(spread, ...detail) < ONE_VALUE

/**
 * Prints a material with its maps.
 * @param imageOf picture behind an index of the material's textures; null where it does not read
 */
export async function printMaterial(
  material: OpenPbrMaterial,
  imageOf: (index: number) => Promise<ByteImage | null> | ByteImage | null,
  digest: Digest,
  { stamp = null, missing = [] }: { stamp?: Stamp | null; missing?: string[] } = {},
): Promise<MaterialPrint> {
  const parameters = { ...material.parameters }
  const maps: MaterialPrint['maps'] = {}
  for (const slot of AUDITED_SLOTS) {
    const binding = material.textures[slot]
    const image = binding ? await imageOf(binding.image) : null
    if (!binding || !image) continue
    const print = printMap(slot, image, binding, digest)
    if (isOneValue(print)) foldIntoParameter(parameters, slot, print)
    else maps[slot] = print
  }
  return { name: material.name, stamp, parameters, maps, missing }
}

function foldIntoParameter(parameters: OpenPbrParameters, slot: AuditedSlot, { mean }: MapPrint): void {
  switch (slot) {
    case 'baseColor':
    case 'emissionColor':
      parameters[slot] = parameters[slot].map((v, c) => v * mean[c]) as Vec3
      return
    case 'specularRoughness':
    case 'baseMetalness':
    case 'geometryOpacity':
      parameters[slot] *= mean[0]
      return
    default:
  }
}

/**
 * A library material as glTF hands it over: written, and read back. Its textures are those of the library, but what glTF cannot hold is
 * gone, and a map of roughness or metalness brings the other along as a single value.
 */
export function asDelivered(material: OpenPbrMaterial): OpenPbrMaterial {
  const document = new Document()
  const picture: EncodedPicture = { name: '', mediaType: 'image/png', bytes: new Uint8Array(1) }
  const { textures } = material
  const written = addGltfMaterial(document, material, {
    baseColor: textures.baseColor ? picture : undefined,
    roughnessMetalness: textures.specularRoughness || textures.baseMetalness ? picture : undefined,
    normal: textures.geometryNormal ? picture : undefined,
    emission: textures.emissionColor ? picture : undefined,
  })
  const back = readGltfMaterial(written, () => -1)
  const parameters = { ...back.parameters }
  // The one that has no map of its own stands in the picture beside the other.
  if (textures.specularRoughness && !textures.baseMetalness) parameters.baseMetalness = material.parameters.baseMetalness
  if (textures.baseMetalness && !textures.specularRoughness) parameters.specularRoughness = material.parameters.specularRoughness
  return { ...material, parameters, textures: { ...textures } }
}
