import { deltaE00 } from '../color/difference'
import { groupBy } from '../group-by'
import { countDifferentBits } from '../image/perceptual-hash'
import { OPEN_PBR_DEFAULTS } from '../material/open-pbr'
import { type Change, compareMaterials, type MaterialDifference, OTHER_PICTURE, type SceneForm } from './compare-materials'
import { AUDITED_SLOTS, type AuditedSlot, type MapPrint } from './map-print'
import type { MaterialPrint } from './material-print'
import { type AuditClass, type AuditEvidence, type MaterialReference, NameIndex, preferVersion, standingOf } from './reference'

export interface AuditedMaterial {
  name: string
  class: AuditClass
  /** Null for what is foreign. */
  code: string | null
  version: number | null
  /** Of a model's own material, which. */
  ofModel: string | null
  evidence: AuditEvidence[]
  changes: Change[]
  /** Said beside the class: what is odd without being an alteration. */
  remarks: string[]
}

interface MapOf {
  slot: AuditedSlot
  map: MapPrint
  reference: MaterialReference
}

/** A library's prints, so that each material of a scene is compared with few of them. */
export class MaterialIndex {
  readonly names: NameIndex<MaterialReference>
  private readonly byCode: ReadonlyMap<string, MaterialReference[]>
  private readonly byContent: ReadonlyMap<string, MapOf[]>
  /** By these pictures a material is looked for: its colours, else whatever it has. */
  private readonly drawn: MapOf[]
  private readonly plain: MaterialReference[]

  constructor(references: readonly MaterialReference[]) {
    const maps = references.flatMap(reference =>
      AUDITED_SLOTS.flatMap((slot): MapOf[] => {
        const map = reference.print.maps[slot]
        return map ? [{ slot, map, reference }] : []
      }),
    )
    this.names = new NameIndex(references)
    this.byCode = groupBy(references, r => r.code)
    this.byContent = groupBy(maps, m => `${m.slot} ${m.map.content}`)
    this.drawn = maps.filter(m => m.slot === 'baseColor' || !m.reference.print.maps.baseColor)
    this.plain = references.filter(r => !r.isOfLighter && Object.keys(r.print.maps).length === 0)
  }

  versionsOf(reference: MaterialReference): MaterialReference[] {
    return (this.byCode.get(reference.code) ?? []).filter(r => r.ofModel === reference.ofModel)
  }

  ofCode(code: string): MaterialReference[] {
    return this.byCode.get(code) ?? []
  }

  /** What may be the same by its pictures; what carries its name; where it has no pictures, what has none either. */
  candidatesFor(print: MaterialPrint): Set<MaterialReference> {
    const found = new Set<MaterialReference>()
    for (const slot of AUDITED_SLOTS) {
      const map = print.maps[slot]
      if (!map) continue
      for (const known of this.byContent.get(`${slot} ${map.content}`) ?? []) found.add(known.reference)
      for (const d of this.drawn)
        if (d.slot === slot && countDifferentBits(d.map.look, map.look) <= MOST_BITS) found.add(d.reference)
    }
    if (Object.keys(print.maps).length === 0) for (const r of this.plain) found.add(r)
    return found
  }
}

/** Of 64; what is farther apart is compared no further. */
const MOST_BITS = 18

interface Match {
  reference: MaterialReference
  difference: MaterialDifference
  /** The rank of what it is known by; less is stronger. */
  rank: number
  evidence: AuditEvidence[]
}

const RANKS = { pixels: 0, picture: 1, parameters: 2, name: 3 }

/**
 * Says what a material of a scene is: its pictures count for more than the stamp that was written at its export, for a material may have
 * been given others since; the stamp for more than its name.
 */
export function auditMaterial(print: MaterialPrint, index: MaterialIndex, form: SceneForm = 'gltf'): AuditedMaterial {
  const matches: Match[] = []
  for (const reference of index.candidatesFor(print)) {
    const match = matchByContent(print, reference, form)
    if (match) matches.push(match)
  }
  const stamped = print.stamp ? index.ofCode(print.stamp.code) : []
  const chosen = chooseItem(print, matches, stamped, index, form)
  const remarks: string[] = []
  if (print.missing.length > 0) remarks.push(`Not there: ${print.missing.join(', ')}`)
  const rest = { name: print.name, remarks }
  if (!chosen) {
    const named = index.names.find(print.name).find(r => r.ofModel === null)
    if (named) remarks.push(`It carries the name of ${named.code}, and is not it.`)
    return {
      ...rest,
      class: print.missing.length > 0 ? 'missing' : 'foreign',
      code: null,
      version: null,
      ofModel: null,
      evidence: [],
      changes: [],
    }
  }
  const { reference, difference, evidence } = chosen
  if (print.stamp && print.stamp.code !== reference.code)
    remarks.push(`It carries the stamp of ${print.stamp.code}, and shows ${reference.code}.`)
  const named = index.names.find(print.name).filter(r => r.ofModel === null)
  if (reference.ofModel === null && named.length > 0 && named.every(r => r.code !== reference.code))
    remarks.push(`It carries the name of ${named[0].code}, and shows ${reference.code}.`)
  if (reference.pinned !== null && reference.version > reference.pinned && !reference.isWithdrawn)
    remarks.push(`Newer than version ${reference.pinned}, which is pinned.`)
  const standing = standingOf(reference)
  const isMissing = print.missing.length > 0
  return {
    ...rest,
    class: isMissing ? 'missing' : standing === 'withdrawn' ? 'withdrawn' : difference.changes.length > 0 ? 'altered' : standing,
    code: reference.code,
    version: reference.version,
    ofModel: reference.ofModel,
    evidence,
    changes: difference.changes,
  }
}

/** Known by what is in it; null where nothing of it speaks for the reference. */
function matchByContent(print: MaterialPrint, reference: MaterialReference, form: SceneForm): Match | null {
  const difference = compareMaterials(print, reference.print, form)
  const exact = AUDITED_SLOTS.filter(slot => difference.maps[slot]?.isExact)
  if (exact.length > 0)
    return {
      reference,
      difference,
      rank: RANKS.pixels,
      evidence: [{ kind: 'pixels', text: `The same pixels: ${exact.map(slot => SLOT_WORDS[slot]).join(', ')}` }],
    }
  const alike = AUDITED_SLOTS.filter(slot => (difference.maps[slot]?.correlation ?? 0) >= SAME_PICTURE)
  if (alike.length > 0) {
    const worst = Math.min(...alike.map(slot => difference.maps[slot]!.correlation!))
    const text = `The same picture: ${alike.map(slot => SLOT_WORDS[slot]).join(', ')}, going together to ${Math.round(worst * 1000) / 10} % or more`
    return { reference, difference, rank: RANKS.picture, evidence: [{ kind: 'picture', text }] }
  }
  if (Object.keys(print.maps).length + Object.keys(reference.print.maps).length > 0) return null
  // Without pictures only figures speak, and only all of them together; those that everything has say nothing.
  if (difference.changes.length > 0 || difference.closeness > SAME_FIGURES || isUsual(print)) return null
  return {
    reference,
    difference,
    rank: RANKS.parameters,
    evidence: [{ kind: 'parameters', text: 'Every parameter is the same' }],
  }
}

const SLOT_WORDS: Record<AuditedSlot, string> = {
  baseColor: 'base colour',
  specularRoughness: 'roughness',
  baseMetalness: 'metalness',
  geometryNormal: 'normals',
  geometryOpacity: 'opacity',
  emissionColor: 'emission',
}

const SAME_PICTURE = 0.955
/** In steps; forms round to 8 bits at the coarsest. */
const SAME_FIGURES = 0.35

/** White, grey and black as every program has them to begin with. */
const isUsual = ({ parameters: { baseColor, baseMetalness, specularRoughness } }: MaterialPrint): boolean =>
  baseColor.every(v => Math.abs(v - baseColor[0]) < 1e-3) &&
  baseMetalness === 0 &&
  (specularRoughness === OPEN_PBR_DEFAULTS.specularRoughness || specularRoughness === 1 || specularRoughness === 0.5)

function chooseItem(
  print: MaterialPrint,
  matches: readonly Match[],
  stamped: readonly MaterialReference[],
  index: MaterialIndex,
  form: SceneForm,
): Match | null {
  const compared = (reference: MaterialReference, rank: number, evidence: AuditEvidence[]): Match => ({
    reference,
    difference: compareMaterials(print, reference.print, form),
    rank,
    evidence,
  })
  const isStamped = (r: MaterialReference) => stamped.includes(r) && isOwnOf(r, print)
  const pictured = matches.filter(m => m.rank <= RANKS.picture)
  // A stamp that its pictures agree with is believed; one that is alone as well.
  const ofStamp = stamped.filter(r => isOwnOf(r, print))
  const agrees = pictured.some(m => isStamped(m.reference))
  if (ofStamp.length > 0 && (agrees || pictured.length === 0)) {
    const text = `Stamped ${print.stamp!.code}, version ${print.stamp!.version}, when it was handed over`
    const more = pictured.find(m => isStamped(m.reference))?.evidence ?? []
    return nearestVersion(
      ofStamp.map(r => compared(r, -1, [{ kind: 'stamp', text }, ...more])),
      print,
    )
  }
  if (matches.length > 0) {
    const least = Math.min(...matches.map(m => m.rank))
    const best = matches.filter(m => m.rank === least)
    const names = new Set(index.names.find(print.name))
    const strongest = best.reduce((a, b) => (score(print, b, names) > score(print, a, names) ? b : a))
    const versions = index.versionsOf(strongest.reference)
    const named = names.has(strongest.reference) ? [{ kind: 'name' as const, text: `Named ${print.name}` }] : []
    return nearestVersion(
      versions.map(r => compared(r, strongest.rank, [...(matches.find(m => m.reference === r) ?? strongest).evidence, ...named])),
      print,
    )
  }
  const named = index.names.find(print.name).filter(r => isOwnOf(r, print))
  const near = named
    .map(r => compared(r, RANKS.name, [{ kind: 'name', text: `Named ${print.name}` }]))
    .filter(m => isBelievable(print, m))
  return near.length > 0 ? nearestVersion(near, print) : null
}

/** A stamp of a model stands on its materials as well: then the one of that name is meant. */
const isOwnOf = (reference: MaterialReference, print: MaterialPrint): boolean =>
  reference.ofModel === null || plainName(reference.ofModel) === plainName(print.name)

const plainName = (name: string): string => name.toLowerCase().replace(/[._ -]?\d{3}$/, '')

/** Of several items with the same pictures: the pinned, then the one named, then what differs least. */
function score(print: MaterialPrint, { reference, difference }: Match, names: ReadonlySet<MaterialReference>): number {
  const named = names.has(reference) || (reference.ofModel !== null && isOwnOf(reference, print)) ? 3 : 0
  const pinned = reference.pinned !== null ? 1.5 : 0
  return named + pinned - Math.min(difference.distance, 200) / 10 - (reference.isWithdrawn ? 1 : 0)
}

/** Only the name speaks for it: then colours and the rest must not speak against it. */
function isBelievable(print: MaterialPrint, { reference, difference }: Match): boolean {
  if (Object.keys(print.maps).length > 0 && Object.keys(reference.print.maps).length > 0)
    return Object.values(difference.maps).every(m => m.correlation === null || m.correlation > OTHER_PICTURE)
  if (Object.keys(print.maps).length + Object.keys(reference.print.maps).length > 0) return false
  return deltaE00(print.parameters.baseColor, reference.print.parameters.baseColor) < FAR_COLOR
}

const FAR_COLOR = 18

/** A version with its changes; of versions that differ as much, the likeliest. */
function nearestVersion(all: readonly Match[], print: MaterialPrint): Match {
  // The very pixels of one version are not another's, however alike a tint may have made them.
  const exact = all.filter(m => Object.values(m.difference.maps).some(map => map.isExact))
  const versions = exact.length > 0 ? exact : all
  const least = Math.min(...versions.map(m => m.difference.distance))
  const near = versions.filter(m => m.difference.distance <= least + 0.5)
  const best = preferVersion(
    near.map(m => m.reference),
    print.stamp?.code === near[0].reference.code ? print.stamp.version : undefined,
  )
  return near.find(m => m.reference === best)!
}
