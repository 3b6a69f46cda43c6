import { createFinding, type Finding } from '../findings/finding'
import { MODEL_TEXTURE_BUDGET_PX } from '../standard/categories'
import { countEdges, type EdgeCounts } from './edges'
import { type Bounds, computeBounds } from './mesh'
import type { Model } from './model'
import { isTellingName } from './part-names'

export interface ModelSubject {
  model: Model
  bounds: Bounds
  triangles: number
  degenerateTriangles: number
  /** By part. */
  edges: readonly EdgeCounts[]
  /** Extent a thing of this category has in its largest dimension, in metres; null when unknown. */
  expectedSizeM: [number, number] | null
  triangleBudget: number | null
  /** Triangles of the coarser levels of detail that are there, best first. */
  levels: readonly number[]
  /** The longer side of each texture, in pixels. */
  textureSizesPx: readonly number[]
}

export type ModelCheck = (subject: ModelSubject) => Finding[]

const UNIT_FACTORS = [0.001, 0.01, 0.0254, 0.3048, 1, 10, 100, 1000]

/** The factor to metres that best fits the category; 1 wherever 1 fits at all. */
export function guessUnitFactor(largestM: number, expected: [number, number]): number {
  const miss = (factor: number) => {
    const size = largestM * factor
    return size < expected[0] ? Math.log(expected[0] / size) : size > expected[1] ? Math.log(size / expected[1]) : 0
  }
  if (miss(1) === 0) return 1
  const middle = Math.log(Math.sqrt(expected[0] * expected[1]))
  return [...UNIT_FACTORS].sort(
    (a, b) => miss(a) - miss(b) || Math.abs(Math.log(largestM * a) - middle) - Math.abs(Math.log(largestM * b) - middle),
  )[0]
}

const checkUnit: ModelCheck = ({ bounds, expectedSizeM }) => {
  const largest = largestExtent(bounds)
  if (!expectedSizeM || !(largest > 0)) return []
  const factor = guessUnitFactor(largest, expectedSizeM)
  const outside = largest < expectedSizeM[0] || largest > expectedSizeM[1]
  return outside
    ? [createFinding('unitSuspect', { largestM: largest, lowM: expectedSizeM[0], highM: expectedSizeM[1], factor })]
    : []
}

/** What stands on the floor is within this share of the height. */
const FOOT_SHARE = 0.05

/** How far sideways the origin is from the middle of the whole, or of what stands on the floor: of a lamp with an arm, its foot. */
function sidewaysOff({ parts }: Model, { min, max }: Bounds): number {
  const floor = min[1] + (max[1] - min[1]) * FOOT_SHARE
  const foot = { x0: Infinity, x1: -Infinity, z0: Infinity, z1: -Infinity }
  for (const { positions } of parts.map(p => p.mesh))
    for (let i = 0; i < positions.length; i += 3) {
      if (positions[i + 1] > floor) continue
      foot.x0 = Math.min(foot.x0, positions[i])
      foot.x1 = Math.max(foot.x1, positions[i])
      foot.z0 = Math.min(foot.z0, positions[i + 2])
      foot.z1 = Math.max(foot.z1, positions[i + 2])
    }
  return Math.min(
    Math.hypot((min[0] + max[0]) / 2, (min[2] + max[2]) / 2),
    Math.hypot((foot.x0 + foot.x1) / 2, (foot.z0 + foot.z1) / 2),
  )
}

/** The origin belongs at the centre of the base; a fifth of the size away is more than modelling slack. */
const checkPivot: ModelCheck = ({ model, bounds }) => {
  const size = largestExtent(bounds)
  const sidewaysM = sidewaysOff(model, bounds)
  const away = Math.max(sidewaysM, Math.abs(bounds.min[1]))
  return size > 0 && away > size * 0.2 ? [createFinding('pivotOffBase', { sidewaysM, belowM: bounds.min[1], sizeM: size })] : []
}

/** Plain white or grey without any texture: what a modelling program gives a part nobody dressed. */
const checkDefaultSurfaces: ModelCheck = ({ model }) =>
  model.parts.flatMap(part => {
    const material = model.materials[part.material]
    if (!material) return [createFinding('defaultSurface', { reason: 'none' }, part.name)]
    const [r, g, b] = material.parameters.baseColor
    const p = material.parameters
    const plain =
      Object.keys(material.textures).length === 0 &&
      Math.max(r, g, b) - Math.min(r, g, b) < 0.01 &&
      r > 0.45 &&
      p.baseMetalness < 0.5 &&
      p.transmissionWeight === 0 &&
      p.emissionLuminance === 0
    const unnamed = /^$|^(material|default|lambert|standard|none)[\s._-]*\d*$/i.test(material.name)
    return plain && unnamed ? [createFinding('defaultSurface', { reason: 'plain', material: material.name }, part.name)] : []
  })

const checkStrays: ModelCheck = ({ model }) => {
  const { cameras, lights, emptyNodes, animations } = model.strays
  return cameras + lights + emptyNodes + animations > 0
    ? [createFinding('strayObjects', { cameras, lights, emptyNodes, animations })]
    : []
}

const checkDegenerate: ModelCheck = ({ degenerateTriangles, triangles }) =>
  degenerateTriangles > 0 ? [createFinding('degenerateTriangles', { count: degenerateTriangles, triangles })] : []

const checkDuplicates: ModelCheck = ({ edges, triangles }) => {
  const count = edges.reduce((sum, e) => sum + e.duplicates, 0)
  return count > 0 ? [createFinding('duplicateTriangles', { count, triangles })] : []
}

/** Of a closed part the enclosed volume tells which way it faces; one with a few gaps still does. */
const MOST_OPEN = 0.02

const checkWinding: ModelCheck = ({ model, edges }) =>
  edges.flatMap((e, i) => {
    const isClosed = e.edges > 0 && e.open <= e.edges * MOST_OPEN && e.contrary <= e.edges * MOST_OPEN
    return isClosed && e.signedVolume < 0
      ? [createFinding('windingInwards', { volumeM3: -e.signedVolume }, model.parts[i].name)]
      : []
  })

const checkManifold: ModelCheck = ({ edges }) => {
  const nonManifold = edges.reduce((sum, e) => sum + e.nonManifold, 0)
  const all = edges.reduce((sum, e) => sum + e.edges, 0)
  return nonManifold > all * 0.001 ? [createFinding('nonManifoldEdges', { nonManifold, edges: all })] : []
}

const checkTextureCoordinates: ModelCheck = ({ model }) =>
  model.parts
    .filter(p => !p.hasUvs && Object.keys(model.materials[p.material]?.textures ?? {}).length > 0)
    .map(p => createFinding('textureCoordinatesMissing', {}, p.name))

const checkPartNames: ModelCheck = ({ model }) => {
  const bad = model.parts.filter(p => !isTellingName(p.name))
  return bad.length > 0 ? [createFinding('unnamedParts', { count: bad.length, parts: model.parts.length })] : []
}

const checkBudget: ModelCheck = ({ triangles, triangleBudget }) =>
  triangleBudget !== null && triangles > triangleBudget
    ? [createFinding('overTriangleBudget', { triangles, budget: triangleBudget })]
    : []

/** Below this a whole scene of them is no burden. */
const LEVELS_WANTED_FROM = 60_000

const checkLevels: ModelCheck = ({ triangles, levels }) => {
  if (levels.length === 0) return triangles > LEVELS_WANTED_FROM ? [createFinding('levelsMissing', { triangles })] : []
  return levels.flatMap((count, i) => {
    const before = i === 0 ? triangles : levels[i - 1]
    return count > before * 0.9 ? [createFinding('levelNotLighter', { level: i + 1, triangles: count, before })] : []
  })
}

/** Rounding in a file's matrices is below this. */
const EVEN_STRETCH = 1.01

const checkNodeScales: ModelCheck = ({ model }) => {
  const stretches = model.parts.map(p => p.nodeStretch ?? 1)
  const mirrored = stretches.filter(s => s < 0).length
  const stretched = stretches.filter(s => Math.abs(s) > EVEN_STRETCH).length
  const mostStretch = Math.max(1, ...stretches.map(Math.abs))
  return mirrored + stretched > 0 ? [createFinding('nodeScaleOdd', { mirrored, stretched, mostStretch })] : []
}

const checkTextureBudget: ModelCheck = ({ textureSizesPx }) => {
  const over = textureSizesPx.filter(px => px > MODEL_TEXTURE_BUDGET_PX)
  return over.length > 0
    ? [
        createFinding('texturesOverBudget', {
          count: over.length,
          textures: textureSizesPx.length,
          largestPx: Math.max(...over),
          budgetPx: MODEL_TEXTURE_BUDGET_PX,
        }),
      ]
    : []
}

const checkMissingFiles: ModelCheck = ({ model }) =>
  model.missingFiles.map(file => createFinding('externalFileMissing', { file: file.split(/[\\/]/).pop() ?? file }, file))

export const MODEL_CHECKS: readonly ModelCheck[] = [
  checkMissingFiles,
  checkUnit,
  checkDefaultSurfaces,
  checkPivot,
  checkTextureCoordinates,
  checkPartNames,
  checkBudget,
  checkWinding,
  checkStrays,
  checkDegenerate,
  checkDuplicates,
  checkManifold,
  checkLevels,
  checkTextureBudget,
  checkNodeScales,
]

export const largestExtent = ({ min, max }: Bounds): number => Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2])

export interface ModelFacts {
  triangles: number
  vertices: number
  parts: number
  materials: number
  textures: number
  /** Width x height x depth in metres, as text; the three figures follow. */
  boundsM: string
  widthM: number
  heightM: number
  depthM: number
  surfaceAreaM2: number
  /** What it takes on a graphics card: vertices of 32 bytes, indices, textures of 4 bytes a texel with their smaller copies. */
  gpuMegabytes: number
  /** How many coarser levels of detail there are, and their triangles, best first. */
  levels?: number
  levelTriangles?: string
}

export interface ModelExpectation {
  expectedSizeM: [number, number] | null
  triangleBudget: number | null
  levels?: readonly number[]
  textureSizesPx?: readonly number[]
  /** Of all textures together. */
  texels?: number
}

export function analyseModel(model: Model, expectation: ModelExpectation): { facts: ModelFacts; findings: Finding[] } {
  const levels = expectation.levels ?? []
  let triangles = 0
  let vertices = 0
  let degenerateTriangles = 0
  let surfaceAreaM2 = 0
  const boxes = model.parts.map(({ mesh }) => {
    triangles += mesh.indices.length / 3
    vertices += mesh.positions.length / 3
    const { positions: p, indices } = mesh
    for (let i = 0; i < indices.length; i += 3) {
      const [a, b, c] = [indices[i] * 3, indices[i + 1] * 3, indices[i + 2] * 3]
      const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]]
      const [vx, vy, vz] = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]]
      const area = Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) / 2
      surfaceAreaM2 += area
      if (!(area > 1e-12)) degenerateTriangles++
    }
    return computeBounds(mesh.positions)
  })
  const bounds = computeBounds(boxes.flatMap(b => [...b.min, ...b.max]))
  const [widthM, heightM, depthM] = [0, 1, 2].map(c => bounds.max[c] - bounds.min[c])
  const facts: ModelFacts = {
    triangles,
    vertices,
    parts: model.parts.length,
    materials: model.materials.length,
    textures: model.images.length,
    boundsM: [widthM, heightM, depthM].map(v => v.toFixed(3)).join(' x '),
    widthM,
    heightM,
    depthM,
    surfaceAreaM2,
    gpuMegabytes: (vertices * 32 + triangles * 12 + (expectation.texels ?? 0) * 4 * (4 / 3)) / 1e6,
    ...(levels.length > 0 ? { levels: levels.length, levelTriangles: levels.join(', ') } : {}),
  }
  const edges = model.parts.map(p => countEdges(p.mesh))
  const subject: ModelSubject = {
    model,
    bounds,
    triangles,
    degenerateTriangles,
    edges,
    ...expectation,
    levels,
    textureSizesPx: expectation.textureSizesPx ?? [],
  }
  return { facts, findings: MODEL_CHECKS.flatMap(check => check(subject)) }
}
