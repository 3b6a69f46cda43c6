import { deltaE00 } from '../color/difference'
import { toHex } from '../color/srgb'
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
  /** Maps by slot, where both have one. */
  maps: Partial<Record<AuditedSlot, MapDifference>>
}

/** In which form a scene came: what it can hold is what can be altered. */
export type SceneForm = 'gltf' | 'obj' | 'usd' | 'other'

/** A difference that counts: 1 ΔE00 of a colour, 2 % of a parameter's range; below it lies what encoding and rounding do. */
const COLOR_STEP = 1
const FIGURE_STEP = 0.018
const GAIN_STEP = 0.06
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

/** Whose value shows only where another says that there is any of it. */
const SHOWS_WITH: Partial<Record<ParameterName, (p: OpenPbrParameters) => boolean>> = {
  transmissionColor: p => p.transmissionWeight > 0,
  transmissionDepth: p => p.transmissionWeight > 0,
  subsurfaceColor: p => p.subsurfaceWeight > 0,
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
  thinFilmThickness: (a, b) => Math.max(a, b, 0.01),
}

const round = (v: number): number => Number(v.toPrecision(3))

/** How a material of a scene differs from one of the library as it is delivered. */
export function compareMaterials(
  material: MaterialPrint,
  reference: MaterialPrint,
  form: SceneForm = 'gltf',
): MaterialDifference {
  const changes: Change[] = []
  const maps: MaterialDifference['maps'] = {}
  let distance = 0
  const note = (steps: number, change: Change) => {
    if (steps < 1) return
    distance += steps
    changes.push(change)
  }
  for (const slot of AUDITED_SLOTS) {
    const [own, other] = [material.maps[slot], reference.maps[slot]]
    if (own && other) maps[slot] = compareMaps(own, other)
    else if (own || other)
      note(MAP_STEPS, { what: `${slot} map`, from: other ? 'there' : 'none', to: own ? 'there' : 'none' })
  }
  for (const name of Object.keys(OPEN_PBR_DEFAULTS) as ParameterName[]) {
    if (form !== 'gltf' && !HELD_BY_ALL.has(name)) continue
    const shows = SHOWS_WITH[name]
    if (shows && !(shows(material.parameters) && shows(reference.parameters))) continue
    const slot = (AUDITED_SLOTS as readonly string[]).includes(name) ? (name as AuditedSlot) : null
    // Of a map that is there on one side only, the line above says it all.
    if (slot && (material.maps[slot] === undefined) !== (reference.maps[slot] === undefined)) continue
    const [to, from] = [valueOf(material, name, slot), valueOf(reference, name, slot)]
    if (Array.isArray(to) && Array.isArray(from)) {
      const difference = deltaE00(to as Vec3, from as Vec3)
      note(difference / COLOR_STEP, {
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
  for (const slot of AUDITED_SLOTS) if (maps[slot]) for (const [steps, change] of changesOfMap(slot, maps[slot])) note(steps, change)
  return { changes, distance, maps }
}

/** What a map that is there or not there weighs beside other changes. */
const MAP_STEPS = 8

/** The parameter times the mean of its map: whether a tint lies in the one or in the other makes no difference. */
function valueOf({ parameters, maps }: MaterialPrint, name: ParameterName, slot: AuditedSlot | null) {
  const value = parameters[name]
  const map = slot && slot !== 'geometryNormal' ? maps[slot] : undefined
  if (!map) return value
  return Array.isArray(value) ? value.map((v, c) => v * map.mean[c]) : (value as number) * map.mean[0]
}

function* changesOfMap(slot: AuditedSlot, found: MapDifference): Generator<[number, Change]> {
  if (found.isExact) return
  const what = (of: string) => `${slot} map, ${of}`
  const { correlation, gain, local, blur } = found
  if (correlation !== 0 && correlation < OTHER_PICTURE) {
    if (slot === 'geometryNormal' && gain[0] > 0.5 && gain[1] < -0.5) yield [MAP_STEPS, { what: what('green'), from: 'up', to: 'down' }]
    else yield [MAP_STEPS, { what: what('picture'), from: 'as delivered', to: 'another' }]
    return
  }
  const strength = gain.reduce((sum, g) => sum + g, 0) / gain.length
  yield [
    Math.abs(strength - 1) / GAIN_STEP,
    { what: what(slot === 'geometryNormal' ? 'strength' : 'contrast'), from: 1, to: round(strength) },
  ]
  if (isColored(slot) && gain.length === 3) {
    const apart = Math.max(...gain) - Math.min(...gain)
    yield [apart / (3 * GAIN_STEP), { what: what('hue'), from: 'as delivered', to: 'turned' }]
  }
  yield [local / LOCAL_STEP, { what: what('places'), from: 'as delivered', to: 'painted over' }]
  yield [blur / BLUR_STEP, { what: what('sharpness'), from: 1, to: round(1 - blur) }]
}

/** Pictures that go together less than this are two pictures. */
export const OTHER_PICTURE = 0.9
