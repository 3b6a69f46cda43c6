import type { Node, Primitive } from '@gltf-transform/core'
import { multiply, NO_TURN, rotate, turnAbout } from '#core/math/quaternion'
import type { Random } from '#core/math/random'

const primitivesOf = (node: Node): Primitive[] => [node, ...descendants(node)].flatMap(n => n.getMesh()?.listPrimitives() ?? [])
const descendants = (node: Node): Node[] => node.listChildren().flatMap(c => [c, ...descendants(c)])

/** What programs on the way do to a model without anybody having meant it: places worked into vertices, vertices in another order, sizes. */
export function passModelOn(node: Node, random: Random): void {
  const turn = turnAbout([0, 1, 0], random.between(0, 360))
  const way = random.index(3)
  if (way === 0) {
    const size = random.between(0.8, 1.25)
    node.setScale([size, size, size])
    return
  }
  const offset = [random.between(-3, 3), 0, random.between(-3, 3)]
  for (const primitive of primitivesOf(node)) {
    const position = primitive.getAttribute('POSITION')!
    const array = position.getArray()!.slice()
    for (let i = 0; i < array.length; i += 3) {
      const v = rotate(way === 1 ? turn : multiply(turn, NO_TURN), [array[i], array[i + 1], array[i + 2]])
      for (let c = 0; c < 3; c++) array[i + c] = v[c] + offset[c]
    }
    position.setArray(array)
    if (way === 2) reverseTriangles(primitive)
  }
}

function reverseTriangles(primitive: Primitive): void {
  const indices = primitive.getIndices()!
  const array = indices.getArray()!.slice()
  const count = array.length / 3
  for (let t = 0; t < count; t++) for (let c = 0; c < 3; c++) array[t * 3 + c] = indices.getArray()![(count - 1 - t) * 3 + c]
  indices.setArray(array)
}

/** What somebody may have done to a model in a project. */
export const MODEL_ALTERATIONS: Readonly<Record<string, (node: Node, random: Random) => void>> = {
  stretched: (node, random) => {
    for (const primitive of primitivesOf(node)) {
      const position = primitive.getAttribute('POSITION')!
      const k = random.between(1.06, 1.25)
      const array = position.getArray()!.slice()
      for (let i = 0; i < array.length; i += 3) array[i] *= k
      position.setArray(array)
    }
  },
  partGone: node => {
    const parts = descendants(node).filter(n => n.getMesh())
    parts[parts.length - 1].dispose()
  },
  partMoved: (node, random) => {
    const parts = descendants(node).filter(n => n.getMesh())
    parts[parts.length - 1].setTranslation([0, random.between(0.1, 0.3), random.between(0.05, 0.2)])
  },
  thinned: node => {
    for (const primitive of primitivesOf(node)) {
      const indices = primitive.getIndices()!
      const array = indices.getArray()!
      indices.setArray(array.slice(0, Math.floor((array.length * 0.9) / 3) * 3))
    }
  },
}
