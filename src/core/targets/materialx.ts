import { XMLParser, XMLValidator } from 'fast-xml-parser'
import { FileError } from '../findings/failure'
import { OPEN_PBR_DEFAULTS, type OpenPbrMaterial, type OpenPbrParameters, type TextureSlot } from '../material/open-pbr'
import type { Vec3 } from '../math/vec3'

/** MaterialX 1.39 with an `open_pbr_surface` (Academy Software Foundation). Our parameter names are its inputs, in camel case. */

const toInputName = (parameter: string): string => parameter.replace(/[A-Z0-9]+/g, m => `_${m.toLowerCase()}`)
const toParameterName = (input: string): string => input.replace(/_([a-z0-9])/g, (_, c: string) => c.toUpperCase())

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

export interface ParsedMaterialX {
  name: string
  parameters: Partial<OpenPbrParameters>
  /** Every file the document names. */
  files: string[]
  tileSizeM: [number, number] | null
}

type XmlNode = Record<string, unknown>
const asList = (value: unknown): XmlNode[] => (Array.isArray(value) ? value : value ? [value] : []) as XmlNode[]

function parseXml(text: string): XmlNode {
  const parser = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: '', processEntities: true, htmlEntities: true })
  try {
    return parser.parse(text)
  } catch {
    // Some damage passes the validator and not the parser.
    throw new FileError('malformed', 'The MaterialX file is not well-formed XML.')
  }
}

/**
 * Reads constants, file names and real-world size of the first `open_pbr_surface`.
 * @throws FileError when the text is not well-formed, declares entities or holds none
 */
export function parseMaterialX(text: string): ParsedMaterialX {
  if (/<!(DOCTYPE|ENTITY)/i.test(text)) throw new FileError('unsupported', 'A MaterialX file may not declare entities.')
  if (XMLValidator.validate(text) !== true) throw new FileError('malformed', 'The MaterialX file is not well-formed XML.')
  const root = parseXml(text).materialx as XmlNode | undefined
  const surface = asList(root?.open_pbr_surface)[0]
  if (!root || !surface) throw new FileError('unsupported', 'The MaterialX file holds no open_pbr_surface.')
  const parameters: Record<string, unknown> = {}
  for (const input of asList(surface.input)) {
    const name = toParameterName(String(input.name))
    const given = OPEN_PBR_DEFAULTS[name as keyof OpenPbrParameters]
    if (given === undefined || input.value === undefined) continue
    const numbers = String(input.value).split(',').map(Number)
    if (typeof given === 'boolean') parameters[name] = input.value === 'true'
    else if (typeof given === 'number' && Number.isFinite(numbers[0])) parameters[name] = numbers[0]
    else if (numbers.length === 3 && numbers.every(Number.isFinite)) parameters[name] = numbers as Vec3
  }
  const files: string[] = []
  let tileSizeM: [number, number] | null = null
  for (const kind of ['image', 'tiledimage'])
    for (const node of asList(root[kind]))
      for (const input of asList(node.input)) {
        if (input.name === 'file') files.push(String(input.value))
        if (input.name === 'realworldimagesize') {
          const [w, h] = String(input.value).split(',').map(Number)
          const toMetres = input.unit === 'millimeter' ? 0.001 : input.unit === 'centimeter' ? 0.01 : 1
          if (w > 0 && h > 0) tileSizeM = [w * toMetres, h * toMetres]
        }
      }
  const name = String(asList(root.surfacematerial)[0]?.name ?? surface.name ?? 'material')
  return { name, parameters: parameters as Partial<OpenPbrParameters>, files, tileSizeM }
}
