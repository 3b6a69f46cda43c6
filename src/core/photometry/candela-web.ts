/**
 * Luminous intensity of a luminaire by direction, on type C angles: C about the vertical, 0 to 360°, gamma from straight down (0°) to
 * straight up (180°).
 */
export interface CandelaWeb {
  /** Planes, ascending, all the way round, 0° among them and 360° not. */
  cDeg: number[]
  /** Ascending; what lies outside them is dark. */
  gammaDeg: number[]
  /** In cd, by plane and then by gamma. */
  candela: Float64Array
  /** As the file states it: of the lamps together; null where it is measured of the whole luminaire (absolute photometry). */
  lampLumens: number | null
  watts: number | null
  /** Colour temperature, where it is stated. */
  cctK: number | null
  /** Width, length and height of the luminous opening in metres; 0 for a point. */
  openingM: [number, number, number]
  maker: string
  name: string
  catalogue: string
  /** How the file says it repeats about the vertical. */
  symmetry: Symmetry
}

export type Symmetry = 'rotational' | 'quadrant' | 'bilateral' | 'none'

const at = ({ gammaDeg, candela }: CandelaWeb, c: number, g: number): number => candela[c * gammaDeg.length + g]

/** Index of the interval that holds a value and how far into it the value is; the list ascends. */
function locate(list: readonly number[], value: number): [number, number] {
  let i = 0
  while (i + 2 < list.length && list[i + 1] <= value) i++
  const span = list[i + 1] - list[i]
  return [i, list.length < 2 || span <= 0 ? 0 : Math.min(1, Math.max(0, (value - list[i]) / span))]
}

/** Intensity in cd towards a direction, bilinear between the angles that are given, 0 outside of them. */
export function intensityAt(web: CandelaWeb, cDeg: number, gammaDeg: number): number {
  const { cDeg: planes, gammaDeg: gammas } = web
  if (gammaDeg < gammas[0] - 1e-9 || gammaDeg > gammas[gammas.length - 1] + 1e-9) return 0
  const [g, fg] = locate(gammas, gammaDeg)
  const along = (plane: number) => {
    const low = at(web, plane, g)
    return fg === 0 ? low : low * (1 - fg) + at(web, plane, g + 1) * fg
  }
  if (planes.length === 1) return along(0)
  const turned = ((cDeg % 360) + 360) % 360
  const [c, fc] = locate([...planes, planes[0] + 360], turned)
  const next = (c + 1) % planes.length
  return along(c) * (1 - fc) + along(next) * fc
}

/**
 * Luminous flux in lm: intensity times solid angle, between planes and angles by the trapezoid in C and exact in the solid angle of each
 * step of gamma.
 * Source: IES LM-79, zonal lumens; CIE 121.
 * @param uptoDeg gamma to which it is summed, by whole steps of the angles that are given
 */
export function integrateFlux(web: CandelaWeb, uptoDeg = 180): number {
  const { cDeg, gammaDeg } = web
  const closed = [...cDeg, cDeg[0] + 360]
  let flux = 0
  for (let g = 0; g + 1 < gammaDeg.length && gammaDeg[g + 1] <= uptoDeg; g++) {
    const zone = Math.cos(toRadians(gammaDeg[g])) - Math.cos(toRadians(gammaDeg[g + 1]))
    for (let c = 0; c < cDeg.length; c++) {
      const next = (c + 1) % cDeg.length
      const mean = (at(web, c, g) + at(web, c, g + 1) + at(web, next, g) + at(web, next, g + 1)) / 4
      flux += mean * zone * toRadians(closed[c + 1] - closed[c])
    }
  }
  return flux
}

const toRadians = (deg: number): number => (deg * Math.PI) / 180

/** The largest intensity, and where it is. */
export function findPeak(web: CandelaWeb): { candela: number; cDeg: number; gammaDeg: number } {
  let best = 0
  for (let i = 1; i < web.candela.length; i++) if (web.candela[i] > web.candela[best]) best = i
  const count = web.gammaDeg.length
  return { candela: web.candela[best], cDeg: web.cDeg[Math.floor(best / count)], gammaDeg: web.gammaDeg[best % count] }
}

/**
 * Full angle in degrees within which the intensity stays above a share of the peak, in the plane of the peak and the one opposite, between
 * angles by straight lines. One half gives the beam angle, a tenth the field angle.
 * Source: CIE S 017 (ILV), 17-27-059; ANSI/IES LS-1-22.
 */
export function angleAbove(web: CandelaWeb, share: number): number {
  const peak = findPeak(web)
  if (!(peak.candela > 0)) return 0
  const limit = peak.candela * share
  // From the peak down to the axis and up on the other side, and away from the axis on its own.
  const along = (angle: number) => (angle >= 0 ? intensityAt(web, peak.cDeg, angle) : intensityAt(web, peak.cDeg + 180, -angle))
  const reach = (step: number): number => {
    for (let angle = peak.gammaDeg + step, before = peak.candela; Math.abs(angle) <= 180; angle += step) {
      const here = along(angle)
      if (here < limit) return angle - step * ((limit - here) / Math.max(before - here, 1e-12))
      before = here
    }
    return Math.sign(step) * 180
  }
  return Math.min(360, reach(STEP_DEG) - reach(-STEP_DEG))
}
const STEP_DEG = 0.25

/** The intensity of one plane and the one opposite, for a curve: angle from straight down, negative on the far side. */
export function readPlane(web: CandelaWeb, cDeg: number, stepDeg = 2.5): { angleDeg: number; candela: number }[] {
  const points: { angleDeg: number; candela: number }[] = []
  for (let angle = -180; angle <= 180; angle += stepDeg)
    points.push({ angleDeg: angle, candela: intensityAt(web, angle < 0 ? cDeg + 180 : cDeg, Math.abs(angle)) })
  return points
}

/**
 * Planes that were measured over a part of the circle, continued round it: as the angles themselves say it, or by the mirrors that are given.
 */
export function completePlanes(
  planes: readonly number[],
  rows: readonly Float64Array[],
  mirrors?: readonly ((c: number) => number)[],
): Pick<CandelaWeb, 'cDeg' | 'candela' | 'symmetry'> {
  const [symmetry, usual] = symmetryOf(planes)
  const list = planes.map((c, i) => ({ c, row: rows[i] }))
  for (const to of mirrors ?? usual) list.push(...list.map(({ c, row }) => ({ c: to(c), row })))
  const unique = new Map<number, Float64Array>()
  // What was measured stands before what was mirrored.
  for (const { c, row } of list) {
    const turned = ((c % 360) + 360) % 360
    if (!unique.has(turned)) unique.set(turned, row)
  }
  const sorted = [...unique].sort((a, b) => a[0] - b[0])
  return {
    cDeg: sorted.map(([c]) => c),
    candela: Float64Array.from(sorted.flatMap(([, row]) => [...row])),
    symmetry: mirrors ? 'bilateral' : symmetry,
  }
}

function symmetryOf(planes: readonly number[]): [Symmetry, ((c: number) => number)[]] {
  const [first, last] = [planes[0], planes[planes.length - 1]]
  if (planes.length === 1) return ['rotational', []]
  if (first === 0 && last === 90) return ['quadrant', [c => 180 - c, c => 360 - c]]
  if (first === 0 && last === 180) return ['bilateral', [c => 360 - c]]
  if (first === 90 && last === 270) return ['bilateral', [c => 540 - c]]
  return ['none', []]
}
