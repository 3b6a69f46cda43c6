import type { HouseRigName } from '../../standard/rig-names'
import type { Rig } from './rig'

const QUALITY = {
  draft: { width: 384, noiseSteps: 6, maxSamples: 24 },
  final: { width: 768, noiseSteps: 2, maxSamples: 96 },
}

const BASE = {
  revision: 2,
  lightTurnDeg: 0,
  exposureEv: -0.1,
  backdrops: [0.48],
  minContrast: 0,
  scaleBar: false,
  ...QUALITY,
} satisfies Partial<Rig>

/** The subject against the backdrop: mid grey unless the subject is as grey; then lighter, then darker. */
const AGAINST = { backdrops: [0.5, 0.82, 0.14], minContrast: 12 } satisfies Partial<Rig>

/** The rigs as they ship. A studio changes its own copies; these are where it begins. */
export const HOUSE_RIGS = {
  'material-stage': {
    ...BASE,
    name: 'material-stage',
    title: 'Material stage',
    stage: 'materialSheet',
    camera: { azimuthDeg: 24, elevationDeg: 27, focalMm: 70, framing: 'fill', coverage: 0.94 },
  },
  'cloth-drape': {
    ...BASE,
    name: 'cloth-drape',
    title: 'Draped cloth',
    stage: 'cloth',
    camera: { azimuthDeg: 12, elevationDeg: 22, focalMm: 85, framing: 'fill', coverage: 0.9 },
  },
  'glass-vessel': {
    ...BASE,
    name: 'glass-vessel',
    title: 'Vessel of it, with water',
    stage: 'vessel',
    camera: { azimuthDeg: 0, elevationDeg: 14, focalMm: 100, framing: 'shorterSide', coverage: 0.78 },
    backdrops: [0.6],
  },
  'liquid-vessel': {
    ...BASE,
    name: 'liquid-vessel',
    title: 'Clear vessel filled with it',
    stage: 'content',
    camera: { azimuthDeg: 0, elevationDeg: 14, focalMm: 100, framing: 'shorterSide', coverage: 0.78 },
    backdrops: [0.6],
  },
  'material-close-up': {
    ...BASE,
    name: 'material-close-up',
    title: 'Close-up, 160 mm wide',
    stage: 'closeUp',
    camera: { azimuthDeg: 18, elevationDeg: 38, focalMm: 100, framing: 'fill', coverage: 1 },
  },
  'material-wall': {
    ...BASE,
    name: 'material-wall',
    title: 'Wall, 3 x 3 m',
    stage: 'wall',
    camera: { azimuthDeg: 18, elevationDeg: 4, focalMm: 50, framing: 'fill', coverage: 0.94 },
  },
  'model-three-quarter': {
    ...BASE,
    ...AGAINST,
    revision: 3,
    name: 'model-three-quarter',
    title: 'Model, three-quarter',
    stage: 'subject',
    camera: { azimuthDeg: 32, elevationDeg: 16, focalMm: 85, framing: 'fill', coverage: 0.84 },
    scaleBar: true,
  },
  'plant-three-quarter': {
    ...BASE,
    ...AGAINST,
    revision: 3,
    name: 'plant-three-quarter',
    title: 'Plant, three-quarter',
    stage: 'subject',
    camera: { azimuthDeg: 24, elevationDeg: 10, focalMm: 85, framing: 'fill', coverage: 0.84 },
    backdrops: [0.6, 0.85, 0.14],
    exposureEv: 0,
    scaleBar: true,
  },
  'leaf-close-up': {
    ...BASE,
    ...AGAINST,
    name: 'leaf-close-up',
    title: 'Leaf close-up',
    stage: 'leaf',
    camera: { azimuthDeg: 24, elevationDeg: 10, focalMm: 100, framing: 'fill', coverage: 0.9 },
    exposureEv: 0,
  },
  'light-wall-wash': {
    ...BASE,
    revision: 2,
    name: 'light-wall-wash',
    title: 'Light, washing a wall',
    stage: 'wallWash',
    camera: { azimuthDeg: 20, elevationDeg: 7, focalMm: 70, framing: 'shorterSide', coverage: 0.7 },
    backdrops: [0.62, 0.3],
    minContrast: 8,
    exposureEv: -1.8,
    scaleBar: true,
  },
  'environment-strip': {
    ...BASE,
    name: 'environment-strip',
    title: 'Panorama with three balls',
    stage: 'panorama',
    camera: { azimuthDeg: 0, elevationDeg: 8, focalMm: 85, framing: 'fill', coverage: 0.86 },
    exposureEv: -0.7,
    backdrops: [0.35],
  },
  'light-bay': {
    ...BASE,
    revision: 1,
    name: 'light-bay',
    title: 'Luminaire in a bay, lines each metre',
    stage: 'lightBay',
    camera: { azimuthDeg: 12, elevationDeg: 2, focalMm: 32, framing: 'fill', coverage: 0.96 },
    exposureEv: -4.2,
    backdrops: [0.7],
  },
  'map-sheet': {
    ...BASE,
    revision: 1,
    name: 'map-sheet',
    title: 'Map laid flat, with its texels',
    stage: 'flat',
    // Nothing is rendered, so that nothing has to be small at first.
    draft: { ...QUALITY.draft, width: 1536 },
    final: { ...QUALITY.final, width: 1536 },
    camera: { azimuthDeg: 0, elevationDeg: 90, focalMm: 85, framing: 'fill', coverage: 1 },
    exposureEv: 0,
    backdrops: [0.68],
  },
} as const satisfies Record<HouseRigName, Rig>
