import { z } from 'zod'

/**
 * What stands in front of the camera. For a material: a bent sheet with a cup, a draped cloth, a vessel of it or a vessel filled
 * with it, a close-up, a wall of 3 x 3 m. For a model: the model itself, one leaf of a plant,
 * or a light before a wall that it washes. For an environment: its panorama. For a luminaire: a bay that it lights. A map is laid flat: nothing is lit.
 */
export const STAGES = [
  'materialSheet',
  'cloth',
  'vessel',
  'content',
  'closeUp',
  'wall',
  'subject',
  'leaf',
  'wallWash',
  'panorama',
  'lightBay',
  'flat',
] as const
export type Stage = (typeof STAGES)[number]

/** Which kind of item a stage shows. */
export const STAGE_KIND = {
  materialSheet: 'material',
  cloth: 'material',
  vessel: 'material',
  content: 'material',
  closeUp: 'material',
  wall: 'material',
  subject: 'model',
  leaf: 'model',
  wallWash: 'model',
  panorama: 'environment',
  lightBay: 'light',
  flat: 'map',
} as const satisfies Record<Stage, string>

const qualitySchema = z.object({
  /** Pixels; the height follows from the one aspect. */
  width: z.number().int().min(64).max(2048),
  /** Error of display luminance, in steps of an 8-bit display. */
  noiseSteps: z.number().min(0.5).max(64),
  /** Samples of a pixel at most. */
  maxSamples: z.number().int().min(4).max(4096),
})

/** The recipe of a preview, as data: stage, light, camera, framing, backdrop, exposure, size and quality. */
export const rigSchema = z.object({
  name: z.string().regex(/^[a-z][a-z0-9-]*$/),
  title: z.string().min(1).max(60),
  /** Raised whenever a change alters pictures; part of the key under which previews are kept. */
  revision: z.number().int().positive(),
  stage: z.enum(STAGES),
  camera: z.object({
    /** From the subject to the camera: 0 is straight in front (+Z), positive to the subject's left (+X). */
    azimuthDeg: z.number().min(-180).max(180),
    elevationDeg: z.number().min(-10).max(90),
    focalMm: z.number().min(10).max(400),
    /** What the subject's larger extent is measured by: the frame's shorter side, or whichever side it reaches first. */
    framing: z.enum(['shorterSide', 'fill']),
    /** Share of that side the subject takes. */
    coverage: z.number().min(0.2).max(1),
  }),
  /** Turn of the house light about the vertical; the key stands at the upper left of the camera at 0. */
  lightTurnDeg: z.number().min(-180).max(180),
  /** Exposure over that at which a white horizontal card reads 1, in stops. */
  exposureEv: z.number().min(-6).max(6),
  /** Albedos of the seamless backdrop, the preferred one first; of these the first with enough contrast is taken. */
  backdrops: z.array(z.number().min(0.02).max(0.95)).min(1).max(5),
  /** Least difference in lightness (CIE L*) between the subject's outline and what is behind it. */
  minContrast: z.number().min(0).max(60),
  scaleBar: z.boolean(),
  draft: qualitySchema,
  final: qualitySchema,
})
export type Rig = z.infer<typeof rigSchema>

/** Every preview has this aspect, width over height. */
export const PREVIEW_ASPECT = 4 / 3

export const QUALITY_NAMES = ['draft', 'final'] as const
export type QualityName = (typeof QUALITY_NAMES)[number]

export interface Quality {
  width: number
  /** Error of display luminance, 0..1. */
  noiseTarget: number
  maxSamples: number
  denoised: boolean
}

/** A rig's draft or final, filtered for noise until what is left is below the target. */
export function qualityOf(rig: Rig, name: QualityName): Quality {
  const { width, noiseSteps, maxSamples } = rig[name]
  return { width, noiseTarget: noiseSteps / 255, maxSamples, denoised: true }
}
