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

interface Words {
  /** Two or three words, for lists and filters. */
  name: string
  /** What was measured, what was expected, what to do. */
  sentence: (evidence: Evidence) => string
}

const WORDS: Record<FindingCode, Words> = {
  realWorldSizeMissing: {
    name: 'size unknown',
    sentence: () => 'No real-world size is known; nothing renders at the right scale without it. Give the width of one repeat.',
  },
  mapSizesDisagree: {
    name: 'map sizes disagree',
    sentence: e => `The maps of this set differ in size: ${e.sizes}. One set should be one size.`,
  },
  mapNotPowerOfTwo: {
    name: 'not a power of two',
    sentence: e => `${e.widthPx} x ${e.heightPx} px is not a power of two.`,
  },
  baseColorMissing: {
    name: 'no base colour',
    sentence: () => 'The set has no base colour map.',
  },
  greyInColor: {
    name: 'grey kept as colour',
    sentence: e => `Every texel is a grey, kept in ${e.channels} channels: one holds the same.`,
  },
  alphaUnused: {
    name: 'alpha unused',
    sentence: () => 'Its alpha is opaque everywhere and says nothing.',
  },
  rangeNotFull: {
    name: 'range not full',
    sentence: e =>
      `Its values go from ${formatNumber(Number(e.low), 2)} to ${formatNumber(Number(e.high), 2)}: it never quite hides, or never quite shows.`,
  },
  edgeFringe: {
    name: 'fringe along the edge',
    sentence: e =>
      `Under what is clear lies another colour, ${formatNumber(Number(e.difference) * 255, 0)} of 255 away: made smaller, it shows as a rim. Carry the colours on.`,
  },
  normalDirectX: {
    name: 'green points down',
    sentence: e => {
      const times = 1 / Math.max(Number(e.curlRatio), 1e-3)
      return `The green channel points down: read the house way up, its slopes contradict each other ${formatNumber(times, 0)} times as much. Flip green.`
    },
  },
  normalNotUnitLength: {
    name: 'normals off length',
    sentence: e => `${percent(e, 'offLengthShare')} of the normals are not of unit length (2 % at most). Renormalise.`,
  },
  normalFlat: {
    name: 'normals flat',
    sentence: e => `The normal map is flat: root mean square slope ${n(e, 'rmsSlope', 4)}.`,
  },
  albedoOutOfRange: {
    name: 'colour out of range',
    sentence: e =>
      `${percent(e, 'outsideShare')} of the non-metal area is outside sRGB ${e.low} to ${e.high}, darker or lighter than real surfaces are.`,
  },
  metalnessNotBinary: {
    name: 'half metal',
    sentence: e => `${percent(e, 'betweenShare')} of the area is neither metal nor non-metal.`,
  },
  glossAsRoughness: {
    name: 'gloss as roughness',
    sentence: e =>
      `Mean roughness ${n(e, 'mean')} where this category has ${n(e, 'low')} to ${n(e, 'high')}: it is probably gloss. Invert it.`,
  },
  roleByContentOnly: {
    name: 'map guessed',
    sentence: e => `Taken as ${e.role} by what it looks like; its name says nothing.`,
  },
  tileSeam: {
    name: 'seam shows',
    sentence: e =>
      `The ${e.axis === 'x' ? 'left and right' : 'top and bottom'} edges do not join: a step of ${n(e, 'wrapStep', 3)} against ${n(e, 'interiorStep', 3)} inside. Make it tileable.`,
  },
  heightBanding: {
    name: 'height in steps',
    sentence: e => `Only ${e.levels} levels in the height map (${e.bitsPerChannel} bit); it will show steps when displaced.`,
  },
  notTwoToOne: {
    name: 'not 2 : 1',
    sentence: e => `${e.width} x ${e.height} px is not 2 : 1, so it does not cover the sphere.`,
  },
  badPixels: {
    name: 'bad pixels',
    sentence: e => `${e.count} pixels are negative, infinite or not a number; they count as black.`,
  },
  ringingPixels: {
    name: 'slightly negative',
    sentence: e =>
      `${e.count} pixels are a little below zero, as a lossy compression leaves them beside bright lights; together they take ${formatNumber(Number(e.share) * 1e6, 0)} millionths of its light.`,
  },
  skyOfPicture: {
    name: 'no light of its own',
    sentence: e =>
      `It came as an encoded picture (${e.bits} bits): nothing in it is brighter than white, so it has no sun and lights flatly. Ask for it as OpenEXR or Radiance HDR.`,
  },
  skyUnfolded: {
    name: 'unfolded',
    sentence: e => `It came as a ${e.shape} and was unfolded into a panorama; the file as delivered stays with the item.`,
  },
  fewLevels: {
    name: '8 bits in disguise',
    sentence: e => `Only ${e.levels} distinct levels: an 8-bit picture saved as a float file.`,
  },
  environmentSeam: {
    name: 'panorama seam',
    sentence: e => `The left and right edges do not join: ${n(e, 'stepStops')} stops apart, ${n(e, 'interiorStepStops')} inside.`,
  },
  sunClipped: {
    name: 'sun clipped',
    sentence: e =>
      `The sun is cut off: a flat spot of ${n(e, 'plateauDeg', 1)}° stands only ${n(e, 'aboveMedianStops', 1)} stops above the sky; some ${n(e, 'stopsMissing', 1)} stops are missing, so its shadows will be too soft.`,
  },
  unitSuspect: {
    name: 'unusual size',
    sentence: e =>
      `${formatMetres(Number(e.largestM))} at its largest; things of this category have ${n(e, 'lowM')} to ${n(e, 'highM')} m. A factor of ${e.factor} would fit.`,
  },
  pivotOffBase: {
    name: 'origin off the base',
    sentence: e =>
      `The origin is ${formatMetres(Number(e.sidewaysM))} beside and ${formatMetres(Number(e.belowM))} under the centre of the base.`,
  },
  defaultSurface: {
    name: 'part without a material',
    sentence: e =>
      e.reason === 'none'
        ? 'This part has no material.'
        : `This part wears a plain default surface (${e.material || 'unnamed'}).`,
  },
  strayObjects: {
    name: 'strays',
    sentence: e =>
      `Came along: ${e.cameras} cameras, ${e.lights} lights, ${e.emptyNodes} empty nodes, ${e.animations} animations.`,
  },
  degenerateTriangles: {
    name: 'flat triangles',
    sentence: e => `${e.count} of ${e.triangles} triangles have no area.`,
  },
  textureCoordinatesMissing: {
    name: 'no texture coordinates',
    sentence: e =>
      e.reason === 'noArea'
        ? 'The texture coordinates of this part cover no area: all of it shows one texel.'
        : 'This part has textures but no texture coordinates.',
  },
  vertexNormalsOff: {
    name: 'vertex normals off',
    sentence: e =>
      e.reason === 'missing'
        ? 'This part came without vertex normals, so every program shades it its own way.'
        : `${percent(e, 'againstShare')} of this part is shaded as if it were seen from behind.`,
  },
  texelDensityUneven: {
    name: 'uneven texel density',
    sentence: e =>
      `${e.highPart} has ${n(e, 'highPxM', 0)} texels a metre, ${e.lowPart} ${n(e, 'lowPxM', 0)}: side by side one of them looks blurred.`,
  },
  unnamedParts: {
    name: 'unnamed parts',
    sentence: e => `${e.count} of ${e.parts} parts have no name of their own.`,
  },
  overTriangleBudget: {
    name: 'over budget',
    sentence: e => `${e.triangles} triangles against a budget of ${e.budget}.`,
  },
  bakedLight: {
    name: 'light baked in',
    sentence: e =>
      `Light is baked into the colour: it changes by ${percent(e, 'amplitude')} over the tile and repeats with it. It can be taken out.`,
  },
  colorLooksLinear: {
    name: 'colour stored linear',
    sentence: e =>
      `The colour was stored linear: ${percent(e, 'darkShare')} of it is darker than charcoal; with its display encoding ${percent(e, 'soundShareEncoded')} is as surfaces are.`,
  },
  colorProfileOther: {
    name: 'other colour space',
    sentence: e => `The colours are in ${e.profile}; targets read them as sRGB.`,
  },
  duplicateTriangles: {
    name: 'doubled triangles',
    sentence: e => `${e.count} of ${e.triangles} triangles lie on another one.`,
  },
  windingInwards: {
    name: 'faces inwards',
    sentence: () => 'It is closed and faces inwards: renderers that cull back faces show nothing of it.',
  },
  nonManifoldEdges: {
    name: 'edges of three',
    sentence: e => `${e.nonManifold} of ${e.edges} edges have three triangles or more.`,
  },
  targetLosesLook: {
    name: 'target loses the look',
    sentence: e =>
      `As ${TARGET_WORDS[e.target as Target] ?? e.target} it looks different: FLIP ${n(e, 'flip', 3)} against a house limit of ${n(e, 'limit')}. Lost: ${String(e.lost).split(', ').map(lostWord).join(', ')}.`,
  },
  pictureUnfit: {
    name: 'unfit picture',
    sentence: e =>
      `The picture ${e.file} that came along scores ${e.score} of 100 as a preview: ${String(e.faults)
        .split(', ')
        .map(f => PICTURE_FAULT_WORDS[f as PictureFault] ?? f)
        .join(', ')}. The rig's own picture is shown instead.`,
  },
  pictureLooksLinear: {
    name: 'picture stored linear',
    sentence: e =>
      `The picture ${e.file} that came along looks as if it holds linear values saved without their display encoding; it is too dark in the middle.`,
  },
  fluxDisagrees: {
    name: 'lumens disagree',
    sentence: e =>
      `Its curve adds up to ${n(e, 'fluxLm', 0)} lm, its lamps are stated with ${n(e, 'statedLm', 0)} lm; one of the two is wrong.`,
  },
  photometryCoarse: {
    name: 'coarse light curve',
    sentence: e =>
      `Its curve runs from ${n(e, 'firstDeg', 0)}° to ${n(e, 'lastDeg', 0)}° in steps of up to ${n(e, 'stepDeg', 1)}°; between them its light is a guess.`,
  },
  lostInReading: {
    name: 'left out in reading',
    sentence: e =>
      `It came as ${String(e.form).toUpperCase()}; the library's form does not hold ${e.what}. The file as delivered stays with the item.`,
  },
  textureMatched: {
    name: 'texture found',
    sentence: e =>
      `The model names ${e.address}, which did not come along; ${e.file} was taken for it, by what it shows and what it is called.`,
  },
  externalFileMissing: {
    name: 'file missing',
    sentence: () => 'The model names it, but it did not come along, and nothing of that name is in the delivery.',
  },
  headingOff: {
    name: 'other heading',
    sentence: e =>
      `The light comes from ${n(e, 'azimuthDeg', 0)}°; house skies have it at ${n(e, 'houseDeg', 0)}°, so that one can be put in place of another. Turning it by whole pixels loses nothing.`,
  },
  exposureOff: {
    name: 'other exposure',
    sentence: e =>
      `A white card lying in it reads ${n(e, 'whiteCard', 3)}, where house skies read 1: ${n(e, 'ev', 1)} EV apart. A factor of ${n(e, 'gain', 3)} brings it there.`,
  },
  tiersMissing: {
    name: 'no smaller sizes',
    sentence: e => `${e.widthPx} px wide and no smaller size beside it, for looking and for light scenes.`,
  },
  mapsOverBudget: {
    name: 'maps over budget',
    sentence: e => `${e.widthPx} px wide where ${e.budgetPx} px are enough here; the rest costs memory and shows nowhere.`,
  },
  packedMaps: {
    name: 'maps packed',
    sentence: () => 'Occlusion, roughness and metalness are packed into one picture; not every target reads that.',
  },
  mapsApart: {
    name: 'maps not packed',
    sentence: e => `${String(e.roles).split(', ').length} maps stand apart that this category keeps packed into one picture.`,
  },
  visibleRepeat: {
    name: 'repeat shows',
    sentence: e =>
      `One spot stands out, ${n(e, 'lightness', 0)} in lightness from the rest and ${n(e, 'spreads', 0)} times the usual spread: on a wall of it the repeat shows as a grid. Retouch it, or lay it turned.`,
  },
  texturesOverBudget: {
    name: 'textures over budget',
    sentence: e =>
      `${e.count} of ${e.textures} textures are larger than the ${e.budgetPx} px that a model may have; the largest has ${e.largestPx} px.`,
  },
  paintOffColor: {
    name: 'off its colour',
    sentence: e =>
      `Rendered as it is measured (lit evenly, seen at 8°) it reads ${e.rendered} where ${e.specified} is specified: ΔE00 ${n(e, 'deltaE00', 1)}, more than ${n(e, 'limit', 0)}. The shine of such a surface goes everywhere and lightens so dark a colour; a glossier sheen can show it.`,
  },
  nodeScaleOdd: {
    name: 'stretched or mirrored',
    sentence: e =>
      `${e.mirrored} parts are mirrored and ${e.stretched} stretched by their node (up to ${n(e, 'mostStretch', 2)} : 1); some programs turn their faces or shade them wrongly.`,
  },
  levelsMissing: {
    name: 'no levels of detail',
    sentence: e => `${formatNumber(Number(e.triangles), 0)} triangles and no level of detail: heavy in a scene seen from afar.`,
  },
  levelNotLighter: {
    name: 'level not lighter',
    sentence: e =>
      `Level ${e.level} has ${formatNumber(Number(e.triangles), 0)} triangles, hardly fewer than the ${formatNumber(Number(e.before), 0)} of the level before.`,
  },
}

export const findingName = (code: FindingCode): string => WORDS[code].name

export const describeFinding = (code: FindingCode, evidence: Evidence): string => WORDS[code].sentence(evidence)
