import type { CandelaWeb } from '#core/photometry/candela-web'
import { writeIes } from '#core/photometry/write-ies'

/** What a lamp throws in a direction, in cd; gamma from straight down. */
export type LightCurve = (gammaDeg: number, cDeg: number) => number

const STEP_DEG = 2.5
const PLANE_STEP_DEG = 15
const OPENING_M = 0.2
const radians = (deg: number): number => (deg * Math.PI) / 180

/** Light that leaves a shade's mouth: full to its edge, and out within some degrees of it. */
export const throughShade =
  (peakCandela: number, edgeDeg: number, softDeg: number): LightCurve =>
  gamma =>
    peakCandela * Math.cos(radians(Math.min(gamma, 89))) * Math.min(1, Math.max(0, (edgeDeg + softDeg - gamma) / (2 * softDeg)))

/** A narrow beam with a faint spill about it, to a width at half its peak. */
export const throughLens =
  (peakCandela: number, beamDeg: number): LightCurve =>
  gamma =>
    gamma >= 90 ? 0 : peakCandela * (0.97 * 0.5 ** ((gamma / (beamDeg / 2)) ** 2) + 0.03 * Math.cos(radians(gamma)))

/** A peak to one side of the axis, as a washer throws it at its wall. */
export const toOneSide =
  (peakCandela: number, tiltDeg: number): LightCurve =>
  (gamma, c) => {
    if (gamma >= 90) return 0
    const cosine =
      Math.sin(radians(gamma)) * Math.sin(radians(tiltDeg)) * Math.cos(radians(c)) +
      Math.cos(radians(gamma)) * Math.cos(radians(tiltDeg))
    return peakCandela * Math.max(0, cosine) ** 3
  }

/** Up to the ceiling, with a little through the shade. */
export const upwards =
  (peakCandela: number): LightCurve =>
  gamma =>
    peakCandela * (Math.max(0, Math.cos(radians(180 - gamma))) + 0.04)

export interface LightForm {
  name: string
  catalogue?: string
  curve: LightCurve
  watts: number
  cctK?: number
  /** Whether it differs about the vertical. */
  hasSides?: boolean
}

/** A luminaire's light as its maker gives it: IES LM-63-2002, absolute photometry. */
export function writeLightCurve({ name, catalogue = '', curve, watts, cctK = 2700, hasSides = false }: LightForm): string {
  const gammaDeg = steps(180, STEP_DEG)
  const cDeg = hasSides ? steps(360 - PLANE_STEP_DEG, PLANE_STEP_DEG) : [0]
  const web: CandelaWeb = {
    cDeg,
    gammaDeg,
    candela: Float64Array.from(cDeg.flatMap(c => gammaDeg.map(gamma => curve(gamma, c)))),
    lampLumens: null,
    watts,
    cctK,
    openingM: [OPENING_M, OPENING_M, 0],
    maker: 'Oddmere Lamps',
    name,
    catalogue,
    symmetry: hasSides ? 'bilateral' : 'rotational',
  }
  return writeIes(web)
}

const steps = (to: number, step: number): number[] => Array.from({ length: to / step + 1 }, (_, i) => i * step)
