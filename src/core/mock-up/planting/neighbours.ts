/** A place on the ground, in metres. */
export interface Place {
  x: number
  z: number
  /** How thick it grows there, above 0 and up to 1. */
  thickness: number
}

/** Those within reach of each place, one list after the other. */
export interface Neighbours {
  /** Where the list of each begins; the last is where all end. */
  starts: Int32Array
  of: Int32Array
  /** In metres. */
  apartM: Float64Array
  /** The same where it grows as thick as can be: in thin growth what is far apart is near. */
  seenM: Float64Array
}

/** So few on the ground that a grid of them is no matter. */
const MOST_CELLS = 1 << 20

/** Of each place those within reach as they are seen. */
export function findNeighbours(places: readonly Place[], reachM: number): Neighbours {
  const { columns, columnOf, rowOf, cellStarts, order } = layOut(places, reachM)
  // As they lie in the grid: what is looked at together stands together.
  const xs = Float64Array.from(order, i => places[i].x)
  const zs = Float64Array.from(order, i => places[i].z)
  const thicknesses = Float64Array.from(order, i => places[i].thickness)
  const thinnest = thicknesses.reduce((least, t) => Math.min(least, t), 1)
  const starts = new Int32Array(places.length + 1)
  const found = { of: [] as number[], apartM: [] as number[], seenM: [] as number[] }
  places.forEach(({ x, z, thickness }, i) => {
    starts[i] = found.of.length
    // Nothing is seen within reach that is farther than this.
    const farM = reachM / Math.sqrt((thickness + thinnest) / 2)
    const [fromX, toX] = [columnOf(x - farM), columnOf(x + farM)]
    const toZ = rowOf(z + farM)
    for (let row = rowOf(z - farM); row <= toZ; row++) {
      // The cells of a row lie side by side.
      const until = cellStarts[row * columns + toX + 1]
      for (let k = cellStarts[row * columns + fromX]; k < until; k++) {
        const apart2 = (xs[k] - x) ** 2 + (zs[k] - z) ** 2
        const seen2 = (apart2 * (thicknesses[k] + thickness)) / 2
        if (seen2 >= reachM * reachM || order[k] === i) continue
        found.of.push(order[k])
        found.apartM.push(Math.sqrt(apart2))
        found.seenM.push(Math.sqrt(seen2))
      }
    }
  })
  starts[places.length] = found.of.length
  return {
    starts,
    of: Int32Array.from(found.of),
    apartM: Float64Array.from(found.apartM),
    seenM: Float64Array.from(found.seenM),
  }
}

/** The places by the cells of a grid, row by row. */
function layOut(places: readonly Place[], reachM: number) {
  const least = { x: Number.POSITIVE_INFINITY, z: Number.POSITIVE_INFINITY }
  const most = { x: Number.NEGATIVE_INFINITY, z: Number.NEGATIVE_INFINITY }
  for (const { x, z } of places) {
    least.x = Math.min(least.x, x)
    least.z = Math.min(least.z, z)
    most.x = Math.max(most.x, x)
    most.z = Math.max(most.z, z)
  }
  const [width, depth] = places.length > 0 ? [most.x - least.x, most.z - least.z] : [0, 0]
  const cellM = Math.max(reachM / 2, Math.sqrt((width * depth) / MOST_CELLS), Math.max(width, depth) / MOST_CELLS)
  const columns = Math.floor(width / cellM) + 1
  const rows = Math.floor(depth / cellM) + 1
  const within = (cell: number, count: number) => Math.max(0, Math.min(count - 1, Math.floor(cell)))
  const columnOf = (x: number) => within((x - least.x) / cellM, columns)
  const rowOf = (z: number) => within((z - least.z) / cellM, rows)
  const cells = Int32Array.from(places, ({ x, z }) => rowOf(z) * columns + columnOf(x))
  const cellStarts = new Int32Array(columns * rows + 1)
  for (const cell of cells) cellStarts[cell + 1]++
  for (let cell = 0; cell < columns * rows; cell++) cellStarts[cell + 1] += cellStarts[cell]
  const next = cellStarts.slice()
  const order = new Int32Array(places.length)
  cells.forEach((cell, i) => {
    order[next[cell]++] = i
  })
  return { columns, columnOf, rowOf, cellStarts, order }
}
