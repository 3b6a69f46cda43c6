import { Document, NodeIO } from '@gltf-transform/core'
import { ALL_EXTENSIONS, KHRMaterialsPBRSpecularGlossiness, KHRTextureBasisu } from '@gltf-transform/extensions'
import { draco, meshopt, quantize, textureCompress } from '@gltf-transform/functions'
import draco3d from 'draco3dgltf'
import { MeshoptDecoder, MeshoptEncoder } from 'meshoptimizer'
import sharp from 'sharp'
import { writeKtx2 } from './pictures'

/** Writers of models in the forms that suppliers deliver, for readers to be held against. */

async function loadIo(): Promise<NodeIO> {
  await Promise.all([MeshoptDecoder.ready, MeshoptEncoder.ready])
  return new NodeIO().registerExtensions(ALL_EXTENSIONS).registerDependencies({
    'draco3d.decoder': await draco3d.createDecoderModule(),
    'draco3d.encoder': await draco3d.createEncoderModule(),
    'meshopt.decoder': MeshoptDecoder,
    'meshopt.encoder': MeshoptEncoder,
  })
}

type Change = (document: Document) => Promise<unknown> | unknown

/** What is done to a plain binary glTF to have it as others write it. */
export const GLTF_FORMS: Record<string, Change> = {
  KHR_draco_mesh_compression: d => d.transform(draco()),
  EXT_meshopt_compression: d => d.transform(meshopt({ encoder: MeshoptEncoder, level: 'medium' })),
  KHR_mesh_quantization: d => d.transform(quantize()),
  EXT_texture_webp: d => d.transform(textureCompress({ encoder: sharp, targetFormat: 'webp' })),
  EXT_texture_avif: d => d.transform(textureCompress({ encoder: sharp, targetFormat: 'avif' })),
  KHR_texture_basisu: async d => {
    d.createExtension(KHRTextureBasisu).setRequired(true)
    for (const texture of d.getRoot().listTextures()) {
      const { data, info } = await sharp(texture.getImage()!).removeAlpha().raw().toBuffer({ resolveWithObject: true })
      const image = { width: info.width, height: info.height, channels: 3, data: new Uint8Array(data) }
      texture.setImage((await writeKtx2(image)) as Uint8Array<ArrayBuffer>).setMimeType('image/ktx2')
    }
  },
  KHR_materials_pbrSpecularGlossiness: d => {
    const old = d.createExtension(KHRMaterialsPBRSpecularGlossiness)
    for (const material of d.getRoot().listMaterials())
      material.setExtension(
        'KHR_materials_pbrSpecularGlossiness',
        old
          .createPBRSpecularGlossiness()
          .setDiffuseFactor([0.5, 0.2, 0.1, 1])
          .setSpecularFactor([0.04, 0.04, 0.04])
          .setGlossinessFactor(0.7),
      )
  },
}

export async function writeAs(plain: Uint8Array, change: Change): Promise<Uint8Array> {
  const io = await loadIo()
  const document = await io.readBinary(plain)
  await change(document)
  return io.writeBinary(document)
}

/** A strip of four triangles on two joints, of which the upper one is bent by a quarter turn; it stands away from its own node. */
export async function writeSkinned(): Promise<Uint8Array> {
  const document = new Document()
  const buffer = document.createBuffer()
  const accessor = (type: 'VEC3' | 'VEC4' | 'SCALAR' | 'MAT4', array: Float32Array | Uint16Array) =>
    document
      .createAccessor()
      .setType(type)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(buffer)
  const rows = [0, 1, 2].flatMap(y => [-0.5, y, 0, 0.5, y, 0])
  const joints = [0, 0, 0, 0, 1, 1].flatMap(joint => [joint, 0, 0, 0])
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', Float32Array.from(rows)))
    .setAttribute('JOINTS_0', accessor('VEC4', Uint16Array.from(joints)))
    .setAttribute(
      'WEIGHTS_0',
      accessor(
        'VEC4',
        Float32Array.from({ length: 24 }, (_, i) => (i % 4 === 0 ? 1 : 0)),
      ),
    )
    .setIndices(accessor('SCALAR', Uint16Array.from([0, 1, 3, 0, 3, 2, 2, 3, 5, 2, 5, 4])))
  const lower = document.createNode('lower')
  const upper = document.createNode('upper').setTranslation([0, 1, 0]).setRotation([0, 0, Math.SQRT1_2, Math.SQRT1_2])
  const back = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, -1, 0, 1]
  const skin = document
    .createSkin()
    .addJoint(lower.addChild(upper))
    .addJoint(upper)
    .setInverseBindMatrices(accessor('MAT4', Float32Array.from([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, ...back])))
  const node = document
    .createNode('strip')
    .setTranslation([50, 0, 0])
    .setMesh(document.createMesh().addPrimitive(primitive))
    .setSkin(skin)
  document.createScene().addChild(node).addChild(lower)
  return (await loadIo()).writeBinary(document)
}

/** A tray of two levels in centimetres, z up, with one material, as OpenUSD text. */
export const USDA = `#usda 1.0
(
    defaultPrim = "Root"
    metersPerUnit = 0.01
    upAxis = "Z"
)
def Xform "Root" {
    def Mesh "Tray" {
        int[] faceVertexCounts = [4, 4]
        int[] faceVertexIndices = [0, 1, 2, 3, 4, 5, 6, 7]
        point3f[] points = [(0,0,0), (100,0,0), (100,50,0), (0,50,0), (0,0,20), (100,0,20), (100,50,20), (0,50,20)]
        rel material:binding = </Root/Lacquer>
    }
    def Material "Lacquer" {
        token outputs:surface.connect = </Root/Lacquer/Surface.outputs:surface>
        def Shader "Surface" {
            uniform token info:id = "UsdPreviewSurface"
            color3f inputs:diffuseColor = (0.2, 0.4, 0.6)
            float inputs:roughness = 0.3
            token outputs:surface
        }
    }
}
`

/** The same tray in inches, y up, as Collada, its colour from a picture beside it. */
export const COLLADA = `<?xml version="1.0" encoding="utf-8"?>
<COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1">
  <asset><unit name="inch" meter="0.0254"/><up_axis>Y_UP</up_axis></asset>
  <library_images><image id="wood" name="wood"><init_from>textures/Tray%20wood.tga</init_from></image></library_images>
  <library_effects><effect id="fx"><profile_COMMON>
    <newparam sid="surface"><surface type="2D"><init_from>wood</init_from></surface></newparam>
    <newparam sid="sampler"><sampler2D><source>surface</source></sampler2D></newparam>
    <technique sid="common"><lambert><diffuse><texture texture="sampler" texcoord="UV0"/></diffuse></lambert></technique>
  </profile_COMMON></effect></library_effects>
  <library_materials><material id="wooden" name="Wooden"><instance_effect url="#fx"/></material></library_materials>
  <library_geometries><geometry id="tray" name="Tray"><mesh>
    <source id="p"><float_array id="pa" count="12">0 0 0 40 0 0 40 0 20 0 0 20</float_array>
      <technique_common><accessor source="#pa" count="4" stride="3"><param name="X" type="float"/><param name="Y" type="float"/><param name="Z" type="float"/></accessor></technique_common></source>
    <source id="t"><float_array id="ta" count="8">0 0 1 0 1 1 0 1</float_array>
      <technique_common><accessor source="#ta" count="4" stride="2"><param name="S" type="float"/><param name="T" type="float"/></accessor></technique_common></source>
    <vertices id="v"><input semantic="POSITION" source="#p"/></vertices>
    <triangles count="2" material="wooden"><input semantic="VERTEX" source="#v" offset="0"/><input semantic="TEXCOORD" source="#t" offset="1" set="0"/>
      <p>0 0 2 2 1 1 0 0 3 3 2 2</p></triangles>
  </mesh></geometry></library_geometries>
  <library_visual_scenes><visual_scene id="s"><node id="n" name="Tray"><instance_geometry url="#tray"><bind_material><technique_common>
    <instance_material symbol="wooden" target="#wooden"><bind_vertex_input semantic="UV0" input_semantic="TEXCOORD" input_set="0"/></instance_material>
  </technique_common></bind_material></instance_geometry></node></visual_scene></library_visual_scenes>
  <scene><instance_visual_scene url="#s"/></scene>
</COLLADA>
`
