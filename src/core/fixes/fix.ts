import type { Evidence, Finding, FindingCode } from '../findings/finding'

/** Fixes that can be computed, in the order in which several are applied: what the later ones measure, the earlier ones have set. */
export const FIX_CODES = [
  'convertToSrgb',
  'encodeForDisplay',
  'matchSizes',
  'flipGreen',
  'renormalize',
  'invertValues',
  'removeBakedLight',
  'makeTileable',
  'unpackMaps',
  'packMaps',
  'reduceMaps',
  'bleedColors',
  'fillRange',
  'toGrey',
  'dropAlpha',
  'repairPixels',
  'closeSeam',
  'applyGain',
  'rollToHeading',
  'makeTiers',
  'rescale',
  'dropStrays',
  'weldAndClean',
  'turnOutwards',
  'recomputeNormals',
  'reduceToBudget',
  'assignMaterial',
  'nameParts',
  'recentre',
  'reduceTextures',
  'makeLevels',
] as const
export type FixCode = (typeof FIX_CODES)[number]

/** A computed change of an item's files. The file as delivered stays; what comes out stands beside it. */
export interface Fix {
  code: FixCode
  /** The map or part concerned; the whole item without one. */
  subject?: string
  parameters: Evidence
}

const simple =
  (code: FixCode, ...keys: string[]) =>
  ({ subject, evidence }: Finding): Fix => ({
    code,
    ...(subject === undefined ? {} : { subject }),
    parameters: Object.fromEntries(keys.map(k => [k, evidence[k]])),
  })

const FIX_OF: Partial<Record<FindingCode, (finding: Finding) => Fix | null>> = {
  colorProfileOther: simple('convertToSrgb'),
  colorLooksLinear: simple('encodeForDisplay'),
  mapSizesDisagree: simple('matchSizes', 'widthPx', 'heightPx'),
  normalDirectX: simple('flipGreen'),
  normalNotUnitLength: simple('renormalize'),
  glossAsRoughness: simple('invertValues'),
  bakedLight: simple('removeBakedLight'),
  tileSeam: ({ evidence }) => ({ code: 'makeTileable', parameters: { axis: evidence.axis } }),
  badPixels: simple('repairPixels'),
  ringingPixels: simple('repairPixels'),
  environmentSeam: simple('closeSeam'),
  // A factor of 1 would change nothing: the size is unusual, and no unit explains it.
  unitSuspect: finding => (finding.evidence.factor === 1 ? null : simple('rescale', 'factor')(finding)),
  pivotOffBase: simple('recentre'),
  strayObjects: simple('dropStrays'),
  degenerateTriangles: simple('weldAndClean'),
  duplicateTriangles: simple('weldAndClean'),
  windingInwards: simple('turnOutwards'),
  vertexNormalsOff: simple('recomputeNormals'),
  unnamedParts: simple('nameParts'),
  overTriangleBudget: simple('reduceToBudget', 'triangles', 'budget'),
  headingOff: simple('rollToHeading', 'azimuthDeg', 'houseDeg'),
  exposureOff: simple('applyGain', 'gain'),
  tiersMissing: simple('makeTiers'),
  mapsOverBudget: simple('reduceMaps', 'budgetPx'),
  packedMaps: simple('unpackMaps'),
  mapsApart: simple('packMaps'),
  texturesOverBudget: simple('reduceTextures', 'budgetPx'),
  levelsMissing: simple('makeLevels'),
  levelNotLighter: simple('makeLevels'),
  greyInColor: simple('toGrey'),
  alphaUnused: simple('dropAlpha'),
  rangeNotFull: simple('fillRange', 'low', 'high'),
  edgeFringe: simple('bleedColors'),
}

/** The fix that answers a finding; null where only a person can. */
export const proposeFix = (finding: Finding): Fix | null => FIX_OF[finding.code]?.(finding) ?? null

/** A part without a material, in a house material: which one is a person's to choose. */
export const assignMaterialFix = (part: string, material: { code: string; versionId: number; widthMm: number | null }): Fix => ({
  code: 'assignMaterial',
  subject: part,
  parameters: { code: material.code, versionId: material.versionId, widthMm: material.widthMm ?? 0 },
})

export const isFixable = (code: FindingCode): boolean => FIX_OF[code] !== undefined

/** In the order of FIX_CODES, equal ones once. */
export function orderFixes(fixes: readonly Fix[]): Fix[] {
  const once = new Map(fixes.map(f => [JSON.stringify([f.code, f.subject ?? null, f.parameters]), f]))
  return [...once.values()].sort((a, b) => FIX_CODES.indexOf(a.code) - FIX_CODES.indexOf(b.code))
}
