import { createHash } from 'node:crypto'
import { Document, type Node } from '@gltf-transform/core'
import { copyToDocument, getBounds, unpartition } from '@gltf-transform/functions'
import { FileError } from '#core/findings/failure'
import { safeName } from '#core/hand-over/delivered-name'
import type { WrittenFile } from '../exports/map-files'
import { assembleModel } from '../models/assemble-model'
import { loadGltfIo } from '../models/gltf-io'
import type { SourceFile } from '../reading/source-file'
import { freeName } from './free-name'
import { withSceneFiles } from './gather-scene'

/** All of a scene is in memory while things are taken out of it. */
const MOST_BYTES = 1024 ** 3

/**
 * Takes models out of a scene as a delivery would bring them: each with its parts and materials as one binary glTF that stands at the origin
 * on its foot, turned as it was made. Several of one shape come once.
 * @param nodes numbers of nodes in the scene
 * @throws FileError where the scene does not read, or is too large for that
 */
export const takeOutModels = (files: readonly SourceFile[], nodes: readonly number[]): Promise<WrittenFile[]> =>
  withSceneFiles(files, async (main, parts) => {
    if (main.size > MOST_BYTES)
      throw new FileError(
        'tooLarge',
        'The scene is too large to take models out of; send its models to Intake as files of their own.',
      )
    const io = await loadGltfIo()
    const source = await io.readBinary((await assembleModel(main, parts)).bytes)
    const all = source.getRoot().listNodes()
    const written: WrittenFile[] = []
    const [names, shapes] = [new Set<string>(), new Set<string>()]
    for (const node of nodes.flatMap(n => all[n] ?? [])) {
      const shape = hashShape(node)
      if (shapes.has(shape)) continue
      shapes.add(shape)
      const document = await standAlone(source, node)
      if (document)
        written.push({
          path: `${freeName(safeName(node.getName() || node.getMesh()?.getName() || 'model'), names)}.glb`,
          bytes: await io.writeBinary(document),
        })
    }
    return written
  })

/** By what it looks like in its own space: two with the same are one model, wherever they stand and whatever they are called. */
function hashShape(node: Node): string {
  const hash = createHash('sha256')
  const add = (own: Node, isTop: boolean) => {
    if (!isTop) hash.update(JSON.stringify(own.getMatrix()))
    for (const primitive of own.getMesh()?.listPrimitives() ?? []) {
      for (const accessor of [primitive.getAttribute('POSITION'), primitive.getIndices()]) {
        const array = accessor?.getArray()
        if (array) hash.update(new Uint8Array(array.buffer, array.byteOffset, array.byteLength))
      }
      hash.update(primitive.getMaterial()?.getName() ?? '')
    }
    for (const child of own.listChildren()) add(child, false)
  }
  add(node, true)
  return hash.digest('hex')
}

/** A document of one node and all below it; null where it has no surface. */
async function standAlone(source: Document, node: Node): Promise<Document | null> {
  const document = new Document()
  const copied = copyToDocument(document, source, [node]).get(node) as Node
  const scene = document.createScene(node.getName()).addChild(copied)
  document.getRoot().setDefaultScene(scene)
  const thing = document.getRoot()
  for (const stray of [...thing.listCameras(), ...thing.listAnimations(), ...thing.listSkins()]) stray.dispose()
  copied.setMatrix(asMade(node.getWorldMatrix()))
  const { min, max } = getBounds(scene)
  if (!min.every(Number.isFinite)) return null
  const [x, y, z] = copied.getTranslation()
  copied.setTranslation([x - (min[0] + max[0]) / 2, y - min[1], z - (min[2] + max[2]) / 2])
  await document.transform(unpartition())
  return document
}

type Matrix = ReturnType<Node['getWorldMatrix']>

/** How a node stands in a scene, but for where, and how it is turned about the vertical: that is the scene's and not the thing's. */
function asMade(world: Matrix): Matrix {
  const lengths = [0, 4, 8].map(k => Math.hypot(world[k], world[k + 1], world[k + 2]))
  const isUpright = lengths[1] > 0 && world[5] / lengths[1] > 1 - 1e-4
  const isMirrored = world[0] * world[10] - world[8] * world[2] < 0
  const made = [...world] as Matrix
  if (isUpright && !isMirrored) [made[0], made[1], made[2], made[8], made[9], made[10]] = [lengths[0], 0, 0, 0, 0, lengths[2]]
  ;[made[12], made[13], made[14]] = [0, 0, 0]
  return made
}
