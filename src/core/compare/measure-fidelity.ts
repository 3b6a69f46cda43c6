import type { ByteImage, FloatImage } from '../image/image'
import type { OpenPbrMaterial } from '../material/open-pbr'
import { renderPreview } from '../render/pictures/preview'
import type { Quality, Rig } from '../render/rigs/rig'
import type { MipCache } from '../render/scene/scene'
import { TARGETS, type Target } from '../standard/target-names'
import { passThroughTarget, type ThroughTarget } from '../targets/fidelity'
import { comparePictures } from './compare-pictures'

/** What a material looks like after it has been through a target. */
export interface TargetFidelity {
  target: Target
  lost: ThroughTarget['lost']
  meanFlip: number
  p95Flip: number
  deltaEOfMeans: number
  /** Linear; null where nothing was lost and the picture is the original's. */
  picture: FloatImage | null
}

export interface Fidelity {
  original: FloatImage
  targets: TargetFidelity[]
}

/** No larger than the rig's drafts, and the same samples for every picture: noise is nearly the same in both and cancels out of their difference. */
const QUALITY: Quality = { width: 160, noiseTarget: 0, maxSamples: 32, denoised: false }
const SEED = 1

/** Renders a material as it is and as each target keeps it, on one rig against one backdrop. Null when `onProgress` returned false. */
export async function measureFidelity(
  material: OpenPbrMaterial,
  images: readonly ByteImage[],
  rig: Rig,
  onProgress: (share: number) => boolean = () => true,
  quality: Quality = { ...QUALITY, width: Math.min(QUALITY.width, rig.draft.width) },
): Promise<Fidelity | null> {
  const mipCache: MipCache = new Map()
  let finished = 0
  const draw = (shown: OpenPbrMaterial, backdropAlbedo?: number) => {
    const result = renderPreview(
      { kind: 'material', material: shown, images },
      { rig, quality, seed: SEED, backdropAlbedo, mipCache },
      share => onProgress((finished + share) / (TARGETS.length + 1)),
    )
    finished++
    return result
  }
  const original = draw(material)
  if (!original) return null
  const targets: TargetFidelity[] = []
  for (const target of TARGETS) {
    const { material: kept, lost } = await passThroughTarget(material, target)
    if (lost.length === 0) {
      finished++
      targets.push({ target, lost, meanFlip: 0, p95Flip: 0, deltaEOfMeans: 0, picture: null })
      continue
    }
    const drawn = draw(kept, original.backdrop?.albedo)
    if (!drawn) return null
    const { meanFlip, p95Flip, deltaEOfMeans } = comparePictures(original.image, drawn.image)
    targets.push({ target, lost, meanFlip, p95Flip, deltaEOfMeans, picture: drawn.image })
  }
  return { original: original.image, targets }
}
