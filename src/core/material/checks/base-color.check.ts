import { createFinding } from '../../findings/finding'
import { type MaterialCheck, mapOf } from '../material-subject'

export const checkBaseColorPresent: MaterialCheck = subject =>
  mapOf(subject, 'baseColor') ? [] : [createFinding('baseColorMissing', { maps: subject.maps.length })]
