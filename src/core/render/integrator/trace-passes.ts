import { createFloatImage, type FloatImage } from '../../image/image'
import { cross, dot, normalize, type Vec3 } from '../../math/vec3'
import type { Camera } from '../film/camera'
import type { EnvironmentLight } from '../lights/environment-light'
import { createRayHit } from '../scene/ray-caster'
import type { Scene } from '../scene/scene'
import { PathTracer } from './path-tracer'

export interface Passes {
  /** What the camera's rays meet first, over the pixel by the same filter as the picture: linear base colour, and the shading normal in the world. */
  baseColor: FloatImage
  normal: FloatImage
  /** Metres square to the film, through the middle of each pixel and without a lens; {@link NOTHING_M} where there is nothing. */
  depth: FloatImage
  /** By name the share of each pixel that is covered, in steps of 1/255. */
  masks: Map<string, Uint8Array>
}

export const NOTHING_M = 1e10

/** Samples of every pixel, and of one whose first samples met different things. */
const SAMPLES = 4
const SAMPLES_AT_EDGES = 16

export interface PassesView {
  width: number
  height: number
  seed: number
}

/**
 * What is where in a picture, without following any light.
 * @param namesOf masks that a hit counts for, by the index of the object, in the order of the scene, and of the placement (−1 for none)
 * @param onProgress share of the rows done; false ends it
 * @returns null when `onProgress` returned false
 */
export function tracePasses(
  scene: Scene,
  camera: Camera,
  { width, height, seed }: PassesView,
  namesOf: (object: number, placement: number) => readonly string[],
  onProgress: (share: number) => boolean = () => true,
): Passes | null {
  // With nothing but what is met first wanted, no light is ever asked for.
  const tracer = new PathTracer(scene, NO_LIGHT, camera, BLACK, width, height, seed, true)
  const baseColor = createFloatImage(width, height, 3)
  const normal = createFloatImage(width, height, 3)
  const depth = createFloatImage(width, height, 1)
  const masks = new Map<string, Uint8Array>()
  const depthAt = createDepth(scene, camera, width, height)
  const hits = new Map<string, number>()
  /** Names of what was met, by object and placement. */
  const known = new Map<string, readonly string[]>()
  const named = (object: number, placement: number): readonly string[] => {
    const key = `${object} ${placement}`
    let names = known.get(key)
    if (!names) {
      names = namesOf(object, placement)
      known.set(key, names)
    }
    return names
  }
  for (let y = 0; y < height; y++) {
    if (!onProgress(y / height)) return null
    for (let x = 0; x < width; x++) {
      const p = y * width + x
      hits.clear()
      let count = 0
      let isEdge = false
      let [firstObject, firstPlacement] = [-1, -1]
      for (; count < (isEdge ? SAMPLES_AT_EDGES : SAMPLES); count++) {
        tracer.trace(x, y, count)
        const { firstMaterial: object, firstPlacement: placement, feature } = tracer
        if (count === 0) [firstObject, firstPlacement] = [object, placement]
        else isEdge ||= object !== firstObject || placement !== firstPlacement
        if (object < 0) continue
        for (let k = 0; k < 3; k++) {
          baseColor.data[p * 3 + k] += feature[k]
          normal.data[p * 3 + k] += feature[3 + k]
        }
        for (const name of named(object, placement)) hits.set(name, (hits.get(name) ?? 0) + 1)
      }
      for (let k = 0; k < 3; k++) {
        baseColor.data[p * 3 + k] /= count
        normal.data[p * 3 + k] /= count
      }
      for (const [name, met] of hits) {
        let mask = masks.get(name)
        if (!mask) {
          mask = new Uint8Array(width * height)
          masks.set(name, mask)
        }
        mask[p] = Math.round((met / count) * 255)
      }
      depth.data[p] = depthAt(x, y)
    }
  }
  return { baseColor, normal, depth, masks }
}

const BLACK: [number, number, number] = [0, 0, 0]
const NO_LIGHT = {} as EnvironmentLight

function createDepth(scene: Scene, camera: Camera, width: number, height: number): (x: number, y: number) => number {
  const { position, forward, right, up, aspect, tanHalfHeight } = camera
  const away = normalize(cross(up, right))
  const square: Vec3 = dot(away, forward) < 0 ? [-away[0], -away[1], -away[2]] : away
  const hit = createRayHit()
  return (x, y) => {
    const sx = (((x + 0.5) / width) * 2 - 1) * aspect * tanHalfHeight
    const sy = (1 - ((y + 0.5) / height) * 2) * tanHalfHeight
    const d = normalize([0, 1, 2].map(k => forward[k] + right[k] * sx + up[k] * sy) as Vec3)
    const isHit = scene.caster.closestHit(position[0], position[1], position[2], d[0], d[1], d[2], 1e30, hit)
    return isHit ? hit.distance * dot(d, square) : NOTHING_M
  }
}
