import { FileError } from '#core/findings/failure'
import type { ByteImage, FloatImage } from '#core/image/image'
import { heightOfShot, prepareShot } from '#core/mock-up/composing/render-shot'
import type { Scene } from '#core/mock-up/scene/scene'
import { developForDisplay } from '#core/render/film/develop'
import { planTiles } from '#core/render/film/tile'
import { finishRendering } from '#core/render/integrator/render'
import { ALONE, type Helpers, traceTogether } from '#core/render/integrator/trace-together'
import type { ItemSource } from '../items/item-source'
import { InterimPictures, type ShowInterim } from './interim-pictures'
import type { KeptResources } from './kept-resources'
import { keepTiles, readKeptTiles } from './kept-tiles'
import { openResources, type ResourceSizes } from './open-resources'

export const SHOT_QUALITIES = ['draft', 'final'] as const
export type ShotQuality = (typeof SHOT_QUALITIES)[number]

/** Longer sides in pixels, error of display luminance in steps of an 8-bit display, and samples of a pixel at most. */
const QUALITIES: Readonly<Record<ShotQuality, { longerPx: number; noiseSteps: number; maxSamples: number }>> = {
  draft: { longerPx: 640, noiseSteps: 6, maxSamples: 24 },
  final: { longerPx: 1600, noiseSteps: 2.5, maxSamples: 512 },
}
const SIZES = {
  draft: { materialPx: 1024, modelPx: 1024, skyPx: 2048 },
  final: { materialPx: 2048, modelPx: 2048, skyPx: 4096 },
} as const
/** Of more materials or models the maps are opened smaller, so that all of them fit into memory. */
const MOST_AT_FULL_SIZE = 14

/** How large things are opened for a picture that shows so many. */
export function sizesFor(quality: ShotQuality, sources: Readonly<Record<string, ItemSource>>): ResourceSizes {
  const { materialPx, modelPx, skyPx } = SIZES[quality]
  const count = (kind: ItemSource['kind']) => Object.values(sources).filter(s => s.kind === kind).length
  const within = (px: number, kind: ItemSource['kind']) => (count(kind) > MOST_AT_FULL_SIZE ? Math.min(1024, px) : px)
  return { materialPx: within(materialPx, 'material'), modelPx: within(modelPx, 'model'), skyPx }
}

/** All that a picture of a mock-up is made of. */
export interface MockUpPictureRequest {
  scene: Scene
  /** Of one of its shots. */
  shot: string
  quality: ShotQuality
  seed: number
  /** Everything that it shows, by the keys of their inputs. */
  sources: Readonly<Record<string, ItemSource>>
  /** Pixels of its longer side, where it is not as the quality has it. */
  longerPx?: number | null
  /** A file in which to keep how far it has come, and to go on from where there is one. */
  keepIn?: string
}

/** As often as this much work may be lost. */
const KEEP_EVERY_MS = 60_000

export interface MockUpPictureStats {
  width: number
  height: number
  triangles: number
  placements: number
  samples: number
  achievedError: number
  convergedShare: number
  seconds: number
  /** By the keys of what does not read. */
  failures: Record<string, string>
}

export interface RenderMockUpOptions {
  keepEveryMs?: number
  helpers?: Helpers
  /** What the picture before was made of. */
  kept?: KeptResources
  /** Is shown the picture while it is made, developed for display: a sketch of it first. */
  onInterim?: ShowInterim
}

/** Pixels across of a shot in a quality. */
export const widthOf = ({ aspect }: { aspect: number }, quality: ShotQuality, wantedPx?: number | null): number => {
  const longerPx = wantedPx ?? QUALITIES[quality].longerPx
  return Math.round((aspect >= 1 ? longerPx : longerPx * aspect) / 4) * 4
}

/**
 * Renders a shot of a mock-up and develops it for display. The same request gives the same pixels, at once or broken off and gone on with,
 * alone or with helpers.
 * @throws FileError where the mock-up has no such shot
 * @param onProgress called with the share done, which falls where more turns out to be needed, the largest error left, and the seconds that the
 *   rest takes, as soon as they can be told
 * @returns null when `onProgress` returned false
 */
export async function renderMockUp(
  { scene, shot: id, quality, seed, sources, longerPx, keepIn }: MockUpPictureRequest,
  onProgress: (share: number, error: number | null, secondsLeft: number | null) => boolean = () => true,
  { keepEveryMs = KEEP_EVERY_MS, helpers = ALONE, kept: keptResources, onInterim }: RenderMockUpOptions = {},
): Promise<{ picture: ByteImage; linear: FloatImage; stats: MockUpPictureStats } | null> {
  const started = performance.now()
  const shot = scene.shots[id]
  if (!shot) throw new FileError('notFound', 'The mock-up has no such shot any more.')
  const sizes = sizesFor(quality, sources)
  const { resources, failures, kept } = keptResources
    ? await keptResources.open(sources, sizes)
    : { ...(await openResources(sources, sizes)), kept: undefined }
  const prepared = prepareShot(scene, shot, resources, kept)
  const { noiseSteps, maxSamples } = QUALITIES[quality]
  const width = widthOf(shot, quality, longerPx)
  const settings = { width, seed, noiseTarget: noiseSteps / 255, maxSamples, denoised: true }
  const begun = keepIn ? await readKeptTiles(keepIn, planTiles(prepared.settingsOf(settings))) : null
  const rendering = prepared.start(settings, undefined, begun)
  const interim = onInterim && new InterimPictures(rendering, onInterim)
  await interim?.showNow()
  const secondsLeft = createTimeLeft(rendering)
  let keptAt = performance.now()
  const isWhole = await traceTogether(rendering, helpers, async () => {
    if (keepIn && performance.now() - keptAt >= keepEveryMs) {
      // Without room to keep it in, it goes on all the same.
      await keepTiles(keepIn, rendering.tiles).catch(() => {})
      keptAt = performance.now()
    }
    interim?.showWhenDue()
    return onProgress(rendering.doneShare, rendering.error, secondsLeft())
  })
  if (!isWhole) return null
  const result = finishRendering(rendering.tiles, prepared.settingsOf(settings), rendering.rays, rendering.clamped)
  return {
    picture: developForDisplay(result.image),
    linear: result.image,
    stats: {
      width,
      height: heightOfShot(shot, width),
      triangles: prepared.triangles,
      placements: prepared.placements,
      samples: result.samples,
      achievedError: result.achievedError,
      convergedShare: result.convergedShare,
      seconds: (performance.now() - started) / 1000,
      failures,
    },
  }
}

/** Before so much was taken of what is expected, nobody can say how long the rest takes. */
const LEAST_SHARE = 0.02

/** How long the rest of a rendering takes, by how long what was taken since now took: what it went on from is no measure of that. */
export function createTimeLeft(
  rendering: { readonly work: { taken: number; expected: number }; readonly error: number | null },
  now: () => number = () => performance.now(),
): () => number | null {
  const [begun, before] = [now(), rendering.work.taken]
  return () => {
    const { taken, expected } = rendering.work
    const done = taken - before
    // As long as there is a tile whose error nobody knows, all of them are expected to take the most samples.
    if (rendering.error === null || done < LEAST_SHARE * (expected - before)) return null
    return ((now() - begun) / 1000) * ((expected - taken) / done)
  }
}
