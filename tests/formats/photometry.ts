/** Writers of photometric files, for readers to be held against. */

export interface Curve {
  planesDeg: readonly number[]
  gammaDeg: readonly number[]
  /** In cd. */
  intensity: (cDeg: number, gammaDeg: number) => number
}

interface IesForm {
  /** Of all lamps together; −1 for absolute photometry. */
  lumens?: number
  year?: '1986' | '2002'
  tilt?: string
  multiplier?: number
  type?: number
}

export function writeIes(
  { planesDeg, gammaDeg, intensity }: Curve,
  { lumens = 1000, year = '2002', tilt = 'NONE', multiplier = 1, type = 1 }: IesForm = {},
): string {
  const head =
    year === '1986'
      ? ['An old report']
      : [
          'IESNA:LM-63-2002',
          '[TEST] 1',
          '[MANUFAC] Oddmere Lamps',
          '[LUMCAT] OL-7',
          '[LUMINAIRE] Harbour pendant',
          '[MORE] small',
          '[LAMP] LED 3000K',
        ]
  const values = planesDeg.flatMap(c => gammaDeg.map(g => (intensity(c, g) / multiplier).toFixed(4)))
  return [
    ...head,
    `TILT=${tilt}`,
    ...(tilt === 'INCLUDE' ? ['1', '2', '0 90', '1 1'] : []),
    `1 ${lumens} ${multiplier} ${gammaDeg.length} ${planesDeg.length} ${type} 2 -0.2 -0.2 0.05`,
    '1.0 1.0 12.5',
    gammaDeg.join(' '),
    planesDeg.join(' '),
    // As programs write it: a few values a line.
    ...Array.from({ length: Math.ceil(values.length / 8) }, (_, i) => values.slice(i * 8, i * 8 + 8).join(' ')),
  ].join('\r\n')
}

/** @param symmetry 0 none, 1 rotational, 2 about C0 to C180, 3 about C90 to C270, 4 both */
export function writeEulumdat({ planesDeg, gammaDeg, intensity }: Curve, symmetry: number, lumens = 2000): string {
  const stored =
    symmetry === 1
      ? planesDeg.slice(0, 1)
      : symmetry === 2
        ? planesDeg.filter(c => c <= 180)
        : symmetry === 3
          ? [...planesDeg.filter(c => c >= 270), ...planesDeg.filter(c => c <= 90)]
          : symmetry === 4
            ? planesDeg.filter(c => c <= 90)
            : planesDeg
  return [
    'Oddmere Lamps',
    '1',
    symmetry,
    planesDeg.length,
    360 / planesDeg.length,
    gammaDeg.length,
    gammaDeg[1] - gammaDeg[0],
    'report 1',
    'Harbour pendant',
    'OL-7',
    'ol7.ldt',
    '2026-11-01',
    '300',
    '300',
    '120',
    '200',
    '0',
    '50',
    '0',
    '0',
    '0',
    '100',
    '95',
    '1',
    '0',
    '1',
    '1',
    'LED',
    lumens,
    '3000 K',
    '1',
    '12,5',
    ...Array(10).fill('0.5'),
    ...planesDeg,
    ...gammaDeg,
    ...stored.flatMap(c => gammaDeg.map(g => ((intensity(c, g) * 1000) / lumens).toFixed(4))),
  ].join('\r\n')
}
