import { toRadians } from '../math/angles'
import { add, cross, normalize, scale, subtract, type Vec3 } from '../math/vec3'
import { computeNormalsInPlace, type Mesh, mergeMeshes } from './mesh'

/** Solids and sheets in metres. Texture coordinates are in metres too, so a texture keeps its true scale. */

/** A sheet from a function of (s, t) in 0..1; normals are smooth. `wrap` joins s = 1 to s = 0 for the normals. */
export function createSheet(
  columns: number,
  rows: number,
  point: (s: number, t: number) => Vec3,
  uv: (s: number, t: number) => [number, number],
  wrap = false,
): Mesh {
  const w = columns + 1
  const count = w * (rows + 1)
  const mesh: Mesh = {
    positions: new Float32Array(count * 3),
    normals: new Float32Array(count * 3),
    uvs: new Float32Array(count * 2),
    indices: new Uint32Array(columns * rows * 6),
  }
  for (let j = 0; j <= rows; j++)
    for (let i = 0; i <= columns; i++) {
      const s = i / columns
      const t = j / rows
      mesh.positions.set(point(s, t), (j * w + i) * 3)
      mesh.uvs.set(uv(s, t), (j * w + i) * 2)
    }
  let k = 0
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++) {
      const a = j * w + i
      mesh.indices.set([a, a + 1, a + w, a + 1, a + w + 1, a + w], k)
      k += 6
    }
  computeNormalsInPlace(mesh)
  if (wrap) {
    for (let j = 0; j <= rows; j++) {
      const a = j * w * 3
      const b = (j * w + columns) * 3
      const n = normalize([
        mesh.normals[a] + mesh.normals[b],
        mesh.normals[a + 1] + mesh.normals[b + 1],
        mesh.normals[a + 2] + mesh.normals[b + 2],
      ])
      mesh.normals.set(n, a)
      mesh.normals.set(n, b)
    }
  }
  return mesh
}

export type Point2 = [number, number]

/** Running length along a polyline, one entry for each point. */
function runningLength(points: readonly Point2[]): number[] {
  const out = [0]
  for (let i = 1; i < points.length; i++)
    out.push(out[i - 1] + Math.hypot(points[i][0] - points[i - 1][0], points[i][1] - points[i - 1][1]))
  return out
}

/**
 * Replaces each corner of a polyline by an arc, as a router bit would.
 * @param radius largest arc radius; short segments get less
 * @param leastTurnRad what turns less is a curve already and stays as it is
 */
export function roundCorners(points: readonly Point2[], radius: number, steps = 5, closed = false, leastTurnRad = 0): Point2[] {
  const out: Point2[] = []
  const n = points.length
  for (let i = 0; i < n; i++) {
    if (!closed && (i === 0 || i === n - 1)) {
      out.push(points[i])
      continue
    }
    const p = points[i]
    const a = points[(i + n - 1) % n]
    const b = points[(i + 1) % n]
    const la = Math.hypot(a[0] - p[0], a[1] - p[1])
    const lb = Math.hypot(b[0] - p[0], b[1] - p[1])
    const cosine = ((p[0] - a[0]) * (b[0] - p[0]) + (p[1] - a[1]) * (b[1] - p[1])) / (la * lb || 1)
    if (cosine > Math.cos(leastTurnRad)) {
      out.push(p)
      continue
    }
    const r = Math.min(radius, la / 2.05, lb / 2.05)
    const from: Point2 = [p[0] + ((a[0] - p[0]) / la) * r, p[1] + ((a[1] - p[1]) / la) * r]
    const to: Point2 = [p[0] + ((b[0] - p[0]) / lb) * r, p[1] + ((b[1] - p[1]) / lb) * r]
    for (let k = 0; k <= steps; k++) {
      const t = k / steps
      const m = (1 - t) * (1 - t)
      const q = 2 * t * (1 - t)
      out.push([m * from[0] + q * p[0] + t * t * to[0], m * from[1] + q * p[1] + t * t * to[1]])
    }
  }
  return out
}

/** Splits a polyline where it turns by more than 35°, so that each run can be shaded smoothly on its own. */
function smoothRuns(points: readonly Point2[]): Point2[][] {
  const runs: Point2[][] = [[points[0]]]
  for (let i = 1; i < points.length; i++) {
    runs[runs.length - 1].push(points[i])
    if (i === points.length - 1) break
    const ax = points[i][0] - points[i - 1][0]
    const ay = points[i][1] - points[i - 1][1]
    const bx = points[i + 1][0] - points[i][0]
    const by = points[i + 1][1] - points[i][1]
    const cosine = (ax * bx + ay * by) / (Math.hypot(ax, ay) * Math.hypot(bx, by) || 1)
    if (cosine < Math.cos(toRadians(35))) runs.push([points[i]])
  }
  return runs.filter(r => r.length > 1)
}

/** Index along a polyline and the share to the next point, for t in 0..1 by point count. */
function along(points: readonly Point2[], t: number): [Point2, Point2, number, number] {
  const x = t * (points.length - 1)
  const i = Math.min(points.length - 2, Math.floor(x))
  return [points[i], points[i + 1], x - i, i]
}

const mix = (a: number, b: number, f: number): number => a + (b - a) * f

/**
 * Turns a profile of (radius, height) about the vertical axis. Going along the profile, the solid is on the left:
 * from the bottom outside upwards. u is arc length at the largest radius, v runs down the profile.
 */
export function createLathe(profile: readonly Point2[], segments = 48): Mesh {
  const lengths = runningLength(profile)
  const total = lengths[lengths.length - 1]
  const widest = Math.max(...profile.map(p => p[0]))
  let offset = 0
  return mergeMeshes(
    smoothRuns(profile).map(run => {
      const start = offset
      const own = runningLength(run)
      offset += own[own.length - 1]
      return createSheet(
        segments,
        run.length - 1,
        (s, t) => {
          const [a, b, f] = along(run, t)
          const r = mix(a[0], b[0], f)
          const angle = s * 2 * Math.PI
          return [r * Math.sin(angle), mix(a[1], b[1], f), r * Math.cos(angle)]
        },
        (s, t) => {
          const [, , f, i] = along(run, t)
          return [s * 2 * Math.PI * widest, total - start - mix(own[i], own[i + 1] ?? own[i], f)]
        },
        true,
      )
    }),
  )
}

/**
 * Pushes a closed outline along X, with flat caps. The outline is in (z, y), counter-clockwise with z to the
 * right and y up.
 * @param seam index of the point where the texture's ends meet; v is 0 at the first point wherever that is
 */
export function createExtrusion(outline: readonly Point2[], width: number, seam = 0): Mesh {
  const closed = [...outline.slice(seam), ...outline.slice(0, seam), outline[seam]]
  const lengths = runningLength(closed)
  let offset = seam === 0 ? 0 : -lengths[closed.length - 1 - seam]
  const sides = smoothRuns(closed).map(run => {
    const start = offset
    const own = runningLength(run)
    offset += own[own.length - 1]
    return createSheet(
      1,
      run.length - 1,
      (s, t) => {
        const [a, b, f] = along(run, t)
        return [(s - 0.5) * width, mix(a[1], b[1], f), mix(a[0], b[0], f)]
      },
      (s, t) => {
        const [, , f, i] = along(run, t)
        return [s * width, start + mix(own[i], own[i + 1] ?? own[i], f)]
      },
    )
  })
  return mergeMeshes([...sides, createCap(outline, width / 2, 1), createCap(outline, -width / 2, -1)])
}

/** A flat polygon at x, by ear clipping. */
function createCap(outline: readonly Point2[], x: number, facing: 1 | -1): Mesh {
  const triangles = triangulate(outline)
  const mesh: Mesh = {
    positions: Float32Array.from(outline.flatMap(([z, y]) => [x, y, z])),
    normals: Float32Array.from(outline.flatMap(() => [facing, 0, 0])),
    uvs: Float32Array.from(outline.flatMap(([z, y]) => [-z * facing, -y])),
    indices: Uint32Array.from(triangles.flat()),
  }
  orientFaces(mesh, [facing, 0, 0])
  return mesh
}

/** Turns triangles over that do not face `direction`, in place. */
function orientFaces(mesh: Mesh, direction: Vec3): void {
  const { positions: p, indices } = mesh
  const at = (i: number): Vec3 => [p[i * 3], p[i * 3 + 1], p[i * 3 + 2]]
  for (let i = 0; i < indices.length; i += 3) {
    const a = at(indices[i])
    const n = cross(subtract(at(indices[i + 1]), a), subtract(at(indices[i + 2]), a))
    if (n[0] * direction[0] + n[1] * direction[1] + n[2] * direction[2] < 0) {
      const t = indices[i + 1]
      indices[i + 1] = indices[i + 2]
      indices[i + 2] = t
    }
  }
}

function triangulate(outline: readonly Point2[]): [number, number, number][] {
  const area2 = (a: Point2, b: Point2, c: Point2) => (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
  let ring = outline.map((_, i) => i)
  const signed = outline.reduce((sum, p, i) => {
    const q = outline[(i + 1) % outline.length]
    return sum + p[0] * q[1] - q[0] * p[1]
  }, 0)
  if (signed < 0) ring = ring.reverse()
  const out: [number, number, number][] = []
  let guard = ring.length * ring.length
  while (ring.length > 3 && guard-- > 0) {
    let clipped = false
    for (let i = 0; i < ring.length; i++) {
      const ia = ring[(i + ring.length - 1) % ring.length]
      const ib = ring[i]
      const ic = ring[(i + 1) % ring.length]
      const [a, b, c] = [outline[ia], outline[ib], outline[ic]]
      if (area2(a, b, c) <= 0) continue
      const blocked = ring.some(
        k =>
          k !== ia &&
          k !== ib &&
          k !== ic &&
          area2(a, b, outline[k]) >= 0 &&
          area2(b, c, outline[k]) >= 0 &&
          area2(c, a, outline[k]) >= 0,
      )
      if (blocked) continue
      out.push([ia, ib, ic])
      ring.splice(i, 1)
      clipped = true
      break
    }
    if (!clipped) ring.splice(0, 1)
  }
  if (ring.length === 3) out.push([ring[0], ring[1], ring[2]])
  return out
}

/** A box with its base centre at the origin and edges rounded over. */
export function createBox(width: number, height: number, depth: number, radius = 0): Mesh {
  const r = Math.min(radius, width / 2.1, height / 2.1, depth / 2.1)
  const n = r > 0 ? 3 : 0
  const faces: [Vec3, Vec3, Vec3][] = [
    [
      [1, 0, 0],
      [0, 0, -1],
      [0, 1, 0],
    ],
    [
      [-1, 0, 0],
      [0, 0, 1],
      [0, 1, 0],
    ],
    [
      [0, 1, 0],
      [1, 0, 0],
      [0, 0, -1],
    ],
    [
      [0, -1, 0],
      [1, 0, 0],
      [0, 0, 1],
    ],
    [
      [0, 0, 1],
      [1, 0, 0],
      [0, 1, 0],
    ],
    [
      [0, 0, -1],
      [-1, 0, 0],
      [0, 1, 0],
    ],
  ]
  const half: Vec3 = [width / 2, height / 2, depth / 2]
  const inner: Vec3 = [half[0] - r, half[1] - r, half[2] - r]
  const extent = (d: Vec3) => Math.abs(d[0]) * half[0] + Math.abs(d[1]) * half[1] + Math.abs(d[2]) * half[2]
  // Grid lines crowd at the rounded edges: angle steps of the quarter arc, then one span across the flat.
  const stops = (h: number): number[] => {
    const low = Array.from({ length: n + 1 }, (_, i) => -h + (n ? r * Math.tan(((i / n) * Math.PI) / 4) : 0))
    return n ? [...low, ...low.map(v => -v).reverse()] : [-h, h]
  }
  return mergeMeshes(
    faces.map(([normal, right, up]) => {
      const us = stops(extent(right))
      const vs = stops(extent(up)).reverse()
      const mesh: Mesh = {
        positions: new Float32Array(us.length * vs.length * 3),
        normals: new Float32Array(us.length * vs.length * 3),
        uvs: new Float32Array(us.length * vs.length * 2),
        indices: new Uint32Array((us.length - 1) * (vs.length - 1) * 6),
      }
      vs.forEach((v, j) => {
        us.forEach((u, i) => {
          const flat = add(add(scale(normal, extent(normal)), scale(right, u)), scale(up, v))
          const core: Vec3 = [clampTo(flat[0], inner[0]), clampTo(flat[1], inner[1]), clampTo(flat[2], inner[2])]
          const out = subtract(flat, core)
          const direction = r > 0 && Math.hypot(...out) > 1e-9 ? normalize(out) : normal
          const p = r > 0 ? add(core, scale(direction, r)) : flat
          const at = j * us.length + i
          mesh.positions.set([p[0], p[1] + half[1], p[2]], at * 3)
          mesh.normals.set(direction, at * 3)
          mesh.uvs.set([u + extent(right), extent(up) - v], at * 2)
        })
      })
      let k = 0
      for (let j = 0; j + 1 < vs.length; j++)
        for (let i = 0; i + 1 < us.length; i++) {
          const a = j * us.length + i
          const b = a + us.length
          mesh.indices.set([a, b, a + 1, a + 1, b, b + 1], k)
          k += 6
        }
      return mesh
    }),
  )
}

const clampTo = (v: number, limit: number): number => Math.max(-limit, Math.min(limit, v))

export function createSphere(radius: number, centre: Vec3 = [0, 0, 0], segments = 64): Mesh {
  const rows = segments / 2
  const mesh = createSheet(
    segments,
    rows,
    (s, t) => {
      const theta = t * Math.PI
      const phi = s * 2 * Math.PI
      return [
        centre[0] + radius * Math.sin(theta) * Math.sin(phi),
        centre[1] + radius * Math.cos(theta),
        centre[2] + radius * Math.sin(theta) * Math.cos(phi),
      ]
    },
    (s, t) => [s * 2 * Math.PI * radius, t * Math.PI * radius],
  )
  // Exact normals: a sphere's are known, and the poles' cannot be had from its triangles.
  for (let i = 0; i < mesh.positions.length; i += 3)
    mesh.normals.set(
      normalize([mesh.positions[i] - centre[0], mesh.positions[i + 1] - centre[1], mesh.positions[i + 2] - centre[2]]),
      i,
    )
  reverseWinding(mesh)
  return mesh
}

function reverseWinding(mesh: Mesh): void {
  for (let i = 0; i < mesh.indices.length; i += 3) {
    const t = mesh.indices[i + 1]
    mesh.indices[i + 1] = mesh.indices[i + 2]
    mesh.indices[i + 2] = t
  }
}

/** A round tube along a path, with a radius at each of its points. Ends are open unless the radius goes to 0. */
export function createTube(path: readonly Vec3[], radii: number | readonly number[], segments = 10): Mesh {
  const radiusAt = (i: number) => (typeof radii === 'number' ? radii : radii[i])
  const lengths = [0]
  for (let i = 1; i < path.length; i++) lengths.push(lengths[i - 1] + Math.hypot(...subtract(path[i], path[i - 1])))
  const frames: { side: Vec3; other: Vec3 }[] = []
  let side: Vec3 | null = null
  path.forEach((_, i) => {
    const direction = normalize(subtract(path[Math.min(i + 1, path.length - 1)], path[Math.max(i - 1, 0)]))
    const seed: Vec3 = side ?? (Math.abs(direction[1]) > 0.9 ? [1, 0, 0] : [0, 1, 0])
    const other = normalize(cross(direction, seed))
    side = normalize(cross(other, direction))
    frames.push({ side, other })
  })
  const widest = typeof radii === 'number' ? radii : Math.max(...radii)
  return createSheet(
    segments,
    path.length - 1,
    (s, t) => {
      const i = Math.round(t * (path.length - 1))
      const angle = s * 2 * Math.PI
      const { side: a, other: b } = frames[i]
      return add(path[i], add(scale(a, radiusAt(i) * Math.cos(angle)), scale(b, radiusAt(i) * Math.sin(angle))))
    },
    (s, t) => [s * 2 * Math.PI * widest, lengths[Math.round(t * (path.length - 1))]],
    true,
  )
}
