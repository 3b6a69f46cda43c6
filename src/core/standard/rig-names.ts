/** The rigs that ship, by name; what each is stands with the renderer. */
export const HOUSE_RIG_NAMES = [
  'material-stage',
  'cloth-drape',
  'glass-vessel',
  'liquid-vessel',
  'material-close-up',
  'material-wall',
  'model-three-quarter',
  'plant-three-quarter',
  'leaf-close-up',
  'light-wall-wash',
  'environment-strip',
  'light-bay',
  'map-sheet',
] as const
export type HouseRigName = (typeof HOUSE_RIG_NAMES)[number]
