import { splitWords } from '../find/words/fold-words'
import type { Mesh } from '../geometry/mesh'
import type { Pattern } from '../material/pattern'
import type { Matrix } from './model-print'

/** A sum of squares by directions, weighed by area: xx, yy, zz, xy, xz, yz. */
type Directions = [number, number, number, number, number, number]

/** Which ways a surface faces, and which way its texture runs, in its own frame. */
export interface Facing {
  normals: Directions
  /** Of the texture's horizontal; null without coordinates. */
  along: Directions | null
}

/** How what a material lies on stands in the scene. */
export interface Lie {
  /** Share of the surface's facing that is up or down: 1 of floors and ceilings, 0 of walls. */
  level: number
  /** The same of the texture's horizontal: 1 where it runs straight up, 0 where it is level; null without coordinates. */
  climb: number | null
}

/** Which ways a mesh faces. @param uvs two to a vertex; null without */
export function faceOf({ positions: p, indices }: Pick<Mesh, 'positions' | 'indices'>, uvs: Float32Array | null): Facing {
  const normals: Directions = [0, 0, 0, 0, 0, 0]
  const along: Directions = [0, 0, 0, 0, 0, 0]
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [indices[i], indices[i + 1], indices[i + 2]]
    const e = [0, 1, 2].map(k => p[b * 3 + k] - p[a * 3 + k])
    const f = [0, 1, 2].map(k => p[c * 3 + k] - p[a * 3 + k])
    const n = [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]]
    const area = Math.hypot(n[0], n[1], n[2])
    if (!(area > 0)) continue
    addDirection(normals, n, area)
    if (!uvs) continue
    const [v1, v2] = [uvs[b * 2 + 1] - uvs[a * 2 + 1], uvs[c * 2 + 1] - uvs[a * 2 + 1]]
    addDirection(
      along,
      e.map((x, k) => x * v2 - f[k] * v1),
      area,
    )
  }
  return { normals, along: along[0] + along[1] + along[2] > 0 ? along : null }
}

function addDirection(sum: Directions, [x, y, z]: readonly number[], weight: number): void {
  const square = x * x + y * y + z * z
  if (!(square > 0)) return
  const w = weight / square
  for (const [k, v] of [x * x, y * y, z * z, x * y, x * z, y * z].entries()) sum[k] += w * v
}

/** How a mesh stands where a node has it. @param world of the node, column by column, y up */
export function lieOf({ normals, along }: Facing, world: Matrix): Lie {
  const up = [world[1], world[5], world[9]]
  const length = Math.hypot(up[0], up[1], up[2]) || 1
  const [x, y, z] = up.map(v => v / length)
  const share = (d: Directions): number => {
    const all = d[0] + d[1] + d[2]
    return all > 0 ? (x * x * d[0] + y * y * d[1] + z * z * d[2] + 2 * (x * y * d[3] + x * z * d[4] + y * z * d[5])) / all : 0
  }
  return { level: share(normals), climb: along && share(along) }
}

const SAYS_LEVEL = new Set(['horizontal', 'horizontale', 'horizontaux', 'waagerecht', 'waagrecht'])
const SAYS_UPRIGHT = new Set(['vertical', 'verticale', 'verticaux', 'vertikal', 'senkrecht', 'lotrecht'])
/** From here on it is the one or the other, and nothing between. */
const CLEAR = 0.9
/** From this coherence on a picture runs one way. */
const RUNS = 0.3
/** Degrees from the picture's horizontal or vertical that still run along it. */
const NEAR_DEG = 20

/** Whether a name says how its material runs or stands. */
export const saysDirection = (name: string): boolean => wordOf(name) !== null

function wordOf(name: string): { word: string; isLevel: boolean } | null {
  const words = splitWords(name)
  const found = words.filter(w => SAYS_LEVEL.has(w) || SAYS_UPRIGHT.has(w))
  return found.length === 1 ? { word: found[0], isLevel: SAYS_LEVEL.has(found[0]) } : null
}

/**
 * What a name says that is not so here: "horizontal" of boards that run up a wall, or of what lies on a wall and runs no way; "vertical" of
 * what lies on a floor. Null where it is so, or cannot be told.
 * @param pattern of its colours; null without a picture
 */
export function doubtName(
  name: string,
  { level, climb }: Lie,
  pattern: Pick<Pattern, 'coherence' | 'directionDeg'> | null,
): string | null {
  const said = wordOf(name)
  if (!said) return null
  const claim = `Its name says ${said.word}`
  if (level > CLEAR) return said.isLevel ? null : `${claim}, and what it lies on is level.`
  if (level > 1 - CLEAR) return null
  if (!pattern || pattern.coherence < RUNS) return said.isLevel ? `${claim}, and what it lies on stands upright.` : null
  const turned = pattern.directionDeg % 180
  const isAcross = Math.abs(turned - 90) < NEAR_DEG
  if (climb === null || (!isAcross && Math.min(turned, 180 - turned) > NEAR_DEG)) return null
  const runsUp = isAcross ? 1 - climb : climb
  if (runsUp > CLEAR) return said.isLevel ? `${claim}, and it runs upwards here.` : null
  return runsUp < 1 - CLEAR && !said.isLevel ? `${claim}, and it runs level here.` : null
}
