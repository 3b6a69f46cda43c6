import { Document, type Material, type Texture, TextureInfo, WebIO } from '@gltf-transform/core'
import {
  ALL_EXTENSIONS,
  KHRMaterialsAnisotropy,
  KHRMaterialsClearcoat,
  KHRMaterialsDispersion,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsIridescence,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsVolume,
} from '@gltf-transform/extensions'
import { EMISSION_WHITE_NITS } from '../material/emission'
import { toGltfAnisotropy } from '../material/gltf-anisotropy'
import { dispersionOf, type OpenPbrMaterial } from '../material/open-pbr'
import type { Stamp } from '../stamp'
import { samplePatch } from './sample-patch'

/** Encoded pictures for a glTF material: roughness and metalness share one, in its green and blue channels. */
export interface GltfTextures {
  baseColor?: EncodedPicture
  roughnessMetalness?: EncodedPicture
  /** Green up. */
  normal?: EncodedPicture
  emission?: EncodedPicture
}

export interface EncodedPicture {
  name: string
  mediaType: string
  bytes: Uint8Array
}

/**
 * Adds an OpenPBR material to a glTF document as metallic-roughness with the KHR extensions it needs. Lost: diffuse roughness,
 * anisotropy under a roughness map, subsurface, displacement, colour and index of the coat; opacity comes with the base colour's alpha.
 */
export function addGltfMaterial(document: Document, source: OpenPbrMaterial, textures: GltfTextures): Material {
  const p = source.parameters
  // A roughness map cannot be re-measured for a stretched highlight; without one the figure can.
  const stretched =
    p.specularRoughnessAnisotropy > 0 && !textures.roughnessMetalness
      ? toGltfAnisotropy(p.specularRoughness, p.specularRoughnessAnisotropy)
      : null
  const color = p.baseColor.map(c => Math.min(Math.max(c * p.baseWeight, 0), 1))
  const transmits = p.transmissionWeight > 0
  const material = document
    .createMaterial(source.name)
    .setBaseColorFactor(
      textures.baseColor ? [1, 1, 1, 1] : ([...(transmits ? [1, 1, 1] : color), 1] as [number, number, number, number]),
    )
    .setMetallicFactor(textures.roughnessMetalness ? 1 : p.baseMetalness)
    .setRoughnessFactor(textures.roughnessMetalness ? 1 : (stretched?.roughness ?? p.specularRoughness))
  const add = (picture: EncodedPicture | undefined): Texture | null =>
    picture ? document.createTexture(picture.name).setImage(picture.bytes).setMimeType(picture.mediaType) : null
  material
    .setBaseColorTexture(add(textures.baseColor))
    .setMetallicRoughnessTexture(add(textures.roughnessMetalness))
    .setNormalTexture(add(textures.normal))
  if (source.tiling === 'once')
    for (const info of [
      material.getBaseColorTextureInfo(),
      material.getMetallicRoughnessTextureInfo(),
      material.getNormalTextureInfo(),
    ])
      info?.setWrapS(TextureInfo.WrapMode.CLAMP_TO_EDGE).setWrapT(TextureInfo.WrapMode.CLAMP_TO_EDGE)
  if (source.textures.geometryOpacity) material.setAlphaMode('MASK').setAlphaCutoff(0.5)
  if (p.geometryThinWalled || source.textures.geometryOpacity) material.setDoubleSided(true)
  if (p.emissionLuminance > 0) {
    material.setEmissiveFactor(p.emissionColor).setEmissiveTexture(add(textures.emission))
    const strength = p.emissionLuminance / EMISSION_WHITE_NITS
    if (strength !== 1)
      material.setExtension(
        'KHR_materials_emissive_strength',
        document.createExtension(KHRMaterialsEmissiveStrength).createEmissiveStrength().setEmissiveStrength(strength),
      )
  }
  if (p.specularIor !== 1.5)
    material.setExtension('KHR_materials_ior', document.createExtension(KHRMaterialsIOR).createIOR().setIOR(p.specularIor))
  if (p.specularWeight !== 1 || p.specularColor.some(c => c !== 1))
    material.setExtension(
      'KHR_materials_specular',
      document
        .createExtension(KHRMaterialsSpecular)
        .createSpecular()
        .setSpecularFactor(Math.min(p.specularWeight, 1))
        .setSpecularColorFactor(p.specularColor),
    )
  if (stretched)
    material.setExtension(
      'KHR_materials_anisotropy',
      document
        .createExtension(KHRMaterialsAnisotropy)
        .createAnisotropy()
        .setAnisotropyStrength(stretched.strength)
        .setAnisotropyRotation(p.geometryTangentRotation * 2 * Math.PI),
    )
  if (p.thinFilmWeight > 0)
    material.setExtension(
      'KHR_materials_iridescence',
      document
        .createExtension(KHRMaterialsIridescence)
        .createIridescence()
        .setIridescenceFactor(p.thinFilmWeight)
        .setIridescenceIOR(p.thinFilmIor)
        .setIridescenceThicknessMaximum(p.thinFilmThickness * NANOMETRES_A_MICROMETRE),
    )
  if (transmits) {
    material.setExtension(
      'KHR_materials_transmission',
      document.createExtension(KHRMaterialsTransmission).createTransmission().setTransmissionFactor(p.transmissionWeight),
    )
    if (p.transmissionDepth > 0 && !p.geometryThinWalled)
      material.setExtension(
        'KHR_materials_volume',
        document
          .createExtension(KHRMaterialsVolume)
          .createVolume()
          .setThicknessFactor(PATCH_THICKNESS_M)
          .setAttenuationColor(p.transmissionColor)
          .setAttenuationDistance(p.transmissionDepth),
      )
    else material.setBaseColorFactor([...p.transmissionColor, 1] as [number, number, number, number])
    if (dispersionOf(p) > 0 && !p.geometryThinWalled)
      material.setExtension(
        'KHR_materials_dispersion',
        document.createExtension(KHRMaterialsDispersion).createDispersion().setDispersion(dispersionOf(p)),
      )
  }
  if (p.coatWeight > 0)
    material.setExtension(
      'KHR_materials_clearcoat',
      document
        .createExtension(KHRMaterialsClearcoat)
        .createClearcoat()
        .setClearcoatFactor(p.coatWeight)
        .setClearcoatRoughnessFactor(p.coatRoughness),
    )
  if (p.fuzzWeight > 0)
    material.setExtension(
      'KHR_materials_sheen',
      document
        .createExtension(KHRMaterialsSheen)
        .createSheen()
        .setSheenColorFactor(p.fuzzColor.map(c => c * p.fuzzWeight) as [number, number, number])
        .setSheenRoughnessFactor(p.fuzzRoughness),
    )
  return material
}

const PATCH_THICKNESS_M = 0.01
const NANOMETRES_A_MICROMETRE = 1000

/** A glTF document with one square of one repeat of a material, in metres, standing upright with its base at the origin. */
export function createSamplePatch(source: OpenPbrMaterial, textures: GltfTextures, stamp: Stamp): Document {
  const document = new Document()
  const patch = samplePatch(source.tileSizeM)
  const buffer = document.createBuffer()
  const attribute = (type: 'VEC2' | 'VEC3', values: Float32Array) =>
    document.createAccessor().setType(type).setArray(values).setBuffer(buffer)
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', attribute('VEC3', patch.positions))
    .setAttribute('NORMAL', attribute('VEC3', patch.normals))
    .setAttribute('TEXCOORD_0', attribute('VEC2', patch.uvs))
    .setIndices(document.createAccessor().setType('SCALAR').setArray(Uint16Array.from(patch.indices)).setBuffer(buffer))
    .setMaterial(addGltfMaterial(document, source, textures))
  document
    .createScene(source.name)
    .addChild(document.createNode('sample patch').setMesh(document.createMesh('sample patch').addPrimitive(primitive)))
  stampDocument(document, stamp)
  return document
}

/**
 * On the file, on the one node that each scene begins with (made where there are several), and on every material: whatever of it comes into
 * a scene says where it is from.
 */
export function stampDocument(document: Document, stamp: Stamp): void {
  const root = document.getRoot()
  const asset = root.getAsset()
  asset.generator = 'Muscovite'
  asset.extras = { ...(asset.extras as object | undefined), muscovite: stamp }
  const tops = root.listScenes().map(scene => {
    const [first, ...others] = scene.listChildren()
    if (first && others.length === 0) return first
    const whole = document.createNode(scene.getName() || stamp.code)
    for (const child of scene.listChildren()) whole.addChild(child)
    scene.addChild(whole)
    return whole
  })
  for (const thing of [...root.listMaterials(), ...tops]) thing.setExtras({ ...thing.getExtras(), muscovite: stamp })
}

export const writeGltfBinary = (document: Document): Promise<Uint8Array> =>
  new WebIO().registerExtensions(ALL_EXTENSIONS).writeBinary(document)
export const readGltfBinary = (bytes: Uint8Array): Promise<Document> =>
  new WebIO().registerExtensions(ALL_EXTENSIONS).readBinary(bytes)
