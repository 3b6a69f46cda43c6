import type { Document, Node, Primitive, Skin } from '@gltf-transform/core'
import { accessorFloats } from './accessor-floats'

type Matrix = ArrayLike<number>

const multiply = (a: Matrix, b: Matrix): number[] =>
  Array.from({ length: 16 }, (_, i) => {
    const [column, row] = [i >> 2, i & 3]
    let sum = 0
    for (let k = 0; k < 4; k++) sum += a[k * 4 + row] * b[column * 4 + k]
    return sum
  })

/**
 * Skinned meshes as they stand in the file, without a skin: every vertex where its joints have it. A skinned mesh ignores its own node's
 * place (Khronos, glTF 2.0, section 3.7.3.3), so its node moves to the scene's root.
 */
export function bakeRestPose(document: Document): void {
  const root = document.getRoot()
  const skinned = root.listNodes().filter(node => node.getSkin() && node.getMesh())
  for (const node of skinned) {
    const skin = node.getSkin()!
    const mesh = node.getMesh()!.clone()
    // A mesh of one skin may stand in several places; each gets its own copy.
    for (const primitive of mesh.listPrimitives()) {
      const own = primitive.clone()
      mesh.removePrimitive(primitive).addPrimitive(own)
      bake(own, skin)
    }
    node.setMesh(mesh).setSkin(null)
    const scenes = scenesOf(document, node)
    const keepsChildren = node.listChildren().length > 0
    const standing = keepsChildren ? document.createNode(node.getName()).setMesh(mesh) : node
    if (keepsChildren) node.setMesh(null)
    else {
      node.getParentNode()?.removeChild(node)
      node.setTranslation([0, 0, 0]).setRotation([0, 0, 0, 1]).setScale([1, 1, 1])
    }
    for (const scene of scenes) if (!scene.listChildren().includes(standing)) scene.addChild(standing)
  }
  for (const skin of root.listSkins()) skin.dispose()
}

function scenesOf(document: Document, node: Node) {
  let top = node
  for (let parent = top.getParentNode(); parent; parent = top.getParentNode()) top = parent
  const scenes = document.getRoot().listScenes()
  const holding = scenes.filter(s => s.listChildren().includes(top))
  return holding.length > 0 ? holding : scenes.slice(0, 1)
}

function bake(primitive: Primitive, skin: Skin): void {
  const [joints, weights, position] = ['JOINTS_0', 'WEIGHTS_0', 'POSITION'].map(name => primitive.getAttribute(name))
  if (!joints || !weights || !position || joints.getCount() < position.getCount()) return
  const inverse = skin.getInverseBindMatrices()
  const element: number[] = []
  const matrices = skin.listJoints().map((joint, i) => {
    const world = joint.getWorldMatrix()
    return inverse && i < inverse.getCount() ? multiply(world, inverse.getElement(i, element)) : [...world]
  })
  const count = position.getCount()
  const [p, w] = [accessorFloats(position, 3), accessorFloats(weights, 4)]
  const normal = primitive.getAttribute('NORMAL')
  const n = normal && normal.getCount() === count ? accessorFloats(normal, 3) : null
  const [moved, turned] = [new Float32Array(count * 3), new Float32Array(count * 3)]
  const ids: number[] = []
  for (let v = 0; v < count; v++) {
    joints.getElement(v, ids)
    let total = 0
    for (let k = 0; k < 4; k++) total += w[v * 4 + k]
    const m = new Array<number>(16).fill(0)
    for (let k = 0; k < 4; k++) {
      const matrix = matrices[ids[k]]
      if (!matrix || w[v * 4 + k] === 0) continue
      for (let i = 0; i < 16; i++) m[i] += (matrix[i] * w[v * 4 + k]) / (total || 1)
    }
    for (let c = 0; c < 3; c++) {
      moved[v * 3 + c] = m[c] * p[v * 3] + m[4 + c] * p[v * 3 + 1] + m[8 + c] * p[v * 3 + 2] + m[12 + c]
      if (n) turned[v * 3 + c] = m[c] * n[v * 3] + m[4 + c] * n[v * 3 + 1] + m[8 + c] * n[v * 3 + 2]
    }
  }
  primitive.setAttribute('POSITION', position.clone().setArray(moved).setNormalized(false))
  if (normal && n) primitive.setAttribute('NORMAL', normal.clone().setArray(turned).setNormalized(false))
  for (const name of ['JOINTS_0', 'WEIGHTS_0', 'JOINTS_1', 'WEIGHTS_1']) primitive.setAttribute(name, null)
}
