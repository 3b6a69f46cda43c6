/** Mip levels of 8-bit pictures, each half as large as the one before, to the byte as core/image/reduce.ts makes them. */

/**
 * Writes the next level of one. Odd sizes drop their last row or column; a side of one pixel stays.
 * @param channels 1 to 4
 * @param light 256 u32, linear light of each code in whole steps; 0 where codes are averaged as they are
 * @param code u8 for each sum of four of them
 */
export function halve(from: usize, width: i32, height: i32, channels: i32, to: usize, light: usize, code: usize): void {
  const halfWidth = max<i32>(1, width >> 1)
  const halfHeight = max<i32>(1, height >> 1)
  const row = <usize>(width * channels)
  const stepX: usize = width > 1 ? channels : 0
  const stepY: usize = height > 1 ? row : 0
  const inLight: i32 = light != 0 ? min<i32>(3, channels) : 0
  for (let y = 0; y < halfHeight; y++) {
    let at = from + <usize>(y << 1) * row
    let x = 0
    if (inLight == 0 && channels == 1 && width > 1) {
      // Sixteen of either row at a time.
      for (; x + 8 <= halfWidth; x += 8, at += 16, to += 8) {
        const sum = i16x8.add(i16x8.extadd_pairwise_i8x16_u(v128.load(at)), i16x8.extadd_pairwise_i8x16_u(v128.load(at + stepY)))
        const mean = i16x8.shr_u(i16x8.add(sum, i16x8.splat(2)), 2)
        v128.store64_lane(to, i8x16.narrow_i16x8_u(mean, mean), 0)
      }
    } else if (inLight == 0 && channels == 3 && width > 1) {
      // Two of twelve bytes; those read and written beyond are of this row as well.
      for (; x + 3 <= halfWidth; x += 2, at += 12, to += 6) {
        const sum = i16x8.add(pairsOfThree(v128.load(at)), pairsOfThree(v128.load(at + stepY)))
        const mean = i16x8.shr_u(i16x8.add(sum, i16x8.splat(2)), 2)
        v128.store64_lane(to, i8x16.narrow_i16x8_u(mean, mean), 0)
      }
    } else if (inLight == 0 && channels == 4 && width > 1) {
      for (; x + 2 <= halfWidth; x += 2, at += 16, to += 8) {
        const a = evenAndOdd(v128.load(at))
        const b = evenAndOdd(v128.load(at + stepY))
        const mean = i16x8.shr_u(i16x8.add(i16x8.add(a, b), i16x8.splat(2)), 2)
        v128.store64_lane(to, i8x16.narrow_i16x8_u(mean, mean), 0)
      }
    }
    for (; x < halfWidth; x++, at += stepX << 1)
      for (let c = 0; c < channels; c++, to++) {
        const p = at + <usize>c
        if (c < inLight) store<u8>(to, load<u8>(code + lightAt(light, p) + lightAt(light, p + stepX) + lightAt(light, p + stepY) + lightAt(light, p + stepX + stepY)))
        else store<u8>(to, (<u32>load<u8>(p) + <u32>load<u8>(p + stepX) + <u32>load<u8>(p + stepY) + <u32>load<u8>(p + stepX + stepY) + 2) >> 2)
      }
  }
}

/** Sums of the first and the second pixel of three channels, and of the third and the fourth, as u16. */
// @ts-ignore: decorator
@inline
function pairsOfThree(four: v128): v128 {
  const zero = i8x16.splat(0)
  const even = v128.shuffle<u8>(four, zero, 0, 16, 1, 16, 2, 16, 6, 16, 7, 16, 8, 16, 16, 16, 16, 16)
  const odd = v128.shuffle<u8>(four, zero, 3, 16, 4, 16, 5, 16, 9, 16, 10, 16, 11, 16, 16, 16, 16, 16)
  return i16x8.add(even, odd)
}

/** Sums of the first and the second pixel of four channels, and of the third and the fourth, as u16. */
// @ts-ignore: decorator
@inline
function evenAndOdd(four: v128): v128 {
  const low = i16x8.extend_low_i8x16_u(four)
  const high = i16x8.extend_high_i8x16_u(four)
  return i16x8.add(v128.shuffle<i64>(low, high, 0, 2), v128.shuffle<i64>(low, high, 1, 3))
}

// @ts-ignore: decorator
@inline
function lightAt(light: usize, at: usize): usize {
  return <usize>load<u32>(light + ((<usize>load<u8>(at)) << 2))
}
