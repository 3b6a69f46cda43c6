import sharp from 'sharp'
import { linearToSrgbByte } from '#core/color/srgb'
import type { Mesh } from '#core/geometry/mesh'
import { add, cross, normalize, scale, type Vec3 } from '#core/math/vec3'
import type { Finish } from './model-file'

/** Leaves as cards cut out by alpha: their pictures, and the meshes that carry them. */

/** Plants by branching growth, with leaves as cards cut out by alpha. Metres, base at the origin. */

export type LeafShape = 'ovate' | 'lobed' | 'palmate' | 'blade' | 'split'

export interface Card {
  base: Vec3
  along: Vec3
  side: Vec3
  lengthM: number
  widthM: number
  bend: number
}

export const turn = (v: Vec3, axis: Vec3, angle: number): Vec3 => {
  // Rodrigues' rotation.
  const c = Math.cos(angle)
  const d = (v[0] * axis[0] + v[1] * axis[1] + v[2] * axis[2]) * (1 - c)
  return add(add(scale(v, c), scale(cross(axis, v), Math.sin(angle))), scale(axis, d))
}

export const anySide = (v: Vec3): Vec3 => normalize(cross(v, Math.abs(v[1]) > 0.9 ? [1, 0, 0] : [0, 1, 0]))

/** A leaf in two quads, bent along its length. The picture's top is the tip. */
export function cardsMesh(cards: readonly Card[], rows = 2): Mesh {
  const w = 2 * (rows + 1)
  const mesh: Mesh = {
    positions: new Float32Array(cards.length * w * 3),
    normals: new Float32Array(cards.length * w * 3),
    uvs: new Float32Array(cards.length * w * 2),
    indices: new Uint32Array(cards.length * rows * 6),
  }
  cards.forEach((card, n) => {
    const up = normalize(cross(card.side, card.along))
    for (let j = 0; j <= rows; j++) {
      const t = j / rows
      const drop = -card.bend * t * t * card.lengthM
      const middle = add(add(card.base, scale(card.along, card.lengthM * t)), scale(up, drop))
      const normal = normalize(add(up, scale(card.along, 2 * card.bend * t)))
      for (let i = 0; i < 2; i++) {
        const at = n * w + j * 2 + i
        mesh.positions.set(add(middle, scale(card.side, (i - 0.5) * card.widthM)), at * 3)
        mesh.normals.set(normal, at * 3)
        mesh.uvs.set([i, 1 - t], at * 2)
      }
      if (j < rows) {
        const a = n * w + j * 2
        mesh.indices.set([a, a + 1, a + 2, a + 1, a + 3, a + 2], (n * rows + j) * 6)
      }
    }
  })
  return mesh
}

/** Half width of a leaf at a height 0 (stalk) to 1 (tip), as a share of the picture's half width. */
const OUTLINES: Record<LeafShape, (x: number, y: number) => boolean> = {
  ovate: (x, y) =>
    Math.abs(x) < 0.92 * Math.sin(Math.PI * Math.min(1, y ** 0.8)) ** 0.9 * (1 + 0.05 * Math.sin(y * 60)) ||
    (Math.abs(x) < 0.05 && y < 0.08),
  lobed: (x, y) =>
    Math.abs(x) <
    (0.3 + 0.62 * Math.sin(Math.PI * Math.min(1, y * 0.95) ** 1.1)) * (0.68 + 0.32 * Math.cos(y * 27)) * (y > 0.08 ? 1 : 0.2),
  palmate: (x, y) => {
    const dx = x
    const dy = (y - 0.3) * 1.45
    const angle = Math.atan2(dx, dy)
    const lobe = Math.cos(angle * 3.5) ** 2
    const reach = Math.abs(angle) < 2.1 ? 0.2 + 0.8 * lobe ** 1.6 * (1 - 0.18 * Math.abs(angle)) : 0.12
    return Math.hypot(dx, dy) < reach || (Math.abs(x) < 0.04 && y < 0.32)
  },
  blade: (x, y) => Math.abs(x) < 0.9 * (1 - y ** 2.2),
  split: (x, y) => {
    const body = Math.abs(x) < 0.98 * Math.sin(Math.PI * Math.min(1, 0.08 + y * 0.93)) ** 0.6
    const slit = Math.abs(x) > 0.3 && Math.abs(((y * 6.5 - Math.abs(x) * 0.9) % 1) - 0.5) < 0.13 && y > 0.1 && y < 0.86
    return (body && !slit) || (Math.abs(x) < 0.03 && y < 0.1)
  },
}

async function leafPicture(shape: LeafShape, color: Vec3): Promise<Uint8Array> {
  const size = 256
  const data = new Uint8Array(size * size * 4)
  const inside = OUTLINES[shape]
  for (let j = 0; j < size; j++)
    for (let i = 0; i < size; i++) {
      const x = ((i + 0.5) / size) * 2 - 1
      const y = 1 - (j + 0.5) / size
      const vein = Math.abs(x) < 0.025 ? 1 : Math.abs(((y * 9 - Math.abs(x) * 2.2) % 1) - 0.5) < 0.045 ? 0.45 : 0
      const k = (0.82 + 0.24 * y - 0.1 * Math.abs(x)) * (1 + 0.35 * vein)
      const at = (j * size + i) * 4
      for (let c = 0; c < 3; c++) data[at + c] = linearToSrgbByte(color[c] * k)
      data[at + 3] = inside(x, y) ? 255 : 0
    }
  return new Uint8Array(
    await sharp(data, { raw: { width: size, height: size, channels: 4 } })
      .png()
      .toBuffer(),
  )
}

export const leafFinish = async (name: string, shape: LeafShape, color: Vec3): Promise<Finish> => ({
  name,
  color: [1, 1, 1],
  roughness: 0.55,
  leaf: { name, png: await leafPicture(shape, color) },
})
