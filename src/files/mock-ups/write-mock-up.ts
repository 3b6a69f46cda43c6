import { Document, type Mesh as GltfMesh, type Material, type Node } from '@gltf-transform/core'
import {
  EXTMeshGPUInstancing,
  KHRLightsPunctual,
  KHRMaterialsVariants,
  KHRTextureTransform,
  type Variant,
} from '@gltf-transform/extensions'
import sharp from 'sharp'
import { noteOfShot } from '#core/audit/compare-views'
import { printLight } from '#core/audit/print-light'
import type { Mesh } from '#core/geometry/mesh'
import type { ByteImage } from '#core/image/image'
import type { TextureBinding } from '#core/material/open-pbr'
import { multiply, NO_TURN, type Quaternion, turnAbout } from '#core/math/quaternion'
import { composePiece, composeScene, composeStage, groundOf, keepOutOf } from '#core/mock-up/composing/compose'
import { isLightHidden } from '#core/mock-up/light/lamps'
import { finishTypes } from '#core/mock-up/materials/part-types'
import { choiceAt } from '#core/mock-up/materials/variants'
import { growPlanting } from '#core/mock-up/planting/grow-planting'
import type { Assignment, ItemRef, Scene, Spot } from '#core/mock-up/scene/scene'
import { listStageParts, wornOfModel } from '#core/mock-up/stage-model/stage-of-model'
import type { Composed, ComposedPart } from '#core/mock-up/things/composed'
import { bakeShift, NO_RESOURCES, type Resources } from '#core/mock-up/things/resources'
import type { Stamp } from '#core/stamp'
import { addGltfMaterial, type EncodedPicture, type GltfTextures, writeGltfBinary } from '#core/targets/gltf'
import type { ItemSource } from '../items/item-source'
import { openResources } from './open-resources'

/**
 * A mock-up as one binary glTF: pieces as nodes that share their meshes, plantings as instances (EXT_mesh_gpu_instancing), shots as cameras,
 * lights as KHR_lights_punctual, choices as KHR_materials_variants; the variant that is shown is the one without any chosen.
 * Every piece, plant and house material says its code and version in its extras; a shot its exposure and its sky, which no camera holds.
 * @param maxTexturePx longest side of textures
 * @param isLight with the lightest level of detail of every model that has some
 * @param references with them, everything of the library is written as where it stands and what it is, without its surfaces and pictures, for
 *   whoever has them; what is the mock-up's own, such as a room, is written whole
 * @returns with the keys of what does not read and is left out
 */
export async function writeMockUp(
  scene: Scene,
  sources: Readonly<Record<string, ItemSource>>,
  maxTexturePx: number,
  isLight = false,
  references: readonly Reference[] | null = null,
): Promise<{ bytes: Uint8Array; failures: Record<string, string> }> {
  const { resources, failures } = await openResources(sources, {
    // Of what is only referred to no more is needed than how large it repeats.
    materialPx: references ? REFERRED_PX : maxTexturePx,
    modelPx: maxTexturePx,
    skyPx: 64,
    isLight,
  })
  const writer = new SceneWriter(scene, references)
  await writer.write(resources)
  return { bytes: await writeGltfBinary(writer.document), failures }
}

const REFERRED_PX = 64

/** An item that a file refers to: which it is, where the library shows it, and its files by their hashes. */
export interface Reference extends Stamp {
  name: string
  kind: string
  /** Of its sheet, on the server that wrote the file. */
  address: string
  files: readonly { path: string; role: string; sha256: string; bytes: number }[]
}

const stampOf = ({ code, version }: ItemRef): { muscovite: Stamp } => ({ muscovite: { code, version } })

/** What parts wear, by their names, with how it lies there. */
const wearsOfParts = (materials: Readonly<Record<string, Assignment>>) =>
  Object.fromEntries(
    Object.entries(materials).map(
      ([
        part,
        {
          material: { code, version },
          ...lies
        },
      ]) => [part, { code, version, ...lies }],
    ),
  )

class SceneWriter {
  readonly document = new Document()
  private readonly root
  private readonly buffer
  private readonly instancing
  private readonly materials = new Map<ComposedPart['material'], Material>()
  private readonly meshes = new Map<Mesh, Map<Material, GltfMesh>>()
  /** By choice and number. */
  private readonly variants = new Map<string, Variant[]>()
  private readonly typeOf
  private resources: Resources = NO_RESOURCES

  constructor(
    private readonly scene: Scene,
    private readonly references: readonly Reference[] | null,
  ) {
    const { document } = this
    this.typeOf = finishTypes(scene)
    if (references) document.getRoot().setExtras({ muscovite: { references } })
    document.getRoot().getAsset().generator = 'Muscovite'
    this.buffer = document.createBuffer()
    this.root = document.createScene('mock-up')
    this.instancing = document.createExtension(EXTMeshGPUInstancing)
  }

  async write(resources: Resources): Promise<void> {
    this.resources = resources
    this.nameVariants()
    const { loose, placed } = composeScene(this.scene, resources)
    const worn = this.wornByStage()
    for (const part of loose) {
      const mesh = await this.wornMeshOf(part, { piece: null, part: part.name }, worn.get(part.name))
      this.root.addChild(this.partNode({ piece: null, part: part.name }, worn.get(part.name)).setMesh(mesh))
    }
    // Lights are written as what they are, not as what is seen of them.
    for (const thing of placed.filter(t => t.of[0]?.light === undefined))
      await (thing.of[0]?.piece === undefined ? this.writePlants(thing, resources) : this.writePieces(thing))
    this.writeLights(resources)
    this.writeShots()
  }

  private wornByStage(): Map<string, Assignment | undefined> {
    const { stage } = this.scene
    return stage.kind === 'model'
      ? new Map(listStageParts(stage, this.resources.models).map(part => [part.name, wornOfModel(stage, part)]))
      : new Map(Object.entries(stage.materials))
  }

  private async writePieces(thing: Composed): Promise<void> {
    for (const { piece: id } of thing.of) {
      if (id === undefined) continue
      const piece = this.scene.pieces[id]
      const node = this.document
        .createNode(piece.name)
        .setTranslation(piece.position)
        .setRotation(piece.turn)
        .setScale([piece.scale, piece.scale, piece.scale])
        .setExtras(stampOf(piece.item))
      this.root.addChild(node)
      if (this.references) {
        node.setExtras({ muscovite: { ...stampOf(piece.item).muscovite, wears: wearsOfParts(piece.materials) } })
        continue
      }
      for (const part of thing.parts)
        node.addChild(
          this.partNode({ piece: id, part: part.name }, piece.materials[part.name]).setMesh(
            await this.wornMeshOf(part, { piece: id, part: part.name }, piece.materials[part.name]),
          ),
        )
    }
  }

  /** A part that wears the finish of its type says so, for whoever counts by types on the other side. */
  private partNode(spot: Spot, worn: Assignment | undefined): Node {
    const node = this.document.createNode(spot.part)
    const type = this.typeOf(spot, worn)
    return type === null ? node : node.setExtras({ muscovite: { type } })
  }

  /** Of one species of a planting: its plants by number, grown again for their turns and sizes. */
  private async writePlants(thing: Composed, resources: Resources): Promise<void> {
    const [first] = thing.of
    if (first?.planting === undefined) return
    const planting = this.scene.plantings[first.planting]
    const numbers = new Set(thing.of.map(o => o.plant))
    const ground = groundOf(this.scene, planting, resources)
    const plants = growPlanting(planting, keepOutOf(this.scene, resources), ground).filter(p => numbers.has(p.index))
    const species = planting.species[plants[0].species]
    const group = this.document.createNode(`${planting.name}, ${species.name}`).setExtras(stampOf(species.item))
    this.root.addChild(group)
    if (this.references) {
      for (const { position, turn, scale, index } of plants)
        group.addChild(
          this.document
            .createNode(`${species.name} ${index}`)
            .setTranslation(position)
            .setRotation(turn)
            .setScale([scale, scale, scale])
            .setExtras(stampOf(species.item)),
        )
      return
    }
    const list = (type: 'VEC3' | 'VEC4', values: number[]) =>
      this.document.createAccessor().setType(type).setArray(new Float32Array(values)).setBuffer(this.buffer)
    const batch = this.instancing
      .createInstancedMesh()
      .setAttribute(
        'TRANSLATION',
        list(
          'VEC3',
          plants.flatMap(p => p.position),
        ),
      )
      .setAttribute(
        'ROTATION',
        list(
          'VEC4',
          plants.flatMap(p => p.turn),
        ),
      )
      .setAttribute(
        'SCALE',
        list(
          'VEC3',
          plants.flatMap(p => [p.scale, p.scale, p.scale]),
        ),
      )
    for (const part of thing.parts)
      group.addChild(
        this.document
          .createNode(part.name)
          .setMesh(await this.meshOf(part, undefined, species.item))
          .setExtension('EXT_mesh_gpu_instancing', batch),
      )
  }

  /** As the standard has them: a curve becomes the cone of its beam, a panel a wide one. */
  private writeLights(resources: Resources): void {
    const { lights, groups } = this.scene
    const shown = Object.values(lights).filter(light => !isLightHidden({ groups }, light))
    if (shown.length === 0) return
    const extension = this.document.createExtension(KHRLightsPunctual)
    for (const light of shown) {
      const web = light.item ? (resources.webs.get(light.item.inputKey) ?? null) : null
      const { kind, color, intensity, coneRad } = printLight(light, web)
      const made = extension.createLight(light.name).setType(kind).setColor(color).setIntensity(intensity)
      if (coneRad !== null) made.setOuterConeAngle(coneRad).setInnerConeAngle(0)
      // A spot shines along -z at rest, a light of a mock-up down.
      const node = this.document
        .createNode(light.name)
        .setExtension('KHR_lights_punctual', made)
        .setTranslation(light.position)
        .setRotation(multiply(light.turn as Quaternion, turnAbout([1, 0, 0], -90)))
      if (light.item) node.setExtras(stampOf(light.item))
      this.root.addChild(node)
    }
  }

  private writeShots(): void {
    for (const shot of Object.values(this.scene.shots)) {
      const camera = this.document
        .createCamera(shot.name)
        .setType('perspective')
        .setYFov(2 * Math.atan(12 / shot.focalMm))
        .setAspectRatio(shot.aspect)
        .setZNear(0.01)
      const node: Node = this.document
        .createNode(shot.name)
        .setCamera(camera)
        .setTranslation(shot.position)
        .setRotation(lookFrom(shot))
        .setExtras({ muscovite: { view: noteOfShot(shot, this.scene.skies) } })
      this.root.addChild(node)
    }
  }

  private nameVariants(): void {
    const { choices } = this.scene
    if (Object.keys(choices).length === 0) return
    const extension = this.document.createExtension(KHRMaterialsVariants)
    for (const [id, { name, variants }] of Object.entries(choices))
      this.variants.set(
        id,
        variants.map(v => extension.createVariant(`${name}: ${v?.material.code ?? 'its own'}`)),
      )
  }

  /** A mesh of its own where its part is of a choice, so that it can be shown in each of the variants. */
  private async wornMeshOf(part: ComposedPart, spot: Spot, worn: Assignment | undefined): Promise<GltfMesh> {
    const found = choiceAt(this.scene, spot)
    const mesh = await this.meshOf(part, worn, spot.piece === null ? undefined : this.scene.pieces[spot.piece].item)
    if (!found) return mesh
    const extension = this.document.createExtension(KHRMaterialsVariants)
    const list = extension.createMappingList()
    for (const [k, variant] of found.choice.variants.entries()) {
      const look = this.lookIn(spot, variant)
      if (!look) continue
      const material = await this.likeLaid(look, variant ?? undefined, part)
      list.addMapping(extension.createMapping().setMaterial(material).addVariant(this.variants.get(found.id)![k]))
    }
    const [primitive] = mesh.listPrimitives()
    const own = primitive.clone().setExtension('KHR_materials_variants', list)
    return this.document.createMesh(part.name).addPrimitive(own)
  }

  /** What a part shows in a variant. */
  private lookIn({ piece, part }: Spot, variant: Assignment | null): ComposedPart | undefined {
    const materials: Record<string, Assignment> = variant ? { [part]: variant } : {}
    const parts =
      piece === null
        ? composeStage({ ...this.scene.stage, materials }, this.resources)
        : composePiece({ ...this.scene.pieces[piece], materials }, this.resources)
    const found = parts?.find(p => p.name === part)
    return found && bakeShift(found)
  }

  /** The material of a variant on coordinates that are those of the one shown: at true scale all the same. */
  private async likeLaid(look: ComposedPart, worn: Assignment | undefined, shown: ComposedPart): Promise<Material> {
    const [own, there] = [look.material.tileSizeM ?? [1, 1], shown.material.tileSizeM ?? [1, 1]]
    const scale: [number, number] = [there[0] / own[0], there[1] / own[1]]
    const made = await this.materialOf(look, worn)
    if (Math.abs(scale[0] - 1) < 1e-6 && Math.abs(scale[1] - 1) < 1e-6) return made
    const scaled = made.clone()
    const extension = this.document.createExtension(KHRTextureTransform)
    for (const info of [
      scaled.getBaseColorTextureInfo(),
      scaled.getMetallicRoughnessTextureInfo(),
      scaled.getNormalTextureInfo(),
      scaled.getEmissiveTextureInfo(),
    ])
      info?.setExtension('KHR_texture_transform', extension.createTransform().setScale(scale))
    return scaled
  }

  private async meshOf(part: ComposedPart, worn?: Assignment, owner?: ItemRef): Promise<GltfMesh> {
    const material = await this.materialOf(part, worn, owner)
    const known = this.meshes.get(part.mesh) ?? new Map<Material, GltfMesh>()
    this.meshes.set(part.mesh, known)
    let mesh = known.get(material)
    if (!mesh) {
      const [tileU, tileV] = part.material.tileSizeM ?? [1, 1]
      const accessor = (type: 'VEC2' | 'VEC3' | 'SCALAR', array: Float32Array | Uint32Array) =>
        this.document
          .createAccessor()
          .setType(type)
          .setArray(array as Float32Array<ArrayBuffer>)
          .setBuffer(this.buffer)
      const primitive = this.document
        .createPrimitive()
        .setAttribute('POSITION', accessor('VEC3', part.mesh.positions))
        .setAttribute('NORMAL', accessor('VEC3', part.mesh.normals))
        .setAttribute(
          'TEXCOORD_0',
          accessor(
            'VEC2',
            part.mesh.uvs.map((v, i) => v / (i % 2 === 0 ? tileU : tileV)),
          ),
        )
        .setIndices(accessor('SCALAR', part.mesh.indices))
        .setMaterial(material)
      mesh = this.document.createMesh(part.name).addPrimitive(primitive)
      known.set(material, mesh)
    }
    return mesh
  }

  /** @param owner the item whose own material it is */
  private async materialOf({ material, images }: ComposedPart, worn?: Assignment, owner?: ItemRef): Promise<Material> {
    let made = this.materials.get(material)
    if (!made) {
      const isReferred = this.references !== null && (worn ?? owner) !== undefined
      const textures = isReferred ? {} : await encodeTextures(material.name, material.textures, images)
      made = addGltfMaterial(this.document, material, textures)
      if (worn) made.setName(`${material.name} (${worn.material.code})`).setExtras(stampOf(worn.material))
      else if (owner) made.setExtras(stampOf(owner))
      this.materials.set(material, made)
    }
    return made
  }
}

/** The turn of a camera that looks along -z at rest. */
function lookFrom({ position, target }: { position: readonly number[]; target: readonly number[] }): Quaternion {
  const [x, y, z] = [0, 1, 2].map(k => target[k] - position[k])
  const flat = Math.hypot(x, z)
  if (!(flat > 0 || y !== 0)) return NO_TURN
  const yaw = Math.atan2(-x, -z) / 2
  const pitch = Math.atan2(y, flat) / 2
  // About the vertical, after a tilt about the right.
  const [cy, sy, cp, sp] = [Math.cos(yaw), Math.sin(yaw), Math.cos(pitch), Math.sin(pitch)]
  return [cy * sp, sy * cp, -sy * sp, cy * cp]
}

type Textures = ComposedPart['material']['textures']

async function encodeTextures(name: string, textures: Textures, images: readonly ByteImage[]): Promise<GltfTextures> {
  const imageOf = (binding: TextureBinding | undefined) => (binding ? images[binding.image] : undefined)
  const encode = async (
    what: string,
    { width, height }: ByteImage,
    channels: 3 | 4,
    data: Uint8Array,
  ): Promise<EncodedPicture> => ({
    name: `${name} ${what}`,
    mediaType: 'image/png',
    bytes: new Uint8Array(await sharp(data, { raw: { width, height, channels } }).png({ compressionLevel: 6 }).toBuffer()),
  })
  const [color, opacity, normal] = [
    imageOf(textures.baseColor),
    imageOf(textures.geometryOpacity),
    imageOf(textures.geometryNormal),
  ]
  const [rough, metal, emission] = [
    imageOf(textures.specularRoughness),
    imageOf(textures.baseMetalness),
    imageOf(textures.emissionColor),
  ]
  const mixed = rough ?? metal
  return {
    ...(color
      ? {
          baseColor: opacity
            ? await encode(
                'base colour',
                color,
                4,
                mix(color, [at(color, 0), at(color, 1), at(color, 2), read(opacity, textures.geometryOpacity!, color)]),
              )
            : await encode('base colour', color, 3, mix(color, [at(color, 0), at(color, 1), at(color, 2)])),
        }
      : {}),
    ...(mixed
      ? {
          roughnessMetalness: await encode(
            'roughness and metalness',
            mixed,
            3,
            mix(mixed, [
              () => 255,
              rough ? read(rough, textures.specularRoughness!, mixed) : () => 255,
              metal ? read(metal, textures.baseMetalness!, mixed) : () => 0,
            ]),
          ),
        }
      : {}),
    ...(normal
      ? {
          normal: await encode(
            'normal',
            normal,
            3,
            mix(normal, [
              at(normal, 0),
              textures.geometryNormal?.handedness === 'directX' ? p => 255 - at(normal, 1)(p) : at(normal, 1),
              at(normal, 2),
            ]),
          ),
        }
      : {}),
    ...(emission
      ? { emission: await encode('emission', emission, 3, mix(emission, [at(emission, 0), at(emission, 1), at(emission, 2)])) }
      : {}),
  }
}

type ReadPixel = (pixel: number) => number

const at =
  ({ data, channels }: ByteImage, channel: number): ReadPixel =>
  pixel =>
    data[pixel * channels + Math.min(channel, channels - 1)]

/** A channel of one picture at the pixels of another, which may be of another size. */
function read(image: ByteImage, { channel, inverted }: TextureBinding, like: ByteImage): ReadPixel {
  const value = at(image, channel)
  return pixel => {
    const x = Math.floor((((pixel % like.width) + 0.5) / like.width) * image.width)
    const y = Math.floor(((Math.floor(pixel / like.width) + 0.5) / like.height) * image.height)
    const v = value(y * image.width + x)
    return inverted ? 255 - v : v
  }
}

function mix({ width, height }: ByteImage, channels: readonly ReadPixel[]): Uint8Array {
  const out = new Uint8Array(width * height * channels.length)
  for (let p = 0; p < width * height; p++) for (let c = 0; c < channels.length; c++) out[p * channels.length + c] = channels[c](p)
  return out
}
