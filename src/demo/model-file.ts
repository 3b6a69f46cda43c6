import { type Document, Document as GltfDocument, WebIO } from '@gltf-transform/core'
import { ALL_EXTENSIONS, KHRMaterialsIOR, KHRMaterialsTransmission } from '@gltf-transform/extensions'
import sharp from 'sharp'
import type { Mesh } from '#core/geometry/mesh'
import type { Vec3 } from '#core/math/vec3'
import { makeMaps, type TextureRecipe } from './texture-set'

/** How a part of a generated model look. */
export interface Finish {
  name: string
  /** Linear Rec.709. */
  color: Vec3
  roughness: number
  metalness?: number
  transmission?: number
  emission?: Vec3
  /** Texture instead of a flat colour; its scale is true because texture coordinates are metres. */
  recipe?: TextureRecipe
  /** A leaf: RGBA picture with its shape cut out. */
  leaf?: { name: string; png: Uint8Array }
}

export interface ModelRecipe {
  folder: string
  stem: string
  parts: { name: string; mesh: Mesh; finish: Finish }[]
}

const TEXTURE_PX = 512

/** Writes a recipe as binary glTF. Meshes, parts and materials keep their names. */
export async function writeGlb(recipe: ModelRecipe): Promise<Uint8Array> {
  const document = new GltfDocument()
  document.getRoot().getAsset().generator = 'Muscovite demo world'
  document.createBuffer()
  const scene = document.createScene(recipe.stem)
  const materials = new Map<string, ReturnType<Document['createMaterial']>>()
  for (const { name, mesh, finish } of recipe.parts) {
    let material = materials.get(finish.name)
    if (!material) {
      material = await createMaterial(document, finish)
      materials.set(finish.name, material)
    }
    const tileU = finish.recipe ? finish.recipe.widthMm / 1000 : 1
    const tileV = tileU * (finish.recipe?.aspect ?? 1)
    const uvs = finish.leaf ? mesh.uvs : mesh.uvs.map((v, i) => v / (i % 2 === 0 ? tileU : tileV))
    const primitive = createPrimitive(document, { ...mesh, uvs }).setMaterial(material)
    scene.addChild(document.createNode(name).setMesh(document.createMesh(name).addPrimitive(primitive)))
  }
  return new WebIO().registerExtensions(ALL_EXTENSIONS).writeBinary(document)
}

/** A mesh as a glTF primitive in the document's one buffer. */
export function createPrimitive(document: Document, { positions, normals, uvs, indices }: Mesh) {
  const [buffer] = document.getRoot().listBuffers()
  const accessor = (type: 'VEC3' | 'VEC2' | 'SCALAR', array: Float32Array | Uint32Array) =>
    document
      .createAccessor()
      .setType(type)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(buffer)
  return document
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', positions))
    .setAttribute('NORMAL', accessor('VEC3', normals))
    .setAttribute('TEXCOORD_0', accessor('VEC2', uvs))
    .setIndices(accessor('SCALAR', indices))
}

async function createMaterial(document: Document, finish: Finish) {
  const material = document
    .createMaterial(finish.name)
    .setBaseColorFactor([...finish.color, 1])
    .setRoughnessFactor(finish.roughness)
    .setMetallicFactor(finish.metalness ?? 0)
  if (finish.emission) material.setEmissiveFactor(finish.emission)
  if (finish.transmission) {
    const extension = document.createExtension(KHRMaterialsTransmission).createTransmission()
    material.setExtension('KHR_materials_transmission', extension.setTransmissionFactor(finish.transmission))
    material.setExtension('KHR_materials_ior', document.createExtension(KHRMaterialsIOR).createIOR().setIOR(1.5))
  }
  if (finish.leaf) {
    const texture = document.createTexture(finish.leaf.name).setImage(finish.leaf.png).setMimeType('image/png')
    material.setBaseColorTexture(texture).setAlphaMode('MASK').setAlphaCutoff(0.5).setDoubleSided(true)
  }
  if (finish.recipe) {
    const maps = makeMaps({ ...finish.recipe, sizePx: TEXTURE_PX })
    const map = (role: string) => maps.find(m => m.role === role)!
    const encode = (data: Uint8Array, width: number, height: number) =>
      sharp(data, { raw: { width, height, channels: 3 } })
        .png({ compressionLevel: 6 })
        .toBuffer()
    const color = map('basecolor')
    const normal = map('normal')
    const rough = map('roughness')
    const packed = new Uint8Array(rough.width * rough.height * 3)
    for (let i = 0; i < rough.width * rough.height; i++) packed.set([255, rough.data[i], 0], i * 3)
    const add = async (suffix: string, data: Uint8Array, of: { width: number; height: number }) =>
      document
        .createTexture(`${finish.name} ${suffix}`)
        .setImage(new Uint8Array(await encode(data, of.width, of.height)))
        .setMimeType('image/png')
    material
      .setBaseColorFactor([1, 1, 1, 1])
      .setRoughnessFactor(1)
      .setBaseColorTexture(await add('base colour', color.data as Uint8Array, color))
      .setNormalTexture(await add('normal', normal.data as Uint8Array, normal))
      .setMetallicRoughnessTexture(await add('roughness', packed, rough))
  }
  return material
}
