import { createFinding } from '../../findings/finding'
import type { MaterialCheck } from '../material-subject'

export const checkRealWorldSize: MaterialCheck = ({ widthMm }) =>
  widthMm === null || !(widthMm > 0) ? [createFinding('realWorldSizeMissing', {})] : []
