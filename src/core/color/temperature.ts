/** Correlated colour temperature by nearest point on the Planckian locus in CIE 1960 uv. */

/** Planckian locus in CIE 1960 (u, v), kelvin in 1000..15000 (Krystek 1985). */
export function planckianUv(kelvin: number): [number, number] {
  const t = kelvin
  const u = (0.860117757 + 1.54118254e-4 * t + 1.28641212e-7 * t * t) / (1 + 8.42420235e-4 * t + 7.08145163e-7 * t * t)
  const v = (0.317398726 + 4.22806245e-5 * t + 4.20481691e-8 * t * t) / (1 - 2.89741816e-5 * t + 1.61456053e-7 * t * t)
  return [u, v]
}

export interface ColorTemperature {
  /** Kelvin; null where the colour is too far from the locus (|Duv| > 0.05) or black. */
  kelvin: number | null
  /** Signed distance from the locus in CIE 1960 uv, positive above it (towards green). */
  duv: number
}

/** CCT and Duv of a linear Rec.709 colour. Values past 15000 K, where the locus crowds, are given as 15000 at most. */
export function computeColorTemperature(r: number, g: number, b: number): ColorTemperature {
  const x = 0.4123908 * r + 0.3575843 * g + 0.1804808 * b
  const y = 0.212639 * r + 0.7151687 * g + 0.0721923 * b
  const z = 0.0193308 * r + 0.1191948 * g + 0.9505322 * b
  const sum = x + 15 * y + 3 * z
  if (!(sum > 0)) return { kelvin: null, duv: 0 }
  const u = (4 * x) / sum
  const v = (6 * y) / sum
  // Search in reciprocal temperature, where the locus is close to evenly spaced.
  let low = 1e6 / 15000
  let high = 1e6 / 1000
  const distance = (mired: number) => {
    const [pu, pv] = planckianUv(1e6 / mired)
    return Math.hypot(u - pu, v - pv)
  }
  for (let i = 0; i < 60; i++) {
    const a = low + (high - low) / 3
    const c = high - (high - low) / 3
    if (distance(a) < distance(c)) high = c
    else low = a
  }
  const kelvin = 1e6 / ((low + high) / 2)
  const [, locusV] = planckianUv(kelvin)
  const duv = distance(1e6 / kelvin) * Math.sign(v - locusV)
  return { kelvin: Math.abs(duv) > 0.05 ? null : kelvin, duv }
}
