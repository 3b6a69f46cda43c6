import { computeBounds, mergeMeshes, placeMesh } from '../../geometry/mesh'
import type { FloatImage } from '../../image/image'
import { frameSubject } from '../film/camera'
import { finishRendering, Rendering, type RenderSettings } from '../integrator/render'
import { lightOfRig } from '../lights/house-light'
import { HOUSE_RIGS } from '../rigs/house-rigs'
import { PREVIEW_ASPECT, type Rig } from '../rigs/rig'
import { createScene, type MipCache, type SceneObject } from '../scene/scene'
import { directionToCamera, hullPoints, type StageableSubject, stageSubject } from '../stages/stage-subject'
import { createBackdrop } from '../stages/surroundings'

export const TURNTABLE_FRAMES = 24
const SAMPLES = 8

/**
 * One full turn of a subject on its rig, as drafts: the camera and the light stand still, the subject turns about the vertical through
 * its middle. Null when `onProgress` returned false.
 */
export function renderTurntable(
  item: StageableSubject,
  given: Rig,
  backdropAlbedo: number,
  onProgress: (share: number) => boolean = () => true,
  frames = TURNTABLE_FRAMES,
): FloatImage[] | null {
  // A wall would turn along with the light that washes it.
  const rig = given.stage === 'wallWash' ? HOUSE_RIGS['model-three-quarter'] : given
  const { subject, extras } = stageSubject(item, { ...rig, scaleBar: false })
  const objects = centred([...subject, ...extras])
  const turned = Array.from({ length: frames }, (_, k) =>
    objects.map(o => ({ ...o, mesh: placeMesh(o.mesh, [0, 0, 0], (2 * Math.PI * k) / frames) })),
  )
  // Framed for every angle at once, so that nothing comes and goes while it turns.
  const reach = hullPoints(mergeMeshes(turned.flatMap(list => list.map(o => o.mesh))))
  const { focalMm, coverage, framing } = rig.camera
  const camera = frameSubject(reach, directionToCamera(rig), focalMm, PREVIEW_ASPECT, coverage, framing)
  const backdrop = createBackdrop(mergeMeshes(turned.flatMap(list => list.map(o => o.mesh))), camera, backdropAlbedo)
  const light = lightOfRig(rig)
  const settings: RenderSettings = {
    width: rig.draft.width,
    height: Math.round(rig.draft.width / PREVIEW_ASPECT),
    seed: 1,
    noiseTarget: rig.draft.noiseSteps / 255,
    maxSamples: SAMPLES,
    background: null,
    denoised: true,
  }
  const mipCache: MipCache = new Map()
  const pictures: FloatImage[] = []
  for (const list of turned) {
    const rendering = new Rendering(createScene([...list, backdrop], mipCache), light, camera, settings)
    while (rendering.step()) if (!onProgress((pictures.length + rendering.doneShare) / frames)) return null
    pictures.push(finishRendering(rendering.tiles, settings, rendering.rays, rendering.clamped).image)
  }
  return pictures
}

/** Moved so that the middle of all of them stands over the origin. */
function centred(objects: readonly SceneObject[]): SceneObject[] {
  const { min, max } = computeBounds(mergeMeshes(objects.map(o => o.mesh)).positions)
  return objects.map(o => ({ ...o, mesh: placeMesh(o.mesh, [-(min[0] + max[0]) / 2, 0, -(min[2] + max[2]) / 2]) }))
}
