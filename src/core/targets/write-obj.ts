import type { Mesh } from '../geometry/mesh'
import type { ModelGroup } from '../geometry/model'
import type { Stamp } from '../stamp'
import { type FileSpace, placeInto, turnInto } from './space'
import { shortFloat, TextChunks } from './text-chunks'
import { createUniqueNames } from './unique-names'

export interface ObjSubject {
  /** Of the MTL file beside it. */
  library: string
  parts: readonly {
    name: string
    mesh: Mesh
    hasUvs: boolean /** Name in the library; null for none. */
    material: string | null
    /** That it stands in, the outermost first. */
    groups?: readonly ModelGroup[]
  }[]
  /** Where it is from; null of what is of several places. */
  stamp: Stamp | null
}

/** Wavefront OBJ: one object a part, before it the groups that it stands in. @returns UTF-8 */
export function writeObj({ library, parts, stamp }: ObjSubject, space: FileSpace): Uint8Array {
  const text = new TextChunks()
  if (stamp) text.write(`# ${stampComment(stamp)}\n`)
  text.write(`# lengths in ${space.unit}, ${space.upAxis} up\nmtllib ${library}\n`)
  let vertices = 1
  let coordinates = 1
  const nameGroup = createGroupNames()
  for (const { name, mesh, hasUvs, material, groups = [] } of parts) {
    const { positions: p, normals: n, uvs, indices } = mesh
    const count = p.length / 3
    if (groups.length > 0) text.write(`g ${groups.map(nameGroup).join(' ')}\n`)
    for (const group of groups) if (group.stamp) text.write(`# ${stampComment(group.stamp)} ${nameGroup(group)}\n`)
    text.write(`o ${toObjName(name)}\n`)
    for (let i = 0; i < p.length; i += 3) text.write(`v ${list(placeInto(space, [p[i], p[i + 1], p[i + 2]]))}\n`)
    if (hasUvs) for (let i = 0; i < uvs.length; i += 2) text.write(`vt ${list([uvs[i], 1 - uvs[i + 1]])}\n`)
    for (let i = 0; i < n.length; i += 3) text.write(`vn ${list(turnInto(space, [n[i], n[i + 1], n[i + 2]]))}\n`)
    if (material) text.write(`usemtl ${toObjName(material)}\n`)
    const corner = (i: number) => `${i + vertices}/${hasUvs ? i + coordinates : ''}/${i + vertices}`
    for (let i = 0; i < indices.length; i += 3)
      text.write(`f ${corner(indices[i])} ${corner(indices[i + 1])} ${corner(indices[i + 2])}\n`)
    vertices += count
    if (hasUvs) coordinates += count
  }
  return text.toBytes()
}

/** A name of its own for every node. */
function createGroupNames(): (group: ModelGroup) => string {
  const names = new Map<number, string>()
  const nameOf = createUniqueNames(toObjName)
  return ({ node, name }) => {
    const own = names.get(node) ?? nameOf(name)
    names.set(node, own)
    return own
  }
}

const list = (values: readonly number[]): string => values.map(shortFloat).join(' ')

/** A name without blanks: readers end one at the first. */
export const toObjName = (name: string): string => name.trim().replace(/\s+/g, '_') || 'part'

/** Says where a thing is from, in forms that have nothing but comments. */
export const stampComment = ({ code, version, isCopy }: Stamp): string => `muscovite${isCopy ? '-copy' : ''} ${code} ${version}`
