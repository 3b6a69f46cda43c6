/** What lengths of a file are in: what its form says, or what whoever brings it says. */
export const MODEL_UNITS = ['asSaid', 'mm', 'cm', 'in', 'ft'] as const
export type ModelUnit = (typeof MODEL_UNITS)[number]
export const UP_AXES = ['y', 'z'] as const
export type UpAxis = (typeof UP_AXES)[number]

/** Metres of one. */
export const METRES_OF: Readonly<Record<ModelUnit, number>> = { asSaid: 1, mm: 0.001, cm: 0.01, in: 0.0254, ft: 0.3048 }

/** A building site has no more. */
const LARGEST_SITE_M = 600
/** And what one stands in has no less. */
const SMALLEST_STAGE_M = 2

/** What lengths of a file whose form says nothing of units are in most likely, by the longest of them. */
export function guessUnit(longest: number): ModelUnit {
  if (!(longest > LARGEST_SITE_M)) return 'asSaid'
  return longest * METRES_OF.mm >= SMALLEST_STAGE_M ? 'mm' : 'cm'
}
