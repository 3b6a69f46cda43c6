import { deltaE00 } from '../color/difference'
import { toHex } from '../color/srgb'
import type { Vec3 } from '../math/vec3'
import type { Change } from './compare-materials'

/** A light as a scene has it. */
export interface LightPrint {
  kind: 'point' | 'spot' | 'directional'
  /** Linear sRGB, 1 at most. */
  color: Vec3
  /** Candela, or lux of a directional one. */
  intensity: number
  /** Half the angle of its cone, radians; null without one. */
  coneRad: number | null
}

/** A share of the intensity and degrees of the cone, from which on two lights are not the same. */
const INTENSITY_STEP = 0.02
const CONE_STEP = 0.5
const COLOR_STEP = 1

/** What makes a light another one, from the other to this one. */
export function compareLights(own: LightPrint, other: LightPrint): Change[] {
  const changes: Change[] = []
  if (own.kind !== other.kind) changes.push({ what: 'kind', from: other.kind, to: own.kind })
  const brightest = Math.max(own.intensity, other.intensity)
  if (Math.abs(own.intensity - other.intensity) > brightest * INTENSITY_STEP)
    changes.push({ what: 'intensity', from: sayIntensity(other), to: sayIntensity(own) })
  const difference = deltaE00(own.color, other.color)
  if (difference > COLOR_STEP)
    changes.push({ what: 'colorOfTheLight', from: toHex(other.color), to: toHex(own.color), deltaE00: difference })
  if (own.coneRad !== null && other.coneRad !== null) {
    const [from, to] = [other.coneRad, own.coneRad].map(half => (half * 360) / Math.PI)
    if (Math.abs(from - to) > CONE_STEP) changes.push({ what: 'beam', from: `${Math.round(from)}°`, to: `${Math.round(to)}°` })
  }
  return changes
}

const sayIntensity = ({ intensity, kind }: LightPrint): string =>
  `${intensity < 10 ? Math.round(intensity * 100) / 100 : Math.round(intensity)} ${kind === 'directional' ? 'lx' : 'cd'}`
