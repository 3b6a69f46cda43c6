import { parseGlb } from '#core/geometry/read-gltf'
import type { ByteImage } from '#core/image/image'
import type { OpenPbrMaterial } from '#core/material/open-pbr'
import type { Camera, Orbit } from '#core/render/film/camera'
import { objectsOfModel } from '#core/render/pictures/model-objects'
import { StandingStage } from '#core/render/pictures/standing-stage'
import { PREVIEW_ASPECT, type Rig } from '#core/render/rigs/rig'
import { findRelief } from '#core/render/stages/find-relief'
import type { StageableSubject } from '#core/render/stages/stage-subject'
import { readPixels } from './read-pixels'
import { type TracingCommand, TracingLoop, type TracingNews } from './tracing-loop'

/** What is looked at; a model is fetched and read by the worker itself. */
export type TracedSubject =
  | {
      kind: 'material'
      images: ByteImage[]
      material: OpenPbrMaterial
      /** Beside a normal map, where they are no texture of the material's. */
      heights: ByteImage | null
    }
  | { kind: 'model'; url: string }

/** The subject once; then a start for every change of the material or the point of view. */
export type PreviewCommand =
  | { kind: 'subject'; subject: TracedSubject; rig: Rig; backdropAlbedo: number }
  | {
      kind: 'start'
      run: number
      material: OpenPbrMaterial | null
      orbit: Orbit
      width: number
      maxSamples: number
      noiseTarget: number
      part: { index: number; count: number }
    }
  | TracingCommand

export type PreviewNews = TracingNews | { kind: 'staged'; camera: Camera; pivot: Camera['position'] } | { kind: 'failed' }

/** Somebody waits: the first filtered picture comes early, noisier than those after it. */
const FIRST_GOAL = 2

const loop = new TracingLoop(say)
let stage: Promise<StandingStage | null> = Promise.resolve(null)
/** The run that was asked for last: what waits for the stage starts only if nothing came after it. */
let wanted = 0

self.onmessage = ({ data }: MessageEvent<PreviewCommand>) => {
  switch (data.kind) {
    case 'subject':
      loop.stop()
      stage = setUp(data.subject, data.rig, data.backdropAlbedo)
      return
    case 'start':
      wanted = data.run
      void start(data)
      return
    default:
      if (data.kind === 'stop') wanted = 0
      loop.hear(data)
  }
}

async function setUp(subject: TracedSubject, rig: Rig, backdropAlbedo: number): Promise<StandingStage | null> {
  try {
    const made = new StandingStage(await open(subject), rig, backdropAlbedo)
    say({ kind: 'staged', camera: made.camera, pivot: made.pivot })
    return made
  } catch {
    say({ kind: 'failed' })
    return null
  }
}

async function open(subject: TracedSubject): Promise<StageableSubject> {
  if (subject.kind === 'material') {
    const { material, images, heights } = subject
    return { kind: 'material', material, images, relief: findRelief(material, images, heights) }
  }
  const response = await fetch(subject.url)
  if (!response.ok) throw new Error(`the model answered ${response.status}`)
  const model = await parseGlb(new Uint8Array(await response.arrayBuffer()))
  const images = await Promise.all(model.images.map(({ bytes }) => readPixels(new Blob([bytes as BlobPart]))))
  return { kind: 'model', objects: objectsOfModel(model, images) }
}

async function start({ run, material, orbit, width, maxSamples, noiseTarget, part }: PreviewCommand & { kind: 'start' }) {
  const standing = await stage
  if (!standing || wanted !== run) return
  const height = Math.round(width / PREVIEW_ASPECT)
  const settings = { width, height, seed: 1, maxSamples, noiseTarget, denoised: true, background: null, firstGoal: FIRST_GOAL }
  loop.begin(run, standing.start(settings, { orbit, ...(material ? { material } : {}) }, part))
}

function say(news: PreviewNews, transfer: Transferable[] = []): void {
  self.postMessage(news, { transfer })
}
