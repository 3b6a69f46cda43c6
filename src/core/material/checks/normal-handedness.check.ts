import { createFinding } from '../../findings/finding'
import { type MaterialCheck, mapOf } from '../material-subject'
import { findNormalHandedness } from '../normal-map'

export const checkNormalHandedness: MaterialCheck = subject => {
  const map = mapOf(subject, 'normal')
  if (!map || map.image.channels < 3) return []
  const verdict = subject.handedness ?? findNormalHandedness(map.image)
  return verdict.handedness === 'directX'
    ? [createFinding('normalDirectX', { curlRatio: verdict.curlRatio, confidence: verdict.confidence }, map.path)]
    : []
}
