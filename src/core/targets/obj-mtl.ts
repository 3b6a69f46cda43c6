import { FileError } from '../findings/failure'
import { EMISSION_WHITE_NITS } from '../material/emission'
import type { OpenPbrMaterial, OpenPbrParameters, TextureSlot } from '../material/open-pbr'
import type { Vec3 } from '../math/vec3'
import type { Stamp } from '../stamp'
import { stampComment, toObjName } from './write-obj'

/**
 * Wavefront MTL with the widespread physically based keys (Pr roughness, Pm metalness, Ps sheen, Pc and Pcr clear coat, aniso,
 * anisor). No film, no depth of glass, no diffuse roughness, no colour of coat or specular; real-world size is lost too.
 */

const SLOT_KEYS: Partial<Record<TextureSlot, string>> = {
  baseColor: 'map_Kd',
  baseMetalness: 'map_Pm',
  specularRoughness: 'map_Pr',
  geometryOpacity: 'map_d',
  emissionColor: 'map_Ke',
  geometryNormal: 'norm',
  displacement: 'disp',
}
export const MTL_SLOTS: ReadonlySet<TextureSlot> = new Set(Object.keys(SLOT_KEYS) as TextureSlot[])

const CHANNELS = ['r', 'g', 'b', 'm'] as const

/** Says that what stands beside a map multiplies it: not every program means it. */
export const CONSTANTS_MULTIPLY = '# constants multiply their maps'

/**
 * Where a map is, its constant multiplies it: 1, unless the material has factors as glTF does.
 * @param files relative path of the file for each image index the textures name
 */
export function writeMtl(
  material: OpenPbrMaterial,
  files: ReadonlyMap<number, string>,
  { stamp = null, areFactors = false }: { stamp?: Stamp | null; areFactors?: boolean } = {},
): string {
  const p = areFactors ? material.parameters : { ...material.parameters, ...neutralUnder(material, files) }
  const color = (c: readonly number[]) => c.map(v => v.toFixed(6)).join(' ')
  const lines = [
    `newmtl ${toObjName(material.name)}`,
    ...(stamp ? [`# ${stampComment(stamp)}`] : []),
    `Kd ${color(p.baseColor.map(c => c * p.baseWeight))}`,
    `Ke ${color(p.emissionColor.map(c => (c * p.emissionLuminance) / EMISSION_WHITE_NITS))}`,
    `Ni ${p.specularIor}`,
    `d ${p.geometryOpacity}`,
    `Tf ${color(p.transmissionColor.map(c => c * p.transmissionWeight))}`,
    `Pr ${p.specularRoughness}`,
    `Pm ${p.baseMetalness}`,
    // Some readers give up at keys that they do not know: what is not there is not written.
    ...(p.fuzzWeight > 0 ? [`Ps ${p.fuzzWeight}`] : []),
    ...(p.coatWeight > 0 ? [`Pc ${p.coatWeight}`, `Pcr ${p.coatRoughness}`] : []),
    ...(p.specularRoughnessAnisotropy > 0
      ? [`aniso ${p.specularRoughnessAnisotropy}`, `anisor ${p.geometryTangentRotation}`]
      : []),
    `illum ${p.transmissionWeight > 0 ? 7 : 2}`,
  ]
  for (const [slot, binding] of Object.entries(material.textures) as [TextureSlot, { image: number; channel: 0 | 1 | 2 | 3 }][]) {
    const key = SLOT_KEYS[slot]
    const file = files.get(binding.image)
    if (!key || !file) continue
    const isScalar = slot !== 'baseColor' && slot !== 'emissionColor' && slot !== 'geometryNormal'
    const clamp = material.tiling === 'once' ? '-clamp on ' : ''
    lines.push(`${key} ${clamp}${isScalar ? `-imfchan ${CHANNELS[binding.channel]} ` : ''}${file}`)
  }
  return `${lines.join('\n')}\n`
}

/** Constants that leave the maps over them as they are. */
function neutralUnder({ textures }: OpenPbrMaterial, files: ReadonlyMap<number, string>): Partial<OpenPbrParameters> {
  const has = (slot: TextureSlot) => files.has(textures[slot]?.image ?? -1)
  return {
    ...(has('baseColor') ? { baseColor: [1, 1, 1], baseWeight: 1 } : {}),
    ...(has('emissionColor') ? { emissionColor: [1, 1, 1] } : {}),
    ...(has('baseMetalness') ? { baseMetalness: 1 } : {}),
    ...(has('specularRoughness') ? { specularRoughness: 1 } : {}),
    ...(has('geometryOpacity') ? { geometryOpacity: 1 } : {}),
  }
}

/**
 * Reads the constants of the first material.
 * @throws FileError when there is none
 */
export function parseMtl(text: string): Partial<OpenPbrParameters> {
  const lines = text.split(/\r?\n/).map(l => l.trim())
  const start = lines.findIndex(l => l.startsWith('newmtl'))
  if (start < 0) throw new FileError('unsupported', 'The MTL file holds no material.')
  const values = new Map<string, number[]>()
  for (const line of lines.slice(start + 1)) {
    if (line.startsWith('newmtl')) break
    const [key, ...rest] = line.split(/\s+/)
    const numbers = rest.map(Number)
    if (numbers.length > 0 && numbers.every(Number.isFinite)) values.set(key, numbers)
  }
  const one = (key: string): number | undefined => values.get(key)?.[0]
  const three = (key: string): Vec3 | undefined => {
    const v = values.get(key)
    return v?.length === 3 ? [v[0], v[1], v[2]] : undefined
  }
  const emissive = three('Ke') ?? [0, 0, 0]
  const strength = Math.max(...emissive)
  const filter = three('Tf') ?? [0, 0, 0]
  const transmission = Math.max(...filter)
  const coat = one('Pc') ?? 0
  const found: Partial<OpenPbrParameters> = {
    baseColor: three('Kd'),
    specularIor: one('Ni'),
    geometryOpacity: one('d'),
    ...(transmission > 0
      ? { transmissionWeight: transmission, transmissionColor: filter.map(c => c / transmission) as Vec3 }
      : {}),
    specularRoughness: one('Pr'),
    baseMetalness: one('Pm'),
    fuzzWeight: one('Ps'),
    coatWeight: coat,
    coatRoughness: one('Pcr'),
    ...(coat > 0 ? { coatIor: 1.5, coatDarkening: 0 } : {}),
    specularRoughnessAnisotropy: one('aniso'),
    geometryTangentRotation: one('anisor'),
    ...(strength > 0
      ? { emissionLuminance: strength * EMISSION_WHITE_NITS, emissionColor: emissive.map(c => c / strength) as Vec3 }
      : {}),
  }
  return Object.fromEntries(Object.entries(found).filter(([, v]) => v !== undefined))
}
