import { mergeMeshes } from '../../geometry/mesh'
import { createSphere } from '../../geometry/shapes'
import { createFloatImage, type FloatImage } from '../../image/image'
import { reduceFloat } from '../../image/reduce'
import { createMaterial } from '../../material/open-pbr'
import type { CandelaWeb } from '../../photometry/candela-web'
import { createCamera, frameSubject } from '../film/camera'
import type { Tile } from '../film/tile'
import { finishRendering, Rendering, type RenderResult, type RenderSettings } from '../integrator/render'
import { createExposedLight, lightOfRig } from '../lights/house-light'
import { PREVIEW_ASPECT, type Quality, type Rig } from '../rigs/rig'
import { createScene, type MipCache, type SceneObject } from '../scene/scene'
import { type BackdropChoice, chooseBackdrop } from '../stages/choose-backdrop'
import { createLightBay } from '../stages/light-bay'
import { directionToCamera, type StageableSubject, stageSubject } from '../stages/stage-subject'
import { createBackdrop, greyMaterial } from '../stages/surroundings'

/** Raised whenever the renderer's pictures change, so that stored previews are known to be of an older one. */
export const RENDERER_REVISION = 8

/** What a preview shows. */
export type PreviewSubject =
  | StageableSubject
  | { kind: 'environment'; map: FloatImage; sun: { azimuthDeg: number; elevationDeg: number } | null }
  | { kind: 'light'; web: CandelaWeb }

export interface PreviewRequest {
  rig: Rig
  quality: Quality
  seed: number
  /** Takes this backdrop without looking for the best: beside a picture that has it. */
  backdropAlbedo?: number
  /** Shared between renderings of the same images. */
  mipCache?: MipCache
}

/** A subject on its rig, ready to be rendered in whole or in parts. */
export interface PreparedPreview {
  settings: RenderSettings
  /** What the rig put behind the subject; null where nothing is. */
  backdrop: BackdropChoice | null
  /** Begins a rendering of every `count`th tile, or goes on with tiles kept from an earlier one. */
  start(part?: { index: number; count: number }, kept?: readonly Tile[] | null, judging?: { judgesItself: boolean }): Rendering
  /** The whole picture from what was rendered: a panorama stands above its balls. */
  compose(rendered: FloatImage): FloatImage
}

/**
 * Everything before the first ray: staging, the choice of a backdrop the subject stands out against (a few draft renderings, unless
 * `backdropAlbedo` gives it), the scene. What is prepared may be rendered in parts, on several threads or machines, by the same seed.
 */
export function preparePreview(subject: PreviewSubject, request: PreviewRequest): PreparedPreview {
  switch (subject.kind) {
    case 'environment':
      return preparePanorama(subject.map, subject.sun, request)
    case 'light':
      return prepareLightBay(subject.web, request)
    default:
      return prepareStaged(subject, request)
  }
}

export interface PreviewResult extends RenderResult {
  backdrop: BackdropChoice | null
}

/** Renders a subject on its rig on this thread; null when `onProgress`, given the share done and the error left, returned false. */
export function renderPreview(
  subject: PreviewSubject,
  request: PreviewRequest,
  onProgress: (share: number, error: number | null) => boolean = () => true,
): PreviewResult | null {
  const prepared = preparePreview(subject, request)
  const rendering = prepared.start()
  let furthest = 0
  while (rendering.step()) {
    // What is expected changes with what is seen; nobody is told that it goes back.
    furthest = Math.max(furthest, rendering.doneShare)
    if (!onProgress(furthest, rendering.error)) return null
  }
  return finishPreview(prepared, rendering)
}

/** The picture of a rendering that has come to its end. */
export function finishPreview({ settings, compose, backdrop }: PreparedPreview, rendering: Rendering): PreviewResult {
  const result = finishRendering(rendering.tiles, settings, rendering.rays, rendering.clamped)
  return { ...result, image: compose(result.image), backdrop }
}

const settingsOf = ({ quality, seed }: PreviewRequest): RenderSettings => ({
  width: quality.width,
  height: Math.round(quality.width / PREVIEW_ASPECT),
  seed,
  noiseTarget: quality.noiseTarget,
  maxSamples: quality.maxSamples,
  background: null,
  denoised: quality.denoised,
})

function prepareStaged(item: StageableSubject, request: PreviewRequest): PreparedPreview {
  const { rig } = request
  const settings = settingsOf(request)
  const { subject, extras, camera, lamps, backdrop: shape } = stageSubject(item, rig, settings.height)
  const light = lightOfRig(rig)
  const around = mergeMeshes([...subject, ...extras].map(o => o.mesh))
  const build = (albedo: number) =>
    createScene([...subject, ...extras, createBackdrop(around, camera, albedo, shape)], request.mipCache, lamps)
  const first = request.backdropAlbedo ?? rig.backdrops[0]
  let scene = build(first)
  const backdrop =
    request.backdropAlbedo === undefined
      ? chooseBackdrop(scene, light, camera, subject.length, rig.backdrops, rig.minContrast)
      : null
  if (backdrop && backdrop.albedo !== first) scene = build(backdrop.albedo)
  return {
    settings,
    backdrop,
    start: (part, kept, judging) => new Rendering(scene, light, camera, settings, part, kept, judging),
    compose: image => image,
  }
}

/** What a luminaire throws into its bay; the house light is only there so that the bay is seen at all. */
function prepareLightBay(web: CandelaWeb, request: PreviewRequest): PreparedPreview {
  const { rig } = request
  const settings = settingsOf(request)
  const { bay, luminaire, lamp, framed } = createLightBay(web)
  const light = lightOfRig(rig)
  const { focalMm, coverage, framing } = rig.camera
  const camera = frameSubject(framed, directionToCamera(rig), focalMm, PREVIEW_ASPECT, coverage, framing)
  const scene = createScene([luminaire, ...bay], request.mipCache, [lamp])
  return {
    settings,
    backdrop: null,
    start: (part, kept, judging) => new Rendering(scene, light, camera, settings, part, kept, judging),
    compose: image => image,
  }
}

/** The panorama over the upper two thirds; under it a matt and a mirror ball lit by it. */
function preparePanorama(
  map: FloatImage,
  sun: { azimuthDeg: number; elevationDeg: number } | null,
  request: PreviewRequest,
): PreparedPreview {
  const { rig } = request
  const { width, height, ...rest } = settingsOf(request)
  const stripHeight = Math.min(Math.round(width / 2), height - 8)
  const light = createExposedLight(map, rig.exposureEv)
  const balls: SceneObject[] = [
    { mesh: createSphere(0.5, [-1.35, 0.5, 0]), material: greyMaterial('matt ball', 0.5, 1), images: [] },
    {
      mesh: createSphere(0.5, [0, 0.5, 0]),
      material: createMaterial('mirror ball', { baseMetalness: 1, baseColor: [0.95, 0.95, 0.95], specularRoughness: 0.02 }),
      images: [],
    },
    {
      mesh: createSphere(0.5, [1.35, 0.5, 0]),
      material: createMaterial('gloss ball', { baseColor: [0.03, 0.03, 0.03], specularRoughness: 0.18 }),
      images: [],
    },
  ]
  const ballsHeight = height - stripHeight
  const aspect = width / ballsHeight
  const camera = createCamera([0, 0.62, 7.4], [0, 0.49, 0], rig.camera.focalMm * 1.9, aspect)
  // Nothing but the balls: a backdrop would keep half of the environment from them. The camera sees an even grey behind.
  const grey = rig.backdrops[0]
  const settings: RenderSettings = { ...rest, width, height: ballsHeight, background: [grey, grey, grey] }
  const scene = createScene(balls)
  return {
    settings,
    backdrop: null,
    start: (part, kept, judging) => new Rendering(scene, light, camera, settings, part, kept, judging),
    compose: rendered => {
      const image = createFloatImage(width, height, 3)
      const strip = resizePanorama(map, width, stripHeight)
      for (let i = 0; i < strip.data.length; i++) image.data[i] = strip.data[i] * light.gain
      if (sun) markSun(image, stripHeight, sun)
      image.data.set(rendered.data, stripHeight * width * 3)
      return image
    },
  }
}

function resizePanorama(map: FloatImage, width: number, height: number): FloatImage {
  if (map.width >= width && map.height >= height) {
    const small = reduceFloat(map, width, height)
    if (small.channels === 3) return small
  }
  const out = createFloatImage(width, height, 3)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at =
        (Math.min(map.height - 1, Math.floor(((y + 0.5) / height) * map.height)) * map.width +
          Math.min(map.width - 1, Math.floor(((x + 0.5) / width) * map.width))) *
        map.channels
      for (let c = 0; c < 3; c++) out.data[(y * width + x) * 3 + c] = map.data[at + c]
    }
  return out
}

/** A thin ring round the sun's place: light outside, dark inside, so that it shows on any sky. */
function markSun(image: FloatImage, stripHeight: number, sun: { azimuthDeg: number; elevationDeg: number }): void {
  const cx = (sun.azimuthDeg / 360 + 0.5) * image.width
  const cy = (0.5 - sun.elevationDeg / 180) * stripHeight
  const radius = image.width / 36
  const line = Math.max(1, image.width / 320)
  for (let y = Math.max(0, Math.floor(cy - radius * 2)); y < Math.min(stripHeight, cy + radius * 2); y++)
    for (let x = 0; x < image.width; x++) {
      const dx = Math.min(Math.abs(x + 0.5 - cx), image.width - Math.abs(x + 0.5 - cx))
      const d = Math.hypot(dx, y + 0.5 - cy) - radius
      if (Math.abs(d) > line * 2) continue
      const value = d > 0 ? 1 : 0.02
      image.data.fill(value, (y * image.width + x) * 3, (y * image.width + x) * 3 + 3)
    }
}
