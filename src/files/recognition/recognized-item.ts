import { folderOf, withCapitals } from '#core/file-names'
import type { OpenPbrParameters } from '#core/material/open-pbr'
import type { MapRole } from '#core/material/texture-set'
import { type ItemKind, proposeTitle } from '#core/standard/categories'
import { proposeCategory } from '#core/standard/propose-category'
import type { TypedFile } from '../reading/source-file'

export type FileRole =
  | MapRole
  | 'model'
  /** Another level of detail of the model. */
  | 'lod'
  /** A very light model for heavy scenes. */
  | 'standIn'
  /** What a model names beside itself: buffers, textures, material libraries. */
  | 'modelPart'
  /** How a lamp throws its light. */
  | 'photometry'
  /** What one of the others was made from, as it was delivered. */
  | 'original'
  | 'environment'
  /** A stand-alone map. */
  | 'map'
  | 'definition'
  | 'alternate'
  | 'picture'
  | 'document'

export interface RecognizedFile {
  file: TypedFile
  role: FileRole
  /** Roles that only the pixels spoke for. */
  byContentOnly: boolean
  handednessHint: 'openGl' | 'directX' | null
}

/** One item as the delivery seems to hold it, before anybody looked. */
export interface RecognizedItem {
  kind: ItemKind
  name: string
  category: string
  categoryConfidence: number
  files: RecognizedFile[]
  /** Real-world width, where a material definition or the delivery's list states it. */
  widthMm: number | null
  /** Where the delivery itself files it: by its list, else by its folders; parts joined by " / ". */
  sourceFolder: string
  tags: string[]
  /** Facts that the delivery states. */
  given: Record<string, string>
  specifiedColor?: string
  constants: Partial<OpenPbrParameters>
}

/** index: the delivery's list, read; indexOlder, indexBackup: another list of it that does not count. */
export type LeftOverReason = 'document' | 'noItem' | 'unknownType' | 'picture' | 'index' | 'indexOlder' | 'indexBackup'

/**
 * An item of these files, its name and category as its words suggest.
 * @param folder where it lies, if not where its first file does
 */
export function createItem(kind: ItemKind, files: RecognizedFile[], words: string[], folder?: string): RecognizedItem {
  const folders = (folder ?? folderOf(files[0]?.file.path ?? '')).split('/')
  const { path, confidence } = proposeCategory(kind, { words, folders, facts: {} })
  return {
    kind,
    name: proposeTitle(withCapitals(words, files[0]?.file.path ?? '')),
    category: path,
    categoryConfidence: confidence,
    files,
    widthMm: null,
    constants: {},
    sourceFolder: '',
    tags: [],
    given: {},
  }
}
