import { createFinding, type Finding } from '../findings/finding'
import { angleAbove, type CandelaWeb, findPeak, integrateFlux } from './candela-web'
import { readEulumdat } from './read-eulumdat'
import { readIes } from './read-ies'

export interface PhotometryFacts {
  /** By integration over the sphere, in lm. */
  luminousFluxLm: number
  peakCandela: number
  /** Within half of the peak, and within a tenth of it, full angles. */
  beamAngleDeg: number
  fieldAngleDeg: number
  /** Angle of the peak from straight down. */
  peakGammaDeg: number
  /** Share of the flux that goes below the horizontal, 0..1. */
  lightDownShare: number
  lightSymmetry: CandelaWeb['symmetry']
  luminaireWatts?: number
  efficacyLmW?: number
  lampCctK?: number
}

/** A luminaire gives less than its lamps; more than this much more is a mistake, and less than that much of them too. */
const MOST_OF_LAMPS = 1.02
const LEAST_OF_LAMPS = 0.2
/** From here on a curve has corners. */
const COARSE_STEP_DEG = 10

export const isEulumdat = (path: string): boolean => /\.ldt$/i.test(path)

/** A candela web by the form that its name says. @throws FileError */
export const readPhotometry = (path: string, text: string): CandelaWeb => (isEulumdat(path) ? readEulumdat(text) : readIes(text))

export function analysePhotometry(web: CandelaWeb, path: string): { facts: PhotometryFacts; findings: Finding[] } {
  const flux = integrateFlux(web)
  const findings: Finding[] = []
  if (web.lampLumens !== null && (flux > web.lampLumens * MOST_OF_LAMPS || flux < web.lampLumens * LEAST_OF_LAMPS))
    findings.push(createFinding('fluxDisagrees', { fluxLm: flux, statedLm: web.lampLumens }, path))
  const { gammaDeg, cDeg } = web
  const [first, last] = [gammaDeg[0], gammaDeg[gammaDeg.length - 1]]
  const coversHalf = (first === 0 && last >= 90) || (first <= 90 && last === 180)
  const widest = Math.max(...gammaDeg.slice(1).map((g, i) => g - gammaDeg[i]), 0)
  if (!coversHalf || widest > COARSE_STEP_DEG || (cDeg.length === 2 && web.symmetry === 'none'))
    findings.push(
      createFinding('photometryCoarse', { firstDeg: first, lastDeg: last, stepDeg: widest, planes: cDeg.length }, path),
    )
  return {
    facts: {
      luminousFluxLm: flux,
      peakCandela: findPeak(web).candela,
      peakGammaDeg: findPeak(web).gammaDeg,
      lightDownShare: flux > 0 ? integrateFlux(web, 90) / flux : 0,
      beamAngleDeg: angleAbove(web, 0.5),
      fieldAngleDeg: angleAbove(web, 0.1),
      lightSymmetry: web.symmetry,
      ...(web.watts ? { luminaireWatts: web.watts, efficacyLmW: flux / web.watts } : {}),
      ...(web.cctK ? { lampCctK: web.cctK } : {}),
    },
    findings,
  }
}
