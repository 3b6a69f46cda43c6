import { FileError } from '../../findings/failure'
import { isColorParameter, OPEN_PBR_DEFAULTS, type OpenPbrParameters, type ParameterName } from '../../material/open-pbr'
import type { MapRole } from '../../material/texture-set'
import type { Vec3 } from '../../math/vec3'
import { MtlxDocument, type MtlxInput, type MtlxNode, type MtlxSource } from './document'
import { GraphEvaluator, NotBaked, readValue } from './evaluate-graph'
import type { GraphImage } from './graph-images'
import type { Places, Values } from './graph-values'
import { findSurfaceModel, type InputMeaning, type SurfaceInput } from './surface-models'

export interface ParsedMaterialX {
  name: string
  parameters: Partial<OpenPbrParameters>
  /** Every file that the material's nodes name. */
  files: string[]
  tileSizeM: [number, number] | null
  /** Files that are a map as they are. */
  maps: { role: MapRole; file: string; handedness: 'openGl' | 'directX' | null }[]
  /** Maps that have to be worked out of a graph. */
  baked: MapRole[]
  /** What does not come along, in words. */
  lost: string[]
}

export interface BakedMap {
  role: MapRole
  width: number
  height: number
  channels: 1 | 3
  /** 0..1, rows from the top: linear; a normal as its map holds it. */
  data: Float32Array
}

/** One place in the middle of a picture: enough to know what is the same everywhere. */
const ONE_PLACE: Places = { u: Float32Array.of(0.5), v: Float32Array.of(0.5) }

/**
 * Reads a material: constants, the files that are maps as they are, and which maps its graph has to be worked out for. Surfaces of OpenPBR,
 * Standard Surface, glTF PBR and UsdPreviewSurface are told in OpenPBR.
 * @param material the name of one of several in the document; the first without it
 * @throws FileError when the text is not well-formed, declares entities or holds no surface that is known
 */
export function parseMaterialX(text: string, material: string | null = null): ParsedMaterialX {
  const document = new MtlxDocument(text)
  const subject = findSubject(document, material)
  const parsed: ParsedMaterialX = {
    name: subject.name,
    parameters: {},
    ...listFiles(document, subject),
    maps: [],
    baked: [],
    lost: [],
  }
  const evaluator = new GraphEvaluator(document, () => null)
  for (const [input, meaning] of listInputs(subject)) takeInput(document, evaluator, input, meaning, parsed)
  joinPacked(document, subject, parsed)
  subject.model.finish(parsed.parameters)
  return parsed
}

/** The names of all materials of a document, in their order. @throws FileError */
export function listMaterials(text: string): string[] {
  const document = new MtlxDocument(text)
  return [...document.allNodes()].filter(n => n.category === 'surfacematerial').map(n => n.name)
}

/** Rows worked out at a time: what a graph needs in between stays small. */
const ROWS_AT_ONCE = 16

/**
 * Works out the maps that a material's graph stands for, over one repeat of its pictures.
 * @param findImage decoded pictures by the address in the document
 * @returns maps of `width` by `height` texels; those that depend on a picture that is missing have its default
 * @throws FileError as {@link parseMaterialX}
 */
export function bakeMaps(
  text: string,
  material: string | null,
  findImage: (address: string) => GraphImage | null,
  width: number,
  height: number,
): BakedMap[] {
  const document = new MtlxDocument(text)
  const { baked } = parseMaterialX(text, material)
  const subject = findSubject(document, material)
  const evaluator = new GraphEvaluator(document, findImage)
  const made: BakedMap[] = []
  for (const [{ scope, input }, meaning] of listInputs(subject)) {
    const role = roleOf(meaning)
    if (!role || !baked.includes(role)) continue
    const channels = COLORED.has(role) ? 3 : 1
    const data = new Float32Array(width * height * channels)
    for (let top = 0; top < height; top += ROWS_AT_ONCE) {
      const rows = Math.min(ROWS_AT_ONCE, height - top)
      const values = evaluator.evaluate(scope, input, placesOfRows(top, rows, width, height))
      if (values) copyRows(values, meaning, data.subarray(top * width * channels, (top + rows) * width * channels), channels)
    }
    made.push({ role, width, height, channels, data })
  }
  return made
}

interface Subject {
  name: string
  surface: MtlxNode
  displacement: MtlxNode | null
  model: NonNullable<ReturnType<typeof findSurfaceModel>>
}

function findSubject(document: MtlxDocument, wanted: string | null): Subject {
  const materials = [...document.allNodes()].filter(n => n.category === 'surfacematerial')
  const material = materials.find(n => n.name === wanted) ?? materials[0]
  const shaderOf = (name: string) => {
    const source = material && document.resolve(material.scope, material.inputs.get(name))
    return source?.kind === 'node' ? source.node : null
  }
  const surface = shaderOf('surfaceshader') ?? [...document.allNodes()].find(n => findSurfaceModel(n.category)) ?? null
  const model = surface && findSurfaceModel(surface.category)
  if (!surface || !model)
    throw new FileError(
      'unsupported',
      surface
        ? `The MaterialX file has a surface of the kind ${surface.category}, which is not read; export it as OpenPBR or Standard Surface.`
        : 'The MaterialX file holds no surface.',
    )
  return { name: material?.name ?? surface.name, surface, displacement: shaderOf('displacementshader'), model }
}

interface GivenInput {
  scope: string
  input: MtlxInput
}

/** The inputs that somebody gave, with what they mean. */
function* listInputs({ surface, displacement, model }: Subject): Iterable<[GivenInput, SurfaceInput]> {
  for (const [name, meaning] of Object.entries(model.inputs)) {
    const input = surface.inputs.get(name)
    if (input) yield [{ scope: surface.scope, input }, meaning]
  }
  const height = displacement?.inputs.get('displacement')
  if (displacement && height) yield [{ scope: displacement.scope, input: height }, { to: 'height' }]
}

const ROLE_OF: Partial<Record<InputMeaning, MapRole>> = {
  baseColor: 'baseColor',
  specularRoughness: 'roughness',
  baseMetalness: 'metalness',
  geometryOpacity: 'opacity',
  emissionColor: 'emission',
  subsurfaceColor: 'translucency',
  normal: 'normal',
  height: 'height',
  occlusion: 'ambientOcclusion',
}
const COLORED: ReadonlySet<MapRole> = new Set(['baseColor', 'emission', 'translucency', 'normal'])
const ENCODED: ReadonlySet<MapRole> = new Set(['baseColor', 'emission', 'translucency'])

const roleOf = ({ to }: SurfaceInput): MapRole | null => ROLE_OF[to] ?? null

function takeInput(
  document: MtlxDocument,
  evaluator: GraphEvaluator,
  { scope, input }: GivenInput,
  meaning: SurfaceInput,
  parsed: ParsedMaterialX,
): void {
  const role = roleOf(meaning)
  const source = document.resolve(scope, input)
  const map = role && source && findPlainMap(document, source, role)
  if (map) {
    parsed.maps.push(map)
    return
  }
  if (source?.kind === 'value') {
    const numbers = readValue(source)
    if (numbers) setParameter(parsed.parameters, meaning, numbers)
    return
  }
  try {
    const values = evaluator.evaluate(scope, input, ONE_PLACE)
    if (!values) return
    const dependsOnPicture = source?.kind === 'node' && mentionsPicture(document, source.node)
    if (values.uniform && !dependsOnPicture) setParameter(parsed.parameters, meaning, [...values.data].map(toSixDigits))
    else if (role) parsed.baked.push(role)
    else parsed.lost.push(`what varies in ${input.name}`)
  } catch (error) {
    if (!(error instanceof NotBaked)) throw error
    parsed.lost.push(`${error.node} in ${input.name}`)
  }
}

function setParameter(parameters: Partial<OpenPbrParameters>, { to, by }: SurfaceInput, numbers: number[]): void {
  if (!isParameter(to)) return
  const given = by ? by(numbers) : numbers
  const standard = OPEN_PBR_DEFAULTS[to]
  const value =
    typeof standard === 'boolean'
      ? given[0] > 0
      : isColorParameter(to)
        ? given.length >= 3
          ? (given.slice(0, 3) as Vec3)
          : ([given[0], given[0], given[0]] as Vec3)
        : given[0]
  Object.assign(parameters, { [to]: value })
}

/** What single precision holds. */
const toSixDigits = (value: number): number => Number(value.toPrecision(6))

const isParameter = (name: string): name is ParameterName => name in OPEN_PBR_DEFAULTS

/** A file that is the map as it is: a picture, inverted where roughness is wanted, or through a normal map's own node. */
function findPlainMap(document: MtlxDocument, source: MtlxSource, role: MapRole): ParsedMaterialX['maps'][number] | null {
  if (source.kind !== 'node') return null
  const { node, output } = source
  const next = (name: string) => document.resolve(node.scope, node.inputs.get(name))
  if (node.category === 'normalmap' && role === 'normal') {
    const inner = next('in')
    const scale = next('scale')
    const factors = scale?.kind === 'value' ? scale.text.split(',').map(Number) : [1, 1]
    const map = inner && findPlainMap(document, inner, role)
    if (!map || scale?.kind === 'node' || Math.abs(factors[0]) !== 1 || Math.abs(factors[1] ?? factors[0]) !== 1) return null
    if (factors[0] < 0) return null
    return { ...map, handedness: (factors[1] ?? 1) < 0 ? 'directX' : 'openGl' }
  }
  if (node.category === 'invert' && role === 'roughness' && !node.inputs.has('amount')) {
    const inner = next('in')
    const map = inner && findPlainMap(document, inner, role)
    return map && map.role === 'roughness' ? { ...map, role: 'gloss' } : null
  }
  const isFirstChannel = output === 'outr' || output === 'outx'
  if (node.category.startsWith('separate') && isFirstChannel && !COLORED.has(role)) {
    const inner = next('in')
    return inner && findPlainMap(document, inner, role)
  }
  if (!isPicture(node) || node.inputs.has('texcoord') || node.inputs.has('uvoffset')) return null
  if (['factor', 'color', 'scale'].some(name => node.inputs.has(name)) || output === 'outa') return null
  const file = next('file')
  if (file?.kind !== 'value' || file.text === '') return null
  // A colour that is not encoded as house maps are is encoded anew.
  if (ENCODED.has(role) && file.colorSpace !== null && file.colorSpace !== 'srgb_texture') return null
  if (!ENCODED.has(role) && file.colorSpace === 'srgb_texture' && node.type.startsWith('color')) return null
  return { role, file: file.text, handedness: null }
}

/** Occlusion, roughness and metalness in the channels of one picture are the packed map that it is. */
function joinPacked(document: MtlxDocument, { surface }: Subject, parsed: ParsedMaterialX): void {
  const channelOf = (name: string): { file: string; channel: string } | null => {
    const source = document.resolve(surface.scope, surface.inputs.get(name))
    if (source?.kind !== 'node' || !source.node.category.startsWith('separate') || source.output === null) return null
    const picture = document.resolve(source.node.scope, source.node.inputs.get('in'))
    if (picture?.kind !== 'node' || !isPicture(picture.node) || picture.node.inputs.has('texcoord')) return null
    const file = document.resolve(picture.node.scope, picture.node.inputs.get('file'))
    return file?.kind === 'value' ? { file: file.text, channel: source.output.slice(-1) } : null
  }
  const first = (names: string[]) => names.map(channelOf).find(c => c !== null) ?? null
  const roughness = first(['specular_roughness', 'roughness'])
  const metalness = first(['base_metalness', 'metalness', 'metallic'])
  const isPacked =
    roughness?.file === metalness?.file && 'gy'.includes(roughness?.channel ?? '-') && 'bz'.includes(metalness?.channel ?? '-')
  if (!roughness || !isPacked) return
  parsed.baked = parsed.baked.filter(role => role !== 'roughness' && role !== 'metalness')
  parsed.maps = [...parsed.maps.filter(m => m.file !== roughness.file), { role: 'orm', file: roughness.file, handedness: null }]
}

/** A node and all that feed it, each once. */
function* nodesBehind(document: MtlxDocument, from: readonly MtlxNode[]): Iterable<MtlxNode> {
  const seen = new Set<MtlxNode>()
  const pending = [...from]
  for (let node = pending.pop(); node; node = pending.pop()) {
    if (seen.has(node)) continue
    seen.add(node)
    yield node
    for (const input of node.inputs.values()) {
      const source = document.resolve(node.scope, input)
      if (source?.kind === 'node') pending.push(source.node)
    }
  }
}

const PICTURES = ['image', 'tiledimage', 'gltf_image', 'gltf_colorimage', 'gltf_normalmap']
const isPicture = ({ category }: MtlxNode): boolean => PICTURES.includes(category)

/** Whether a picture takes part in a node, which then varies though it may not at one place. */
const mentionsPicture = (document: MtlxDocument, from: MtlxNode): boolean => [...nodesBehind(document, [from])].some(isPicture)

const UNIT_METRES: Record<string, number> = { millimeter: 0.001, centimeter: 0.01, inch: 0.0254, foot: 0.3048 }

function listFiles(document: MtlxDocument, { surface, displacement }: Subject): Pick<ParsedMaterialX, 'files' | 'tileSizeM'> {
  const files = new Set<string>()
  let tileSizeM: [number, number] | null = null
  for (const node of nodesBehind(document, displacement ? [displacement, surface] : [surface])) {
    const file = document.resolve(node.scope, node.inputs.get('file'))
    if (file?.kind === 'value' && file.text) files.add(file.text)
    const size = document.resolve(node.scope, node.inputs.get('realworldimagesize'))
    if (size?.kind !== 'value') continue
    const [w, h = w] = size.text.split(',').map(Number)
    const toMetres = UNIT_METRES[size.unit ?? ''] ?? 1
    if (w > 0 && h > 0) tileSizeM = [w * toMetres, h * toMetres]
  }
  return { files: [...files], tileSizeM }
}

function placesOfRows(top: number, rows: number, width: number, height: number): Places {
  const places = { u: new Float32Array(rows * width), v: new Float32Array(rows * width) }
  for (let y = 0; y < rows; y++)
    for (let x = 0; x < width; x++) {
      places.u[y * width + x] = (x + 0.5) / width
      places.v[y * width + x] = 1 - (top + y + 0.5) / height
    }
  return places
}

function copyRows(
  { channels: given, data, uniform }: Values,
  { to, by }: SurfaceInput,
  dst: Float32Array,
  channels: number,
): void {
  const list = Array<number>(given).fill(0)
  for (let i = 0; i < dst.length / channels; i++) {
    for (let c = 0; c < given; c++) list[c] = data[(uniform ? 0 : i * given) + c]
    const values = by && to !== 'emissionColor' ? by(list) : list
    for (let c = 0; c < channels; c++) dst[i * channels + c] = Math.min(1, Math.max(0, values[c] ?? values[0]))
  }
}
