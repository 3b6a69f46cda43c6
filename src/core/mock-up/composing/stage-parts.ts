import { type Mesh, mergeMeshes } from '../../geometry/mesh'
import { createBox } from '../../geometry/shapes'
import { add, scale, type Vec3 } from '../../math/vec3'
import type { Opening, Stage } from '../scene/scene'

/** What a stage is built of: meshes in metres, y up, texture coordinates in metres. Names are what materials are assigned by. */
export interface StagePart {
  name: string
  mesh: Mesh
}

/** How far the ground of an open stage reaches. */
const GROUND_M = 120
/** How deep the reveals of openings are. */
const WALL_M = 0.24
const SLAB_M = 0.06

/** The parts of a stage that is built here; one that is a model has those of its file. The floor is at height 0; a room's middle, or a terrace's, at the origin. */
export function buildStage(stage: Stage): StagePart[] {
  switch (stage.kind) {
    case 'empty':
      return [{ name: 'ground', mesh: createGround(0) }]
    case 'terrace': {
      const slab = createBox(stage.widthM, SLAB_M, stage.depthM)
      return [
        { name: 'paving', mesh: moved(slab, [0, -SLAB_M, 0]) },
        { name: 'ground', mesh: createGround(-SLAB_M) },
      ]
    }
    case 'room':
      return buildRoom(stage)
    case 'model':
      return []
    default:
      return stage satisfies never
  }
}

const moved = (mesh: Mesh, by: Vec3): Mesh => ({
  ...mesh,
  positions: mesh.positions.map((v, i) => v + by[i % 3]),
})

/** A level square about the origin. */
function createGround(y: number): Mesh {
  const half = GROUND_M / 2
  return quad([-half, y, half], [GROUND_M, 0, 0], [0, 0, -GROUND_M])
}

/** A rectangle from a corner along two directions, seen from where they turn counter-clockwise; u runs along the first, v down the second. */
function quad(corner: Vec3, along: Vec3, up: Vec3): Mesh {
  const corners = [corner, add(corner, along), add(add(corner, along), up), add(corner, up)]
  const normal: Vec3 = [
    along[1] * up[2] - along[2] * up[1],
    along[2] * up[0] - along[0] * up[2],
    along[0] * up[1] - along[1] * up[0],
  ]
  const size = Math.hypot(...normal) || 1
  const [w, h] = [Math.hypot(...along), Math.hypot(...up)]
  return {
    positions: new Float32Array(corners.flat()),
    normals: new Float32Array([0, 1, 2, 3].flatMap(() => normal.map(v => v / size))),
    uvs: new Float32Array([0, h, w, h, w, 0, 0, 0]),
    indices: new Uint32Array([0, 1, 2, 0, 2, 3]),
  }
}

/** A wall as seen from inside: its lower left corner, and the direction to the right. */
interface WallPlane {
  name: Opening['wall']
  corner: Vec3
  right: Vec3
  widthM: number
}

function buildRoom({ widthM: w, depthM: d, heightM: h, openings }: Extract<Stage, { kind: 'room' }>): StagePart[] {
  const walls: WallPlane[] = [
    { name: 'north', corner: [-w / 2, 0, -d / 2], right: [1, 0, 0], widthM: w },
    { name: 'east', corner: [w / 2, 0, -d / 2], right: [0, 0, 1], widthM: d },
    { name: 'south', corner: [w / 2, 0, d / 2], right: [-1, 0, 0], widthM: w },
    { name: 'west', corner: [-w / 2, 0, d / 2], right: [0, 0, -1], widthM: d },
  ]
  const built = walls.map(wall =>
    buildWall(
      wall,
      h,
      openings.filter(o => o.wall === wall.name),
    ),
  )
  const reveals = built.flatMap(b => b.reveals)
  return [
    { name: 'floor', mesh: quad([-w / 2, 0, d / 2], [w, 0, 0], [0, 0, -d]) },
    { name: 'ceiling', mesh: quad([-w / 2, h, -d / 2], [w, 0, 0], [0, 0, d]) },
    ...walls.map((wall, k) => ({ name: `wall ${wall.name}`, mesh: mergeMeshes(built[k].face) })),
    ...(reveals.length > 0 ? [{ name: 'reveals', mesh: mergeMeshes(reveals) }] : []),
    { name: 'ground', mesh: createGround(-0.2) },
  ].filter(part => part.mesh.indices.length > 0)
}

/** A wall's face is cut along the edges of its openings into a grid, of which what lies in an opening is left out. */
function buildWall({ corner, right, widthM }: WallPlane, heightM: number, openings: readonly Opening[]) {
  const holes = openings
    .map(o => ({
      x0: Math.min(widthM, o.leftM),
      x1: Math.min(widthM, o.leftM + o.widthM),
      y0: Math.min(heightM, o.sillM),
      y1: Math.min(heightM, o.sillM + o.heightM),
    }))
    .filter(o => o.x1 > o.x0 && o.y1 > o.y0)
  const xs = sorted([0, widthM, ...holes.flatMap(o => [o.x0, o.x1])])
  const ys = sorted([0, heightM, ...holes.flatMap(o => [o.y0, o.y1])])
  const at = (x: number, y: number): Vec3 => add(add(corner, scale(right, x)), [0, y, 0])
  // Towards the outside: the wall is seen from within.
  const out: Vec3 = [right[2], 0, -right[0]]
  const isHole = (x: number, y: number) => holes.some(o => x > o.x0 && x < o.x1 && y > o.y0 && y < o.y1)
  const face: Mesh[] = []
  for (let i = 1; i < xs.length; i++)
    for (let j = 1; j < ys.length; j++) {
      const [x, y] = [xs[i - 1], ys[j - 1]]
      if (isHole((x + xs[i]) / 2, (y + ys[j]) / 2)) continue
      const cell = quad(at(x, y), scale(right, xs[i] - x), [0, ys[j] - y, 0])
      // One wall, whatever it is cut into: the texture runs through.
      const uvs = cell.uvs.map((v, k) => (k % 2 === 0 ? v + x : v + heightM - ys[j]))
      face.push({ ...cell, uvs })
    }
  const reveals = holes.flatMap(o => {
    const [width, height] = [o.x1 - o.x0, o.y1 - o.y0]
    const inwards = scale(out, WALL_M)
    return [
      ...(o.y0 > 0 ? [quad(at(o.x0, o.y0), scale(right, width), inwards)] : []),
      ...(o.y1 < heightM ? [quad(add(at(o.x0, o.y1), inwards), scale(right, width), scale(inwards, -1))] : []),
      quad(at(o.x0, o.y0), inwards, [0, height, 0]),
      quad(add(at(o.x1, o.y0), inwards), scale(inwards, -1), [0, height, 0]),
    ]
  })
  return { face, reveals }
}

const sorted = (values: readonly number[]): number[] => [...new Set(values)].sort((a, b) => a - b)
