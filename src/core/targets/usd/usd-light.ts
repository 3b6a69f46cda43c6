import type { ModelCamera, ModelLight } from '../../geometry/model'
import { toDegrees, toRadians } from '../../math/angles'
import type { Vec3 } from '../../math/vec3'
import { type FileSpace, METRES_A_UNIT } from '../space'
import { shortFloat } from '../text-chunks'
import { shortTuple } from './usd-text'

/** A kind of light of OpenUSD (UsdLux), as far as it is read: what it shines from. */
export const USD_LIGHTS = ['SphereLight', 'DiskLight', 'RectLight', 'DistantLight'] as const
export type UsdLightType = (typeof USD_LIGHTS)[number]

/** What an attribute of a prim holds; undefined where nothing is said. */
export type ReadAttribute = (name: string) => unknown

/** What a light of OpenUSD gives, before it is known how large its prim stands in the world. */
export interface UsdLight extends Pick<ModelLight, 'kind' | 'intensity' | 'coneRad'> {
  /** As said, not yet tinted by its temperature. */
  color: Vec3
  kelvin: number | null
  /** Whether it gives more where it stands larger: its luminance is what is said, not its power. */
  growsWithArea: boolean
}

/** As the schema has them where nothing is said (UsdLux, OpenUSD 24). */
const RADIUS = 0.5
const SIDE = 1
const SUN_DEG = 0.53
const KELVIN = 6500

/**
 * Strongest intensity of a light of OpenUSD, cd for 1 unit of the stage as 1 m, lx of a distant one: luminance times the area that is seen, and
 * of a normalised one the luminance is what is said over its surface (UsdLux, "Light equation").
 */
export function readUsdLight(type: UsdLightType, read: ReadAttribute): UsdLight {
  const input = (name: string): unknown => read(`inputs:${name}`) ?? read(name)
  const number = (name: string, otherwise: number): number => {
    const value = input(name)
    return typeof value === 'number' && Number.isFinite(value) ? value : otherwise
  }
  const said = number('intensity', type === 'DistantLight' ? 50_000 : 1) * 2 ** number('exposure', 0)
  const isNormalized = isOn(input('normalize'))
  const color = input('color')
  const about = {
    color: (Array.isArray(color) && color.length === 3 ? color.map(Number) : [1, 1, 1]) as Vec3,
    kelvin: isOn(input('enableColorTemperature')) ? number('colorTemperature', KELVIN) : null,
    growsWithArea: !isNormalized && type !== 'DistantLight',
  }
  const angle = number('shaping:cone:angle', 90)
  const cone = angle > 0 && angle < 90 ? toRadians(angle) : null
  switch (type) {
    case 'SphereLight': {
      const seen = Math.PI * number('radius', RADIUS) ** 2
      const intensity = isNormalized ? said / 4 : said * seen
      return { ...about, kind: cone === null ? 'point' : 'spot', coneRad: cone, intensity }
    }
    case 'DiskLight':
    case 'RectLight': {
      const area = type === 'DiskLight' ? Math.PI * number('radius', RADIUS) ** 2 : number('width', SIDE) * number('height', SIDE)
      return { ...about, kind: 'spot', coneRad: cone ?? Math.PI / 2, intensity: isNormalized ? said : said * area }
    }
    case 'DistantLight': {
      const seen = Math.PI * Math.sin(toRadians(number('angle', SUN_DEG) / 2)) ** 2
      return { ...about, kind: 'directional', coneRad: null, intensity: isNormalized ? said : said * seen }
    }
    default:
      return type satisfies never
  }
}

const isOn = (value: unknown): boolean => value === true || value === 1 || value === '1' || value === 'true'

/** Small enough to be a point to whoever treats none as one, in metres. */
const POINT_RADIUS_M = 0.01

/** A light as a prim of UsdLux: its type, the schemas that it takes, and its attributes. */
export function usdLightLines({ kind, color, intensity, coneRad }: ModelLight, space: FileSpace) {
  const attributes = [`color3f inputs:color = ${shortTuple(color)}`, 'bool inputs:normalize = 1']
  if (kind === 'directional')
    return { type: 'DistantLight', schemas: [], attributes: [...attributes, `float inputs:intensity = ${shortFloat(intensity)}`] }
  attributes.push(
    `float inputs:intensity = ${shortFloat(intensity * 4)}`,
    `float inputs:radius = ${shortFloat(POINT_RADIUS_M / METRES_A_UNIT[space.unit])}`,
    'bool treatAsPoint = 1',
  )
  if (coneRad === null) return { type: 'SphereLight', schemas: [], attributes }
  // From full in its middle to nothing at its edge, as spots of glTF without an inner cone.
  attributes.push(`float inputs:shaping:cone:angle = ${shortFloat(toDegrees(coneRad))}`, 'float inputs:shaping:cone:softness = 1')
  return { type: 'SphereLight', schemas: ['ShapingAPI'], attributes }
}

/** Millimetres, of a frame as high as film is. */
const FRAME_HEIGHT = 24

/** A camera's attributes (UsdGeomCamera): apertures and focal length in tenths of the stage's unit, as the schema has them. */
export function usdCameraLines({ yFovRad, aspect }: ModelCamera): string[] {
  const focal = FRAME_HEIGHT / 2 / Math.tan(yFovRad / 2)
  return [
    'token projection = "perspective"',
    `float focalLength = ${shortFloat(focal)}`,
    `float horizontalAperture = ${shortFloat(FRAME_HEIGHT * aspect)}`,
    `float verticalAperture = ${FRAME_HEIGHT}`,
  ]
}
