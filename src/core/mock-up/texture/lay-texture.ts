import type { Mesh } from '../../geometry/mesh'
import { toRadians } from '../../math/angles'

/** How a texture lies on a part. */
export interface Lay {
  /** The part's own coordinates, or projected along the three axes onto the faces that look that way. */
  mapping: 'own' | 'box'
  /** Counter-clockwise on the surface. */
  turnDeg: number
  offsetM: readonly [number, number]
  /** What stands once: width and height in metres; it is drawn over the part's whole extent. Null where it repeats. */
  onceM?: readonly [number, number] | null
}

/**
 * A part's mesh with texture coordinates in metres, so that a texture is as large on it as in life.
 * @param mesh texture coordinates in any unit
 * @param hasUvs whether they are the file's; where they are not, or have no extent, the part is mapped along the axes
 * @param scale of the piece: what stands larger has more of the texture on it
 * @returns vertices may be more than before where faces of several directions meet
 */
export function layTexture(mesh: Mesh, hasUvs: boolean, lay: Lay, scale = 1): Mesh {
  const density = hasUvs && lay.mapping === 'own' ? measureDensity(mesh) : 0
  const laid = density > 0 ? { ...mesh, uvs: mesh.uvs.map(v => (v / density) * scale) } : mappedAlongAxes(mesh, scale)
  return { ...laid, uvs: lay.onceM ? stretch(laid.uvs, lay.onceM) : turnAndMove(laid.uvs, lay) }
}

/** Units of the texture coordinates per metre of surface, over all of it; 0 where they have no extent. */
function measureDensity({ positions: p, uvs, indices }: Mesh): number {
  let [chart, area] = [0, 0]
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [indices[i], indices[i + 1], indices[i + 2]]
    const [u1, v1] = [uvs[b * 2] - uvs[a * 2], uvs[b * 2 + 1] - uvs[a * 2 + 1]]
    const [u2, v2] = [uvs[c * 2] - uvs[a * 2], uvs[c * 2 + 1] - uvs[a * 2 + 1]]
    chart += Math.abs(u1 * v2 - u2 * v1)
    const [x1, y1, z1] = [0, 1, 2].map(k => p[b * 3 + k] - p[a * 3 + k])
    const [x2, y2, z2] = [0, 1, 2].map(k => p[c * 3 + k] - p[a * 3 + k])
    area += Math.hypot(y1 * z2 - z1 * y2, z1 * x2 - x1 * z2, x1 * y2 - y1 * x2)
  }
  return area > 0 && chart > 1e-12 * area ? Math.sqrt(chart / area) : 0
}

const mapped = new WeakMap<Mesh, { scale: number; mesh: Mesh }>()
/** Made once for a mesh, however its texture is turned: what has the same corners need not be built anew for a rendering. */
function mappedAlongAxes(mesh: Mesh, scale: number): Mesh {
  const known = mapped.get(mesh)
  if (known?.scale === scale) return known.mesh
  const made = mapAlongAxes(mesh, scale)
  mapped.set(mesh, { scale, mesh: made })
  return made
}

/** Each face seen along the axis that it looks along most; vertices that faces of several directions share are parted. */
function mapAlongAxes({ positions: p, normals: n, indices }: Mesh, scale: number): Mesh {
  const made = new Map<number, number>()
  const from: number[] = []
  const axes: number[] = []
  const next = new Uint32Array(indices.length)
  for (let i = 0; i < indices.length; i += 3) {
    const axis = axisOf(p, indices[i], indices[i + 1], indices[i + 2])
    for (let k = i; k < i + 3; k++) {
      const key = indices[k] * 6 + axis
      let at = made.get(key)
      if (at === undefined) {
        at = from.push(indices[k]) - 1
        axes.push(axis)
        made.set(key, at)
      }
      next[k] = at
    }
  }
  const out: Mesh = {
    positions: new Float32Array(from.length * 3),
    normals: new Float32Array(from.length * 3),
    uvs: new Float32Array(from.length * 2),
    indices: next,
  }
  from.forEach((v, at) => {
    for (let k = 0; k < 3; k++) {
      out.positions[at * 3 + k] = p[v * 3 + k]
      out.normals[at * 3 + k] = n[v * 3 + k]
    }
    const [x, y, z] = [p[v * 3] * scale, p[v * 3 + 1] * scale, p[v * 3 + 2] * scale]
    // Upright on what stands, and never mirrored: u runs to the right as one looks at the face.
    const [u, w] = [
      [-z, -y],
      [z, -y],
      [x, z],
      [x, -z],
      [x, -y],
      [-x, -y],
    ][axes[at]]
    out.uvs[at * 2] = u
    out.uvs[at * 2 + 1] = w
  })
  return out
}

/** Along which axis a triangle looks most, 0..5: towards +x, -x, +y, -y, +z, -z. */
export function axisOf(p: Float32Array, a: number, b: number, c: number): number {
  const [x1, y1, z1] = [0, 1, 2].map(k => p[b * 3 + k] - p[a * 3 + k])
  const [x2, y2, z2] = [0, 1, 2].map(k => p[c * 3 + k] - p[a * 3 + k])
  const normal = [y1 * z2 - z1 * y2, z1 * x2 - x1 * z2, x1 * y2 - y1 * x2]
  const sizes = normal.map(Math.abs)
  // Up and down win a tie: boards lie along a floor.
  const axis = sizes[1] >= sizes[0] && sizes[1] >= sizes[2] ? 1 : sizes[0] >= sizes[2] ? 0 : 2
  return axis * 2 + (normal[axis] < 0 ? 1 : 0)
}

function turnAndMove(uvs: Float32Array, { turnDeg, offsetM: [du, dv] }: Lay): Float32Array {
  if (turnDeg === 0 && du === 0 && dv === 0) return uvs
  const [c, s] = [Math.cos(toRadians(turnDeg)), Math.sin(toRadians(turnDeg))]
  const out = new Float32Array(uvs.length)
  // v runs down: turned the other way, the texture turns counter-clockwise.
  for (let i = 0; i < uvs.length; i += 2) {
    out[i] = c * uvs[i] - s * uvs[i + 1] + du
    out[i + 1] = s * uvs[i] + c * uvs[i + 1] + dv
  }
  return out
}

function stretch(uvs: Float32Array, [widthM, heightM]: readonly [number, number]): Float32Array {
  let [u0, u1, v0, v1] = [Infinity, -Infinity, Infinity, -Infinity]
  for (let i = 0; i < uvs.length; i += 2) {
    ;[u0, u1] = [Math.min(u0, uvs[i]), Math.max(u1, uvs[i])]
    ;[v0, v1] = [Math.min(v0, uvs[i + 1]), Math.max(v1, uvs[i + 1])]
  }
  return uvs.map((v, i) => (i % 2 === 0 ? ((v - u0) / (u1 - u0 || 1)) * widthM : ((v - v0) / (v1 - v0 || 1)) * heightM))
}
