import {
  OPEN_PBR_DEFAULTS,
  type OpenPbrMaterial,
  type OpenPbrParameters,
  reliefOf,
  type TextureSlot,
} from '../../material/open-pbr'

/** MaterialX 1.39 with an `open_pbr_surface` (Academy Software Foundation). Our parameter names are its inputs, in camel case. */

const toInputName = (parameter: string): string => parameter.replace(/[A-Z0-9]+/g, m => `_${m.toLowerCase()}`)

export type InputType = 'boolean' | 'color3' | 'float' | 'vector3'

/** Slots that a surface input can carry, and how they are typed. */
export const SLOT_INPUTS: Partial<Record<TextureSlot, { input: string; type: 'color3' | 'float' | 'vector3' }>> = {
  baseColor: { input: 'base_color', type: 'color3' },
  baseMetalness: { input: 'base_metalness', type: 'float' },
  specularRoughness: { input: 'specular_roughness', type: 'float' },
  geometryOpacity: { input: 'geometry_opacity', type: 'float' },
  emissionColor: { input: 'emission_color', type: 'color3' },
  geometryNormal: { input: 'geometry_normal', type: 'vector3' },
}

/** Slots that keep their texture. */
export const MATERIALX_SLOTS: ReadonlySet<TextureSlot> = new Set([...(Object.keys(SLOT_INPUTS) as TextureSlot[]), 'displacement'])

const ENTITIES: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&apos;' }
const escapeXml = (text: string): string => text.replace(/[&<>"']/g, c => ENTITIES[c])

export const CHANNEL_OUTPUTS = ['outr', 'outg', 'outb', 'outa']

/**
 * Writes a material as a MaterialX document.
 * @param files relative path of the file for each image index the textures name
 */
export function writeMaterialX(material: OpenPbrMaterial, files: ReadonlyMap<number, string>): string {
  const nodes: string[] = []
  const inputs: string[] = []
  for (const [slot, binding] of Object.entries(material.textures)) {
    const target = SLOT_INPUTS[slot as TextureSlot]
    const file = binding && files.get(binding.image)
    if (!target || !binding || !file) continue
    const isColor = target.type === 'color3'
    const node = `image_${slot}`
    const type = target.type === 'float' ? 'color3' : target.type
    nodes.push(
      `    <tiledimage name="${node}" type="${type}">`,
      `      <input name="file" type="filename" value="${escapeXml(file)}"${isColor ? ' colorspace="srgb_texture"' : ' colorspace="lin_rec709"'} />`,
      ...layoutInputs(material),
      '    </tiledimage>',
    )
    let source = `nodename="${node}"`
    if (target.type === 'float') {
      nodes.push(
        `    <separate3 name="${node}_split" type="multioutput">`,
        `      <input name="in" type="color3" nodename="${node}" />`,
        '    </separate3>',
      )
      source = `nodename="${node}_split" output="${CHANNEL_OUTPUTS[binding.channel]}"`
      if (binding.inverted) {
        nodes.push(
          `    <invert name="${node}_inverted" type="float">`,
          `      <input name="in" type="float" ${source} />`,
          '    </invert>',
        )
        source = `nodename="${node}_inverted"`
      }
    } else if (target.type === 'vector3') {
      nodes.push(
        `    <normalmap name="${node}_bent" type="vector3">`,
        `      <input name="in" type="vector3" nodename="${node}" />`,
        ...(binding.handedness === 'directX' ? ['      <input name="scale" type="vector2" value="1, -1" />'] : []),
        '    </normalmap>',
      )
      source = `nodename="${node}_bent"`
    }
    inputs.push(`      <input name="${target.input}" type="${target.type}" ${source} />`)
  }
  for (const { input, type, value } of listConstants(material))
    inputs.push(`      <input name="${input}" type="${type}" value="${Array.isArray(value) ? value.join(', ') : value}" />`)
  const id = toIdentifier(material.name)
  const displacement = displacementNodes(material, files, id)
  return [
    '<?xml version="1.0"?>',
    '<materialx version="1.39" colorspace="lin_rec709">',
    ...nodes.map(n => n.slice(2)),
    `  <open_pbr_surface name="${id}_surface" type="surfaceshader">`,
    ...inputs.map(n => n.slice(2)),
    '  </open_pbr_surface>',
    ...displacement,
    `  <surfacematerial name="${id}" type="material">`,
    `    <input name="surfaceshader" type="surfaceshader" nodename="${id}_surface" />`,
    ...(displacement.length > 0
      ? [`    <input name="displacementshader" type="displacementshader" nodename="${id}_displacement" />`]
      : []),
    '  </surfacematerial>',
    '</materialx>',
    '',
  ].join('\n')
}

/** How a picture repeats, and how large it is. */
function layoutInputs({ tiling, tileSizeM: tile }: OpenPbrMaterial): string[] {
  return [
    ...(tiling === 'once'
      ? ['uaddressmode', 'vaddressmode'].map(mode => `      <input name="${mode}" type="string" value="clamp" />`)
      : []),
    ...(tile
      ? [
          `      <input name="realworldimagesize" type="vector2" value="${tile[0]}, ${tile[1]}" unittype="distance" unit="meter" />`,
          '      <input name="realworldtilesize" type="vector2" value="1, 1" unittype="distance" unit="meter" />',
        ]
      : []),
  ]
}

/** The height map as displacement, from none at black to the relief at white; empty without one. */
function displacementNodes(material: OpenPbrMaterial, files: ReadonlyMap<number, string>, id: string): string[] {
  const binding = material.textures.displacement
  const file = binding && files.get(binding.image)
  if (!binding || !file) return []
  const heights = `nodename="image_displacement_split" output="${CHANNEL_OUTPUTS[binding.channel]}"`
  return [
    '    <tiledimage name="image_displacement" type="color3">',
    `      <input name="file" type="filename" value="${escapeXml(file)}" colorspace="lin_rec709" />`,
    ...layoutInputs(material),
    '    </tiledimage>',
    '    <separate3 name="image_displacement_split" type="multioutput">',
    '      <input name="in" type="color3" nodename="image_displacement" />',
    '    </separate3>',
    `    <displacement name="${id}_displacement" type="displacementshader">`,
    `      <input name="displacement" type="float" ${heights} />`,
    `      <input name="scale" type="float" value="${reliefOf(material)}" unittype="distance" unit="meter" />`,
    '    </displacement>',
  ].map(line => line.slice(2))
}

/** Inputs of a surface that are no map and not as the standard has them. */
export function listConstants({ parameters, textures }: OpenPbrMaterial) {
  const textured = new Set(Object.keys(textures).map(s => SLOT_INPUTS[s as TextureSlot]?.input))
  return Object.entries(parameters).flatMap(([parameter, value]) => {
    const input = toInputName(parameter)
    const isDefault = JSON.stringify(value) === JSON.stringify(OPEN_PBR_DEFAULTS[parameter as keyof OpenPbrParameters])
    // The grain is a tangent in MaterialX, made by nodes of its own.
    if (parameter === 'geometryTangentRotation' || textured.has(input)) return []
    // Unlike here, the standard's free path beneath a surface is a metre where none is given.
    const isStandard = isDefault && !(parameter === 'subsurfaceRadius' && parameters.subsurfaceWeight > 0)
    if (isStandard) return []
    const type: InputType = typeof value === 'boolean' ? 'boolean' : typeof value === 'number' ? 'float' : 'color3'
    return [{ input, type, value: value as boolean | number | readonly number[] }]
  })
}

const toIdentifier = (name: string): string => name.replace(/[^A-Za-z0-9]+/g, '_').replace(/^(\d)/, '_$1') || 'material'
