import { createFinding } from '../../findings/finding'
import type { EnvironmentCheck } from './environment-check'

export const checkAspect: EnvironmentCheck = ({ width, height }) =>
  width === height * 2 ? [] : [createFinding('notTwoToOne', { width, height, aspect: width / height })]
