import type { PictureFault } from '#core/compare/audit-picture'
import type { Evidence, FindingCode } from '#core/findings/finding'
import type { Target } from '#core/standard/target-names'
import { lostWord } from './parameter-words'
import { TARGET_WORDS } from './target-words'
import { formatMetres, formatNumber } from './units'

const n = (evidence: Evidence, key: string, digits = 2): string => formatNumber(Number(evidence[key]), digits)
const percent = (evidence: Evidence, key: string): string => `${formatNumber(Number(evidence[key]) * 100, 1)} %`

export const PICTURE_FAULT_WORDS: Record<PictureFault, string> = {
  aspect: 'another aspect than 4 : 3',
  looksLinear: 'saved without its display encoding',
  subjectTooSmall: 'the subject is small or does not show',
  subjectCut: 'the subject is cut off',
  offCentre: 'the subject is off centre',
  lowContrast: 'the subject is lost in the background',
  dark: 'too dark',
  bright: 'too bright',
}

/** Finding code to a sentence: what was measured, what was expected, what to do. */
const SENTENCES: Record<FindingCode, (e: Evidence) => string> = {
  realWorldSizeMissing: () =>
    'No real-world size is known; nothing renders at the right scale without it. Give the width of one repeat.',
  mapSizesDisagree: e => `The maps of this set differ in size: ${e.sizes}. One set should be one size.`,
  mapNotPowerOfTwo: e => `${e.widthPx} x ${e.heightPx} px is not a power of two.`,
  baseColorMissing: () => 'The set has no base colour map.',
  normalDirectX: e => {
    const times = 1 / Math.max(Number(e.curlRatio), 1e-3)
    return `The green channel points down: read the house way up, its slopes contradict each other ${formatNumber(times, 0)} times as much. Flip green.`
  },
  normalNotUnitLength: e => `${percent(e, 'offLengthShare')} of the normals are not of unit length (2 % at most). Renormalise.`,
  normalFlat: e => `The normal map is flat: root mean square slope ${n(e, 'rmsSlope', 4)}.`,
  albedoOutOfRange: e =>
    `${percent(e, 'outsideShare')} of the non-metal area is outside sRGB ${e.low} to ${e.high}, darker or lighter than real surfaces are.`,
  metalnessNotBinary: e => `${percent(e, 'betweenShare')} of the area is neither metal nor non-metal.`,
  glossAsRoughness: e =>
    `Mean roughness ${n(e, 'mean')} where this category has ${n(e, 'low')} to ${n(e, 'high')}: it is probably gloss. Invert it.`,
  roleByContentOnly: e => `Taken as ${e.role} by what it looks like; its name says nothing.`,
  tileSeam: e =>
    `The ${e.axis === 'x' ? 'left and right' : 'top and bottom'} edges do not join: a step of ${n(e, 'wrapStep', 3)} against ${n(e, 'interiorStep', 3)} inside. Make it tileable.`,
  heightBanding: e => `Only ${e.levels} levels in the height map (${e.bitsPerChannel} bit); it will show steps when displaced.`,
  notTwoToOne: e => `${e.width} x ${e.height} px is not 2 : 1, so it does not cover the sphere.`,
  badPixels: e => `${e.count} pixels are negative, infinite or not a number; they count as black.`,
  ringingPixels: e =>
    `${e.count} pixels are a little below zero, as a lossy compression leaves them beside bright lights; together they take ${formatNumber(Number(e.share) * 1e6, 0)} millionths of its light.`,
  fewLevels: e => `Only ${e.levels} distinct levels: an 8-bit picture saved as a float file.`,
  environmentSeam: e =>
    `The left and right edges do not join: ${n(e, 'stepStops')} stops apart, ${n(e, 'interiorStepStops')} inside.`,
  sunClipped: e =>
    `The sun is cut off: a flat spot of ${n(e, 'plateauDeg', 1)}° stands only ${n(e, 'aboveMedianStops', 1)} stops above the sky; some ${n(e, 'stopsMissing', 1)} stops are missing, so its shadows will be too soft.`,
  unitSuspect: e =>
    `${formatMetres(Number(e.largestM))} at its largest; things of this category have ${n(e, 'lowM')} to ${n(e, 'highM')} m. A factor of ${e.factor} would fit.`,
  pivotOffBase: e =>
    `The origin is ${formatMetres(Number(e.sidewaysM))} beside and ${formatMetres(Number(e.belowM))} under the centre of the base.`,
  defaultSurface: e =>
    e.reason === 'none' ? 'This part has no material.' : `This part wears a plain default surface (${e.material || 'unnamed'}).`,
  strayObjects: e =>
    `Came along: ${e.cameras} cameras, ${e.lights} lights, ${e.emptyNodes} empty nodes, ${e.animations} animations.`,
  degenerateTriangles: e => `${e.count} of ${e.triangles} triangles have no area.`,
  textureCoordinatesMissing: e =>
    e.reason === 'noArea'
      ? 'The texture coordinates of this part cover no area: all of it shows one texel.'
      : 'This part has textures but no texture coordinates.',
  vertexNormalsOff: e =>
    e.reason === 'missing'
      ? 'This part came without vertex normals, so every program shades it its own way.'
      : `${percent(e, 'againstShare')} of this part is shaded as if it were seen from behind.`,
  texelDensityUneven: e =>
    `${e.highPart} has ${n(e, 'highPxM', 0)} texels a metre, ${e.lowPart} ${n(e, 'lowPxM', 0)}: side by side one of them looks blurred.`,
  unnamedParts: e => `${e.count} of ${e.parts} parts have no name of their own.`,
  overTriangleBudget: e => `${e.triangles} triangles against a budget of ${e.budget}.`,
  bakedLight: e =>
    `Light is baked into the colour: it changes by ${percent(e, 'amplitude')} over the tile and repeats with it. It can be taken out.`,
  colorLooksLinear: e =>
    `The colour was stored linear: ${percent(e, 'darkShare')} of it is darker than charcoal; with its display encoding ${percent(e, 'soundShareEncoded')} is as surfaces are.`,
  colorProfileOther: e => `The colours are in ${e.profile}; targets read them as sRGB.`,
  duplicateTriangles: e => `${e.count} of ${e.triangles} triangles lie on another one.`,
  windingInwards: () => 'It is closed and faces inwards: renderers that cull back faces show nothing of it.',
  nonManifoldEdges: e => `${e.nonManifold} of ${e.edges} edges have three triangles or more.`,
  targetLosesLook: e =>
    `As ${TARGET_WORDS[e.target as Target] ?? e.target} it looks different: FLIP ${n(e, 'flip', 3)} against a house limit of ${n(e, 'limit')}. Lost: ${String(e.lost).split(', ').map(lostWord).join(', ')}.`,
  pictureUnfit: e =>
    `The picture ${e.file} that came along scores ${e.score} of 100 as a preview: ${String(e.faults)
      .split(', ')
      .map(f => PICTURE_FAULT_WORDS[f as PictureFault] ?? f)
      .join(', ')}. The rig's own picture is shown instead.`,
  pictureLooksLinear: e =>
    `The picture ${e.file} that came along looks as if it holds linear values saved without their display encoding; it is too dark in the middle.`,
  textureMatched: e =>
    `The model names ${e.address}, which did not come along; ${e.file} was taken for it, by what it shows and what it is called.`,
  externalFileMissing: () => 'The model names it, but it did not come along, and nothing of that name is in the delivery.',
  headingOff: e =>
    `The light comes from ${n(e, 'azimuthDeg', 0)}°; house skies have it at ${n(e, 'houseDeg', 0)}°, so that one can be put in place of another. Turning it by whole pixels loses nothing.`,
  exposureOff: e =>
    `A white card lying in it reads ${n(e, 'whiteCard', 3)}, where house skies read 1: ${n(e, 'ev', 1)} EV apart. A factor of ${n(e, 'gain', 3)} brings it there.`,
  tiersMissing: e => `${e.widthPx} px wide and no smaller size beside it, for looking and for light scenes.`,
  mapsOverBudget: e => `${e.widthPx} px wide where ${e.budgetPx} px are enough here; the rest costs memory and shows nowhere.`,
  packedMaps: () => 'Occlusion, roughness and metalness are packed into one picture; not every target reads that.',
  mapsApart: e => `${String(e.roles).split(', ').length} maps stand apart that this category keeps packed into one picture.`,
  visibleRepeat: e =>
    `One spot stands out, ${n(e, 'lightness', 0)} in lightness from the rest and ${n(e, 'spreads', 0)} times the usual spread: on a wall of it the repeat shows as a grid. Retouch it, or lay it turned.`,
  texturesOverBudget: e =>
    `${e.count} of ${e.textures} textures are larger than the ${e.budgetPx} px that a model may have; the largest has ${e.largestPx} px.`,
  paintOffColor: e =>
    `Rendered as it is measured (lit evenly, seen at 8°) it reads ${e.rendered} where ${e.specified} is specified: ΔE00 ${n(e, 'deltaE00', 1)}, more than ${n(e, 'limit', 0)}. The shine of such a surface goes everywhere and lightens so dark a colour; a glossier sheen can show it.`,
  nodeScaleOdd: e =>
    `${e.mirrored} parts are mirrored and ${e.stretched} stretched by their node (up to ${n(e, 'mostStretch', 2)} : 1); some programs turn their faces or shade them wrongly.`,
  levelsMissing: e =>
    `${formatNumber(Number(e.triangles), 0)} triangles and no level of detail: heavy in a scene seen from afar.`,
  levelNotLighter: e =>
    `Level ${e.level} has ${formatNumber(Number(e.triangles), 0)} triangles, hardly fewer than the ${formatNumber(Number(e.before), 0)} of the level before.`,
}

export const describeFinding = (code: FindingCode, evidence: Evidence): string => SENTENCES[code](evidence)
