import type { Document, Node } from '@gltf-transform/core'
import type { InstancedMesh } from '@gltf-transform/extensions'

const INSTANCING = 'EXT_mesh_gpu_instancing'

/**
 * Makes of a group whose parts are repeated together, by one list of places, as many groups as there are places, each with what the group says
 * of itself: of a planting its plants. For forms that repeat nothing by a list; what is repeated otherwise is left to whoever comes next.
 */
export function spreadBatches(document: Document): void {
  for (const group of document.getRoot().listNodes()) {
    const parts = group.listChildren()
    const batches = parts.map(part => part.getExtension<InstancedMesh>(INSTANCING))
    const [batch] = batches
    if (!batch || !batches.every(b => b && isSamePlaces(b, batch)) || !parts.every(standsAtOrigin)) continue
    const placed = placesOf(batch)
    const stamp = group.getExtras().muscovite
    for (const [k, { position, turn, scale }] of placed.entries()) {
      const copy = document
        .createNode(`${group.getName()} ${k + 1}`)
        .setTranslation(position)
        .setRotation(turn)
        .setScale(scale)
        .setExtras(stamp === undefined ? {} : { muscovite: stamp })
      for (const part of parts)
        copy.addChild(document.createNode(part.getName()).setMesh(part.getMesh()).setExtras(part.getExtras()))
      group.addChild(copy)
    }
    const { muscovite: _, ...others } = group.getExtras()
    group.setExtras(others)
    for (const part of parts) part.dispose()
  }
}

const isSamePlaces = (a: InstancedMesh, b: InstancedMesh): boolean =>
  ['TRANSLATION', 'ROTATION', 'SCALE'].every(name => a.getAttribute(name) === b.getAttribute(name))

const standsAtOrigin = (node: Node): boolean =>
  node.listChildren().length === 0 && node.getMatrix().every((v, i) => Math.abs(v - (i % 5 === 0 ? 1 : 0)) < 1e-9)

function placesOf(batch: InstancedMesh) {
  const read = <T extends number[]>(name: string, otherwise: T): ((i: number) => T) => {
    const list = batch.getAttribute(name)
    return i => (list ? (list.getElement(i, [...otherwise]) as T) : otherwise)
  }
  const [position, turn, scale] = [
    read<[number, number, number]>('TRANSLATION', [0, 0, 0]),
    read<[number, number, number, number]>('ROTATION', [0, 0, 0, 1]),
    read<[number, number, number]>('SCALE', [1, 1, 1]),
  ]
  const count = batch.listAttributes()[0]?.getCount() ?? 0
  return Array.from({ length: count }, (_, i) => ({ position: position(i), turn: turn(i), scale: scale(i) }))
}
