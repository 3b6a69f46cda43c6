import type { MapUse } from '#core/map/map-use'
import { MAP_USE_WORDS } from './map-use-words'

/** Numbers as people read them here: a thin space between thousands, a point for decimals. */
export function formatNumber(value: number, digits = 2): string {
  if (!Number.isFinite(value)) return 'n/a'
  const [whole, rest] = Math.abs(value).toFixed(digits).split('.')
  const grouped = whole.replace(/\B(?=(\d{3})+(?!\d))/g, '\u202f')
  const tail = rest?.replace(/0+$/, '')
  const zero = Number(value.toFixed(digits)) === 0
  return `${value < 0 && !zero ? '−' : ''}${grouped}${tail ? `.${tail}` : ''}`
}

/** A length in metres with its unit; what is less than a centimetre in millimetres. */
export const formatMetres = (metres: number): string =>
  metres !== 0 && Math.abs(metres) < 0.01
    ? `${formatNumber(metres * 1000, Math.abs(metres) < 0.0001 ? 4 : 2)} mm`
    : `${formatNumber(metres, Math.abs(metres) < 10 ? 2 : 1)} m`

export function formatBytes(bytes: number): string {
  const units = ['B', 'KB', 'MB', 'GB', 'TB']
  let value = bytes
  let unit = 0
  while (value >= 1000 && unit < units.length - 1) {
    value /= 1000
    unit++
  }
  return `${formatNumber(value, value < 10 && unit > 0 ? 1 : 0)} ${units[unit]}`
}

/** Millimetres up to a metre, metres beyond. */
export const formatLengthMm = (mm: number): string =>
  mm < 1000 ? `${formatNumber(mm, 0)} mm` : `${formatNumber(mm / 1000, 2)} m`

interface FactUnit {
  label: string
  unit: string
  digits: number
}

/** Every fact we measure: how it is called, its unit, how many digits mean something. */
export const FACT_UNITS: Record<string, FactUnit> = {
  widthMm: { label: 'Real-world width', unit: 'mm', digits: 0 },
  heightMm: { label: 'Real-world height', unit: 'mm', digits: 0 },
  widthPx: { label: 'Picture width', unit: 'px', digits: 0 },
  heightPx: { label: 'Picture height', unit: 'px', digits: 0 },
  mapUse: { label: 'For use as', unit: '', digits: 0 },
  bitsPerChannel: { label: 'Depth', unit: 'bits a channel', digits: 0 },
  mapChannels: { label: 'Channels', unit: '', digits: 0 },
  mapTiles: { label: 'Tiles', unit: '', digits: 0 },
  coverShare: { label: 'Share that is there', unit: '', digits: 2 },
  mapMean: { label: 'Mean value', unit: '', digits: 3 },
  mapLow: { label: 'Darkest', unit: '', digits: 3 },
  mapHigh: { label: 'Brightest', unit: '', digits: 3 },
  histogram: { label: 'Values', unit: '', digits: 0 },
  madeFrom: { label: 'Made from', unit: '', digits: 0 },
  cutOut: { label: 'Cut from its sheet at', unit: '', digits: 0 },
  texelDensityPxM: { label: 'Texel density', unit: 'px/m', digits: 0 },
  maps: { label: 'Maps', unit: '', digits: 0 },
  normalMapHandedness: { label: 'Normal map', unit: '', digits: 0 },
  lrv: { label: 'Light reflectance', unit: 'LRV', digits: 1 },
  meanColor: { label: 'Mean colour', unit: '', digits: 0 },
  palette: { label: 'Palette', unit: '', digits: 0 },
  meanRoughness: { label: 'Mean roughness', unit: '', digits: 2 },
  appearance: { label: 'Appearance', unit: '', digits: 0 },
  metalShare: { label: 'Metal share', unit: '', digits: 2 },
  triangles: { label: 'Triangles', unit: '', digits: 0 },
  vertices: { label: 'Vertices', unit: '', digits: 0 },
  parts: { label: 'Parts', unit: '', digits: 0 },
  materials: { label: 'Materials', unit: '', digits: 0 },
  textures: { label: 'Textures', unit: '', digits: 0 },
  boundsM: { label: 'Width × height × depth', unit: 'm', digits: 3 },
  widthM: { label: 'Width', unit: 'm', digits: 3 },
  heightM: { label: 'Height', unit: 'm', digits: 3 },
  depthM: { label: 'Depth', unit: 'm', digits: 3 },
  surfaceAreaM2: { label: 'Surface area', unit: 'm²', digits: 2 },
  gpuMegabytes: { label: 'On a graphics card', unit: 'MB', digits: 1 },
  levels: { label: 'Levels of detail', unit: '', digits: 0 },
  levelTriangles: { label: 'Their triangles', unit: '', digits: 0 },
  standInTriangles: { label: 'Stand-in triangles', unit: '', digits: 0 },
  horizontalIrradiance: { label: 'Horizontal irradiance', unit: '', digits: 3 },
  whiteCardGain: { label: 'White-card gain', unit: '', digits: 3 },
  exposureEv: { label: 'House exposure', unit: 'EV', digits: 2 },
  dynamicRangeStops: { label: 'Dynamic range', unit: 'stops', digits: 1 },
  dynamicRangeAtLeast: { label: 'Its darkest part was cut off', unit: '', digits: 0 },
  peakToMedianStops: { label: 'Peak over median', unit: 'stops', digits: 1 },
  sunPresent: { label: 'Sun', unit: '', digits: 0 },
  sunAzimuthDeg: { label: 'Sun azimuth', unit: '°', digits: 1 },
  sunElevationDeg: { label: 'Sun elevation', unit: '°', digits: 1 },
  sunDiameterDeg: { label: 'Sun diameter', unit: '°', digits: 2 },
  sunShare: { label: 'Sun share of light', unit: '', digits: 2 },
  keyAzimuthDeg: { label: 'Key azimuth', unit: '°', digits: 1 },
  keyElevationDeg: { label: 'Key elevation', unit: '°', digits: 1 },
  keyToFill: { label: 'Key to fill', unit: ': 1', digits: 2 },
  shadows: { label: 'Shadows', unit: '', digits: 0 },
  colorTemperatureK: { label: 'Colour temperature', unit: 'K', digits: 0 },
  colorDuv: { label: 'Duv', unit: '', digits: 4 },
  setting: { label: 'Setting', unit: '', digits: 0 },
  settingConfidence: { label: 'Setting confidence', unit: '', digits: 2 },
  sky: { label: 'Sky', unit: '', digits: 0 },
  skyConfidence: { label: 'Sky confidence', unit: '', digits: 2 },
  botanicalName: { label: 'Botanical name', unit: '', digits: 0 },
  growth: { label: 'Growth', unit: '', digits: 0 },
  specifiedColor: { label: 'Specified colour', unit: '', digits: 0 },
  renderedColor: { label: 'Rendered colour', unit: '', digits: 0 },
  colorDeltaE00: { label: 'Specified to rendered', unit: 'ΔE00', digits: 2 },
  commonName: { label: 'Common name', unit: '', digits: 0 },
  series: { label: 'Series', unit: '', digits: 0 },
  number: { label: 'Number', unit: '', digits: 0 },
  sheen: { label: 'Sheen', unit: '', digits: 0 },
  productNumber: { label: 'Product number', unit: '', digits: 0 },
  coverageM2L: { label: 'Coverage', unit: 'm²/l', digits: 1 },
  coats: { label: 'Coats', unit: '', digits: 0 },
  weightKgM2: { label: 'Weight by area', unit: 'kg/m²', digits: 1 },
  weightKg: { label: 'Weight', unit: 'kg', digits: 1 },
  price: { label: 'Price, by m² or piece', unit: '', digits: 2 },
  maker: { label: 'Maker', unit: '', digits: 0 },
  licence: { label: 'Licence', unit: '', digits: 0 },
  tags: { label: 'Tags', unit: '', digits: 0 },
  uses: { label: 'Rooms and uses', unit: '', digits: 0 },
  materialName: { label: 'Its name in the file', unit: '', digits: 0 },
  deliveredAs: { label: 'Delivered under', unit: '', digits: 0 },
  luminousFluxLm: { label: 'Luminous flux', unit: 'lm', digits: 0 },
  peakCandela: { label: 'Peak intensity', unit: 'cd', digits: 0 },
  beamAngleDeg: { label: 'Beam angle', unit: '°', digits: 0 },
  fieldAngleDeg: { label: 'Field angle', unit: '°', digits: 0 },
  peakGammaDeg: { label: 'Peak, from straight down', unit: '°', digits: 0 },
  lightDownShare: { label: 'Light below the horizontal', unit: '', digits: 2 },
  efficacyLmW: { label: 'Efficacy', unit: 'lm/W', digits: 0 },
  lightSymmetry: { label: 'Light repeats', unit: '', digits: 0 },
  luminaireWatts: { label: 'Power', unit: 'W', digits: 1 },
  lampCctK: { label: 'Lamp colour temperature', unit: 'K', digits: 0 },
  variantOf: { label: 'Variant of', unit: '', digits: 0 },
  sourcePath: { label: 'Came as', unit: '', digits: 0 },
}

/** Facts that a person or a delivery gives; every other one here is measured. */
export const GIVEN_FACTS = [
  'maker',
  'licence',
  'botanicalName',
  'commonName',
  'growth',
  'series',
  'number',
  'sheen',
  'productNumber',
  'coverageM2L',
  'coats',
  'weightKgM2',
  'weightKg',
  'price',
  'specifiedColor',
  'materialName',
  'tags',
  'uses',
]

/** Whether a person may say it: one of those, or one of the studio's own. */
export const isGivenFact = (name: string): boolean => GIVEN_FACTS.includes(name) || FACT_UNITS[name] === undefined

/** Where a fact stands in a list: as above, then the rest. */
export function factOrder(name: string): number {
  const at = Object.keys(FACT_UNITS).indexOf(name)
  return at < 0 ? Number.MAX_SAFE_INTEGER : at
}

/** Values that say more in other words. */
const VALUE_WORDS: Record<string, string> = { openGl: 'green points up (OpenGL)', directX: 'green points down (DirectX)' }

/** camelCase words as a person reads them. */
export const spellWord = (word: string): string => word.replace(/([a-z])([A-Z])/g, '$1 $2').toLowerCase()

export function formatFact(name: string, value: string | number | boolean): string {
  const unit = FACT_UNITS[name]
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (name === 'mapUse') return MAP_USE_WORDS[value as MapUse] ?? String(value)
  if (typeof value === 'string') {
    const text = VALUE_WORDS[value] ?? (/^[a-z]+[A-Z][A-Za-z]*$/.test(value) ? spellWord(value) : value.replaceAll(' x ', ' × '))
    return unit?.unit ? `${text} ${unit.unit}` : text
  }
  const text = formatNumber(value, unit?.digits ?? 2)
  return unit?.unit ? `${text}${unit.unit === '°' ? '' : ' '}${unit.unit}` : text
}

export const factLabel = (name: string): string => FACT_UNITS[name]?.label ?? spellWord(name)

/** A fact inside a sentence. */
export const factWord = (name: string): string => {
  const label = FACT_UNITS[name]?.label ?? name
  return label[0].toLowerCase() + label.slice(1)
}
