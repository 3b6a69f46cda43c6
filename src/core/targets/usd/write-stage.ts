import { computeBounds, type Mesh } from '../../geometry/mesh'
import type { ModelCamera, ModelGroup, ModelLight, ModelPart } from '../../geometry/model'
import type { OpenPbrMaterial } from '../../material/open-pbr'
import type { Vec3 } from '../../math/vec3'
import type { Stamp } from '../../stamp'
import { type FileSpace, METRES_A_UNIT, placeInto, turnInto } from '../space'
import { shortFloat, TextChunks } from '../text-chunks'
import { usdCameraLines, usdLightLines } from './usd-light'
import { materialPrim } from './usd-preview-surface'
import { asset, createPrimNames, indent, quoted, shortTuple, toPrimName } from './usd-text'

type StagePart = Pick<ModelPart, 'name' | 'mesh' | 'hasUvs' | 'material' | 'groups' | 'placement'>

/** What becomes one stage: named meshes in metres with y up, and their materials. */
export interface StageSubject {
  name: string
  /** Those of one group stand below it, where they stand in the world all the same. */
  parts: readonly StagePart[]
  lights?: readonly ModelLight[]
  cameras?: readonly ModelCamera[]
  materials: readonly OpenPbrMaterial[]
  /** Of materials that are of another item than the whole, by their numbers. */
  materialStamps?: ReadonlyMap<number, Stamp>
  /** Where it is from; null of what is of several places. */
  stamp: Stamp | null
}

export interface StageOptions extends FileSpace {
  /** Relative path of the file for each image index the textures name. */
  files: ReadonlyMap<number, string>
  areFactors?: boolean
  withMaterialX?: boolean
  /** Relative paths of the layers that hold what stands at several places, each with a shape as `writeUsdShape` writes it. */
  shapes?: ReadonlyMap<Mesh, string>
}

/**
 * A text layer of OpenUSD (UsdGeom, UsdShade): one component with its meshes, points in the unit and axes asked for, and a scope of
 * materials. Normals and texture coordinates stand at vertices; nothing is subdivided.
 * @returns UTF-8
 */
export function writeUsdStage(subject: StageSubject, options: StageOptions): Uint8Array {
  const root = toPrimName(subject.name)
  const text = new TextChunks()
  const lines = (list: readonly string[], depth: number) => text.write(`${indent(list, depth).join('\n')}\n`)
  lines(
    [
      ...layerHead(root, options, customData('customLayerData', subject.stamp)),
      `def Xform "${root}" (`,
      ...indent(customData('customData', subject.stamp), 1),
      '    kind = "component"',
      ')',
      '{',
    ],
    0,
  )
  const nameOf = createPrimNames()
  const scope = nameOf('Materials')
  const materialName = createPrimNames()
  const prims = subject.materials.map(m => materialName(m.name))
  const paths = prims.map(prim => `/${root}/${scope}/${prim}`)
  const writeTree = (node: Branch, depth: number) => {
    for (const part of node.parts) {
      const shape = options.shapes?.get(part.mesh)
      const material = paths[part.material] ?? null
      if (shape !== undefined) lines(placedLines(part, nameOf(part.name), { shape, material, space: options }), depth)
      else writeMesh(text, part, nameOf(part.name), { material, space: options, depth })
    }
    for (const stray of node.strays) lines(strayLines(stray, nameOf(stray.name || stray.prim), options), depth)
    for (const { name, stamp, ...below } of node.branches.values()) {
      const own = nameOf(name)
      lines([...definition('Xform', own, [...customData('customData', stamp), ...displayName(name, own)]), '{'], depth)
      writeTree(below, depth + 1)
      lines(['}'], depth)
    }
  }
  writeTree(toTree(subject, options), 1)
  if (paths.length > 0) {
    lines([`def Scope "${scope}"`, '{'], 1)
    for (const [i, material] of subject.materials.entries())
      lines(
        materialPrim(material, {
          ...options,
          path: paths[i],
          metadata: [
            ...customData('customData', subject.materialStamps?.get(i) ?? subject.stamp),
            ...displayName(material.name, prims[i]),
          ],
        }),
        2,
      )
    lines(['}'], 1)
  }
  lines(['}'], 0)
  return text.toBytes()
}

/** What a layer begins with. */
const layerHead = (root: string, { unit, upAxis }: FileSpace, data: readonly string[] = []): string[] => [
  '#usda 1.0',
  '(',
  ...indent(
    [...data, `defaultPrim = "${root}"`, `metersPerUnit = ${METRES_A_UNIT[unit]}`, `upAxis = "${upAxis.toUpperCase()}"`],
    1,
  ),
  ')',
  '',
]

/** A name as people wrote it, where its prim is called otherwise. */
const displayName = (name: string, prim: string): string[] =>
  name === prim || name === '' ? [] : [`displayName = ${quoted(name)}`]

const customData = (name: string, stamp: Stamp | null): string[] =>
  stamp
    ? [
        `${name} = {`,
        '    dictionary muscovite = {',
        `        string code = ${quoted(stamp.code)}`,
        ...(stamp.isCopy ? ['        bool isCopy = 1'] : []),
        `        int version = ${stamp.version}`,
        '    }',
        '}',
      ]
    : []

/** Parts, and what groups are beside them, by their nodes. */
interface Branch {
  parts: StagePart[]
  strays: Stray[]
  branches: Map<number, Branch & Pick<ModelGroup, 'name' | 'stamp'>>
}

function toTree({ parts, lights = [], cameras = [] }: StageSubject, space: FileSpace): Branch {
  const empty = (): Branch => ({ parts: [], strays: [], branches: new Map() })
  const root = empty()
  const branchOf = (groups: readonly ModelGroup[] = []): Branch => {
    let at: Branch = root
    for (const { node, name, stamp } of groups) {
      const next = at.branches.get(node) ?? { ...empty(), name, stamp }
      at.branches.set(node, next)
      at = next
    }
    return at
  }
  for (const part of parts) branchOf(part.groups).parts.push(part)
  for (const light of lights) {
    const { type: prim, ...lines } = usdLightLines(light, space)
    branchOf(light.groups).strays.push({ ...light, prim, ...lines })
  }
  for (const camera of cameras)
    branchOf(camera.groups).strays.push({ ...camera, prim: 'Camera', schemas: [], attributes: usdCameraLines(camera) })
  return root
}

/** A light or a camera: what is no part. */
type Stray = Pick<ModelLight, 'name' | 'placement' | 'stamp'> & { prim: string; schemas: string[]; attributes: string[] }

function strayLines({ name, prim, placement, stamp, schemas, attributes }: Stray, own: string, space: FileSpace): string[] {
  const metadata = [...applySchemas(schemas), ...customData('customData', stamp), ...displayName(name, own)]
  return [
    ...definition(prim, own, metadata),
    '{',
    // It looks along -z in any stage, whichever axis points up.
    ...indent([...attributes, ...transformLines(axesIn(space, placement), placement, space)], 1),
    '}',
  ]
}

/** A part that is there once, at one of its places. */
function placedLines(
  { name, placement }: StagePart,
  own: string,
  { shape, material, space }: { shape: string; material: string | null; space: FileSpace },
): string[] {
  const metadata = [
    ...applySchemas(material ? ['MaterialBindingAPI'] : []),
    ...displayName(name, own),
    'instanceable = true',
    `prepend references = ${asset(shape)}`,
  ]
  const binding = material ? [`rel material:binding = <${material}>`] : []
  return [
    ...definition('Xform', own, metadata),
    '{',
    ...indent([...binding, ...transformLines(shapeAxesIn(space, placement!), placement!, space)], 1),
    '}',
  ]
}

const definition = (type: string, name: string, metadata: readonly string[]): string[] =>
  metadata.length > 0 ? [`def ${type} "${name}" (`, ...indent(metadata, 1), ')'] : [`def ${type} "${name}"`]

const applySchemas = (schemas: readonly string[]): string[] =>
  schemas.length > 0 ? [`prepend apiSchemas = [${schemas.map(quoted).join(', ')}]`] : []

/** Where a placement turns our axes to, in a file's. */
const axesIn = (space: FileSpace, m: readonly number[]): Vec3[] =>
  [0, 4, 8].map(at => turnInto(space, [m[at], m[at + 1], m[at + 2]]))

/** Where it turns the file's axes to: those that a shape is written in. */
function shapeAxesIn(space: FileSpace, m: readonly number[]): Vec3[] {
  const turned = axesIn(space, m)
  const ours = AXES.map(axis => turnInto(space, axis))
  return AXES.map((_, k) => [0, 1, 2].map(c => ours.reduce((sum, axis, j) => sum + axis[k] * turned[j][c], 0)) as Vec3)
}

/** As rows, which are what columns are with us. */
function transformLines(axes: readonly Vec3[], placement: readonly number[], space: FileSpace): string[] {
  const place = placeInto(space, [placement[12], placement[13], placement[14]])
  const said = [...axes.map(axis => [...axis, 0]), [...place, 1]].map(shortTuple)
  return [`matrix4d xformOp:transform = (${said.join(', ')})`, 'uniform token[] xformOpOrder = ["xformOp:transform"]']
}
const AXES: readonly Vec3[] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
]

/** A layer with one shape in its own place, for prims of a stage to refer to. @returns UTF-8 */
export function writeUsdShape(part: Pick<StagePart, 'mesh' | 'hasUvs'>, space: FileSpace): Uint8Array {
  const text = new TextChunks()
  text.write([...layerHead('shape', space), 'def Xform "shape"', '{', ''].join('\n'))
  writeMesh(text, { ...part, name: 'mesh' }, 'mesh', { material: null, space, depth: 1 })
  text.write('}\n')
  return text.toBytes()
}

function writeMesh(
  text: TextChunks,
  part: Pick<StagePart, 'name' | 'mesh' | 'hasUvs'>,
  own: string,
  { material, space, depth }: { material: string | null; space: FileSpace; depth: number },
): void {
  const pad = '    '.repeat(depth)
  const inside = `${pad}    `
  const atVertices = ` (\n${inside}    interpolation = "vertex"\n${inside})`
  const list = (name: string, count: number, entry: (i: number) => string, metadata = '') =>
    writeList(text, `${inside}${name}`, { count, entry, metadata })
  const { mesh, hasUvs } = part
  const vertices = mesh.positions.length / 3
  const { min, max } = computeBounds(mesh.positions)
  const corners = [placeInto(space, min), placeInto(space, max)]
  const extent = [0, 1].map(k => [0, 1, 2].map(c => Math[k === 0 ? 'min' : 'max'](corners[0][c], corners[1][c])))
  const metadata = [...applySchemas(material ? ['MaterialBindingAPI'] : []), ...displayName(part.name, own)]
  text.write(`${indent([...definition('Mesh', own, metadata), '{'], depth).join('\n')}\n`)
  text.write(`${inside}float3[] extent = [${extent.map(shortTuple).join(', ')}]\n`)
  list('int[] faceVertexCounts', mesh.indices.length / 3, () => '3')
  list('int[] faceVertexIndices', mesh.indices.length, i => String(mesh.indices[i]))
  if (material) text.write(`${inside}rel material:binding = <${material}>\n`)
  const { positions: p, normals: n, uvs } = mesh
  list('normal3f[] normals', vertices, i => shortTuple(turnInto(space, [n[3 * i], n[3 * i + 1], n[3 * i + 2]])), atVertices)
  list('point3f[] points', vertices, i => shortTuple(placeInto(space, [p[3 * i], p[3 * i + 1], p[3 * i + 2]])))
  // Its origin is below, ours above.
  if (hasUvs)
    list('texCoord2f[] primvars:st', vertices, i => `(${shortFloat(uvs[2 * i])}, ${shortFloat(1 - uvs[2 * i + 1])})`, atVertices)
  text.write(`${inside}uniform token subdivisionScheme = "none"\n${pad}}\n`)
}

const ENTRIES_A_PIECE = 4096

function writeList(
  text: TextChunks,
  name: string,
  { count, entry, metadata }: { count: number; entry: (i: number) => string; metadata: string },
): void {
  text.write(`${name} = [`)
  for (let from = 0; from < count; from += ENTRIES_A_PIECE) {
    const piece = Array.from({ length: Math.min(ENTRIES_A_PIECE, count - from) }, (_, i) => entry(from + i))
    text.write(`${from > 0 ? ', ' : ''}${piece.join(', ')}`)
  }
  text.write(`]${metadata}\n`)
}
