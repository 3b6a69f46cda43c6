import { toHex } from '../color/srgb'
import type { Finding } from '../findings/finding'
import { type ByteImage, meanOfChannel, shareBetween } from '../image/image'
import { measureAppearance, writeAppearance } from './appearance'
import { MATERIAL_CHECKS, REPEAT_CHECKS } from './checks/material-checks'
import { type MaterialSubject, mapOf } from './material-subject'
import { findNormalHandedness } from './normal-map'
import { computeMeanAlbedo, computePalette } from './palette'

export interface MaterialFacts {
  maps?: string
  /** Of the largest map; without maps none. */
  widthPx?: number
  heightPx?: number
  widthMm?: number
  heightMm?: number
  /** Texels per metre along the width. */
  texelDensityPxM?: number
  normalMapHandedness?: 'openGl' | 'directX' | 'unsure'
  /** Light reflectance value of the base colour, 0..100. */
  lrv?: number
  /** Mean base colour as #rrggbb. */
  meanColor?: string
  /** Up to five `#rrggbb share` pairs, largest first. */
  palette?: string
  meanRoughness?: number
  /** Share of the area with metalness above one half. */
  metalShare?: number
  /** What it is known again by, as numbers; see `writeAppearance`. */
  appearance?: string
}

export interface MaterialAnalysis {
  facts: MaterialFacts
  findings: Finding[]
}

export function analyseMaterial(subject: MaterialSubject): MaterialAnalysis {
  const color = mapOf(subject, 'baseColor')
  const normal = mapOf(subject, 'normal')
  const roughness = mapOf(subject, 'roughness') ?? mapOf(subject, 'gloss')
  const metalness = mapOf(subject, 'metalness')
  const largest = subject.maps.reduce((a, b) => (b.widthPx > a.widthPx ? b : a), subject.maps[0])
  const facts: MaterialFacts = largest
    ? { maps: subject.maps.map(m => m.role).join(', '), widthPx: largest.widthPx, heightPx: largest.heightPx }
    : {}
  Object.assign(facts, computeSizeFacts(subject.widthMm, largest?.widthPx ?? 0, largest?.heightPx ?? 0))
  const handedness = normal && normal.image.channels >= 3 ? findNormalHandedness(normal.image) : undefined
  if (handedness) facts.normalMapHandedness = handedness.handedness
  if (color && color.image.data instanceof Uint8Array) {
    const image = color.image as ByteImage
    const { albedo, lrv } = computeMeanAlbedo(image)
    facts.lrv = lrv
    facts.meanColor = toHex(albedo)
    facts.palette = computePalette(image)
      .map(c => `${toHex(c.color)} ${c.share.toFixed(3)}`)
      .join(', ')
  }
  if (roughness) {
    const value = meanOfChannel(roughness.image, 0)
    facts.meanRoughness = roughness.role === 'gloss' ? 1 - value : value
  }
  if (metalness) facts.metalShare = shareBetween(metalness.image, 0, 0.5, Number.POSITIVE_INFINITY)
  const appearance = measureAppearance(subject)
  if (appearance) facts.appearance = writeAppearance(appearance)
  return { facts, findings: checksOf(subject).flatMap(check => check({ ...subject, handedness })) }
}

/** What follows from the real-world width of one repeat; nothing while that is not known. */
export function computeSizeFacts(
  widthMm: number | null,
  widthPx: number,
  heightPx: number,
): Pick<MaterialFacts, 'widthMm' | 'heightMm' | 'texelDensityPxM'> {
  if (widthMm === null || !(widthMm > 0)) return {}
  if (!(widthPx > 0)) return { widthMm }
  return { widthMm, heightMm: (widthMm * heightPx) / widthPx, texelDensityPxM: widthPx / (widthMm / 1000) }
}

/** What stands once has no edges that meet, and repeats nothing. */
const checksOf = ({ tiling }: MaterialSubject) =>
  tiling === 'once' ? MATERIAL_CHECKS.filter(check => !REPEAT_CHECKS.has(check)) : MATERIAL_CHECKS
