/** Half of what a square of real numbers transforms to: the other half is its mirror image, turned to the conjugate. */
export interface HalfSpectrum {
  /** For each of `side` frequencies across, `side / 2 + 1` downwards, from 0 up: `across * (side / 2 + 1) + down`. */
  real: Float64Array
  imaginary: Float64Array
}

/**
 * Discrete Fourier transform, in both directions, of a square of `side` x `side` real numbers that lie row after row; `side` is a power of
 * two from 4 up. Two columns at a time go as one of complex numbers (Press et al., Numerical Recipes, 12.3), and every column at once:
 * what lies side by side is worked on side by side. Of real numbers that are as even as a power is, it is its own inverse but for `side²`.
 * Throws a RangeError for any other side.
 */
export function fourierOfRealSquare(values: Float64Array, side: number): HalfSpectrum {
  if (side < 4 || (side & (side - 1)) !== 0 || values.length !== side * side)
    throw new RangeError(`a Fourier transform wants a square of a power of two, got ${values.length} for ${side}`)
  const half = side / 2
  const left = new Float64Array(half * side)
  const right = new Float64Array(half * side)
  for (let row = 0; row < side; row++) {
    left.set(values.subarray(row * side, row * side + half), row * half)
    right.set(values.subarray(row * side + half, (row + 1) * side), row * half)
  }
  transformLines({ real: left, imaginary: right, n: side, apart: half, abreast: half })
  const lines = half + 1
  const real = new Float64Array(side * lines)
  const imaginary = new Float64Array(side * lines)
  for (let down = 0; down < lines; down++) {
    const row = down * half
    const mirrored = ((side - down) & (side - 1)) * half
    for (let column = 0; column < half; column++) {
      const [re, im] = [left[row + column], right[row + column]]
      const [reMirrored, imMirrored] = [left[mirrored + column], right[mirrored + column]]
      const to = column * lines + down
      real[to] = (re + reMirrored) / 2
      imaginary[to] = (im - imMirrored) / 2
      real[to + half * lines] = (im + imMirrored) / 2
      imaginary[to + half * lines] = (reMirrored - re) / 2
    }
  }
  transformLines({ real, imaginary, n: side, apart: lines, abreast: lines })
  return { real, imaginary }
}

/** Lines of `n` numbers, the numbers of a line `apart`, and `abreast` lines beside each other. */
interface Lines {
  real: Float64Array
  imaginary: Float64Array
  n: number
  apart: number
  abreast: number
}

/** In place, radix 2 (Cooley & Tukey 1965). */
function transformLines({ real, imaginary, n, apart, abreast }: Lines): void {
  for (let i = 1, j = 0; i < n; i++) {
    let bit = n >> 1
    for (; j & bit; bit >>= 1) j ^= bit
    j ^= bit
    if (i >= j) continue
    for (let line = 0, a = i * apart, b = j * apart; line < abreast; line++, a++, b++) {
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
      const im = -sines[(k * n) / size]
      for (let start = k; start < n; start += size) {
        let a = start * apart
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
