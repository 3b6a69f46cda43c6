import { OPEN_PBR_DEFAULTS, type OpenPbrMaterial, type OpenPbrParameters, type TextureSlot } from '../../material/open-pbr'

/** MaterialX 1.39 with an `open_pbr_surface` (Academy Software Foundation). Our parameter names are its inputs, in camel case. */

const toInputName = (parameter: string): string => parameter.replace(/[A-Z0-9]+/g, m => `_${m.toLowerCase()}`)

/** Slots that a surface input can carry, and how they are typed. */
const SLOT_INPUTS: Partial<Record<TextureSlot, { input: string; type: 'color3' | 'float' | 'vector3' }>> = {
  baseColor: { input: 'base_color', type: 'color3' },
  baseMetalness: { input: 'base_metalness', type: 'float' },
  specularRoughness: { input: 'specular_roughness', type: 'float' },
  geometryOpacity: { input: 'geometry_opacity', type: 'float' },
  emissionColor: { input: 'emission_color', type: 'color3' },
  geometryNormal: { input: 'geometry_normal', type: 'vector3' },
}

/** Slots that keep their texture. */
export const MATERIALX_SLOTS: ReadonlySet<TextureSlot> = new Set(Object.keys(SLOT_INPUTS) as TextureSlot[])

const ENTITIES: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&apos;' }
const escapeXml = (text: string): string => text.replace(/[&<>"']/g, c => ENTITIES[c])

const CHANNELS = ['outr', 'outg', 'outb', 'outa']

/**
 * Writes a material as a MaterialX document.
 * @param files relative path of the file for each image index the textures name
 */
export function writeMaterialX(material: OpenPbrMaterial, files: ReadonlyMap<number, string>): string {
  const nodes: string[] = []
  const inputs: string[] = []
  const tile = material.tileSizeM
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
      ...(material.tiling === 'once'
        ? ['uaddressmode', 'vaddressmode'].map(mode => `      <input name="${mode}" type="string" value="clamp" />`)
        : []),
      ...(tile
        ? [
            `      <input name="realworldimagesize" type="vector2" value="${tile[0]}, ${tile[1]}" unittype="distance" unit="meter" />`,
            '      <input name="realworldtilesize" type="vector2" value="1, 1" unittype="distance" unit="meter" />',
          ]
        : []),
      '    </tiledimage>',
    )
    let source = `nodename="${node}"`
    if (target.type === 'float') {
      nodes.push(
        `    <separate3 name="${node}_split" type="multioutput">`,
        `      <input name="in" type="color3" nodename="${node}" />`,
        '    </separate3>',
      )
      source = `nodename="${node}_split" output="${CHANNELS[binding.channel]}"`
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
  const textured = new Set(Object.keys(material.textures).map(s => SLOT_INPUTS[s as TextureSlot]?.input))
  for (const [parameter, value] of Object.entries(material.parameters)) {
    const input = toInputName(parameter)
    // The grain is a tangent in MaterialX, made by nodes of its own.
    if (parameter === 'geometryTangentRotation') continue
    if (textured.has(input) || JSON.stringify(value) === JSON.stringify(OPEN_PBR_DEFAULTS[parameter as keyof OpenPbrParameters]))
      continue
    const type = typeof value === 'boolean' ? 'boolean' : typeof value === 'number' ? 'float' : 'color3'
    inputs.push(`      <input name="${input}" type="${type}" value="${Array.isArray(value) ? value.join(', ') : value}" />`)
  }
  const id = toIdentifier(material.name)
  return [
    '<?xml version="1.0"?>',
    '<materialx version="1.39" colorspace="lin_rec709">',
    ...nodes.map(n => n.slice(2)),
    `  <open_pbr_surface name="${id}_surface" type="surfaceshader">`,
    ...inputs.map(n => n.slice(2)),
    '  </open_pbr_surface>',
    `  <surfacematerial name="${id}" type="material">`,
    `    <input name="surfaceshader" type="surfaceshader" nodename="${id}_surface" />`,
    '  </surfacematerial>',
    '</materialx>',
    '',
  ].join('\n')
}

const toIdentifier = (name: string): string => name.replace(/[^A-Za-z0-9]+/g, '_').replace(/^(\d)/, '_$1') || 'material'
