import type { LightPrint } from './compare-lights'
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
  /** It comes with a lighter version of the model, as a plain colour mostly: its figures alone are anybody's. */
  isOfLighter?: boolean
  /** Side of one repeat in metres, where the library knows it. */
  repeatM: number | null
}

export interface ModelReference extends ReferenceBase {
  print: ModelPrint
  /** It is a lighter version of the model, which may be as plain as a box: never taken for the model by its shape. */
  isLighter?: boolean
}

export interface LightReference extends ReferenceBase {
  /** As it comes; null of a version whose curve does not read, which is known by its stamp and name alone. */
  print: LightPrint | null
}

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

const plain = (text: string): string =>
  text
    .toLowerCase()
    .normalize('NFKD')
    .replace(/[^a-z0-9]+/g, ' ')
    .trim()

/** Without the endings that programs give to copies. */
const withoutEndings = (name: string): string =>
  plain(name.replace(/([._ -]?\d{1,3}|[._ -]v\d+|[._ -](mat|mtl|copy|inst))+$/gi, ''))

/** Shorter names are words like any other. */
const LEAST_NAME = 4
/** Words of the longest code. */
const MOST_CODE_WORDS = 5

/** Items by what things are called that are made of them: a name that carries the code, or the item's own name. */
export class NameIndex<T extends Pick<ReferenceBase, 'code' | 'name'>> {
  private readonly byCode = new Map<string, T[]>()
  private readonly byName = new Map<string, T[]>()

  constructor(references: readonly T[]) {
    const put = (map: Map<string, T[]>, key: string, reference: T) => map.set(key, [...(map.get(key) ?? []), reference])
    for (const reference of references) {
      put(this.byCode, plain(reference.code), reference)
      const name = plain(reference.name)
      if (name.length >= LEAST_NAME) put(this.byName, name, reference)
    }
  }

  find(name: string): T[] {
    const words = plain(name).split(' ')
    const found = new Set<T>(this.byName.get(withoutEndings(name)))
    for (let from = 0; from < words.length; from++)
      for (let count = 1; count <= MOST_CODE_WORDS && from + count <= words.length; count++)
        for (const reference of this.byCode.get(words.slice(from, from + count).join(' ')) ?? []) found.add(reference)
    return [...found]
  }
}
