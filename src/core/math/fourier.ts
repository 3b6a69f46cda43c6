/**
 * Discrete Fourier transform of complex numbers in place, radix 2 (Cooley & Tukey 1965). The inverse is not divided by the length.
 * @param real and @param imaginary as long as each other, a power of two
 * Throws a RangeError for any other length.
 */
export function fourierInPlace(real: Float64Array, imaginary: Float64Array, isInverse = false): void {
  const n = real.length
  if (n === 0 || (n & (n - 1)) !== 0 || imaginary.length !== n)
    throw new RangeError(`a Fourier transform wants two arrays of a power of two, got ${n} and ${imaginary.length}`)
  for (let i = 1, j = 0; i < n; i++) {
    let bit = n >> 1
    for (; j & bit; bit >>= 1) j ^= bit
    j ^= bit
    if (i < j) {
      ;[real[i], real[j]] = [real[j], real[i]]
      ;[imaginary[i], imaginary[j]] = [imaginary[j], imaginary[i]]
    }
  }
  for (let size = 2; size <= n; size <<= 1) {
    const angle = ((isInverse ? 2 : -2) * Math.PI) / size
    const [stepRe, stepIm] = [Math.cos(angle), Math.sin(angle)]
    for (let start = 0; start < n; start += size) {
      let [re, im] = [1, 0]
      for (let k = start; k < start + size / 2; k++) {
        const other = k + size / 2
        const tRe = real[other] * re - imaginary[other] * im
        const tIm = real[other] * im + imaginary[other] * re
        real[other] = real[k] - tRe
        imaginary[other] = imaginary[k] - tIm
        real[k] += tRe
        imaginary[k] += tIm
        ;[re, im] = [re * stepRe - im * stepIm, re * stepIm + im * stepRe]
      }
    }
  }
}

/** The same in both directions of a square of `side` x `side`, rows one after the other. */
export function fourierSquareInPlace(real: Float64Array, imaginary: Float64Array, side: number, isInverse = false): void {
  const [columnRe, columnIm] = [new Float64Array(side), new Float64Array(side)]
  for (let row = 0; row < side; row++)
    fourierInPlace(real.subarray(row * side, (row + 1) * side), imaginary.subarray(row * side, (row + 1) * side), isInverse)
  for (let column = 0; column < side; column++) {
    for (let row = 0; row < side; row++) {
      columnRe[row] = real[row * side + column]
      columnIm[row] = imaginary[row * side + column]
    }
    fourierInPlace(columnRe, columnIm, isInverse)
    for (let row = 0; row < side; row++) {
      real[row * side + column] = columnRe[row]
      imaginary[row * side + column] = columnIm[row]
    }
  }
}
