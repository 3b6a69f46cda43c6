/** Angles to about one part in a hundred million, several times as fast as to the last bit. */

/** Written by `turnOf`. */
export let sine: f64 = 0
export let cosine: f64 = 1

/** Sine and cosine of so many whole turns. */
export function turnOf(turns: f64): void {
  const quarters = turns * 4
  const nearest = Math.floor(quarters + 0.5)
  const a = (quarters - nearest) * (Math.PI / 2)
  const a2 = a * a
  const s = a * (1 + a2 * (-1.0 / 6 + a2 * (1.0 / 120 + a2 * (-1.0 / 5040 + a2 * (1.0 / 362880 - a2 / 39916800)))))
  const c = 1 + a2 * (-0.5 + a2 * (1.0 / 24 + a2 * (-1.0 / 720 + a2 * (1.0 / 40320 - a2 / 3628800))))
  const quadrant = (<i32>nearest) & 3
  const swapped = (quadrant & 1) != 0
  sine = (swapped ? c : s) * (quadrant & 2 ? -1 : 1)
  cosine = (swapped ? s : c) * (quadrant == 1 || quadrant == 2 ? -1 : 1)
}

/** Arc tangent of y / x in −π..π. */
export function angleOf(y: f64, x: f64): f64 {
  const ax = Math.abs(x)
  const ay = Math.abs(y)
  const high = Math.max(ax, ay)
  if (!(high > 0)) return 0
  let t = Math.min(ax, ay) / high
  let base: f64 = 0
  if (t > 0.4142135623730951) {
    base = Math.PI / 4
    t = (t - 1) / (t + 1)
  }
  const t2 = t * t
  let angle =
    base +
    t *
      (1 +
        t2 *
          (-1.0 / 3 +
            t2 * (1.0 / 5 + t2 * (-1.0 / 7 + t2 * (1.0 / 9 + t2 * (-1.0 / 11 + t2 * (1.0 / 13 + t2 * (-1.0 / 15 + t2 / 17))))))))
  if (ay > ax) angle = Math.PI / 2 - angle
  if (x < 0) angle = Math.PI - angle
  return y < 0 ? -angle : angle
}
