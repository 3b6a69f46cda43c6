import { computeBounds, type Mesh } from '../../geometry/mesh'
import type { ModelGroup } from '../../geometry/model'
import type { OpenPbrMaterial } from '../../material/open-pbr'
import type { Stamp } from '../../stamp'
import { type FileSpace, METRES_A_UNIT, placeInto, turnInto } from '../space'
import { shortFloat, TextChunks } from '../text-chunks'
import { materialPrim } from './usd-preview-surface'
import { createPrimNames, indent, quoted, shortTuple, toPrimName } from './usd-text'

/** What becomes one stage: named meshes in metres with y up, and their materials. */
export interface StageSubject {
  name: string
  /** Those of one group stand below it, where they stand in the world all the same. */
  parts: readonly { name: string; mesh: Mesh; hasUvs: boolean; material: number; groups?: readonly ModelGroup[] }[]
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
      '#usda 1.0',
      '(',
      ...indent(customData('customLayerData', subject.stamp), 1),
      `    defaultPrim = "${root}"`,
      `    metersPerUnit = ${METRES_A_UNIT[options.unit]}`,
      `    upAxis = "${options.upAxis.toUpperCase()}"`,
      ')',
      '',
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
  const paths = subject.materials.map(m => `/${root}/${scope}/${materialName(m.name)}`)
  const writeTree = (node: Branch, depth: number) => {
    for (const part of node.parts) writeMesh(text, part, nameOf(part.name), paths[part.material] ?? null, options, depth)
    for (const { name, stamp, ...below } of node.branches.values()) {
      const data = indent([...customData('customData', stamp), ...displayName(name)], 1)
      lines(
        [...(data.length > 0 ? [`def Xform "${nameOf(name)}" (`, ...data, ')'] : [`def Xform "${nameOf(name)}"`]), '{'],
        depth,
      )
      writeTree(below, depth + 1)
      lines(['}'], depth)
    }
  }
  writeTree(toTree(subject.parts), 1)
  if (paths.length > 0) {
    lines([`def Scope "${scope}"`, '{'], 1)
    for (const [i, material] of subject.materials.entries())
      lines(
        materialPrim(material, {
          ...options,
          path: paths[i],
          metadata: [...customData('customData', subject.materialStamps?.get(i) ?? subject.stamp), ...displayName(material.name)],
        }),
        2,
      )
    lines(['}'], 1)
  }
  lines(['}'], 0)
  return text.toBytes()
}

/** A name as people wrote it, where a prim may not have it. */
const displayName = (name: string): string[] => (toPrimName(name) === name ? [] : [`displayName = ${quoted(name)}`])

const customData = (name: string, stamp: Stamp | null): string[] =>
  stamp
    ? [
        `${name} = {`,
        '    dictionary muscovite = {',
        `        string code = ${quoted(stamp.code)}`,
        `        int version = ${stamp.version}`,
        '    }',
        '}',
      ]
    : []

type StagePart = StageSubject['parts'][number]

/** Parts, and what groups are beside them, by their nodes. */
interface Branch {
  parts: StagePart[]
  branches: Map<number, Branch & Pick<ModelGroup, 'name' | 'stamp'>>
}

function toTree(parts: readonly StagePart[]): Branch {
  const root: Branch = { parts: [], branches: new Map() }
  for (const part of parts) {
    let at: Branch = root
    for (const { node, name, stamp } of part.groups ?? []) {
      const next = at.branches.get(node) ?? { name, stamp, parts: [], branches: new Map() }
      at.branches.set(node, next)
      at = next
    }
    at.parts.push(part)
  }
  return root
}

function writeMesh(
  text: TextChunks,
  part: StagePart,
  name: string,
  material: string | null,
  space: FileSpace,
  depth: number,
): void {
  const pad = '    '.repeat(depth)
  const { mesh, hasUvs } = part
  const vertices = mesh.positions.length / 3
  const { min, max } = computeBounds(mesh.positions)
  const corners = [placeInto(space, min), placeInto(space, max)]
  const extent = [0, 1].map(k => [0, 1, 2].map(c => Math[k === 0 ? 'min' : 'max'](corners[0][c], corners[1][c])))
  const applied = material ? ` (\n${pad}    prepend apiSchemas = ["MaterialBindingAPI"]\n${pad})` : ''
  text.write(`${pad}def Mesh "${name}"${applied}\n${pad}{\n`)
  text.write(`        float3[] extent = [${extent.map(shortTuple).join(', ')}]\n`)
  writeList(text, 'int[] faceVertexCounts', mesh.indices.length / 3, () => '3')
  writeList(text, 'int[] faceVertexIndices', mesh.indices.length, i => String(mesh.indices[i]))
  if (material) text.write(`        rel material:binding = <${material}>\n`)
  const { positions: p, normals: n, uvs } = mesh
  writeList(
    text,
    'normal3f[] normals',
    vertices,
    i => shortTuple(turnInto(space, [n[3 * i], n[3 * i + 1], n[3 * i + 2]])),
    VERTEX,
  )
  writeList(text, 'point3f[] points', vertices, i => shortTuple(placeInto(space, [p[3 * i], p[3 * i + 1], p[3 * i + 2]])))
  // Its origin is below, ours above.
  if (hasUvs)
    writeList(
      text,
      'texCoord2f[] primvars:st',
      vertices,
      i => `(${shortFloat(uvs[2 * i])}, ${shortFloat(1 - uvs[2 * i + 1])})`,
      VERTEX,
    )
  text.write(`        uniform token subdivisionScheme = "none"\n${pad}}\n`)
}

const VERTEX = ' (\n            interpolation = "vertex"\n        )'
const ENTRIES_A_PIECE = 4096

function writeList(text: TextChunks, name: string, count: number, entry: (i: number) => string, metadata = ''): void {
  text.write(`        ${name} = [`)
  for (let from = 0; from < count; from += ENTRIES_A_PIECE) {
    const piece = Array.from({ length: Math.min(ENTRIES_A_PIECE, count - from) }, (_, i) => entry(from + i))
    text.write(`${from > 0 ? ', ' : ''}${piece.join(', ')}`)
  }
  text.write(`]${metadata}\n`)
}
