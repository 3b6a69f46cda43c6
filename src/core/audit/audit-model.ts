import { groupBy } from '../group-by'
import type { Change } from './compare-materials'
import { type ModelPrint, type PlacedPart, type Shape, shapeDistance, shapeOf } from './model-print'
import { type AuditClass, type AuditEvidence, type ModelReference, NameIndex, preferVersion, standingOf } from './reference'

export interface AuditedModel {
  name: string
  class: AuditClass
  code: string | null
  version: number | null
  evidence: AuditEvidence[]
  changes: Change[]
  nearest: { code: string; distance: number }[]
  remarks: string[]
}

export interface ModelDifference {
  changes: Change[]
  /** Share of the reference's parts that are there triangle by triangle. */
  shared: number
  /** Share of its own parts that are the reference's: a group of several things holds all of one, and more. */
  covered: number
  /** How far the whole is from the reference's shape, see {@link shapeDistance}; infinite where either has no surface. */
  shape: number
  /** Over the reference's size. */
  scale: number
  distance: number
}

/** Shapes that were saved, turned or cut anew are as near as this. */
const SAME_SHAPE = 0.004
/** And with fewer triangles, or a part moved. */
const NEAR_SHAPE = 0.04
/** What its name or its own materials speak for may be as far off as this. */
const LIKELY_SHAPE = 0.3
/** A share of triangles that is gone or came, from which on it counts. */
const TRIANGLES_STEP = 0.02

/** How a model of a scene differs from one of the library; size, place and mirroring are uses and no changes. */
export function compareModels(model: ModelPrint, reference: ModelPrint): ModelDifference {
  const { pairs, shared, covered } = pairParts(model, reference)
  const [own, other] = [shapeOf(model.moments), shapeOf(reference.moments)]
  const shape = own && other ? shapeDistance(own, other) : Number.POSITIVE_INFINITY
  const scale = own && other ? own.radiusM / other.radiusM : 1
  const changes: Change[] = []
  const [parts, before] = [model.parts.length, reference.parts.length]
  // Parts may have been joined: then the whole must be what it was.
  if (parts !== before && (shape > SAME_SHAPE || pairs.length < before)) changes.push({ what: 'parts', from: before, to: parts })
  const triangles = Math.abs(model.triangles / Math.max(reference.triangles, 1) - 1)
  if (triangles > TRIANGLES_STEP && changes.length === 0)
    changes.push({ what: 'triangles', from: reference.triangles, to: model.triangles })
  const moved = changes.length === 0 && other ? movedParts(pairs, other.radiusM) : []
  for (const name of moved) changes.push({ what: `part ${name}`, from: 'in its place', to: 'moved' })
  if (shape > SAME_SHAPE && changes.length === 0)
    changes.push({ what: 'shape', from: 'as delivered', to: `${Math.round(shape * 1000) / 10} % off` })
  // One part alone is further from the whole than the whole with several of its parts moved.
  const steps = parts !== before && changes.length > 0 ? Math.abs(parts - before) || 1 : Math.min(changes.length, 1)
  return { changes, shared, covered, shape, scale, distance: steps + Math.min(shape, 1) * 10 + (1 - shared) }
}

type Pair = readonly [own: PlacedPart, reference: PlacedPart]

/** Parts by what they are, then by name; and the share of the reference's that are there triangle by triangle. */
function pairParts(model: ModelPrint, reference: ModelPrint): { pairs: Pair[]; shared: number; covered: number } {
  const left = new Set(model.parts)
  const pairs: Pair[] = []
  const take = (isSame: (part: PlacedPart, r: PlacedPart) => boolean, wanted: readonly PlacedPart[]): PlacedPart[] =>
    wanted.filter(r => {
      for (const part of left)
        if (isSame(part, r)) {
          left.delete(part)
          pairs.push([part, r])
          return false
        }
      return true
    })
  const lost = take((part, r) => part.content === r.content, reference.parts)
  const shared = pairs.length / Math.max(reference.parts.length, 1)
  const covered = pairs.length / Math.max(model.parts.length, 1)
  take((part, r) => part.name === r.name, lost)
  return { pairs, shared, covered }
}

/** Names of parts that stand elsewhere beside the largest than they did, whatever the whole was turned, moved and scaled by. */
function movedParts(pairs: readonly Pair[], radiusM: number): string[] {
  if (pairs.length < 2) return []
  const [anchor, ...others] = [...pairs].sort((a, b) => b[1].placed.areaM2 - a[1].placed.areaM2)
  const size = Math.sqrt(anchor[0].placed.areaM2 / anchor[1].placed.areaM2)
  const apart = (a: PlacedPart, b: PlacedPart) =>
    Math.hypot(...[0, 1, 2].map(k => a.placed.first[k] / a.placed.areaM2 - b.placed.first[k] / b.placed.areaM2))
  return others
    .filter(([own, r]) => Math.abs(apart(own, anchor[0]) / size - apart(r, anchor[1])) > radiusM * MOVED_STEP)
    .map(([, r]) => r.name)
}

/** Of a model's size, from which on a part is not where it was. */
const MOVED_STEP = 0.012

/** A library's models by the contents of their parts and by their shapes. */
export class ModelIndex {
  readonly names: NameIndex<ModelReference>
  private readonly byCode: ReadonlyMap<string, ModelReference[]>
  private readonly byPart = new Map<string, Set<ModelReference>>()
  private readonly shapes: { reference: ModelReference; shape: Shape }[] = []

  constructor(references: readonly ModelReference[]) {
    this.names = new NameIndex(references)
    this.byCode = groupBy(references, r => r.code)
    for (const reference of references) {
      if (reference.isLighter) continue
      for (const { content } of reference.print.parts) {
        const known = this.byPart.get(content)
        if (known) known.add(reference)
        else this.byPart.set(content, new Set([reference]))
      }
      const shape = shapeOf(reference.print.moments)
      if (shape) this.shapes.push({ reference, shape })
    }
  }

  /** Every version of an item. */
  ofCode(code: string): ModelReference[] {
    return this.byCode.get(code) ?? []
  }

  /** What may be the same, by any of its parts or by its shape. */
  candidatesFor(model: ModelPrint): Set<ModelReference> {
    const found = new Set<ModelReference>()
    for (const { content } of model.parts) for (const reference of this.byPart.get(content) ?? []) found.add(reference)
    const shape = shapeOf(model.moments)
    if (shape) for (const known of this.shapes) if (shapeDistance(shape, known.shape) <= NEAR_SHAPE) found.add(known.reference)
    return found
  }

  nearestTo(model: ModelPrint): AuditedModel['nearest'] {
    const shape = shapeOf(model.moments)
    if (!shape) return []
    const byCode = new Map<string, number>()
    for (const { reference, shape: other } of this.shapes) {
      if (reference.isWithdrawn) continue
      // Of what is as long as it, too.
      const distance = shapeDistance(shape, other) + Math.abs(Math.log2(shape.radiusM / other.radiusM)) / 10
      byCode.set(reference.code, Math.min(distance, byCode.get(reference.code) ?? Number.POSITIVE_INFINITY))
    }
    return [...byCode]
      .sort((a, b) => a[1] - b[1])
      .slice(0, 3)
      .map(([code, distance]) => ({ code, distance: Math.round(distance * 1000) / 1000 }))
  }
}

interface Match {
  reference: ModelReference
  difference: ModelDifference
  evidence: AuditEvidence[]
}

/** What a model of the library a thing of a scene is, by its stamp, its meshes, its shape, and last its name; null where it is none. */
export function findModel(model: ModelPrint, index: ModelIndex): Match | null {
  const compared = (reference: ModelReference): Match => {
    const difference = compareModels(model, reference.print)
    const evidence: AuditEvidence[] = []
    if (difference.shared > 0)
      evidence.push({ kind: 'mesh', text: `${Math.round(difference.shared * 100)} % of its parts, triangle by triangle` })
    if (difference.shape <= NEAR_SHAPE)
      evidence.push({ kind: 'shape', text: `Its shape, ${Math.round(difference.shape * 1000) / 10} % off` })
    return { reference, difference, evidence }
  }
  const pick = (matches: readonly Match[], stamped?: number): Match => {
    const least = Math.min(...matches.map(m => m.difference.distance))
    const near = matches.filter(m => m.difference.distance <= least + 0.005)
    const best = preferVersion(
      near.map(m => m.reference),
      stamped,
    )
    return near.find(m => m.reference === best)!
  }
  const { stamp } = model
  const ofStamp = stamp ? index.ofCode(stamp.code) : []
  if (stamp && ofStamp.length > 0) {
    const text = `Stamped ${stamp.code}, version ${stamp.version}, when it was handed over`
    const best = pick(ofStamp.map(compared), stamp.version)
    return { ...best, evidence: [{ kind: 'stamp', text }, ...best.evidence] }
  }
  const matches = [...index.candidatesFor(model)].map(compared)
  const names = new Set(index.names.find(model.name))
  const named = (m: Match) => names.has(m.reference)
  // Of parts alone that are alike by chance, the number of triangles is not.
  const isCut = (m: Match) => Math.abs(Math.log(model.triangles / Math.max(1, m.reference.print.triangles))) < CUT_ANEW
  const sure = matches.filter(
    m => (m.difference.shared >= MOSTLY && m.difference.covered >= COVERED) || (m.difference.shape <= SAME_SHAPE && isCut(m)),
  )
  const chosen =
    sure.length > 0
      ? sure
      : findLikely(model, index)
          .map(compared)
          .filter(m => m.difference.shape <= LIKELY_SHAPE)
  if (chosen.length === 0) return null
  // Of several items as near, those that the project has.
  const pinned = chosen.filter(m => m.reference.pinned !== null)
  const best = pick(pinned.length > 0 ? pinned : chosen)
  const evidence = [...best.evidence]
  if (named(best)) evidence.push({ kind: 'name', text: `Named ${model.name}` })
  if (ownerOf(model) === best.reference.code) evidence.push({ kind: 'look', text: 'Its materials are the model’s own' })
  return { ...best, evidence }
}

/** What the name speaks for, or most of its materials, which come with one model alone. */
function findLikely(model: ModelPrint, index: ModelIndex): ModelReference[] {
  const owner = ownerOf(model)
  // A plain material and a plain shape are soon anybody's.
  const owned = owner === null ? [] : index.ofCode(owner).filter(r => !r.isLighter)
  return [...new Set([...owned, ...index.names.find(model.name)])]
}

function ownerOf({ owners }: ModelPrint): string | null {
  const counts = new Map<string, number>()
  for (const code of owners) if (code !== null) counts.set(code, (counts.get(code) ?? 0) + 1)
  const [first] = [...counts].sort((a, b) => b[1] - a[1])
  return first && first[1] * 2 > owners.length ? first[0] : null
}

const MOSTLY = 0.5
const COVERED = 0.6
const CUT_ANEW = Math.log(1.25)

/** The verdict about a thing that was looked for with {@link findModel}. */
export function auditModel(model: ModelPrint, index: ModelIndex): AuditedModel {
  const found = findModel(model, index)
  const remarks: string[] = []
  if (!found) {
    const [named] = index.names.find(model.name)
    if (named) remarks.push(`It carries the name of ${named.code}, and is not it.`)
    return {
      name: model.name,
      class: 'foreign',
      code: null,
      version: null,
      evidence: [],
      changes: [],
      nearest: index.nearestTo(model),
      remarks,
    }
  }
  const { reference, difference, evidence } = found
  const size = difference.changes.length > 0 ? model.scale : difference.scale
  if (Math.abs(size - 1) > SIZE_STEP) remarks.push(`Stands at ${Math.round(size * 1000) / 10} % of its size.`)
  if (model.isMirrored) remarks.push('Stands mirrored.')
  if (reference.isLighter && difference.changes.length === 0) remarks.push('Its lighter version.')
  const standing = standingOf(reference)
  return {
    name: model.name,
    class: standing === 'withdrawn' ? 'withdrawn' : difference.changes.length > 0 ? 'altered' : standing,
    code: reference.code,
    version: reference.version,
    evidence,
    changes: difference.changes,
    nearest: [],
    remarks,
  }
}

const SIZE_STEP = 0.005
