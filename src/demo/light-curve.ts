/** What a lamp throws towards an angle from straight down, in cd; the same all round. */
export type LightCurve = (gammaDeg: number) => number

const STEP_DEG = 2.5
const radians = (deg: number): number => (deg * Math.PI) / 180

/** Light that leaves a shade's mouth: full to its edge, and out within some degrees of it. */
export const throughShade =
  (peakCandela: number, edgeDeg: number, softDeg: number): LightCurve =>
  gamma =>
    peakCandela * Math.cos(radians(Math.min(gamma, 89))) * Math.min(1, Math.max(0, (edgeDeg + softDeg - gamma) / (2 * softDeg)))

/** A lamp's light curve as a maker gives it, IES LM-63-2002, absolute photometry. */
export function writeLightCurve(name: string, curve: LightCurve, watts: number): string {
  const gammas = Array.from({ length: 180 / STEP_DEG + 1 }, (_, i) => i * STEP_DEG)
  const rows = gammas.map(gamma => curve(gamma).toFixed(2))
  return [
    'IESNA:LM-63-2002',
    '[TEST] Oddmere 2026-114',
    '[MANUFAC] Oddmere Lamps',
    `[LUMINAIRE] ${name}`,
    '[LAMP] LED 2700K',
    'TILT=NONE',
    `1 -1 1 ${gammas.length} 1 1 2 -0.2 -0.2 0`,
    `1 1 ${watts}`,
    gammas.join(' '),
    '0',
    ...Array.from({ length: Math.ceil(rows.length / 10) }, (_, i) => rows.slice(i * 10, i * 10 + 10).join(' ')),
    '',
  ].join('\r\n')
}
