import { z } from 'zod'

/** The recipe of a preview, as data: stage, light, camera, framing, backdrop, exposure, size and quality. */
export const rigSchema = z.object({
  name: z.string().regex(/^[a-z][a-z0-9-]*$/),
  title: z.string(),
  /** Raised whenever a change alters pictures; part of the key under which previews are kept. */
  revision: z.number().int().positive(),
  stage: z.enum(['materialSheet', 'materialWall', 'subject', 'panorama']),
  camera: z.object({
    /** From the subject to the camera: 0 is straight in front (+Z), positive to the subject's left (+X). */
    azimuthDeg: z.number(),
    elevationDeg: z.number().min(-10).max(90),
    focalMm: z.number().min(10).max(400),
    /** Share of the frame the subject fills in the direction it reaches first. */
    coverage: z.number().min(0.2).max(1),
  }),
  /** Exposure over that at which a white horizontal card reads 1, in stops. */
  exposureEv: z.number(),
  /** Albedo of the seamless backdrop. */
  backdropAlbedo: z.number().min(0).max(1),
  scaleBar: z.boolean(),
})
export type Rig = z.infer<typeof rigSchema>

/** Every preview has this aspect, width over height. */
export const PREVIEW_ASPECT = 4 / 3

export interface Quality {
  width: number
  /** Standard error of display luminance, 0..1. */
  noiseTarget: number
  maxSamples: number
  denoised: boolean
}

export const QUALITIES = {
  draft: { width: 256, noiseTarget: 8 / 255, maxSamples: 16, denoised: true },
  final: { width: 512, noiseTarget: 2 / 255, maxSamples: 256, denoised: false },
} as const satisfies Record<string, Quality>
export type QualityName = keyof typeof QUALITIES

export const HOUSE_RIGS = {
  'material-stage': {
    name: 'material-stage',
    title: 'Material stage',
    revision: 1,
    stage: 'materialSheet',
    camera: { azimuthDeg: 24, elevationDeg: 27, focalMm: 70, coverage: 0.94 },
    exposureEv: -0.1,
    backdropAlbedo: 0.48,
    scaleBar: false,
  },
  'material-wall': {
    name: 'material-wall',
    title: 'Wall, 3 x 3 m',
    revision: 1,
    stage: 'materialWall',
    camera: { azimuthDeg: 18, elevationDeg: 4, focalMm: 50, coverage: 0.94 },
    exposureEv: -0.1,
    backdropAlbedo: 0.48,
    scaleBar: false,
  },
  'model-three-quarter': {
    name: 'model-three-quarter',
    title: 'Model, three-quarter',
    revision: 1,
    stage: 'subject',
    camera: { azimuthDeg: 32, elevationDeg: 16, focalMm: 85, coverage: 0.74 },
    exposureEv: -0.1,
    backdropAlbedo: 0.52,
    scaleBar: true,
  },
  'plant-three-quarter': {
    name: 'plant-three-quarter',
    title: 'Plant, three-quarter',
    revision: 1,
    stage: 'subject',
    camera: { azimuthDeg: 24, elevationDeg: 10, focalMm: 85, coverage: 0.78 },
    exposureEv: 0,
    backdropAlbedo: 0.6,
    scaleBar: true,
  },
  'environment-strip': {
    name: 'environment-strip',
    title: 'Panorama with two balls',
    revision: 1,
    stage: 'panorama',
    camera: { azimuthDeg: 0, elevationDeg: 8, focalMm: 85, coverage: 0.86 },
    exposureEv: -0.7,
    backdropAlbedo: 0.35,
    scaleBar: false,
  },
} as const satisfies Record<string, Rig>
export type HouseRigName = keyof typeof HOUSE_RIGS
