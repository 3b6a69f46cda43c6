/**
 * Discrete Fourier transform of complex numbers in place, radix 2 (Cooley & Tukey 1965). The inverse is not divided by the length.
 * @param real and @param imaginary as long as each other, a power of two
 * Throws a RangeError for any other length.
 */
export function fourierInPlace(real: Float64Array, imaginary: Float64Array, isInverse = false): void {
  const n = real.length
  if (n === 0 || (n & (n - 1)) !== 0 || imaginary.length !== n)
    throw new RangeError(`a Fourier transform wants two arrays of a power of two, got ${n} and ${imaginary.length}`)
  transformLines({ real, imaginary, n, first: 0, apart: 1, abreast: 1 }, isInverse)
}

/** The same in both directions of a square of `side` x `side`, rows one after the other. */
export function fourierSquareInPlace(real: Float64Array, imaginary: Float64Array, side: number, isInverse = false): void {
  for (let row = 0; row < side; row++)
    transformLines({ real, imaginary, n: side, first: row * side, apart: 1, abreast: 1 }, isInverse)
  // Every column at once: what lies side by side is worked on side by side.
  transformLines({ real, imaginary, n: side, first: 0, apart: side, abreast: side }, isInverse)
}

/** Lines of `n` numbers that begin at `first`, the numbers of a line `apart`, and `abreast` lines beside each other. */
interface Lines {
  real: Float64Array
  imaginary: Float64Array
  n: number
  first: number
  apart: number
  abreast: number
}

function transformLines({ real, imaginary, n, first, apart, abreast }: Lines, isInverse: boolean): void {
  for (let i = 1, j = 0; i < n; i++) {
    let bit = n >> 1
    for (; j & bit; bit >>= 1) j ^= bit
    j ^= bit
    if (i >= j) continue
    for (let line = 0, a = first + i * apart, b = first + j * apart; line < abreast; line++, a++, b++) {
      const [re, im] = [real[a], imaginary[a]]
      real[a] = real[b]
      imaginary[a] = imaginary[b]
      real[b] = re
      imaginary[b] = im
    }
  }
  const { cosines, sines } = rootsOf(n)
  for (let size = 2; size <= n; size <<= 1)
    for (let k = 0; k < size / 2; k++) {
      const re = cosines[(k * n) / size]
      const im = isInverse ? sines[(k * n) / size] : -sines[(k * n) / size]
      for (let start = k; start < n; start += size) {
        let a = first + start * apart
        let b = a + (size / 2) * apart
        for (let line = 0; line < abreast; line++, a++, b++) {
          const tRe = real[b] * re - imaginary[b] * im
          const tIm = real[b] * im + imaginary[b] * re
          real[b] = real[a] - tRe
          imaginary[b] = imaginary[a] - tIm
          real[a] += tRe
          imaginary[a] += tIm
        }
      }
    }
}

const roots = new Map<number, { cosines: Float64Array; sines: Float64Array }>()

/** The first half of the roots of one, made once for each length. */
function rootsOf(n: number): { cosines: Float64Array; sines: Float64Array } {
  let made = roots.get(n)
  if (!made) {
    const angles = Float64Array.from({ length: n / 2 }, (_, k) => (2 * Math.PI * k) / n)
    made = { cosines: angles.map(Math.cos), sines: angles.map(Math.sin) }
    roots.set(n, made)
  }
  return made
}
