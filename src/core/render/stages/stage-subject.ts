import { computeBounds, type Mesh, mergeMeshes } from '../../geometry/mesh'
import type { ByteImage } from '../../image/image'
import { createMaterial, type OpenPbrMaterial } from '../../material/open-pbr'
import { toRadians } from '../../math/angles'
import { dot, subtract, type Vec3 } from '../../math/vec3'
import type { CandelaWeb } from '../../photometry/candela-web'
import { type Camera, frameSubject, projectPoint } from '../film/camera'
import { PREVIEW_ASPECT, type Rig, type Stage } from '../rigs/rig'
import { findLamps, hangs } from '../scene/find-lamps'
import type { Lamp } from '../scene/lamp'
import type { SceneObject } from '../scene/scene'
import { displaceMesh } from './displace-mesh'
import type { Relief } from './relief-heights'
import {
  CLOSE_UP_THICKNESS_M,
  createCloseUpStage,
  createClothStage,
  createMaterialStageParts,
  createVesselStage,
  createWallStage,
  type StagePart,
  WALL_THICKNESS_M,
} from './stages'
import { type BackdropShape, createScaleBar, NEAR_WALL, NEAR_WALL_BELOW, radiusOf, SEAMLESS } from './surroundings'

/** What a rig puts before its camera, and the camera. */
export interface StagedSubject {
  /** What is judged: its outline is framed and must stand out. */
  subject: SceneObject[]
  /** What is there beside it: a scale bar, water in a glass. */
  extras: SceneObject[]
  camera: Camera
  /** Lights of the subject's own, beside the house light. */
  lamps: Lamp[]
  backdrop: BackdropShape
}

export type StageableSubject =
  | {
      kind: 'material'
      material: OpenPbrMaterial
      images: readonly ByteImage[]
      /** Drawn as geometry where a stage carries it and the picture's height is known. */
      relief?: Relief | null
    }
  | { kind: 'model'; objects: readonly SceneObject[]; web?: CandelaWeb | null }

export function directionToCamera({ camera }: Rig): Vec3 {
  const azimuth = toRadians(camera.azimuthDeg)
  const elevation = toRadians(camera.elevationDeg)
  return [Math.cos(elevation) * Math.sin(azimuth), Math.sin(elevation), Math.cos(elevation) * Math.cos(azimuth)]
}

const CLEAR_GLASS = createMaterial('clear glass', { transmissionWeight: 1, specularRoughness: 0 })
const CLEAR_WATER = createMaterial('clear water', { transmissionWeight: 1, specularRoughness: 0, specularIor: 1.33 })

/** A material's stage as meshes whose texture coordinates are in metres. */
function stageMaterial(stage: Stage, of: (mesh: Mesh) => SceneObject, shape: (part: StagePart) => Mesh) {
  switch (stage) {
    case 'vessel': {
      const { vessel, content } = createVesselStage()
      return { subject: [of(vessel)], extras: [{ mesh: content, material: CLEAR_WATER, images: [] }] }
    }
    case 'content': {
      const { vessel, content } = createVesselStage()
      // Framed by the vessel, which is the larger.
      return { subject: [{ mesh: vessel, material: CLEAR_GLASS, images: [] }, of(content)], extras: [] }
    }
    default:
      return { subject: [of(mergeMeshes(partsOf(stage).map(shape)))], extras: [] }
  }
}

function partsOf(stage: Stage): StagePart[] {
  switch (stage) {
    case 'cloth':
      return [{ mesh: createClothStage(), halfThicknessM: MOST_CLOTH_RELIEF_M }]
    case 'closeUp':
      return [{ mesh: createCloseUpStage(), halfThicknessM: CLOSE_UP_THICKNESS_M / 2 }]
    case 'wall':
      return [{ mesh: createWallStage(), halfThicknessM: WALL_THICKNESS_M / 2 }]
    default:
      return createMaterialStageParts()
  }
}

/** One sheet without a thickness, which would fall otherwise if it were coarser. */
const MOST_CLOTH_RELIEF_M = 0.01
/** The sides of a part do not come closer than a fifth of its thickness. */
const SUNK_SHARE = 0.8
/** As a share of the pixels of a picture. */
const TRIANGLES_PER_PIXEL = 0.75

/**
 * Puts an item on its rig: a material on the rig's stage, a model as it is, with a scale bar or its lamps lit where the rig asks for
 * them, and the camera where the subject fills the frame as the rig says.
 * @param item a model in metres, y up
 * @param heightPx of the picture; with it a material's relief is drawn as geometry, as fine as shows in it
 */
export function stageSubject(item: StageableSubject, rig: Rig, heightPx?: number): StagedSubject {
  if (item.kind === 'material') {
    const { material, images, relief } = item
    const of = (mesh: Mesh): SceneObject => ({ mesh, material, images })
    const smooth = stageMaterial(rig.stage, of, part => part.mesh)
    const camera = frame(hullPoints(mergeMeshes(smooth.subject.map(o => o.mesh))), rig)
    const around = { lamps: [], backdrop: SEAMLESS, camera }
    if (!relief || heightPx === undefined) return { ...smooth, ...around }
    const eye = { camera, heightPx, mostTriangles: TRIANGLES_PER_PIXEL * PREVIEW_ASPECT * heightPx ** 2 }
    const sink = ({ mesh, halfThicknessM }: StagePart): Mesh =>
      displaceMesh(mesh, { ...relief, reliefM: Math.min(relief.reliefM, SUNK_SHARE * halfThicknessM) }, eye)
    return { ...stageMaterial(rig.stage, of, sink), ...around }
  }
  const subject = [...item.objects]
  const whole = mergeMeshes(subject.map(o => o.mesh))
  const isLight = rig.stage === 'wallWash'
  const lamps = isLight ? findLamps(subject, radiusOf(whole) * (NEAR_WALL.back + NEAR_WALL.sweep), item.web) : []
  const isHung = isLight && hangs(whole, lamps)
  const backdrop = isHung ? NEAR_WALL_BELOW : isLight ? NEAR_WALL : SEAMLESS
  if (rig.stage === 'leaf')
    return { subject, extras: [], lamps, backdrop, camera: frame(leafPoints(subject, rig) ?? hullPoints(whole), rig) }
  // A bar lies on the floor, or nowhere.
  const extras = rig.scaleBar && !isHung ? createScaleBar(whole).objects : []
  const camera = frame(hullPoints(whole), rig)
  if (extras.length === 0) return { subject, extras, lamps, backdrop, camera }
  // The bar must be whole, or it measures nothing: where it is not in the frame, the camera steps back.
  const bar = hullPoints(mergeMeshes(extras.map(o => o.mesh)))
  if (shows(camera, bar)) return { subject, extras, lamps, backdrop, camera }
  // The bar on both sides, so that the subject stays in the middle.
  const points = Float32Array.from([...hullPoints(whole), ...bar, ...mirrorPoints(bar, middleOf(whole), camera.right)])
  const wide = frame(points, { ...rig, camera: { ...rig.camera, framing: 'fill', coverage: WITH_BAR_COVERAGE } })
  return { subject, extras, lamps, backdrop, camera: wide }
}

function middleOf({ positions }: Mesh): Vec3 {
  const { min, max } = computeBounds(positions)
  return [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2]
}

/** Points on the other side of a plane through a middle, across a direction of length 1. */
function mirrorPoints(points: Float32Array, middle: Vec3, across: Vec3): Float32Array {
  const mirrored = Float32Array.from(points)
  for (let i = 0; i < points.length; i += 3) {
    const away = dot(subtract([points[i], points[i + 1], points[i + 2]], middle), across)
    for (let c = 0; c < 3; c++) mirrored[i + c] -= 2 * away * across[c]
  }
  return mirrored
}

const WITH_BAR_COVERAGE = 0.96
const EDGE = 0.98

/** Whether all of some points lie within the frame. */
function shows(camera: Camera, points: Float32Array): boolean {
  for (let i = 0; i < points.length; i += 3) {
    const at = projectPoint(camera, [points[i], points[i + 1], points[i + 2]])
    if (!at || Math.abs(at.x) > camera.aspect * EDGE || Math.abs(at.y) > EDGE) return false
  }
  return true
}

function frame(points: Float32Array, rig: Rig): Camera {
  const { focalMm, coverage, framing } = rig.camera
  return frameSubject(points, directionToCamera(rig), focalMm, PREVIEW_ASPECT, coverage, framing)
}

/** At most some thousands of points that bound the mesh: enough to frame it. */
export function hullPoints(mesh: Mesh): Float32Array {
  const count = mesh.positions.length / 3
  const step = Math.max(1, Math.floor(count / 4000))
  const points: number[] = []
  for (let i = 0; i < count; i += step) points.push(mesh.positions[i * 3], mesh.positions[i * 3 + 1], mesh.positions[i * 3 + 2])
  const { min, max } = computeBounds(mesh.positions)
  // The extreme vertex along each axis, so that thinning never loses a tip.
  for (let c = 0; c < 3; c++)
    for (const wanted of [min[c], max[c]])
      for (let i = 0; i < count; i++)
        if (mesh.positions[i * 3 + c] === wanted) {
          points.push(mesh.positions[i * 3], mesh.positions[i * 3 + 1], mesh.positions[i * 3 + 2])
          break
        }
  return Float32Array.from(points)
}

/** A leaf is no larger than this share of its plant; what hangs together beyond it is foliage, and seen in part. */
const LEAF_SHARE = 0.6
const FOLIAGE_VIEW_SHARE = 0.1
const LEAST_VIEW_M = 0.03

/** Points about the leaf that stands foremost at half height; null when nothing of it is thin or cut out. */
function leafPoints(objects: readonly SceneObject[], rig: Rig): Float32Array | null {
  const leaves = objects.filter(
    ({ material }) => material.parameters.geometryThinWalled || material.textures.geometryOpacity !== undefined,
  )
  if (leaves.length === 0) return null
  const mesh = mergeMeshes(leaves.map(o => o.mesh))
  const { min, max } = computeBounds(mesh.positions)
  const extent = Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2])
  const middle = (min[1] + max[1]) / 2
  const towards = directionToCamera(rig)
  let best: { box: Bounds; score: number } | null = null
  for (const box of boxesOfPieces(mesh)) {
    const centre = centreOf(box)
    const size = Math.hypot(...subtract(box.max, box.min))
    const score = dot(centre, towards) - Math.abs(centre[1] - middle) + size / 2
    if (size <= extent * LEAF_SHARE && (!best || score > best.score)) best = { box, score }
  }
  const box = best?.box ?? aroundCentre({ min, max }, extent * FOLIAGE_VIEW_SHARE)
  const reach = Math.max(LEAST_VIEW_M, ...subtract(box.max, box.min).map(d => d / 2))
  const centre = centreOf(box)
  return Float32Array.from(
    [0, 1, 2, 3, 4, 5, 6, 7].flatMap(k =>
      centre.map((v, c) => {
        const half = Math.max((box.max[c] - box.min[c]) / 2, reach * 0.3)
        return v + ((k >> c) & 1 ? half : -half)
      }),
    ),
  )
}

interface Bounds {
  min: Vec3
  max: Vec3
}

const centreOf = ({ min, max }: Bounds): Vec3 => [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2]
const aroundCentre = (box: Bounds, reach: number): Bounds => {
  const c = centreOf(box)
  return { min: [c[0] - reach, c[1] - reach, c[2] - reach], max: [c[0] + reach, c[1] + reach, c[2] + reach] }
}

/** Boxes of the pieces of a mesh that hang together by shared vertices. */
function boxesOfPieces({ positions, indices }: Mesh): Bounds[] {
  const parent = Uint32Array.from({ length: positions.length / 3 }, (_, i) => i)
  const find = (i: number): number => {
    let at = i
    while (parent[at] !== at) {
      parent[at] = parent[parent[at]]
      at = parent[at]
    }
    return at
  }
  for (let i = 0; i < indices.length; i += 3) {
    const a = find(indices[i])
    parent[find(indices[i + 1])] = a
    parent[find(indices[i + 2])] = a
  }
  const boxes = new Map<number, Bounds>()
  for (const vertex of indices) {
    const root = find(vertex)
    let box = boxes.get(root)
    if (!box) {
      box = { min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] }
      boxes.set(root, box)
    }
    for (let c = 0; c < 3; c++) {
      const v = positions[vertex * 3 + c]
      if (v < box.min[c]) box.min[c] = v
      if (v > box.max[c]) box.max[c] = v
    }
  }
  return [...boxes.values()]
}
