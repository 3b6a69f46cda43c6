/** One row of an equirectangular map, as the gauges see it. */
export interface MapRow {
  /** Row from the top. */
  y: number
  /** Solid angle of each of its pixels, steradians. */
  solidAngle: number
  /** Linear RGB as delivered. */
  raw: Float32Array
  /** The same with 0 for what light cannot be; the same array where there is nothing of the kind. */
  rgb: Float32Array
  /** Luminance of `rgb`, and the highest of it. */
  light: Float32Array
  peak: number
}

/** Gathers one thing while the rows of a map pass, from the top to the bottom; what it found is read from it afterwards. */
export interface RowGauge {
  add(row: MapRow): void
}
