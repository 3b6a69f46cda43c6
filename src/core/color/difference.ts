import { differenceCiede2000 } from 'culori'
import type { Vec3 } from '../math/vec3'
import { encodeSrgb } from './srgb'

const ciede2000 = differenceCiede2000()

/** CIEDE2000 (Sharma, Wu & Dalal 2005) between two linear Rec.709 colours. Unit: ΔE00. */
export function deltaE00(a: Vec3, b: Vec3): number {
  const toSrgb = (c: Vec3) => ({
    mode: 'rgb' as const,
    r: encodeSrgb(c[0]),
    g: encodeSrgb(c[1]),
    b: encodeSrgb(c[2]),
  })
  return ciede2000(toSrgb(a), toSrgb(b))
}
