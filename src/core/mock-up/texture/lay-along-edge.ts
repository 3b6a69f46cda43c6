import type { Mesh } from '../../geometry/mesh'
import { toDegrees, toRadians } from '../../math/angles'
import { cross, length, subtract, type Vec3 } from '../../math/vec3'
import { axisOf, type Lay } from './lay-texture'

/** Edges that differ by less run the same way. */
const BIN_DEG = 1
/** Nearer corners are one, metres. */
const WELD_M = 1e-4

/**
 * How a texture is to lie on a part so that it runs along the longest edges of it and begins in a corner: a floor's boards with a wall, a
 * table's grain with its length, however the part stands.
 * @param laid with texture coordinates in metres, as `lay` has put them there
 * @param isAcross whether it is to run across those edges instead
 * @returns degrees in -90..90 and metres; null where the part has no edge
 */
export function layAlongEdge(
  laid: Mesh,
  lay: Pick<Lay, 'turnDeg' | 'offsetM'>,
  isAcross = false,
): { turnDeg: number; offsetM: [number, number] } | null {
  const own = unlay(laid.uvs, lay)
  const edges = outline(own, laid)
  const along = mainDirection(edges)
  if (along === null) return null
  // What lies in direction a is turned by -a to lie along u.
  const turnDeg = halfTurn((isAcross ? 90 : 0) - along)
  const [c, s] = [Math.cos(toRadians(turnDeg)), Math.sin(toRadians(turnDeg))]
  let [u, v] = [Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY]
  for (const [u1, v1] of edges) {
    u = Math.min(u, c * u1 - s * v1)
    v = Math.min(v, s * u1 + c * v1)
  }
  return { turnDeg, offsetM: [0 - u, 0 - v] }
}

/** Into -90..90: a texture looks the same way along an edge from either end. */
const halfTurn = (degrees: number): number => ((((degrees + 90) % 180) + 180) % 180) - 90

/** Texture coordinates before they were turned and moved. */
function unlay(uvs: Float32Array, { turnDeg, offsetM: [du, dv] }: Pick<Lay, 'turnDeg' | 'offsetM'>): Float64Array {
  const [c, s] = [Math.cos(toRadians(turnDeg)), Math.sin(toRadians(turnDeg))]
  const own = new Float64Array(uvs.length)
  for (let i = 0; i < uvs.length; i += 2) {
    const [u, v] = [uvs[i] - du, uvs[i + 1] - dv]
    own[i] = c * u + s * v
    own[i + 1] = c * v - s * u
  }
  return own
}

/** From u, v to u, v. */
type Edge = readonly [number, number, number, number]

/** Edges, on the texture's plane, of what looks the way that most of the part does, where that ends. */
function outline(uvs: Float64Array, mesh: Mesh): Edge[] {
  const { positions: p } = mesh
  const indices = largestFace(mesh)
  const near = (value: number) => Math.round(value / WELD_M)
  const corner = (v: number) => [p[v * 3], p[v * 3 + 1], p[v * 3 + 2], uvs[v * 2], uvs[v * 2 + 1]].map(near).join()
  const corners = new Map<number, string>()
  const cornerOf = (v: number): string => {
    const known = corners.get(v) ?? corner(v)
    corners.set(v, known)
    return known
  }
  const open = new Map<string, Edge | null>()
  for (let i = 0; i < indices.length; i += 3)
    for (let k = 0; k < 3; k++) {
      const [a, b] = [indices[i + k], indices[i + ((k + 1) % 3)]]
      const key = [cornerOf(a), cornerOf(b)].sort().join(' ')
      open.set(key, open.has(key) ? null : [uvs[a * 2], uvs[a * 2 + 1], uvs[b * 2], uvs[b * 2 + 1]])
    }
  return [...open.values()].filter(e => e !== null)
}

/** Triangles that look along that axis along which most of the surface does; up before all others of about as much. */
function largestFace({ positions, indices }: Mesh): number[] {
  const faces = Array.from({ length: 6 }, () => ({ area: 0, indices: [] as number[] }))
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [indices[i], indices[i + 1], indices[i + 2]]
    const face = faces[axisOf(positions, a, b, c)]
    face.area += areaOf(positions, a, b, c)
    face.indices.push(a, b, c)
  }
  const [up] = faces.splice(2, 1)
  return faces.reduce((best, face) => (face.area > best.area * 1.01 ? face : best), up).indices
}

function areaOf(p: Float32Array, a: number, b: number, c: number): number {
  const at = (v: number): Vec3 => [p[v * 3], p[v * 3 + 1], p[v * 3 + 2]]
  return length(cross(subtract(at(b), at(a)), subtract(at(c), at(a)))) / 2
}

/** The direction that most of the length of all edges runs in, degrees in 0..180 from u towards v; null without any length. */
function mainDirection(edges: readonly Edge[]): number | null {
  const bins = new Float64Array(180 / BIN_DEG)
  const directed = edges.map(([u1, v1, u2, v2]) => ({
    length: Math.hypot(u2 - u1, v2 - v1),
    degrees: (toDegrees(Math.atan2(v2 - v1, u2 - u1)) + 360) % 180,
  }))
  for (const { length, degrees } of directed) bins[Math.round(degrees / BIN_DEG) % bins.length] += length
  // Beside a bin the same edge may fall into the next.
  const around = bins.map((own, k) => own + bins[(k + 1) % bins.length] + bins[(k + bins.length - 1) % bins.length])
  const best = around.indexOf(Math.max(...around))
  let [sum, whole] = [0, 0]
  for (const { length, degrees } of directed) {
    const off = halfTurn(degrees - best * BIN_DEG)
    if (Math.abs(off) > 1.5 * BIN_DEG) continue
    sum += off * length
    whole += length
  }
  return whole > 0 ? best * BIN_DEG + sum / whole : null
}
