import type { Vec3 } from '../../math/vec3'
import { type Light, lightSchema, type Sky, skySchema } from './scene'

/** Things of a scene as they are to begin with. */

export const beginSky = (name: string, of: Pick<Sky, 'item'> | Pick<Sky, 'clear'>): Sky =>
  skySchema.parse({ item: null, clear: null, ...of, name, background: 'shown' })

/** @param of its kind; of a luminaire its item too */
export function beginLight(name: string, position: Vec3, of: Pick<Light, 'kind'> & Partial<Pick<Light, 'item'>>): Light {
  const measures = {
    bulb: { lumens: 800, kelvin: 3000, sizeM: [0.06, 0.06] },
    panel: { lumens: 3500, kelvin: 4000, sizeM: [0.6, 0.6] },
    luminaire: {},
  }
  return lightSchema.parse({ name, position, ...measures[of.kind], ...of })
}
