import type { OpenPbrMaterial, TextureBinding, TextureSlot } from '../../material/open-pbr'
import { CHANNEL_OUTPUTS, type InputType, listConstants, SLOT_INPUTS } from '../materialx/write-materialx'
import { asset, tuple } from './usd-text'

/** MaterialX nodes as shaders of a USD material, by the names of their definitions (MaterialX 1.39, UsdMtlx of OpenUSD). */

const USD_TYPES: Record<InputType, string> = { boolean: 'bool', color3: 'color3f', float: 'float', vector3: 'float3' }

/** @returns its lines without indentation, and the path of the output that is the surface */
export function materialXNetwork(
  material: OpenPbrMaterial,
  files: ReadonlyMap<number, string>,
  path: string,
): { lines: string[]; output: string } {
  const lines: string[] = []
  const inputs: string[] = []
  const shader = (name: string, definition: string, body: readonly string[]) =>
    lines.push(`def Shader "${name}"`, '{', `    uniform token info:id = "${definition}"`, ...body.map(l => `    ${l}`), '}')
  const mode = material.tiling === 'once' ? 'clamp' : 'periodic'
  let hasMaps = false
  for (const [slot, binding] of Object.entries(material.textures) as [TextureSlot, TextureBinding][]) {
    const target = SLOT_INPUTS[slot]
    const file = files.get(binding.image)
    if (!target || !file) continue
    hasMaps = true
    const node = `mtlx_${slot}`
    const type = target.type === 'vector3' ? 'vector3' : 'color3'
    const space = target.type === 'color3' ? 'srgb_texture' : 'lin_rec709'
    shader(node, `ND_image_${type}`, [
      `asset inputs:file = ${asset(file)} (`,
      `    colorSpace = "${space}"`,
      ')',
      `string inputs:uaddressmode = "${mode}"`,
      `string inputs:vaddressmode = "${mode}"`,
      `float2 inputs:texcoord.connect = <${path}/mtlx_uv.outputs:out>`,
      `${USD_TYPES[type]} outputs:out`,
    ])
    inputs.push(`${USD_TYPES[target.type]} inputs:${target.input}.connect = <${path}/${link(node, target.type, binding)}>`)
  }
  function link(node: string, type: InputType, binding: TextureBinding): string {
    if (type === 'color3') return `${node}.outputs:out`
    if (type === 'vector3') {
      const isTurned = binding.handedness === 'directX'
      shader(`${node}_bent`, isTurned ? 'ND_normalmap_vector2' : 'ND_normalmap_float', [
        `float3 inputs:in.connect = <${path}/${node}.outputs:out>`,
        ...(isTurned ? ['float2 inputs:scale = (1, -1)'] : []),
        'float3 outputs:out',
      ])
      return `${node}_bent.outputs:out`
    }
    const channel = CHANNEL_OUTPUTS[Math.min(binding.channel, 2)]
    shader(`${node}_split`, 'ND_separate3_color3', [
      `color3f inputs:in.connect = <${path}/${node}.outputs:out>`,
      `float outputs:${channel}`,
    ])
    if (!binding.inverted) return `${node}_split.outputs:${channel}`
    shader(`${node}_inverted`, 'ND_invert_float', [
      `float inputs:in.connect = <${path}/${node}_split.outputs:${channel}>`,
      'float outputs:out',
    ])
    return `${node}_inverted.outputs:out`
  }
  if (hasMaps) shader('mtlx_uv', 'ND_geompropvalue_vector2', ['string inputs:geomprop = "st"', 'float2 outputs:out'])
  for (const { input, type, value } of listConstants(material))
    inputs.push(`${USD_TYPES[type]} inputs:${input} = ${Array.isArray(value) ? tuple(value) : String(value)}`)
  shader('mtlx_surface', 'ND_open_pbr_surface_surfaceshader', [...inputs, 'token outputs:out'])
  return { lines, output: `${path}/mtlx_surface.outputs:out` }
}
