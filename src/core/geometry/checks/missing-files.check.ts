import { createFinding } from '../../findings/finding'
import type { ModelCheck } from './model-check'

/** What was found though no name leads to it is told: somebody should look. */
export const checkMatchedFiles: ModelCheck = ({ model }) =>
  (model.matchedFiles ?? []).map(({ address, file }) =>
    createFinding('textureMatched', { address: nameOf(address), file: nameOf(file) }, address),
  )

/** What the form of the library does not hold of the one a model came in. */
export const checkLost: ModelCheck = ({ model }) => {
  const [form, ...lost] = model.lost ?? []
  return lost.length > 0 ? [createFinding('lostInReading', { form, what: lost.slice(0, 6).join(', ') })] : []
}

export const checkMissingFiles: ModelCheck = ({ model }) =>
  model.missingFiles.map(file => createFinding('externalFileMissing', { file: nameOf(file) }, file))

const nameOf = (path: string): string => path.split(/[\\/]/).pop() ?? path
