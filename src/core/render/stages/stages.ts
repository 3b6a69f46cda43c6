import { type Mesh, mergeMeshes, placeMesh } from '../../geometry/mesh'
import { createBox, createExtrusion, createLathe, createSheet, type Point2, roundCorners } from '../../geometry/shapes'
import { toRadians } from '../../math/angles'

/** Width of the material stage's sheet in metres. A 300 mm tile shows twice across it. */
export const STAGE_WIDTH_M = 0.6

/**
 * The material stage: a thick sheet that lies flat in front, sweeps up through a hollow and rolls over backwards, and an open
 * cup standing on it. Flat, hollow, rounded and cut edge in one shape; it only ever bends one way, so a texture lies on
 * it at true scale without stretch.
 */
export const createMaterialStage = (): Mesh => mergeMeshes(createMaterialStageParts().map(part => part.mesh))

/** A part of a stage, and how far in it may be sunk from either side before the sides meet. */
export interface StagePart {
  mesh: Mesh
  halfThicknessM: number
}

export function createMaterialStageParts(): StagePart[] {
  const thickness = 0.018
  const center: Point2[] = []
  const push = (z: number, y: number) => center.push([z, y])
  push(0.3, thickness)
  push(-0.02, thickness)
  // Hollow: a quarter turn from level to upright.
  const hollow = 0.13
  for (let k = 1; k <= 20; k++) {
    const a = (k / 20) * (Math.PI / 2) * 0.92
    push(-0.02 - hollow * Math.sin(a), thickness + hollow * (1 - Math.cos(a)))
  }
  const last = center[center.length - 1]
  const lean = (Math.PI / 2) * 0.92
  const rise = 0.05
  push(last[0] - rise * Math.cos(lean), last[1] + rise * Math.sin(lean))
  const top = center[center.length - 1]
  // Roll-over: on from the lean through level and down again.
  const roll = 0.07
  for (let k = 1; k <= 28; k++) {
    const a = (k / 28) * Math.PI * 0.95
    const along = Math.sin(a) * roll
    const across = (1 - Math.cos(a)) * roll
    const ux = -Math.cos(lean)
    const uy = Math.sin(lean)
    push(top[0] + ux * along - uy * across, top[1] + uy * along + ux * across)
  }
  const outline = roundCorners(thicken(center, thickness), 0.004, 3, true, CURVE_RAD)
  // The texture's ends meet underneath, where nobody looks.
  const sheet = createExtrusion(outline, STAGE_WIDTH_M, lowestOf(outline))
  const wall = 0.008
  const profile = roundCorners(
    [
      [0.0005, 0],
      [0.05, 0],
      [0.058, 0.115],
      [0.058 - wall, 0.115],
      [0.05 - wall, wall * 1.5],
      [0.0005, wall * 1.5],
    ],
    0.0039,
    5,
  )
  // Its seam away from the camera.
  const cup = placeMesh(createLathe(profile, 64), [0.17, thickness, 0.17], Math.PI)
  return [
    { mesh: sheet, halfThicknessM: thickness / 2 },
    { mesh: cup, halfThicknessM: wall / 2 },
  ]
}

/** Outlines that turn less at a point are bent there, not cornered. */
const CURVE_RAD = toRadians(20)

/** Index of an outline's lowest point, of several the foremost. */
const lowestOf = (outline: readonly Point2[]): number =>
  outline.reduce(
    (best, [z, y], i) => (y < outline[best][1] - 1e-9 || (y < outline[best][1] + 1e-9 && z > outline[best][0]) ? i : best),
    0,
  )

/** An outline from the upper side of a sheet, offset by its thickness to the lower side. */
function thicken(upper: readonly Point2[], thickness: number): Point2[] {
  const lower = upper.map((p, i): Point2 => {
    const a = upper[Math.max(0, i - 1)]
    const b = upper[Math.min(upper.length - 1, i + 1)]
    const l = Math.hypot(b[0] - a[0], b[1] - a[1])
    // Right-hand normal of the direction of travel: below a path that runs towards −z.
    return [p[0] - ((b[1] - a[1]) / l) * -thickness * -1, p[1] + ((b[0] - a[0]) / l) * thickness]
  })
  return [...upper, ...lower.reverse()]
}

export const WALL_THICKNESS_M = 0.2

/** A standing panel of 3 x 3 m with a returned corner, for materials judged at the size of a wall. */
export function createWallStage(): Mesh {
  return mergeMeshes([
    placeMesh(createBox(3, 3, WALL_THICKNESS_M, 0.004), [0, 0, 0]),
    placeMesh(createBox(WALL_THICKNESS_M, 3, 1.2, 0.004), [-1.4, 0, 0.7]),
  ])
}

const CLOTH_HEIGHT_M = 0.42
const CLOTH_TOP_M = 0.2
const CLOTH_REACH_M = 0.56

/**
 * A square-cut cloth over a round stand: flat on top, bent over the rim, hanging in folds. Lengths along the cloth are kept, so a
 * weave keeps its scale; only across the folds it gives a little, as cloth does.
 */
export function createClothStage(): Mesh {
  const rings = 150
  const spokes = 320
  const rim = 0.02
  const bend = (Math.PI / 2) * rim
  return createSheet(
    spokes,
    rings,
    (s, t) => {
      const angle = s * 2 * Math.PI
      const along = t * CLOTH_REACH_M
      const flat = CLOTH_TOP_M - rim
      let radius: number
      let y: number
      if (along <= flat) {
        radius = along
        y = CLOTH_HEIGHT_M
      } else if (along <= flat + bend) {
        const a = (along - flat) / rim
        radius = flat + rim * Math.sin(a)
        y = CLOTH_HEIGHT_M - rim * (1 - Math.cos(a))
      } else {
        const down = along - flat - bend
        const share = down / (CLOTH_REACH_M - flat - bend)
        const fold = Math.cos(9 * angle + 0.6 * Math.sin(2 * angle) + 0.4) + 0.35 * Math.cos(4 * angle + 1.3)
        radius = CLOTH_TOP_M + 0.09 * share + 0.034 * Math.sqrt(share) * fold
        y = CLOTH_HEIGHT_M - rim - down * 0.97
      }
      return [radius * Math.cos(angle), y, -radius * Math.sin(angle)]
    },
    (s, t) => {
      const angle = s * 2 * Math.PI
      const along = t * CLOTH_REACH_M
      return [along * Math.cos(angle), along * Math.sin(angle)]
    },
    true,
  )
}

const VESSEL_WALL_M = 0.0035
const VESSEL_FOOT_M = 0.012
const VESSEL_HEIGHT_M = 0.14

/** Inner radius of the vessel at a height over its foot's upper face. */
const vesselRadius = (y: number): number => 0.034 + 0.014 * Math.sin((y / VESSEL_HEIGHT_M) * 2.4)

/** An open drinking vessel with a thick foot, and what fills it to two thirds, as closed solids a hair apart. */
export function createVesselStage(): { vessel: Mesh; content: Mesh } {
  const steps = 28
  const inner: Point2[] = []
  const outer: Point2[] = []
  for (let k = 0; k <= steps; k++) {
    const y = (k / steps) * (VESSEL_HEIGHT_M - VESSEL_FOOT_M)
    inner.push([vesselRadius(y), VESSEL_FOOT_M + y])
    outer.push([vesselRadius(y) + VESSEL_WALL_M, VESSEL_FOOT_M + y])
  }
  const profile = roundCorners(
    [[0.0003, 0], [vesselRadius(0) + VESSEL_WALL_M * 0.6, 0], ...outer, ...inner.reverse(), [0.0003, VESSEL_FOOT_M]],
    0.0016,
    4,
  )
  const gap = 0.0002
  const level = Math.round(steps * 0.64)
  const walls = Array.from({ length: level + 1 }, (_, k): Point2 => {
    const y = (k / steps) * (VESSEL_HEIGHT_M - VESSEL_FOOT_M)
    return [vesselRadius(y) - gap, VESSEL_FOOT_M + gap + y]
  })
  const top = walls[walls.length - 1]
  const content = roundCorners([[0.0003, VESSEL_FOOT_M + gap], ...walls, [0.0003, top[1]]], 0.0008, 3)
  return { vessel: createLathe(profile, 96), content: createLathe(content, 96) }
}

/** Width of the close-up's sheet in metres. */
export const CLOSE_UP_WIDTH_M = 0.16
export const CLOSE_UP_THICKNESS_M = 0.006

/** A small sheet that rises gently towards the back and carries a half-round rib: light grazes it at every angle. */
export function createCloseUpStage(): Mesh {
  const half = CLOSE_UP_WIDTH_M / 2
  const rib = 0.012
  const profile: Point2[] = [
    [half, 0],
    [0.03, 0],
  ]
  for (let k = 0; k <= 16; k++) {
    const a = Math.PI * (1 - k / 16)
    profile.push([0.006 - rib * Math.cos(Math.PI - a), rib * Math.sin(a)])
  }
  for (let k = 1; k <= 20; k++) {
    const a = (k / 20) * 0.9
    profile.push([-0.018 - 0.08 * Math.sin(a), 0.08 * (1 - Math.cos(a))])
  }
  const outline = roundCorners(thicken(profile, CLOSE_UP_THICKNESS_M), 0.0012, 3, true)
  return createExtrusion(outline, CLOSE_UP_WIDTH_M, lowestOf(outline))
}
