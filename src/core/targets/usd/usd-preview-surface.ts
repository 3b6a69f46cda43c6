import { FileError } from '../../findings/failure'
import { EMISSION_WHITE_NITS } from '../../material/emission'
import type { OpenPbrMaterial, OpenPbrParameters, TextureBinding, TextureSlot } from '../../material/open-pbr'
import type { Vec3 } from '../../math/vec3'
import { materialXNetwork } from './usd-materialx'
import { asset, indent, toPrimName, tuple } from './usd-text'

/**
 * OpenUSD's UsdPreviewSurface (specification 2.6) as a text layer. It has base colour, metalness, roughness, ior, a clear coat, opacity,
 * emission, a normal map: what else a material has is lost. Glass becomes opacity, which does not bend light.
 */

const SLOT_INPUTS: Partial<Record<TextureSlot, { input: string; output: 'rgb' | 'r'; type: string; isColor: boolean }>> = {
  baseColor: { input: 'diffuseColor', output: 'rgb', type: 'color3f', isColor: true },
  baseMetalness: { input: 'metallic', output: 'r', type: 'float', isColor: false },
  specularRoughness: { input: 'roughness', output: 'r', type: 'float', isColor: false },
  geometryOpacity: { input: 'opacity', output: 'r', type: 'float', isColor: false },
  emissionColor: { input: 'emissiveColor', output: 'rgb', type: 'color3f', isColor: true },
  geometryNormal: { input: 'normal', output: 'rgb', type: 'normal3f', isColor: false },
}

/** Slots that keep their texture. */
export const USD_SLOTS: ReadonlySet<TextureSlot> = new Set(Object.keys(SLOT_INPUTS) as TextureSlot[])

const CHANNELS = ['r', 'g', 'b', 'a'] as const

export interface UsdMaterialOptions {
  /** Relative path of the file for each image index the textures name. */
  files: ReadonlyMap<number, string>
  /** Path of the prim that the material becomes. */
  path: string
  /** Whether a constant multiplies the map in its slot, as in glTF; a map stands in its place without it. */
  areFactors?: boolean
  /** Whether the same is told as a network of MaterialX nodes, which keeps what a UsdPreviewSurface has not. */
  withMaterialX?: boolean
  /** Lines that say where it is from. */
  metadata?: readonly string[]
}

/** The texel of a map as the input takes it: v · scale + bias. */
function readingOf(slot: TextureSlot, binding: TextureBinding, factor: readonly number[]): string[] {
  const line = (name: string, values: readonly number[]) => `float4 inputs:${name} = ${tuple(values)}`
  if (slot === 'geometryNormal') {
    const green = binding.handedness === 'directX' ? -1 : 1
    return [line('scale', [2, 2 * green, 2, 1]), line('bias', [-1, -green, -1, 0])]
  }
  if (binding.inverted) return [line('scale', [-1, -1, -1, -1]), line('bias', [1, 1, 1, 1])]
  return factor.every(v => v === 1) ? [] : [line('scale', [...factor, ...factor, ...factor].slice(0, 3).concat(factor[3] ?? 1))]
}

/** A material as a prim, line by line without indentation; its maps read `st`. */
export function materialPrim(material: OpenPbrMaterial, options: UsdMaterialOptions): string[] {
  const { files, path, areFactors = false, withMaterialX = false, metadata = [] } = options
  const p = material.parameters
  const base = p.baseColor.map(c => c * p.baseWeight)
  const transmits = p.transmissionWeight > 0
  const constants: [TextureSlot | null, string, string][] = [
    [null, 'int inputs:useSpecularWorkflow', '0'],
    ['baseColor', 'color3f inputs:diffuseColor', tuple(transmits ? p.transmissionColor : base)],
    ['baseMetalness', 'float inputs:metallic', String(p.baseMetalness)],
    ['specularRoughness', 'float inputs:roughness', String(p.specularRoughness)],
    [null, 'float inputs:ior', String(p.specularIor)],
    [null, 'float inputs:clearcoat', String(p.coatWeight)],
    [null, 'float inputs:clearcoatRoughness', String(p.coatRoughness)],
    ['geometryOpacity', 'float inputs:opacity', String(p.geometryOpacity * (1 - p.transmissionWeight))],
    [
      'emissionColor',
      'color3f inputs:emissiveColor',
      tuple(p.emissionColor.map(c => (c * p.emissionLuminance) / EMISSION_WHITE_NITS)),
    ],
  ]
  const bound = new Set<TextureSlot>()
  const nodes: string[] = []
  const connected: string[] = []
  const wrap = material.tiling === 'once' ? 'clamp' : 'repeat'
  for (const [slot, binding] of Object.entries(material.textures) as [TextureSlot, TextureBinding][]) {
    const target = SLOT_INPUTS[slot]
    const file = files.get(binding.image)
    if (!target || !file) continue
    bound.add(slot)
    const output = target.output === 'r' ? CHANNELS[binding.channel] : 'rgb'
    nodes.push(
      `def Shader "${slot}"`,
      '{',
      '    uniform token info:id = "UsdUVTexture"',
      `    asset inputs:file = ${asset(file)}`,
      `    token inputs:wrapS = "${wrap}"`,
      `    token inputs:wrapT = "${wrap}"`,
      `    token inputs:sourceColorSpace = "${target.isColor ? 'sRGB' : 'raw'}"`,
      ...indent(readingOf(slot, binding, areFactors ? factorOf(material, slot) : [1]), 1),
      `    float2 inputs:st.connect = <${path}/uv.outputs:result>`,
      `    ${output === 'rgb' ? 'float3' : 'float'} outputs:${output}`,
      '}',
    )
    connected.push(`${target.type} inputs:${target.input}.connect = <${path}/${slot}.outputs:${output}>`)
  }
  const network = withMaterialX ? materialXNetwork(material, files, path) : null
  return [
    `def Material "${path.split('/').at(-1)}"${metadata.length > 0 ? ' (' : ''}`,
    ...(metadata.length > 0 ? [...indent(metadata, 1), ')'] : []),
    '{',
    `    token outputs:surface.connect = <${path}/surface.outputs:surface>`,
    ...(network ? [`    token outputs:mtlx:surface.connect = <${network.output}>`] : []),
    '    def Shader "surface"',
    '    {',
    '        uniform token info:id = "UsdPreviewSurface"',
    ...indent(
      [
        ...constants.filter(([slot]) => slot === null || !bound.has(slot)).map(([, name, value]) => `${name} = ${value}`),
        ...connected,
        // What is cut out is so or is not; all else lets through in part.
        ...(bound.has('geometryOpacity') && p.geometryThinWalled ? ['float inputs:opacityThreshold = 0.5'] : []),
        'token outputs:surface',
      ],
      2,
    ),
    '    }',
    ...(nodes.length > 0
      ? indent(
          [
            'def Shader "uv"',
            '{',
            '    uniform token info:id = "UsdPrimvarReader_float2"',
            '    string inputs:varname = "st"',
            '    float2 outputs:result',
            '}',
          ],
          1,
        )
      : []),
    ...indent([...nodes, ...(network?.lines ?? [])], 1),
    '}',
  ]
}

/** What a constant makes of the map in its slot. */
function factorOf({ parameters: p }: OpenPbrMaterial, slot: TextureSlot): readonly number[] {
  switch (slot) {
    case 'baseColor':
      return [...p.baseColor.map(c => c * p.baseWeight), 1]
    case 'emissionColor':
      return [...p.emissionColor.map(c => (c * p.emissionLuminance) / EMISSION_WHITE_NITS), 1]
    case 'baseMetalness':
    case 'specularRoughness':
      return [p[slot]]
    case 'geometryOpacity':
      return [1, 1, 1, p.geometryOpacity]
    default:
      return [1]
  }
}

/** A layer with the material alone. @param files relative path of the file for each image index the textures name */
export function writeUsdPreviewSurface(material: OpenPbrMaterial, files: ReadonlyMap<number, string>): string {
  const id = toPrimName(material.name)
  return [
    '#usda 1.0',
    '(',
    `    defaultPrim = "${id}"`,
    '    metersPerUnit = 1',
    '    upAxis = "Y"',
    ')',
    '',
    ...materialPrim(material, { files, path: `/${id}` }),
    '',
  ].join('\n')
}

/**
 * Reads the constants of the first UsdPreviewSurface in a text layer.
 * @throws FileError when it is no text layer, or holds none
 */
export function parseUsdPreviewSurface(text: string): Partial<OpenPbrParameters> {
  if (!text.startsWith('#usda')) throw new FileError('typeMismatch', 'This is no USD text layer.')
  if (!text.includes('"UsdPreviewSurface"')) throw new FileError('unsupported', 'The layer holds no UsdPreviewSurface.')
  const values = new Map<string, number[]>()
  for (const [, name, value] of text.matchAll(/inputs:(\w+) = (\([^)\n]*\)|[-+.\deE]+)/g)) {
    const numbers = value.replace(/[()]/g, '').split(',').map(Number)
    if (!values.has(name) && numbers.every(Number.isFinite)) values.set(name, numbers)
  }
  const one = (name: string): number | undefined => values.get(name)?.[0]
  const three = (name: string): Vec3 | undefined => {
    const v = values.get(name)
    return v?.length === 3 ? [v[0], v[1], v[2]] : undefined
  }
  const emissive = three('emissiveColor') ?? [0, 0, 0]
  const strength = Math.max(...emissive)
  const coat = one('clearcoat') ?? 0
  const found: Partial<OpenPbrParameters> = {
    baseColor: three('diffuseColor'),
    baseMetalness: one('metallic'),
    specularRoughness: one('roughness'),
    specularIor: one('ior'),
    coatWeight: coat,
    coatRoughness: one('clearcoatRoughness'),
    // Its coat has one index and does not darken.
    ...(coat > 0 ? { coatIor: 1.5, coatDarkening: 0 } : {}),
    geometryOpacity: one('opacity'),
    ...(strength > 0
      ? { emissionLuminance: strength * EMISSION_WHITE_NITS, emissionColor: emissive.map(c => c / strength) as Vec3 }
      : {}),
  }
  return Object.fromEntries(Object.entries(found).filter(([, v]) => v !== undefined))
}
