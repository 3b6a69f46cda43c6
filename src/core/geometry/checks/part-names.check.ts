import { createFinding } from '../../findings/finding'
import { isTellingName } from '../part-names'
import type { ModelCheck } from './model-check'

export const checkPartNames: ModelCheck = ({ model }) => {
  const bad = model.parts.filter(p => !isTellingName(p.name))
  return bad.length > 0 ? [createFinding('unnamedParts', { count: bad.length, parts: model.parts.length })] : []
}
