import type { Finding } from '../findings/finding'
import type { ImageSize, ModelSubject } from './checks/model-check'
import { MODEL_CHECKS } from './checks/model-checks'
import { countEdges } from './edges'
import { measurePart, type PartMeasures } from './measure-part'
import { boundsOfMeshes } from './mesh'
import type { Model, ModelPart } from './model'
import { meanDensity } from './texel-density'

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
  /** Texels per metre of surface over everything that is textured. */
  texelDensityPxM?: number
  /** How many coarser levels of detail there are, and their triangles, best first. */
  levels?: number
  levelTriangles?: string
}

export interface ModelExpectation {
  expectedSizeM: [number, number] | null
  triangleBudget: number | null
  levels?: readonly number[]
  /** Of each of the model's images; null where it does not decode. */
  imageSizes?: readonly (ImageSize | null)[]
}

/** Everything that is measured of a model, and what its checks find. */
export function analyseModel(model: Model, expectation: ModelExpectation): { facts: ModelFacts; findings: Finding[] } {
  const { levels = [], imageSizes = [] } = expectation
  const measures = model.parts.map(p => measurePart(p.mesh))
  const sum = (of: (part: ModelPart, measured: PartMeasures) => number) =>
    model.parts.reduce((total, part, i) => total + of(part, measures[i]), 0)
  const triangles = sum(p => p.mesh.indices.length / 3)
  const vertices = sum(p => p.mesh.positions.length / 3)
  const bounds = boundsOfMeshes(model.parts.map(p => p.mesh))
  const [widthM, heightM, depthM] = [0, 1, 2].map(c => bounds.max[c] - bounds.min[c])
  const texels = imageSizes.reduce((total, size) => total + (size ? size.widthPx * size.heightPx : 0), 0)
  const density = meanDensity(model, measures, imageSizes)
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
    surfaceAreaM2: sum((_, m) => m.areaM2),
    gpuMegabytes: (vertices * 32 + triangles * 12 + texels * 4 * (4 / 3)) / 1e6,
    ...(density === undefined ? {} : { texelDensityPxM: density }),
    ...(levels.length > 0 ? { levels: levels.length, levelTriangles: levels.join(', ') } : {}),
  }
  const subject: ModelSubject = {
    ...expectation,
    model,
    bounds,
    triangles,
    degenerateTriangles: sum((_, m) => m.degenerateTriangles),
    measures,
    edges: model.parts.map(p => countEdges(p.mesh)),
    levels,
    imageSizes,
  }
  return { facts, findings: MODEL_CHECKS.flatMap(check => check(subject)) }
}
