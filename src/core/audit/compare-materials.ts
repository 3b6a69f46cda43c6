import { deltaE00 } from '../color/difference'
import { decodeSrgb, toHex } from '../color/srgb'
import { OPEN_PBR_DEFAULTS, type OpenPbrParameters, type ParameterName } from '../material/open-pbr'
import type { Vec3 } from '../math/vec3'
import { AUDITED_SLOTS, type AuditedSlot, compareMaps, isColored, type MapDifference } from './map-print'
import type { MaterialPrint } from './material-print'

/** One thing that is not as the library has it. */
export interface Change {
  /** A parameter of OpenPBR, a map and what of it, or a fact of the use. */
  what: string
  from: string | number
  to: string | number
  /** Of colours. */
  deltaE00?: number
}

export interface MaterialDifference {
  changes: Change[]
  /** How far apart, in steps that one sees or measures; 0 for the same. */
  distance: number
  /** The largest difference in the same steps, those included that count for nothing. */
  closeness: number
  /** Maps by slot, where both have one. */
  maps: Partial<Record<AuditedSlot, MapDifference>>
}

/** In which form a scene came: what it can hold is what can be altered. */
export type SceneForm = 'gltf' | 'obj' | 'usd' | 'other'

/** A difference that counts: 1 ΔE00 of a colour, 2 % of a parameter's range; below it lies what encoding and rounding do. */
const COLOR_STEP = 1
/** A picture saved with loss may be off by as much as this in its mean, where greys are rounded. */
const SAVED_COLOR_STEP = 1.5
const FIGURE_STEP = 0.018
const GAIN_STEP = 0.06
/** Slopes that are made smaller as pictures become flatter. */
const RESIZED_GAIN_STEP = 0.16
/** What a changed contrast does to the codes of the grid, 0 to 1. */
const CODE_STEP = 0.8 / 255
/** Of a cell of the grid, 0 to 1. */
const ENCODING_NOISE = 1.2 / 255
const LOCAL_STEP = 0.07
const BLUR_STEP = 0.16

/** What forms beside glTF hold, by what is read of them here. */
const HELD_BY_ALL: ReadonlySet<ParameterName> = new Set([
  'baseColor',
  'specularRoughness',
  'baseMetalness',
  'emissionColor',
  'emissionLuminance',
  'geometryOpacity',
])

/** Which they hold as well, but not every program writes: of none one cannot tell who left it out. */
const COAT: ReadonlySet<ParameterName> = new Set(['coatWeight', 'coatRoughness'])

/** Whose value shows only where another says that there is any of it. */
const SHOWS_WITH: Partial<Record<ParameterName, (p: OpenPbrParameters) => boolean>> = {
  transmissionColor: p => p.transmissionWeight > 0,
  transmissionDepth: p => p.transmissionWeight > 0,
  transmissionDispersionScale: p => p.transmissionWeight > 0,
  transmissionDispersionAbbeNumber: p => p.transmissionWeight > 0 && p.transmissionDispersionScale > 0,
  subsurfaceColor: p => p.subsurfaceWeight > 0,
  subsurfaceRadius: p => p.subsurfaceWeight > 0,
  subsurfaceRadiusScale: p => p.subsurfaceWeight > 0 && p.subsurfaceRadius > 0,
  subsurfaceScatterAnisotropy: p => p.subsurfaceWeight > 0 && p.subsurfaceRadius > 0,
  coatColor: p => p.coatWeight > 0,
  coatRoughness: p => p.coatWeight > 0,
  coatIor: p => p.coatWeight > 0,
  coatDarkening: p => p.coatWeight > 0,
  fuzzColor: p => p.fuzzWeight > 0,
  fuzzRoughness: p => p.fuzzWeight > 0,
  thinFilmThickness: p => p.thinFilmWeight > 0,
  thinFilmIor: p => p.thinFilmWeight > 0,
  emissionColor: p => p.emissionLuminance > 0,
  geometryTangentRotation: p => p.specularRoughnessAnisotropy > 0,
  specularColor: p => p.specularWeight > 0,
}

/** What a step of a figure is measured against, where it is not from 0 to 1. */
const REACH: Partial<Record<ParameterName, (a: number, b: number) => number>> = {
  emissionLuminance: (a, b) => Math.max(a, b, 1),
  transmissionDepth: (a, b) => Math.max(a, b, 1e-3),
  transmissionDispersionAbbeNumber: (a, b) => Math.max(a, b),
  subsurfaceRadius: (a, b) => Math.max(a, b, 1e-4),
  thinFilmThickness: (a, b) => Math.max(a, b, 0.01),
}

const round = (v: number): number => Number(v.toPrecision(3))

/**
 * How a material of a scene differs from one of the library as it is delivered.
 * @param form that `narrow`, one of the two, came in
 */
export function compareMaterials(
  material: MaterialPrint,
  reference: MaterialPrint,
  form: SceneForm = 'gltf',
  narrow = material,
): MaterialDifference {
  const changes: Change[] = []
  const maps: MaterialDifference['maps'] = {}
  let [distance, closeness] = [0, 0]
  const note = (steps: number, change: Change) => {
    closeness = Math.max(closeness, steps)
    if (steps < 1) return
    distance += steps
    changes.push(change)
  }
  for (const slot of AUDITED_SLOTS) {
    const [own, other] = [material.maps[slot], reference.maps[slot]]
    if (own && other) maps[slot] = compareMaps(own, other)
    else if (onlyOne(material, reference, slot))
      note(MAP_STEPS, { what: `${slot} map`, from: other ? 'there' : 'none', to: own ? 'there' : 'none' })
  }
  for (const name of Object.keys(OPEN_PBR_DEFAULTS) as ParameterName[]) {
    const isCoat = COAT.has(name) && narrow.parameters.coatWeight > 0
    if (form !== 'gltf' && !HELD_BY_ALL.has(name) && !isCoat) continue
    const shows = SHOWS_WITH[name]
    if (shows && !(shows(material.parameters) && shows(reference.parameters))) continue
    const slot = (AUDITED_SLOTS as readonly string[]).includes(name) ? (name as AuditedSlot) : null
    // Of a map that is there on one side only, the line above says it all.
    if (slot && onlyOne(material, reference, slot)) continue
    const [to, from] = [effectiveOf(material, name, slot), effectiveOf(reference, name, slot)]
    if (Array.isArray(to) && Array.isArray(from)) {
      // A picture that was made smaller as codes keeps their mean, in light its mean light: what both say has changed.
      const [toCodes, fromCodes] = [valueByCodes(material, name, slot), valueByCodes(reference, name, slot)]
      const difference = Math.min(deltaE00(to as Vec3, from as Vec3), deltaE00(toCodes, fromCodes))
      const isSaved = slot !== null && maps[slot] !== undefined && !maps[slot].isExact
      note(difference / (isSaved ? SAVED_COLOR_STEP : COLOR_STEP), {
        what: name,
        from: toHex(from.map(v => Math.min(v, 1))),
        to: toHex(to.map(v => Math.min(v, 1))),
        deltaE00: round(difference),
      })
    } else if (typeof to === 'number' && typeof from === 'number') {
      const reach = REACH[name]?.(to, from) ?? 1
      note(Math.abs(to - from) / reach / FIGURE_STEP, { what: name, from: round(from), to: round(to) })
    } else if (to !== from) note(1, { what: name, from: String(from), to: String(to) })
  }
  for (const slot of AUDITED_SLOTS)
    if (maps[slot]) for (const [steps, change] of changesOfMap(slot, maps[slot])) note(steps, change)
  return { changes, distance, closeness, maps }
}

/**
 * Whether one has a map with something to see on it, and the other none. The finest detail does not count: it may be what an encoding made
 * of a single value.
 */
const onlyOne = (material: MaterialPrint, reference: MaterialPrint, slot: AuditedSlot): boolean => {
  const [own, other] = [material.maps[slot], reference.maps[slot]]
  const only = own ?? other
  if ((own && other) || only === undefined) return false
  const isFigure = only.channels === 1
  if (isFigure) return Math.max(only.spread, only.detail[2]) > FAINT_FIGURE
  if (slot === 'geometryNormal') return Math.max(only.spread, ...only.detail) > FAINT_SLOPE
  return Math.max(only.spread, ...only.detail.slice(1)) > FAINT
}
const FAINT = 3.5 / 255
const FAINT_SLOPE = 2 / 255
/** Roughness and metalness share a picture, and lossy encoding mixes its channels. */
const FAINT_FIGURE = 8 / 255

/** What a map that is there or not there weighs beside other changes. */
const MAP_STEPS = 8

/** The parameter times the mean of its map: whether a tint lies in the one or in the other makes no difference. */
function effectiveOf({ parameters, maps }: MaterialPrint, name: ParameterName, slot: AuditedSlot | null) {
  const value = parameters[name]
  const map = slot && slot !== 'geometryNormal' ? maps[slot] : undefined
  if (!map) return value
  return Array.isArray(value) ? value.map((v, c) => v * map.mean[c]) : (value as number) * map.mean[0]
}

function valueByCodes({ parameters, maps }: MaterialPrint, name: ParameterName, slot: AuditedSlot | null): Vec3 {
  const value = parameters[name] as Vec3
  const map = slot ? maps[slot] : undefined
  return map ? (value.map((v, c) => v * decodeSrgb(map.meanOfCodes[c])) as Vec3) : value
}

function* changesOfMap(slot: AuditedSlot, found: MapDifference): Generator<[number, Change]> {
  if (found.isExact) return
  const what = (of: string) => `${slot} map, ${of}`
  const { correlation, gain, spread, local, blur } = found
  if (slot === 'geometryNormal' && gain[0] > 0.4 && gain[1] < -0.4) {
    yield [MAP_STEPS, { what: what('green'), from: 'up', to: 'down' }]
    return
  }
  const most = Math.max(...spread)
  // What an encoding adds weighs more where there is little to see.
  const expected = most / Math.hypot(most, ENCODING_NOISE)
  if (correlation !== null && correlation < OTHER_PICTURE * expected) {
    yield [MAP_STEPS, { what: what('picture'), from: 'as delivered', to: 'another' }]
    return
  }
  // Little contrast is changed by encoding alone: a gain counts by what it does to the codes as well.
  const strength = weighedMean(gain, spread)
  const step = slot === 'geometryNormal' && found.isResized ? RESIZED_GAIN_STEP : GAIN_STEP
  yield [
    Math.min(Math.abs(strength - 1) / step, (Math.abs(strength - 1) * most) / CODE_STEP),
    { what: what(slot === 'geometryNormal' ? 'strength' : 'contrast'), from: 1, to: round(strength) },
  ]
  if (isColored(slot) && gain.length === 3) {
    const apart = Math.max(...gain) - Math.min(...gain)
    yield [
      Math.min(apart / (3 * GAIN_STEP), (apart * Math.min(...spread)) / (2 * CODE_STEP)),
      { what: what('hue'), from: 'as delivered', to: 'turned' },
    ]
  }
  yield [local / LOCAL_STEP, { what: what('places'), from: 'as delivered', to: 'painted over' }]
  yield [blur / BLUR_STEP, { what: what('sharpness'), from: 1, to: round(1 - blur) }]
}

const weighedMean = (values: readonly number[], weights: readonly number[]): number => {
  const all = weights.reduce((sum, w) => sum + w * w, 0)
  return all > 0 ? values.reduce((sum, v, c) => sum + v * weights[c] ** 2, 0) / all : 1
}

/** Pictures that go together less than this are two pictures. */
export const OTHER_PICTURE = 0.9
