import { createFinding } from '../../findings/finding'
import type { ModelCheck } from './model-check'

/** What was found though no name leads to it is told: somebody should look. */
export const checkMatchedFiles: ModelCheck = ({ model }) =>
  (model.matchedFiles ?? []).map(({ address, file }) =>
    createFinding('textureMatched', { address: nameOf(address), file: nameOf(file) }, address),
  )

export const checkMissingFiles: ModelCheck = ({ model }) =>
  model.missingFiles.map(file => createFinding('externalFileMissing', { file: nameOf(file) }, file))

const nameOf = (path: string): string => path.split(/[\\/]/).pop() ?? path
