import type { Vec3 } from '../math/vec3'
import { beamOf, lightColor } from '../mock-up/light/lamps'
import type { Light } from '../mock-up/scene/scene'
import type { CandelaWeb } from '../photometry/candela-web'
import type { LightPrint } from './compare-lights'

/** A light as scenes have it, which know points and cones: what a mock-up is exported with. @param web of a luminaire of the library */
export function printLight(light: Pick<Light, 'kind' | 'lumens' | 'share' | 'kelvin'>, web: CandelaWeb | null): LightPrint {
  const { coneRad, candela } = beamOf(light, web)
  const color = lightColor(light, web)
  // A colour of the standard has 1 at most.
  const peak = Math.max(...color)
  return {
    kind: coneRad === null ? 'point' : 'spot',
    color: color.map(v => v / peak) as Vec3,
    intensity: candela * peak,
    coneRad,
  }
}

/** A luminaire of the library as it comes, not dimmed and in its own colour. */
export const printLuminaire = (web: CandelaWeb): LightPrint =>
  printLight({ kind: 'luminaire', lumens: null, share: 1, kelvin: null }, web)
