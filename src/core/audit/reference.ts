import type { MaterialPrint } from './material-print'
import type { ModelPrint } from './model-print'

/** What stands of a scene's project or library about one version of an item. */
interface ReferenceBase {
  code: string
  version: number
  name: string
  /** The version that counts: pinned by the project, or approved where no project is asked about. Null where there is none. */
  pinned: number | null
  isWithdrawn: boolean
}

export interface MaterialReference extends ReferenceBase {
  print: MaterialPrint
  /** Of a model's own material, which it is; null for a material of the library. */
  ofModel: string | null
  /** Side of one repeat in metres, where the library knows it. */
  repeatM: number | null
}

export interface ModelReference extends ReferenceBase {
  print: ModelPrint
}

export interface LightReference extends ReferenceBase {}

export const AUDIT_CLASSES = ['pinned', 'older', 'altered', 'other', 'foreign', 'withdrawn', 'missing'] as const
export type AuditClass = (typeof AUDIT_CLASSES)[number]

/** What a thing is known by, strongest first. */
export const EVIDENCE_KINDS = ['stamp', 'pixels', 'mesh', 'picture', 'shape', 'parameters', 'name', 'look'] as const
export interface AuditEvidence {
  kind: (typeof EVIDENCE_KINDS)[number]
  text: string
}

/** Of the version that a thing was found to be: what it is to the project. */
export function standingOf({ version, pinned, isWithdrawn }: ReferenceBase): 'pinned' | 'older' | 'other' | 'withdrawn' {
  if (isWithdrawn) return 'withdrawn'
  if (pinned === null || version > pinned) return 'other'
  return version === pinned ? 'pinned' : 'older'
}

/** Which of equally near versions to believe: the stamped, the pinned, the newest. */
export function preferVersion<T extends ReferenceBase>(versions: readonly T[], stamped: number | undefined): T {
  const weight = (r: T) => (r.version === stamped ? 1e6 : 0) + (r.version === r.pinned ? 1e5 : 0) + r.version
  return versions.reduce((best, r) => (weight(r) > weight(best) ? r : best))
}

/** Code that a name carries, as the house gives them: letters, then digits, with or without something between; null without one. */
export function namesItem(name: string, { code, name: itemName }: Pick<ReferenceBase, 'code' | 'name'>): boolean {
  const plain = (text: string) =>
    text
      .toLowerCase()
      .normalize('NFKD')
      .replace(/[^a-z0-9]+/g, ' ')
      .trim()
  const [given, byCode, byName] = [` ${plain(name)} `, ` ${plain(code)} `, plain(itemName)]
  if (given.includes(byCode)) return true
  // Endings that programs give to copies.
  return (
    byName.length >= LEAST_NAME && plain(name.replace(/([._ -]?\d{1,3}|[._ -]v\d+|[._ -](mat|mtl|copy|inst))+$/gi, '')) === byName
  )
}

const LEAST_NAME = 4
