import { type Document, Logger, type Node } from '@gltf-transform/core'
import { dedup, getBounds, prune, uninstance } from '@gltf-transform/functions'
import { resolveType } from '#core/codecs/sniff'
import { FileError } from '#core/findings/failure'
import { measurePart } from '#core/geometry/measure-part'
import { listPartPrimitives } from '#core/geometry/part-primitives'
import { modelFromDocument } from '#core/geometry/read-gltf'
import { guessUnit, METRES_OF, type ModelUnit, type UpAxis } from '#core/mock-up/stage-model/model-space'
import { boundsOf } from '#core/mock-up/things/resources'
import { withSceneFiles } from '../audits/gather-scene'
import { readLooks, type SceneLook } from '../audits/read-looks'
import { openGlbBytes } from '../audits/scene-file'
import { assembleModel } from '../models/assemble-model'
import { loadGltfIo } from '../models/gltf-io'
import { shrinkTextures } from '../models/shrink-textures'
import { readHead, type SourceFile } from '../reading/source-file'

/** One of the materials that a model came with. */
export interface OwnMaterial {
  name: string
  parts: number
  areaM2: number
  look: SceneLook
}

export interface StageModel {
  bytes: Uint8Array
  materials: OwnMaterial[]
  parts: number
  triangles: number
  /** What its lengths were taken to be in. */
  unit: ModelUnit
  /** Width, height and depth. */
  sizeM: [number, number, number]
  /** Files that it names and that did not come along. */
  missing: string[]
}

/** What is looked at in a scene from where one stands needs no more. */
const MOST_TEXTURE_PX = 2048
/** Farther out nothing can be placed. */
const MOST_M = 10_000

/**
 * Makes the stage of a mock-up of a model of one's own: one plain binary glTF in metres with y up; every part under a name of its own, every
 * material too, pictures no larger than they are looked at, and nothing that is no surface.
 * @param given what lengths of the file are in, if not in what its form says; of a form that says nothing it is guessed
 * @throws FileError where there is no model among the files, it does not read, or is too large in that unit
 */
export async function makeStageModel(files: readonly SourceFile[], given: ModelUnit, up: UpAxis): Promise<StageModel> {
  const { assembled, missing, isMute } = await withSceneFiles(files, async (main, parts) => {
    const type = resolveType(main.path, await readHead(main.diskPath))
    const { bytes, missing: lost } = await assembleModel(main, parts)
    return { assembled: bytes, missing: lost, isMute: WITHOUT_UNITS.has(type) }
  })
  const io = await loadGltfIo()
  const document = await io.readBinary(assembled)
  document.setLogger(new Logger(Logger.Verbosity.SILENT))
  await document.transform(uninstance())
  keepOneScene(document)
  const unit = isMute && given === 'asSaid' ? guessUnit(longestOf(document)) : given
  stand(document, METRES_OF[unit], up)
  leaveSurfaces(document)
  await document.transform(dedup({ propertyTypes: ['Accessor', 'Mesh', 'Texture'] as never }), prune({ keepAttributes: true }))
  nameMaterials(document)
  nameParts(document)
  await shrinkTextures(document, MOST_TEXTURE_PX)
  const { parts, materials: looks } = modelFromDocument(document)
  const { min, max } = boundsOf(parts)
  const sizeM: StageModel['sizeM'] = [max[0] - min[0], max[1] - min[1], max[2] - min[2]]
  const far = Math.max(...min.map(Math.abs), ...max.map(Math.abs))
  if (!(far <= MOST_M))
    throw new FileError(
      'tooLarge',
      `In this unit it reaches ${Math.round(far).toLocaleString('en')} m from its origin; ${MOST_M.toLocaleString('en')} m are the most. Read it again in a smaller unit.`,
    )
  const bytes = await io.writeBinary(document)
  const own = looks.map(() => ({ parts: 0, areaM2: 0 }))
  for (const { material, mesh } of parts) {
    if (material < 0) continue
    own[material].parts++
    own[material].areaM2 += measurePart(mesh).areaM2
  }
  const seen = await readLooks(openGlbBytes(bytes), Object.keys(looks).map(Number))
  return {
    bytes,
    unit,
    materials: looks.map(({ name }, k) => ({ name, ...own[k], look: seen[k] })).filter(m => m.parts > 0),
    parts: parts.length,
    triangles: parts.reduce((sum, p) => sum + p.mesh.indices.length / 3, 0),
    sizeM,
    missing,
  }
}

/** Forms that hold numbers and not what they are in. */
const WITHOUT_UNITS = new Set(['obj', 'ply', 'stl'])

function longestOf(document: Document): number {
  const scene = document.getRoot().listScenes()[0]
  if (!scene) return 0
  const { min, max } = getBounds(scene)
  return Math.max(...max.map((v, k) => v - min[k]))
}

/** What is in no scene, or in another than the one that is shown, is not looked at. */
function keepOneScene(document: Document): void {
  const root = document.getRoot()
  const shown = root.getDefaultScene() ?? root.listScenes()[0]
  if (!shown) return
  for (const scene of root.listScenes()) if (scene !== shown) scene.dispose()
  const there = new Set<Node>()
  shown.traverse(node => there.add(node))
  for (const node of root.listNodes()) if (!there.has(node)) node.dispose()
}

/** Everything under one node that brings it to metres with y up. */
function stand(document: Document, metres: number, up: UpAxis): void {
  if (metres === 1 && up === 'y') return
  const scene = document.getRoot().listScenes()[0]
  if (!scene) return
  const half = Math.SQRT1_2
  const node = document.createNode('as it stands').setScale([metres, metres, metres])
  if (up === 'z') node.setRotation([-half, 0, 0, half])
  for (const child of scene.listChildren()) node.addChild(child)
  scene.addChild(node)
}

function leaveSurfaces(document: Document): void {
  const root = document.getRoot()
  for (const thing of [...root.listAnimations(), ...root.listCameras(), ...root.listSkins()]) thing.dispose()
  for (const extension of root.listExtensionsUsed())
    if (['KHR_lights_punctual', 'KHR_materials_variants', 'KHR_xmp_json_ld'].includes(extension.extensionName))
      extension.dispose()
}

function nameMaterials(document: Document): void {
  const give = createNames('material')
  for (const material of document.getRoot().listMaterials()) material.setName(give(material.getName()))
  // A part without one is told by a name too, and can be given a house material by it.
  const bare = document
    .getRoot()
    .listMeshes()
    .flatMap(m => m.listPrimitives().filter(p => !p.getMaterial()))
  if (bare.length === 0) return
  const plain = document
    .createMaterial(give('no material'))
    .setBaseColorFactor([0.6, 0.6, 0.6, 1])
    .setRoughnessFactor(0.8)
    .setMetallicFactor(0)
  for (const primitive of bare) primitive.setMaterial(plain)
}

/** A node's parts are called by the node, and by their materials where there are several; all of them differently. */
function nameParts(document: Document): void {
  const give = createNames('part')
  for (const node of document.getRoot().listNodes())
    if (node.getMesh()) node.setName(give(node.getName() || node.getMesh()!.getName()))
  const names = listPartPrimitives(document).map(p => p.name)
  if (new Set(names).size === names.length) return
  // Two of one material at one node, or a name that another node's part has: each part becomes a node of its own.
  const taken = createNames('part')
  for (const node of document.getRoot().listNodes()) {
    const mesh = node.getMesh()
    if (!mesh) continue
    const primitives = mesh.listPrimitives()
    if (primitives.length < 2) {
      node.setName(taken(node.getName()))
      continue
    }
    const name = node.getName()
    primitives.forEach(primitive => {
      const own = document.createMesh(name).addPrimitive(primitive)
      node.addChild(document.createNode(taken(`${name} ${primitive.getMaterial()!.getName()}`)).setMesh(own))
    })
    node.setMesh(null)
  }
}

const LONGEST_NAME = 180

/** Names that no two have: the second of one name is its second. */
function createNames(fallback: string): (wanted: string) => string {
  const taken = new Set<string>()
  const last = new Map<string, number>()
  return wanted => {
    const plain = wanted.trim().slice(0, LONGEST_NAME) || fallback
    let name = plain
    for (let n = last.get(plain) ?? 2; taken.has(name); n++) {
      name = `${plain} ${n}`
      last.set(plain, n + 1)
    }
    taken.add(name)
    return name
  }
}
