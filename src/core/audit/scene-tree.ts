import type { Stamp } from '../stamp'
import { findModel, type ModelIndex } from './audit-model'
import {
  addMoments,
  isMirroring,
  type Matrix,
  type ModelPrint,
  moveMoments,
  type PartPrint,
  scaleOf,
  shapeOf,
} from './model-print'

/** A node of a scene with what stands at it. */
export interface SceneTreeNode {
  /** Its number in the file. */
  id: number
  name: string
  stamp: Stamp | null
  /** In the scene, column by column. */
  world: Matrix
  parts: PartPrint[]
  children: SceneTreeNode[]
  /** How often it stands there, where it is an instanced one. */
  instances: number
}

export interface Thing {
  node: SceneTreeNode
  print: ModelPrint
  instances: number
}

/** What is longer than this is what things stand in, not a thing. */
const LONGEST_THING_M = 7

/** Codes of models by the numbers of the materials that are their own. */
export type Owners = ReadonlyMap<number, string>
const NOBODY: Owners = new Map()

/** Prints a node with all below it, as it stands. */
export function printModel(node: SceneTreeNode, owners = NOBODY): ModelPrint {
  const parts: ModelPrint['parts'] = []
  const collect = (n: SceneTreeNode) => {
    for (const part of n.parts) parts.push({ ...part, placed: moveMoments(part.moments, n.world) })
    for (const child of n.children) collect(child)
  }
  collect(node)
  return {
    name: node.name,
    stamp: node.stamp,
    parts,
    owners: parts.map(p => (p.material === null ? null : (owners.get(p.material) ?? null))),
    moments: addMoments(parts.map(p => p.placed)),
    triangles: parts.reduce((sum, part) => sum + part.triangles, 0),
    scale: scaleOf(node.world),
    isMirrored: isMirroring(node.world),
  }
}

/**
 * The things of a scene: stamped nodes; what a library knows, the largest that it knows first; and of the rest whatever stands for itself.
 * Walls, floors and ground are not among them.
 */
export function listThings(roots: readonly SceneTreeNode[], index: ModelIndex, owners = NOBODY): Thing[] {
  const things: Thing[] = []
  const take = (node: SceneTreeNode, print: ModelPrint) => things.push({ node, print, instances: instancesOf(node) })
  /** Whether all below a node is of nobody, so that it may be one foreign thing. */
  const walk = (node: SceneTreeNode): { print: ModelPrint; isForeign: boolean; loose: (() => void)[] } => {
    const print = printModel(node, owners)
    if (print.parts.length === 0) return { print, isForeign: true, loose: [] }
    const found = findModel(print, index)
    if (node.stamp !== null || (found && !node.children.some(child => holdsBetter(child, found)))) {
      take(node, print)
      return { print, isForeign: false, loose: [] }
    }
    const below = node.children.map(walk)
    const isForeign = below.every(b => b.isForeign)
    const own = () => {
      if (lengthOf(print) > LONGEST_THING_M || isSurface(print)) return
      const thing = innermost(node)
      take(thing, thing === node ? print : printModel(thing, owners))
    }
    if (isForeign && !isLayer(node, print)) return { print, isForeign, loose: [own] }
    for (const b of below) for (const put of b.loose) put()
    return { print, isForeign: false, loose: [] }
  }
  /** A group of two things looks like the larger with parts too many: then it is the larger that is the thing. */
  const holdsBetter = (node: SceneTreeNode, than: NonNullable<ReturnType<typeof findModel>>): boolean => {
    if (than.difference.changes.length === 0) return false
    const own = findModel(printModel(node, owners), index)
    const isBetter = own?.reference.code === than.reference.code && own.difference.distance < than.difference.distance
    return isBetter || node.children.some(child => holdsBetter(child, than))
  }
  for (const root of roots) for (const put of walk(root).loose) put()
  return things
}

/** A node that only holds other things together: of many children, or of what stands far apart. */
const isLayer = (node: SceneTreeNode, print: ModelPrint): boolean =>
  node.parts.length === 0 && node.children.length > 1 && (node.children.length > MOST_PARTS || lengthOf(print) > LONGEST_THING_M)

const MOST_PARTS = 12

/** A group of nothing but another group is only around it. */
function innermost(node: SceneTreeNode): SceneTreeNode {
  const [only] = node.children
  const isAround = node.parts.length === 0 && node.children.length === 1 && only.parts.length === 0
  return isAround ? innermost(only) : node
}

/** A flat piece of room or ground. */
const isSurface = (print: ModelPrint): boolean => {
  const shape = shapeOf(print.moments)
  return shape !== null && shape.spreads[2] < FLAT && lengthOf(print) > SHORTEST_SURFACE_M
}
const FLAT = 0.01
const SHORTEST_SURFACE_M = 1

/** About as long as it is: a bar's ends are the root of three times its spread from the middle. */
const lengthOf = (print: ModelPrint): number => {
  const shape = shapeOf(print.moments)
  return shape ? 2 * Math.sqrt(3) * shape.spreads[0] * shape.radiusM : 0
}

const instancesOf = (node: SceneTreeNode): number => Math.max(node.instances, ...node.children.map(instancesOf), 1)
