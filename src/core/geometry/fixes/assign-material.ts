import type { Document, Material, Node, Primitive } from '@gltf-transform/core'
import { unweld, weld } from '@gltf-transform/functions'
import { listPartPrimitives } from '../part-primitives'

/**
 * Puts a material of known real size on every primitive of a part. Where the part has texture coordinates they are scaled so that one
 * repeat is as wide on the model as in life; where it has none, it gets box-projected ones.
 * @param widthM real-world width of one repeat; null for a material without textures
 * @returns whether there is such a part
 */
export async function assignMaterial(
  document: Document,
  partName: string,
  material: Material,
  widthM: number | null,
): Promise<boolean> {
  const found = listPartPrimitives(document).filter(p => p.name === partName)
  if (found.length === 0) return false
  if (widthM !== null && found.some(f => !f.primitive.getAttribute('TEXCOORD_0'))) {
    await document.transform(unweld())
    for (const { node, primitive } of found)
      if (!primitive.getAttribute('TEXCOORD_0')) projectBox(document, primitive, scaleOf(node))
    await document.transform(weld())
  }
  for (const { node, primitive } of found) {
    primitive.setMaterial(material)
    if (widthM !== null) scaleUvs(document, primitive, metresPerUv(primitive, scaleOf(node)) / widthM)
  }
  return true
}

/** Mean scale of a node in the world. */
function scaleOf(node: Node): number {
  const m = node.getWorldMatrix()
  const length = (i: number) => Math.hypot(m[i], m[i + 1], m[i + 2])
  return Math.cbrt(length(0) * length(4) * length(8))
}

/** Along which two axes, by the axis that a triangle mostly faces. */
const PLANES = [
  [2, 1],
  [0, 2],
  [0, 1],
] as const

/** Texture coordinates in metres, each triangle projected along the axis it mostly faces. The primitive has no indices. */
function projectBox(document: Document, primitive: Primitive, scale: number): void {
  const position = primitive.getAttribute('POSITION')!
  const count = position.getCount()
  const uvs = new Float32Array(count * 2)
  const corners = [
    [0, 0, 0],
    [0, 0, 0],
    [0, 0, 0],
  ]
  for (let i = 0; i + 2 < count; i += 3) {
    for (let k = 0; k < 3; k++) position.getElement(i + k, corners[k])
    const [a, b, c] = corners
    const normal = [0, 1, 2].map(axis => {
      const [p, q] = [(axis + 1) % 3, (axis + 2) % 3]
      return Math.abs((b[p] - a[p]) * (c[q] - a[q]) - (b[q] - a[q]) * (c[p] - a[p]))
    })
    const [u, v] = PLANES[normal.indexOf(Math.max(...normal))]
    for (let k = 0; k < 3; k++) {
      uvs[(i + k) * 2] = corners[k][u] * scale
      uvs[(i + k) * 2 + 1] = -corners[k][v] * scale
    }
  }
  const [buffer] = document.getRoot().listBuffers()
  primitive.setAttribute('TEXCOORD_0', document.createAccessor().setType('VEC2').setArray(uvs).setBuffer(buffer))
}

/** How many metres one unit of the texture coordinates covers on the surface: the root of area over area. 1 where there is none. */
export function metresPerUv(primitive: Primitive, scale: number): number {
  const position = primitive.getAttribute('POSITION')!
  const uv = primitive.getAttribute('TEXCOORD_0')
  if (!uv) return 1
  const indices = primitive.getIndices()
  const count = indices ? indices.getCount() : position.getCount()
  const at = (i: number): number => (indices ? indices.getScalar(i) : i)
  const p = [
    [0, 0, 0],
    [0, 0, 0],
    [0, 0, 0],
  ]
  const t = [
    [0, 0],
    [0, 0],
    [0, 0],
  ]
  let surface = 0
  let chart = 0
  for (let i = 0; i + 2 < count; i += 3) {
    for (let k = 0; k < 3; k++) {
      position.getElement(at(i + k), p[k])
      uv.getElement(at(i + k), t[k])
    }
    const [ux, uy, uz] = [0, 1, 2].map(c => p[1][c] - p[0][c])
    const [vx, vy, vz] = [0, 1, 2].map(c => p[2][c] - p[0][c])
    surface += Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx)
    chart += Math.abs((t[1][0] - t[0][0]) * (t[2][1] - t[0][1]) - (t[1][1] - t[0][1]) * (t[2][0] - t[0][0]))
  }
  return chart > 1e-12 && surface > 0 ? Math.sqrt(surface / chart) * scale : 1
}

/** Texture coordinates so many times as far, in an accessor of their own: another part may share the old one. */
function scaleUvs(document: Document, primitive: Primitive, repeats: number): void {
  const uv = primitive.getAttribute('TEXCOORD_0')
  if (!uv) return
  const array = new Float32Array(uv.getCount() * 2)
  const element = [0, 0]
  for (let i = 0; i < uv.getCount(); i++) {
    uv.getElement(i, element)
    array[i * 2] = element[0] * repeats
    array[i * 2 + 1] = element[1] * repeats
  }
  primitive.setAttribute('TEXCOORD_0', document.createAccessor().setType('VEC2').setArray(array).setBuffer(uv.getBuffer()))
}
