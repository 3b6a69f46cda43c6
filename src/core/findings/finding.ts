/** What a check saw: a code and its measured evidence. The sentence for it is the interface's business. */

export const SEVERITIES = ['mustFix', 'shouldFix', 'note'] as const
export type Severity = (typeof SEVERITIES)[number]

export const FINDING_SEVERITY = {
  realWorldSizeMissing: 'mustFix',
  mapSizesDisagree: 'shouldFix',
  mapNotPowerOfTwo: 'note',
  baseColorMissing: 'mustFix',
  normalDirectX: 'mustFix',
  normalNotUnitLength: 'shouldFix',
  normalFlat: 'note',
  albedoOutOfRange: 'shouldFix',
  metalnessNotBinary: 'note',
  glossAsRoughness: 'shouldFix',
  bakedLight: 'shouldFix',
  colorLooksLinear: 'mustFix',
  colorProfileOther: 'shouldFix',
  roleByContentOnly: 'note',
  tileSeam: 'shouldFix',
  heightBanding: 'note',
  visibleRepeat: 'note',
  notTwoToOne: 'mustFix',
  badPixels: 'mustFix',
  ringingPixels: 'note',
  skyOfPicture: 'shouldFix',
  skyUnfolded: 'note',
  fewLevels: 'shouldFix',
  environmentSeam: 'shouldFix',
  sunClipped: 'shouldFix',
  unitSuspect: 'mustFix',
  pivotOffBase: 'shouldFix',
  defaultSurface: 'mustFix',
  strayObjects: 'note',
  degenerateTriangles: 'note',
  duplicateTriangles: 'note',
  windingInwards: 'shouldFix',
  vertexNormalsOff: 'shouldFix',
  nonManifoldEdges: 'note',
  textureCoordinatesMissing: 'shouldFix',
  unnamedParts: 'shouldFix',
  overTriangleBudget: 'shouldFix',
  externalFileMissing: 'mustFix',
  textureMatched: 'note',
  lostInReading: 'note',
  fluxDisagrees: 'shouldFix',
  photometryCoarse: 'note',
  levelsMissing: 'note',
  nodeScaleOdd: 'note',
  texelDensityUneven: 'note',
  paintOffColor: 'shouldFix',
  headingOff: 'note',
  exposureOff: 'note',
  tiersMissing: 'note',
  mapsOverBudget: 'shouldFix',
  packedMaps: 'note',
  mapsApart: 'note',
  texturesOverBudget: 'shouldFix',
  levelNotLighter: 'shouldFix',
  targetLosesLook: 'note',
  pictureUnfit: 'note',
  pictureLooksLinear: 'note',
  greyInColor: 'note',
  alphaUnused: 'note',
  rangeNotFull: 'note',
  edgeFringe: 'shouldFix',
} as const satisfies Record<string, Severity>

/** What sets a sound thing apart from the house's own habits: nothing is wrong with it. */
export const HOUSE_HABITS: ReadonlySet<string> = new Set([
  'headingOff',
  'exposureOff',
  'tiersMissing',
  'levelsMissing',
  'packedMaps',
  'mapsApart',
] satisfies (keyof typeof FINDING_SEVERITY)[])

export type FindingCode = keyof typeof FINDING_SEVERITY
export const FINDING_CODES = Object.keys(FINDING_SEVERITY) as [FindingCode, ...FindingCode[]]

/** Figures and words only: stored, filtered, translated and tested without prose. */
export type Evidence = Record<string, number | string | boolean>

export interface Finding {
  code: FindingCode
  severity: Severity
  /** The map role, part or node concerned, where there is one. */
  subject?: string
  evidence: Evidence
}

export const createFinding = (code: FindingCode, evidence: Evidence, subject?: string): Finding => ({
  code,
  severity: FINDING_SEVERITY[code],
  evidence,
  ...(subject === undefined ? {} : { subject }),
})
