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

/** Written by `turnFour`. */
export let sineFour: v128 = f32x4.splat(0)
export let cosineFour: v128 = f32x4.splat(1)

// @ts-ignore: decorator
@inline
function step(base: f32, x: v128, rest: v128): v128 {
  return f32x4.add(f32x4.splat(base), f32x4.mul(x, rest))
}

/** Sines and cosines of four numbers of turns within −0.5..0.5, to about two parts in ten million. */
export function turnFour(turns: v128): void {
  const quarters = f32x4.mul(turns, f32x4.splat(4))
  const nearest = f32x4.nearest(quarters)
  const a = f32x4.mul(f32x4.sub(quarters, nearest), f32x4.splat(1.57079633))
  const a2 = f32x4.mul(a, a)
  const s = f32x4.mul(a, step(1, a2, step(-1.0 / 6, a2, step(1.0 / 120, a2, step(-1.0 / 5040, a2, f32x4.splat(1.0 / 362880))))))
  const c = step(1, a2, step(-0.5, a2, step(1.0 / 24, a2, step(-1.0 / 720, a2, f32x4.splat(1.0 / 40320)))))
  const quadrant = i32x4.trunc_sat_f32x4_s(nearest)
  const isSwapped = i32x4.neg(v128.and(quadrant, i32x4.splat(1)))
  const sign = i32x4.shl(v128.and(quadrant, i32x4.splat(2)), 30)
  const cosineSign = i32x4.shl(v128.and(i32x4.add(quadrant, i32x4.splat(1)), i32x4.splat(2)), 30)
  sineFour = v128.xor(v128.bitselect(c, s, isSwapped), sign)
  cosineFour = v128.xor(v128.bitselect(s, c, isSwapped), cosineSign)
}

/** Elevations of four directions by their sine, and cosine from 0 up. */
export function elevationFour(sine: v128, cosine: v128): v128 {
  const size = f32x4.abs(sine)
  const high = f32x4.pmax(size, cosine)
  let t = f32x4.div(f32x4.pmin(size, cosine), high)
  const isSteep = f32x4.gt(t, f32x4.splat(0.41421356))
  t = v128.bitselect(f32x4.div(f32x4.sub(t, f32x4.splat(1)), f32x4.add(t, f32x4.splat(1))), t, isSteep)
  const t2 = f32x4.mul(t, t)
  let angle = f32x4.mul(
    t,
    step(1, t2, step(-1.0 / 3, t2, step(1.0 / 5, t2, step(-1.0 / 7, t2, step(1.0 / 9, t2, f32x4.splat(-1.0 / 11)))))),
  )
  angle = f32x4.add(angle, v128.and(isSteep, f32x4.splat(0.785398163)))
  const isUpright = f32x4.gt(size, cosine)
  angle = v128.bitselect(f32x4.sub(f32x4.splat(1.57079633), angle), angle, isUpright)
  return v128.xor(angle, v128.and(sine, i32x4.splat(0x80000000)))
}
