import { FileError } from '../findings/failure'
import { EMISSION_WHITE_NITS } from '../material/emission'
import type { OpenPbrMaterial, OpenPbrParameters, TextureSlot } from '../material/open-pbr'
import type { Vec3 } from '../math/vec3'

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
const toIdentifier = (name: string): string => name.replace(/[^A-Za-z0-9_]+/g, '_').replace(/^(\d)/, '_$1') || 'material'
const tuple = (c: readonly number[]): string => `(${c.join(', ')})`

/** @param files relative path of the file for each image index the textures name */
export function writeUsdPreviewSurface(material: OpenPbrMaterial, files: ReadonlyMap<number, string>): string {
  const p = material.parameters
  const id = toIdentifier(material.name)
  const path = `/${id}`
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
  for (const [slot, binding] of Object.entries(material.textures) as [TextureSlot, { image: number; channel: 0 | 1 | 2 | 3 }][]) {
    const target = SLOT_INPUTS[slot]
    const file = files.get(binding.image)
    if (!target || !file) continue
    bound.add(slot)
    const output = target.output === 'r' ? CHANNELS[binding.channel] : 'rgb'
    nodes.push(
      `    def Shader "${slot}"`,
      '    {',
      '        uniform token info:id = "UsdUVTexture"',
      `        asset inputs:file = @${file.replaceAll('@', '')}@`,
      `        token inputs:wrapS = "${wrap}"`,
      `        token inputs:wrapT = "${wrap}"`,
      `        token inputs:sourceColorSpace = "${target.isColor ? 'sRGB' : 'raw'}"`,
      ...(slot === 'geometryNormal'
        ? ['        float4 inputs:scale = (2, 2, 2, 1)', '        float4 inputs:bias = (-1, -1, -1, 0)']
        : []),
      `        float2 inputs:st.connect = <${path}/uv.outputs:result>`,
      `        ${output === 'rgb' ? 'float3' : 'float'} outputs:${output}`,
      '    }',
    )
    connected.push(`        ${target.type} inputs:${target.input}.connect = <${path}/${slot}.outputs:${output}>`)
  }
  return [
    '#usda 1.0',
    '(',
    `    defaultPrim = "${id}"`,
    '    metersPerUnit = 1',
    '    upAxis = "Y"',
    ')',
    '',
    `def Material "${id}"`,
    '{',
    `    token outputs:surface.connect = <${path}/surface.outputs:surface>`,
    '    def Shader "surface"',
    '    {',
    '        uniform token info:id = "UsdPreviewSurface"',
    ...constants.filter(([slot]) => slot === null || !bound.has(slot)).map(([, name, value]) => `        ${name} = ${value}`),
    ...connected,
    '        token outputs:surface',
    '    }',
    ...(nodes.length > 0
      ? [
          '    def Shader "uv"',
          '    {',
          '        uniform token info:id = "UsdPrimvarReader_float2"',
          '        string inputs:varname = "st"',
          '        float2 outputs:result',
          '    }',
        ]
      : []),
    ...nodes,
    '}',
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
