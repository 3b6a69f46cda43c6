import { FileError } from '../findings/failure'
import { type CandelaWeb, completePlanes } from './candela-web'

const MOST_ANGLES = 10_000
const FEET_M = 0.3048

/**
 * IES LM-63 of any year from 1986 to 2019, type C photometry.
 * Source: ANSI/IES LM-63-19, "Approved Method: IES Standard File Format for the Electronic Transfer of Photometric Data".
 * @throws FileError `truncated` where figures are missing, `unsupported` for type A and B photometry, `malformed` otherwise
 */
export function readIes(text: string): CandelaWeb {
  const lines = text.split(/\r\n|\r|\n/)
  const tilt = lines.findIndex(line => /^\s*TILT\s*=/i.test(line))
  if (tilt < 0) throw new FileError('malformed', 'The photometric file has no line that says how its lamp tilts (TILT=).')
  const keywords = readKeywords(lines.slice(0, tilt))
  const words = lines
    .slice(tilt + 1)
    .join(' ')
    .split(/[\s,]+/)
    .filter(Boolean)
  let next = 0
  const take = (): number => {
    if (next >= words.length) throw new FileError('truncated', 'The photometric file ends before its last candela value.')
    const value = Number(words[next++])
    if (!Number.isFinite(value))
      throw new FileError('malformed', `The photometric file has ${words[next - 1].slice(0, 20)} where a number belongs.`)
    return value
  }
  const takeMany = (count: number): number[] => Array.from({ length: count }, take)
  if (/=\s*INCLUDE/i.test(lines[tilt])) {
    take()
    const pairs = readCount(take(), 'tilt angles')
    takeMany(pairs * 2)
  }
  const lamps = take()
  const lumensOfLamp = take()
  const multiplier = take()
  const gammas = readCount(take(), 'vertical angles')
  const planes = readCount(take(), 'horizontal angles')
  const type = take()
  const units = take()
  const opening = takeMany(3)
  const [ballast, , watts] = takeMany(3)
  if (type !== 1)
    throw new FileError(
      'unsupported',
      'Its photometry is of type A or B, which lamps outside of roads and stages rarely have; ask for type C.',
    )
  const gammaDeg = takeMany(gammas)
  const planesDeg = takeMany(planes)
  assertAscending(gammaDeg)
  assertAscending(planesDeg)
  const factor = multiplier * ballast
  const rows = planesDeg.map(() => Float64Array.from(takeMany(gammas), v => v * factor))
  const metres = units === 1 ? FEET_M : 1
  return {
    gammaDeg,
    ...completePlanes(planesDeg, rows),
    lampLumens: lumensOfLamp < 0 ? null : lumensOfLamp * Math.max(1, lamps),
    watts: watts > 0 ? watts : null,
    cctK: readCct(keywords),
    // Negative sides say that the opening is round.
    openingM: opening.map(v => Math.abs(v) * metres) as [number, number, number],
    maker: keywords.MANUFAC ?? '',
    name: keywords.LUMINAIRE ?? '',
    catalogue: keywords.LUMCAT ?? '',
  }
}

function readCount(value: number, what: string): number {
  if (!Number.isInteger(value) || value < 1 || value > MOST_ANGLES)
    throw new FileError('malformed', `The photometric file says that it has ${value} ${what}.`)
  return value
}

export function assertAscending(angles: readonly number[]): void {
  if (angles.some((a, i) => i > 0 && a <= angles[i - 1]))
    throw new FileError('malformed', 'The angles of the photometric file do not ascend.')
}

/** [KEYWORD] value, with [MORE] for what goes on in the next line; before 1991 there were none. */
function readKeywords(lines: readonly string[]): Record<string, string> {
  const found: Record<string, string> = {}
  let last = ''
  for (const line of lines) {
    const [, keyword, value] = /^\s*\[_?([A-Z_]+)\]\s*(.*)$/i.exec(line) ?? []
    if (keyword === undefined) continue
    if (keyword.toUpperCase() === 'MORE') found[last] = `${found[last] ?? ''} ${value.trim()}`.trim()
    else {
      last = keyword.toUpperCase()
      found[last] = value.trim()
    }
  }
  return found
}

/** "3000 K" in what is said of the lamp. */
const readCct = (keywords: Record<string, string>): number | null => {
  const text = [keywords.COLORTEMP, keywords.CCT, keywords.LAMP, keywords.LUMINAIRE].filter(Boolean).join(' ')
  const found = Number(/\b(\d{4,5})\s*K\b/i.exec(text)?.[1] ?? Number(keywords.CCT ?? keywords.COLORTEMP))
  return found >= 1000 && found <= 20_000 ? found : null
}
