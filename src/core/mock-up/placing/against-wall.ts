import type { Vec3 } from '../../math/vec3'

/** A face that something is put on. */
export interface Face {
  point: Vec3
  /** Outwards, unit. */
  normal: Vec3
}

/** Steeper than this a face is a wall, as the sine of what it leans. */
const STEEP = 0.5
/** What is deeper or taller stands on the floor before the wall, and does not hang on it, metres. */
const [HANGS_DEEP_M, HANGS_TALL_M] = [0.35, 1.3]
/** What would hang so low stands, metres. */
const STANDS_BELOW_M = 0.25
/** Between neighbours that are brought in together, metres. */
const GAP_M = 0.1
/** Beside each other where nobody knows how wide they are, metres from middle to middle. */
const APART_M = 0.8

/**
 * Where things come to stand that are put on a face, upright and beside each other: on what is level, at the point; at a wall with their backs
 * to it (front +z, as glTF has it), hung with their middle at the point where they are shallow, and on the floor below it where they are not.
 * Their origins are taken to be in the middle of their bases.
 * @param sizesM width, height and depth of each in metres; null where it is not known
 */
export function standAt({ point, normal }: Face, sizesM: readonly (Vec3 | null)[], floorM = 0): { at: Vec3; turnDeg: number }[] {
  const steep = Math.hypot(normal[0], normal[2])
  const isWall = Math.abs(normal[1]) < STEEP && steep > 0
  const out: Vec3 = isWall ? [normal[0] / steep, 0, normal[2] / steep] : [0, 0, 1]
  let along = 0
  return sizesM.map((size, k) => {
    const width = size?.[0] ?? APART_M - GAP_M
    if (k > 0) along += width / 2
    const away = isWall ? (size?.[2] ?? 0) / 2 : 0
    const at: Vec3 = [
      point[0] + out[0] * away + out[2] * along,
      isWall ? heightAt(point[1], size, floorM) : point[1],
      point[2] + out[2] * away - out[0] * along,
    ]
    along += width / 2 + GAP_M
    return { at, turnDeg: isWall ? (Math.atan2(out[0], out[2]) * 180) / Math.PI : 0 }
  })
}

function heightAt(y: number, size: Vec3 | null, floorM: number): number {
  if (!size) return y
  const base = y - size[1] / 2
  const hangs = size[2] <= HANGS_DEEP_M && size[1] <= HANGS_TALL_M && base - floorM >= STANDS_BELOW_M
  return hangs ? base : floorM
}
