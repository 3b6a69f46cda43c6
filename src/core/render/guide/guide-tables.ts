/** Parts of all directions that are told apart, across and down. */
export const [BINS_ACROSS, BINS_DOWN] = [32, 16]
export const BINS = BINS_ACROSS * BINS_DOWN

/** Numbers of a table: rows of bins cumulated, columns of each row cumulated, and one more for each bin. */
const ROWS = BINS_DOWN + 1
const COLUMNS = BINS_DOWN * (BINS_ACROSS + 1)
export const TABLE_NUMBERS = ROWS + COLUMNS + BINS

/** Writes the shares of the bins, which add up to one, into a table, and a number of each. */
export function writeTable(tables: Float64Array, table: number, shares: Float64Array, numberOf: (bin: number) => number): void {
  const at = table * TABLE_NUMBERS
  let sum = 0
  for (let row = 0; row < BINS_DOWN; row++) {
    const line = at + ROWS + row * (BINS_ACROSS + 1)
    let along = 0
    for (let column = 0; column < BINS_ACROSS; column++) {
      const bin = row * BINS_ACROSS + column
      along += shares[bin]
      tables[line + column + 1] = along
      tables[at + ROWS + COLUMNS + bin] = numberOf(bin)
    }
    for (let column = 1; column <= BINS_ACROSS; column++) tables[line + column] /= along || 1
    sum += along
    tables[at + row + 1] = sum
  }
  for (let row = 1; row <= BINS_DOWN; row++) tables[at + row] /= sum || 1
}

/** A bin drawn from a table, and where within it, 0..1 across and down. */
export interface DrawnBin {
  row: number
  column: number
  across: number
  down: number
}

export function drawBin(tables: Float64Array, table: number, u1: number, u2: number, drawn: DrawnBin): void {
  const at = table * TABLE_NUMBERS
  drawn.row = intervalOf(tables, at, BINS_DOWN, u1)
  drawn.down = placeIn(tables[at + drawn.row], tables[at + drawn.row + 1], u1)
  const line = at + ROWS + drawn.row * (BINS_ACROSS + 1)
  drawn.column = intervalOf(tables, line, BINS_ACROSS, u2)
  drawn.across = placeIn(tables[line + drawn.column], tables[line + drawn.column + 1], u2)
}

export const numberOfBin = (tables: Float64Array, table: number, bin: number): number =>
  tables[table * TABLE_NUMBERS + ROWS + COLUMNS + bin]

/** Largest i in 0..count−1 with cdf[base + i] <= u. */
export function intervalOf(cdf: Float64Array, base: number, count: number, u: number): number {
  let [low, high] = [0, count - 1]
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (cdf[base + middle] <= u) low = middle
    else high = middle - 1
  }
  return low
}

export const placeIn = (from: number, to: number, value: number): number =>
  to > from ? Math.min(1 - 1e-9, Math.max(0, (value - from) / (to - from))) : 0.5

/** Points of the unit square in an even spread (R2 sequence, Roberts 2018). */
export const evenly = (index: number): [number, number] => [
  (0.5 + index * 0.7548776662466927) % 1,
  (0.5 + index * 0.5698402909980532) % 1,
]
