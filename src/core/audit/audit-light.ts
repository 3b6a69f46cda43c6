import { deltaE00 } from '../color/difference'
import { groupBy } from '../group-by'
import type { Stamp } from '../stamp'
import type { AuditedModel } from './audit-model'
import { compareLights, type LightPrint } from './compare-lights'
import type { Change } from './compare-materials'
import { type AuditEvidence, type LightReference, NameIndex, preferVersion, standingOf } from './reference'

/** What a light of a scene is to the library. */
export interface AuditedLight extends AuditedModel {
  /** Of what it gives as it comes: less than 1 where it is dimmed. */
  share: number
}

/** A light of a scene. */
export interface SceneLightPrint {
  name: string
  stamp: Stamp | null
  print: LightPrint
}

/** A library's luminaires, by their codes and names and by the light that they give. */
export class LightIndex {
  readonly names: NameIndex<LightReference>
  private readonly byCode: ReadonlyMap<string, LightReference[]>

  constructor(readonly references: readonly LightReference[]) {
    this.names = new NameIndex(references)
    this.byCode = groupBy(references, r => r.code)
  }

  ofCode(code: string): readonly LightReference[] {
    return this.byCode.get(code) ?? []
  }

  /** Those whose beam, colour and intensity are these; a bulb's figures are anybody's. */
  alike(print: LightPrint): LightReference[] {
    if (print.kind !== 'spot') return []
    return this.references.filter(r => r.print !== null && compareLights(print, r.print).length === 0)
  }

  /** Three items that give most nearly such light. */
  nearestTo(print: LightPrint): AuditedLight['nearest'] {
    const byCode = new Map<string, number>()
    for (const { code, print: other, isWithdrawn } of this.references) {
      if (!other || isWithdrawn) continue
      byCode.set(code, Math.min(distanceOf(print, other), byCode.get(code) ?? Number.POSITIVE_INFINITY))
    }
    return [...byCode]
      .sort((a, b) => a[1] - b[1])
      .slice(0, 3)
      .map(([code, distance]) => ({ code, distance: Math.round(distance * 1000) / 1000 }))
  }
}

/** 1 for twice as strong, a beam a radian wider, or a colour 10 ΔE00 off. */
function distanceOf(a: LightPrint, b: LightPrint): number {
  const strength = Math.abs(Math.log2(Math.max(a.intensity, 1e-3) / Math.max(b.intensity, 1e-3)))
  const beam = 2 * Math.abs((a.coneRad ?? ALL_ROUND) - (b.coneRad ?? ALL_ROUND))
  return strength + beam + deltaE00(a.color, b.color) / 10
}
const ALL_ROUND = Math.PI

/**
 * The verdict about a light: what it is by its stamp, its name, or the light that it gives. That it is dimmed is a use and no change; that it
 * is stronger than it comes, of another colour or another beam, is.
 */
export function auditLight({ name, stamp, print }: SceneLightPrint, index: LightIndex): AuditedLight {
  const evidence: AuditEvidence[] = []
  const stamped = stamp ? index.ofCode(stamp.code) : []
  const named = index.names.find(name)
  const alike = index.alike(print)
  if (stamp && stamped.length > 0)
    evidence.push({ kind: 'stamp', text: `Stamped ${stamp.code}, version ${stamp.version}, when it was handed over` })
  const candidates = stamped.length > 0 ? stamped : named.length > 0 ? named : onlyItem(alike)
  if (candidates.length === 0)
    return {
      ...{ name, class: 'foreign', code: null, version: null, evidence, changes: [], remarks: [], share: 1 },
      nearest: index.nearestTo(print),
    }
  const differences = new Map(candidates.map(r => [r, r.print ? toDifference(print, r.print) : UNKNOWN]))
  // A version that it is like as it comes, before one that it would be like dimmed.
  const stepsOf = ({ changes, remarks }: Difference) => changes.length * 2 + remarks.length
  const least = Math.min(...[...differences.values()].map(stepsOf))
  const found = preferVersion(
    candidates.filter(r => stepsOf(differences.get(r)!) === least),
    stamp?.version,
  )
  const { changes, remarks, share } = differences.get(found)!
  if (named.includes(found)) evidence.push({ kind: 'name', text: `Named ${name}` })
  if (alike.includes(found)) evidence.push({ kind: 'parameters', text: 'Its intensity, colour and beam' })
  const standing = standingOf(found)
  return {
    name,
    class: standing === 'withdrawn' ? standing : changes.length > 0 ? 'altered' : standing,
    ...{ code: found.code, version: found.version, evidence, changes, remarks, share },
    nearest: [],
  }
}

/** All of one item, or of several what the project has; none where it may be this or that. */
function onlyItem(alike: readonly LightReference[]): readonly LightReference[] {
  const isOne = (list: readonly LightReference[]) => new Set(list.map(r => r.code)).size === 1
  const pinned = alike.filter(r => r.pinned !== null)
  return isOne(alike) ? alike : isOne(pinned) ? pinned : []
}

interface Difference {
  changes: Change[]
  remarks: string[]
  share: number
}
const UNKNOWN: Difference = { changes: [], remarks: [], share: 1 }

function toDifference(own: LightPrint, reference: LightPrint): Difference {
  const changes = compareLights(own, reference)
  const others = changes.filter(c => c.what !== 'intensity')
  if (own.intensity >= reference.intensity || others.length === changes.length) return { changes, remarks: [], share: 1 }
  const share = own.intensity / reference.intensity
  return { changes: others, remarks: [`Dimmed to ${Math.round(share * 100)} %.`], share }
}
