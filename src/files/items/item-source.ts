import { FileError } from '#core/findings/failure'
import type { OpenPbrParameters, Tiling } from '#core/material/open-pbr'
import { MAP_ROLES, type MapRole } from '#core/material/texture-set'
import type { ItemKind } from '#core/standard/categories'
import type { SourceFile } from '../reading/source-file'

/** What is needed to open an item, whether it is still in a batch or stored as a version. */
export interface ItemSource {
  kind: ItemKind
  name: string
  files: { file: SourceFile; role: string; byContentOnly: boolean; handednessHint: 'openGl' | 'directX' | null }[]
  widthMm: number | null
  /** Of a material: whether its pictures repeat; they do without it. */
  tiling?: Tiling
  constants: Partial<OpenPbrParameters>
  /** Of a paint: the colour that its maker specifies, #rrggbb. */
  specifiedColor?: string
  /** Which of several materials of its definition it is. */
  materialName?: string
  /** Of a map: the part of its file that it is, as `writeBox` writes it; until it is cut out. */
  cutOut?: string
}

/** An item's source with what facts that came along say about how to open it. */
export function withGivenFacts(
  source: ItemSource,
  { specifiedColor, materialName, cutOut }: Readonly<Record<string, unknown>>,
): ItemSource {
  return {
    ...source,
    ...(typeof specifiedColor === 'string' ? { specifiedColor } : {}),
    ...(typeof materialName === 'string' ? { materialName } : {}),
    ...(typeof cutOut === 'string' ? { cutOut } : {}),
  }
}

/** The role of the file that an item is opened by; a material has none of its own. */
export const mainRole = (kind: ItemKind): string => (kind === 'light' ? 'photometry' : kind)

/** A model's lighter versions: its levels of detail, the heaviest first, and its stand-in. */
export function lighterFiles({ files }: Pick<ItemSource, 'files'>): { levels: SourceFile[]; standIn: SourceFile | null } {
  const ofRole = (role: string) => files.filter(f => f.role === role).map(f => f.file)
  return { levels: ofRole('lod').sort((a, b) => b.size - a.size), standIn: ofRole('standIn')[0] ?? null }
}

export function mainFile(source: ItemSource): SourceFile {
  const found = source.files.find(f => f.role === mainRole(source.kind))
  if (!found) throw new FileError('notFound', `The item has no ${mainRole(source.kind)} file.`)
  return found.file
}

export const isMapRole = (role: string): role is MapRole => (MAP_ROLES as readonly string[]).includes(role)

/** Occlusion is baked shadow, and a specular map of another workflow. */
export const isDrawnRole = (role: string): boolean => isMapRole(role) && role !== 'ambientOcclusion' && role !== 'specular'

/** Whether a picture of the item depends on a file of this role. */
export const isShownRole = (role: string): boolean =>
  isMapRole(role) || role === 'model' || role === 'environment' || role === 'photometry' || role === 'map'
