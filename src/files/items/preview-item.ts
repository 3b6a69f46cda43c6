import type { ByteImage, FloatImage } from '#core/image/image'
import { developForDisplay } from '#core/render/film/develop'
import { ALONE, type Helpers, traceTogether } from '#core/render/integrator/trace-together'
import { finishPreview, preparePreview } from '#core/render/pictures/preview'
import { type QualityName, qualityOf, type Rig } from '#core/render/rigs/rig'
import type { ItemSource } from './item-source'
import { layFlat } from './lay-flat'
import { loadItem, toPreviewSubject } from './load-item'
import { loadRelief } from './load-relief'

export interface PreviewStats {
  rig: string
  rigRevision: number
  quality: QualityName
  width: number
  height: number
  seed: number
  samples: number
  rays: number
  achievedError: number
  convergedShare: number
  /** Share of the light taken off fireflies. */
  fireflyShare: number
  /** What the rig chose behind the subject, how far it stands out from it in L*, and how much of the side of the frame that it reaches first it takes. */
  backdropAlbedo: number | null
  contrast: number | null
  coverage: number | null
  seconds: number
}

/** At the size of a preview no more texels than this can be told apart. */
const PREVIEW_TEXTURE_SIZE = 2048
const MODEL_TEXTURE_SIZE = 1024
/** A map shows its own texels. */
const MAP_SIZE = 8192

const NOT_RENDERED = {
  samples: 0,
  rays: 0,
  achievedError: 0,
  convergedShare: 1,
  fireflyShare: 0,
  contrast: null,
  coverage: null,
}

/** Renders an item on a rig, with helpers where there are any, and develops it for display; null when `onProgress` returned false. */
export async function previewItem(
  source: ItemSource,
  rig: Rig,
  quality: QualityName,
  options: { seed?: number; width?: number; helpers?: Helpers } = {},
  onProgress: (share: number, error: number | null) => boolean = () => true,
): Promise<{ picture: ByteImage; linear: FloatImage; stats: PreviewStats } | null> {
  const started = performance.now()
  const { seed = 1, helpers = ALONE } = options
  const { loaded } = await loadItem(source, 'preview', source.kind === 'map' ? MAP_SIZE : PREVIEW_TEXTURE_SIZE)
  const facts = loaded.kind === 'environment' ? loaded.analysis.facts : null
  const sun = facts?.sunPresent ? { azimuthDeg: facts.sunAzimuthDeg!, elevationDeg: facts.sunElevationDeg! } : null
  if (loaded.kind === 'map') {
    const { picture, linear, backdropAlbedo } = layFlat(loaded.image, rig, quality, options.width)
    const { width, height } = picture
    return {
      picture,
      linear,
      stats: {
        rig: rig.name,
        rigRevision: rig.revision,
        quality,
        width,
        height,
        seed,
        ...NOT_RENDERED,
        backdropAlbedo,
        seconds: (performance.now() - started) / 1000,
      },
    }
  }
  const relief =
    loaded.kind === 'material' ? await loadRelief(source, loaded.material, loaded.images, PREVIEW_TEXTURE_SIZE) : null
  const subject = await toPreviewSubject(loaded, MODEL_TEXTURE_SIZE, { sun, relief })
  const usual = qualityOf(rig, quality)
  const wanted = { ...usual, width: options.width ?? usual.width }
  const prepared = preparePreview(subject, { rig, quality: wanted, seed })
  const rendering = prepared.start()
  let furthest = 0
  const isWhole = await traceTogether(rendering, helpers, () => {
    // What is expected changes with what is seen; nobody is told that it goes back.
    furthest = Math.max(furthest, rendering.doneShare)
    return onProgress(furthest, rendering.error)
  })
  if (!isWhole) return null
  const result = finishPreview(prepared, rendering)
  const picture = developForDisplay(result.image)
  return {
    picture,
    linear: result.image,
    stats: {
      rig: rig.name,
      rigRevision: rig.revision,
      quality,
      width: picture.width,
      height: picture.height,
      seed,
      samples: result.samples,
      rays: result.rays,
      achievedError: result.achievedError,
      convergedShare: result.convergedShare,
      fireflyShare: result.fireflyShare,
      backdropAlbedo: result.backdrop?.albedo ?? null,
      contrast: result.backdrop?.contrast ?? null,
      coverage: result.backdrop?.coverage ?? null,
      seconds: (performance.now() - started) / 1000,
    },
  }
}
