import type { Finding, FindingCode } from '../findings/finding'
import { computeBounds, type Mesh, mergeMeshes, placeMesh } from '../geometry/mesh'
import type { Model } from '../geometry/model'
import { createBox, createSphere } from '../geometry/shapes'
import type { ByteImage } from '../image/image'
import type { Vec3 } from '../math/vec3'
import { createCanvas, EVIDENCE_HEIGHT, EVIDENCE_WIDTH, fillBox, INK, MARK, QUIET } from './canvas'
import type { EvidencePictures } from './evidence-pictures'

/** Height of the figure that sizes are told by, in metres. */
const FIGURE_M = 1.75

/** Another level of a model, and how tall it is meant to be seen; null where nobody said. */
export interface SeenLevel {
  mesh: Mesh
  heightPx: number | null
}

/** What a picture of a model may need beside it. */
export interface ModelSurroundings {
  /** Coarser levels that the item has. */
  levels?: readonly SeenLevel[]
  /** Those that a fix would make. */
  made?: readonly SeenLevel[] | null
  /** The model as the finding's fix would leave it. */
  fixed?: Model | null
}

/** Findings whose fix shows only on the fixed model itself. */
export const SHOWN_MENDED: ReadonlySet<FindingCode> = new Set(['vertexNormalsOff', 'windingInwards', 'overTriangleBudget'])

/** What a finding of a model looks like in a plain front view, and what its fix makes of it. */
export function drawModelEvidence(
  finding: Finding,
  model: Model,
  { levels = [], made = null, fixed = null }: ModelSurroundings = {},
): EvidencePictures | null {
  const whole = mergeMeshes(model.parts.map(p => p.mesh))
  if (whole.indices.length === 0) return null
  switch (finding.code) {
    case 'unitSuspect': {
      const factor = Number(finding.evidence.factor)
      const draw = (scale: number) => drawBesideFigure(placeMesh(whole, [0, 0, 0], 0, scale))
      return { before: draw(1), after: factor === 1 ? null : draw(factor) }
    }
    case 'pivotOffBase': {
      const { min, max } = computeBounds(whole.positions)
      const fixed = placeMesh(whole, [-(min[0] + max[0]) / 2, -min[1], -(min[2] + max[2]) / 2])
      return { before: drawOnOrigin(whole, whole), after: drawOnOrigin(fixed, whole) }
    }
    case 'defaultSurface':
    case 'textureCoordinatesMissing':
      return { before: drawPart(model, finding.subject), after: null }
    case 'levelsMissing':
    case 'levelNotLighter':
      return { before: drawLevels(whole, levels), after: made && drawLevels(whole, made) }
    case 'vertexNormalsOff':
    case 'windingInwards': {
      const shading = finding.code === 'windingInwards' ? 'sides' : finding.evidence.reason === 'missing' ? 'faces' : 'normals'
      const { min, max } = computeBounds(mergeMeshes(partsNamed(model, finding.subject)).positions)
      const view = frameBox(min[0], max[0], min[1], max[1])
      const draw = (of: Model, how: Shading) =>
        rasterize(
          partsNamed(of, finding.subject).map(mesh => ({ mesh, color: BODY, shading: how })),
          view,
        )
      return {
        before: draw(model, shading),
        after: fixed && draw(fixed, finding.code === 'windingInwards' ? 'sides' : 'normals'),
      }
    }
    case 'overTriangleBudget':
      return { before: drawPart(model, undefined), after: fixed && drawPart(fixed, undefined) }
    case 'texelDensityUneven':
      return { before: drawPart(model, String(finding.evidence.lowPart)), after: null }
    case 'unnamedParts':
      return { before: drawPart(model, undefined), after: null }
    default:
      return null
  }
}

/**
 * How a surface is lit. faces: each triangle by how it lies, whichever way it faces. normals: by its vertex normals, as a renderer does;
 * dark where they point away. sides: like faces, and what turns its back to the viewer is marked.
 */
type Shading = 'faces' | 'normals' | 'sides'

interface Thing {
  mesh: Mesh
  color: Vec3
  shading?: Shading
}

const partsNamed = (model: Model, name: string | undefined): Mesh[] =>
  model.parts.filter(p => name === undefined || p.name === name).map(p => p.mesh)

/** A standing figure of plain solids. */
function createFigure(): Mesh {
  const h = FIGURE_M
  return mergeMeshes([
    createSphere(h * 0.065, [0, h * 0.935, 0], 16),
    placeMesh(createBox(h * 0.24, h * 0.34, h * 0.12, 0.04), [0, h * 0.5, 0]),
    placeMesh(createBox(h * 0.09, h * 0.5, h * 0.1, 0.03), [-h * 0.06, 0, 0]),
    placeMesh(createBox(h * 0.09, h * 0.5, h * 0.1, 0.03), [h * 0.06, 0, 0]),
    placeMesh(createBox(h * 0.06, h * 0.38, h * 0.08, 0.03), [-h * 0.16, h * 0.45, 0]),
    placeMesh(createBox(h * 0.06, h * 0.38, h * 0.08, 0.03), [h * 0.16, h * 0.45, 0]),
  ])
}

const BODY: Vec3 = [120, 120, 120]

function drawBesideFigure(mesh: Mesh): ByteImage {
  const { min, max } = computeBounds(mesh.positions)
  const gap = 0.06 * Math.max(max[0] - min[0], FIGURE_M)
  const model = placeMesh(mesh, [-min[0] + gap, -min[1], -max[2]])
  const figure = placeMesh(createFigure(), [-gap - FIGURE_M * 0.2, 0, 0])
  return rasterize([
    { mesh: model, color: BODY },
    { mesh: figure, color: MARK },
  ])
}

/** The model, with the ground and the origin as lines. */
function drawOnOrigin(mesh: Mesh, frameWith: Mesh): ByteImage {
  const { min, max } = computeBounds(frameWith.positions)
  const [low, high] = [
    [Math.min(min[0], 0), Math.min(min[1], 0)],
    [Math.max(max[0], 0), Math.max(max[1], 0)],
  ]
  const view = frameBox(low[0], high[0], low[1], high[1])
  const canvas = rasterize([{ mesh, color: BODY }], view)
  const x = view.left - view.x0 * view.scale
  const y = EVIDENCE_HEIGHT - (view.bottom - view.y0 * view.scale)
  fillBox(canvas, 0, y, EVIDENCE_WIDTH, y + 1, QUIET)
  fillBox(canvas, x - 1, y - 14, x + 1, y + 14, MARK)
  fillBox(canvas, x - 14, y - 1, x + 14, y + 1, MARK)
  return canvas
}

/** The part concerned is drawn over the others, so that it shows where it lies inside. */
function drawPart(model: Model, name: string | undefined): ByteImage {
  const toThing = (p: Model['parts'][number]): Thing => ({ mesh: p.mesh, color: p.name === name ? MARK : BODY })
  const others = model.parts.filter(p => p.name !== name).map(toThing)
  const meant = model.parts.filter(p => p.name === name).map(toThing)
  const { min, max } = computeBounds(mergeMeshes(model.parts.map(p => p.mesh)).positions)
  const view = frameBox(min[0], max[0], min[1], max[1])
  return meant.length > 0 ? rasterize(meant, view, rasterize(others, view)) : rasterize(others, view)
}

/** Each level beside the whole at the height on screen that it is for; where nobody said, as large as keeps its triangles as dense. */
function drawLevels(whole: Mesh, levels: readonly SeenLevel[]): ByteImage {
  const most = EVIDENCE_HEIGHT - 2 * MARGIN
  const all = [{ mesh: whole, heightPx: most }, ...levels]
  const shown = all.map(({ mesh, heightPx }) => {
    const { min, max } = computeBounds(mesh.positions)
    const dense = most * Math.sqrt(mesh.indices.length / Math.max(1, whole.indices.length))
    const tall = Math.min(most, Math.max(LEAST_LEVEL_PX, heightPx ?? dense))
    return { mesh, min, max, scale: tall / Math.max(max[1] - min[1], (max[0] - min[0]) / 2, 1e-6) }
  })
  const width = shown.reduce((sum, s) => sum + (s.max[0] - s.min[0]) * s.scale + MARGIN, MARGIN)
  const fit = Math.min(1, EVIDENCE_WIDTH / width)
  let canvas = createCanvas()
  let left = (EVIDENCE_WIDTH - width * fit) / 2 + MARGIN * fit
  for (const { mesh, min, max, scale } of shown) {
    const view = { x0: min[0], y0: min[1], scale: scale * fit, left, bottom: MARGIN }
    canvas = rasterize([{ mesh, color: BODY }], view, canvas)
    left += (max[0] - min[0]) * scale * fit + MARGIN * fit
  }
  return canvas
}
const LEAST_LEVEL_PX = 16

interface View {
  x0: number
  y0: number
  /** Pixels per metre. */
  scale: number
  left: number
  bottom: number
}
const MARGIN = 18

function frameBox(x0: number, x1: number, y0: number, y1: number): View {
  const scale = Math.min(
    (EVIDENCE_WIDTH - 2 * MARGIN) / Math.max(x1 - x0, 1e-6),
    (EVIDENCE_HEIGHT - 2 * MARGIN) / Math.max(y1 - y0, 1e-6),
  )
  return {
    x0,
    y0,
    scale,
    left: (EVIDENCE_WIDTH - (x1 - x0) * scale) / 2,
    bottom: (EVIDENCE_HEIGHT - (y1 - y0) * scale) / 2,
  }
}

/** Orthographic, from the front (+Z), each face by how far it is turned; back faces are drawn too. */
function rasterize(things: readonly Thing[], given?: View, canvas = createCanvas()): ByteImage {
  const bounds = computeBounds(mergeMeshes(things.map(t => t.mesh)).positions)
  const view = given ?? frameBox(bounds.min[0], bounds.max[0], bounds.min[1], bounds.max[1])
  const depth = new Float32Array(EVIDENCE_WIDTH * EVIDENCE_HEIGHT).fill(Number.NEGATIVE_INFINITY)
  for (const { mesh, color, shading = 'faces' } of things) {
    const { positions: p, normals, indices } = mesh
    const lit = new Float32Array(shading === 'normals' ? p.length / 3 : 0)
    for (let v = 0; v < lit.length; v++)
      lit[v] = Math.max(0, towardsLight(normals[v * 3], normals[v * 3 + 1], normals[v * 3 + 2]))
    const sx = (v: number) => view.left + (p[v * 3] - view.x0) * view.scale
    const sy = (v: number) => EVIDENCE_HEIGHT - view.bottom - (p[v * 3 + 1] - view.y0) * view.scale
    for (let i = 0; i + 2 < indices.length; i += 3) {
      const [a, b, c] = [indices[i], indices[i + 1], indices[i + 2]]
      const [ax, ay, bx, by, cx, cy] = [sx(a), sy(a), sx(b), sy(b), sx(c), sy(c)]
      const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
      if (Math.abs(area) < 1e-9) continue
      const facing = facingOf(p, a, b, c)
      // Seen from the front its corners run counter-clockwise; the picture's rows run downwards.
      const ink = shading === 'sides' && area > 0 ? MARK : color
      const x0 = Math.max(0, Math.floor(Math.min(ax, bx, cx)))
      const x1 = Math.min(EVIDENCE_WIDTH - 1, Math.ceil(Math.max(ax, bx, cx)))
      const y0 = Math.max(0, Math.floor(Math.min(ay, by, cy)))
      const y1 = Math.min(EVIDENCE_HEIGHT - 1, Math.ceil(Math.max(ay, by, cy)))
      for (let y = y0; y <= y1; y++)
        for (let x = x0; x <= x1; x++) {
          const w = ((bx - x - 0.5) * (cy - y - 0.5) - (by - y - 0.5) * (cx - x - 0.5)) / area
          const u = ((cx - x - 0.5) * (ay - y - 0.5) - (cy - y - 0.5) * (ax - x - 0.5)) / area
          const v = 1 - w - u
          if (w < -1e-6 || u < -1e-6 || v < -1e-6) continue
          const z = p[a * 3 + 2] * w + p[b * 3 + 2] * u + p[c * 3 + 2] * v
          const at = y * EVIDENCE_WIDTH + x
          if (z <= depth[at]) continue
          depth[at] = z
          const light = shading === 'normals' ? lit[a] * w + lit[b] * u + lit[c] * v : facing
          const shade = 0.35 + 0.65 * light
          for (let k = 0; k < 3; k++) canvas.data[at * 3 + k] = INK[k] + (ink[k] - INK[k]) * shade * 1.15
        }
    }
  }
  return canvas
}

/** Cosine between a face and the view direction, 0..1. */
function facingOf(p: Float32Array, a: number, b: number, c: number): number {
  const [ux, uy, uz] = [p[b * 3] - p[a * 3], p[b * 3 + 1] - p[a * 3 + 1], p[b * 3 + 2] - p[a * 3 + 2]]
  const [vx, vy, vz] = [p[c * 3] - p[a * 3], p[c * 3 + 1] - p[a * 3 + 1], p[c * 3 + 2] - p[a * 3 + 2]]
  const [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
  const length = Math.hypot(nx, ny, nz)
  return length > 0 ? Math.abs(towardsLight(nx, ny, nz)) / length : 0
}

/** Cosine between a unit vector and the light, which stands a little above and beside, so that a box is not one even tone. */
const towardsLight = (x: number, y: number, z: number): number => x * 0.25 + y * 0.4 + z * 0.88
