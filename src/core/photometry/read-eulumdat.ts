import { FileError } from '../findings/failure'
import { type CandelaWeb, completePlanes, type Symmetry } from './candela-web'
import { assertAscending } from './read-ies'

/** Lines of the head, lines of each set of lamps, lines after them. */
const HEAD = 26
const LAMP = 6
const RATIOS = 10
const MOST_ANGLES = 1000

/**
 * EULUMDAT, as European makers give it: intensities are stored for 1,000 lm of the lamps.
 * Source: A. Stockmar, "EULUMDAT, ein Leuchtendatenformat für den europäischen Beleuchtungsplaner", Licht '90.
 * @throws FileError `truncated` where lines are missing, `malformed` otherwise
 */
export function readEulumdat(text: string): CandelaWeb {
  const lines = text.split(/\r\n|\r|\n/).map(line => line.trim())
  const line = (number: number): string => {
    const found = lines[number - 1]
    if (found === undefined) throw new FileError('truncated', 'The photometric file ends before its last intensity.')
    return found
  }
  const number = (at: number): number => {
    const value = Number(line(at).replace(',', '.'))
    if (!Number.isFinite(value)) throw new FileError('malformed', `Line ${at} of the photometric file has no number.`)
    return value
  }
  const [symmetry, planes, gammas] = [number(3), number(4), number(6)]
  if (![planes, gammas].every(n => Number.isInteger(n) && n >= 1 && n <= MOST_ANGLES) || !(symmetry >= 0 && symmetry <= 4))
    throw new FileError('malformed', 'The photometric file does not say how many angles it has.')
  const sets = number(HEAD)
  if (!(Number.isInteger(sets) && sets >= 1 && sets <= 20))
    throw new FileError('malformed', 'The photometric file names no lamps.')
  // Further sets are other lamps for the same luminaire.
  const lamp = HEAD + 1
  const lumens = number(lamp + 2)
  const watts = number(lamp + 5)
  let at = HEAD + 1 + sets * LAMP + RATIOS
  const take = (count: number): number[] => Array.from({ length: count }, () => number(at++))
  const planesDeg = take(planes)
  const gammaDeg = take(gammas)
  assertAscending(gammaDeg)
  assertAscending(planesDeg)
  const stored = storedPlanes(symmetry, planesDeg)
  const rows = stored.map(() => Float64Array.from(take(gammas), v => (v * lumens) / 1000))
  // About the plane from 90° to 270° only this form of file repeats from 270° on.
  const { cDeg, candela, symmetry: found } = completePlanes(stored, rows, symmetry === 3 ? [c => 180 - c] : undefined)
  const [length, width, height] = [16, 17, 18].map(i => number(i) / 1000)
  return {
    gammaDeg,
    cDeg,
    candela,
    symmetry: NAMES[symmetry] ?? found,
    // A negative number of lamps says that the figures are those of the luminaire itself.
    lampLumens: number(lamp) < 0 ? null : lumens,
    watts: watts > 0 ? watts : null,
    cctK: readCct(line(lamp + 3)),
    openingM: [width || length, length, height],
    maker: line(1),
    name: line(9),
    catalogue: line(10),
  }
}

const NAMES: Record<number, Symmetry> = { 0: 'none', 1: 'rotational', 2: 'bilateral', 3: 'bilateral', 4: 'quadrant' }

/** The planes that have figures: one, half the circle from 0° or from 270°, a quarter, or all. */
function storedPlanes(symmetry: number, planes: readonly number[]): number[] {
  const within = (low: number, high: number) => planes.filter(c => c >= low && c <= high)
  switch (symmetry) {
    case 1:
      return planes.slice(0, 1)
    case 2:
      return within(0, 180)
    case 3:
      return [...planes.filter(c => c >= 270), ...within(0, 90)]
    case 4:
      return within(0, 90)
    default:
      return [...planes]
  }
}

const readCct = (text: string): number | null => {
  const found = Number(/\b(\d{4,5})\b/.exec(text)?.[1])
  return found >= 1000 && found <= 20_000 ? found : null
}
