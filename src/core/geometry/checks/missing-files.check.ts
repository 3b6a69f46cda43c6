import { createFinding } from '../../findings/finding'
import type { ModelCheck } from './model-check'

export const checkMissingFiles: ModelCheck = ({ model }) =>
  model.missingFiles.map(file => createFinding('externalFileMissing', { file: file.split(/[\\/]/).pop() ?? file }, file))
