import { toHex } from '../color/srgb'
import type { Finding } from '../findings/finding'
import { type ByteImage, fullScale, type Image } from '../image/image'
import { computeSizeFacts } from '../material/analyse-material'
import { appearanceOfPicture, writeAppearance } from '../material/appearance'
import { computeMeanAlbedo, computePalette } from '../material/palette'
import { MAP_CHECKS } from './map-checks'
import type { MapSubject } from './map-subject'
import { findTiling } from './map-tiling'
import { guessMapUse, type MapUse, readMapUse } from './map-use'
import { measureMap } from './measure-map'

export interface MapFacts {
  mapUse: MapUse
  widthPx: number
  heightPx: number
  bitsPerChannel: number
  mapChannels: 'grey' | 'grey, alpha' | 'colour' | 'colour, alpha'
  mapTiles: 'both ways' | 'across' | 'down' | 'no'
  /** Share of the area that is there; only where something is seen through it. */
  coverShare?: number
  /** Of what is there, 0..1; from the darkest half percent to the brightest. */
  mapMean: number
  mapLow: number
  mapHigh: number
  /** Shares in equal steps from 0 to 1, per mille, with blanks between. */
  histogram: string
  widthMm?: number
  heightMm?: number
  texelDensityPxM?: number
  lrv?: number
  meanColor?: string
  palette?: string
  appearance: string
}

/** At this size colours and patterns show. */
const LOOKED_AT = 1024

/** Facts and findings of a stand-alone map. */
export function analyseMap(subject: MapSubject): { facts: MapFacts; findings: Finding[] } {
  const { image, widthPx, heightPx, words, folderWords } = subject
  const figures = measureMap(image)
  const picture = flatten(image)
  const appearance = appearanceOfPicture(picture)
  const tiles = findTiling(image, figures)
  const use = readMapUse(words, folderWords) ?? guessMapUse(image, figures, appearance.periodStrength, tiles.x || tiles.y)
  const isCut = figures.alpha === 'cutOut'
  const { albedo, lrv } = computeMeanAlbedo(picture)
  const facts: MapFacts = {
    mapUse: use,
    widthPx,
    heightPx,
    bitsPerChannel: subject.bitsPerChannel,
    mapChannels: `${figures.isGrey ? 'grey' : 'colour'}${isCut ? ', alpha' : ''}`,
    mapTiles: tiles.x && tiles.y ? 'both ways' : tiles.x ? 'across' : tiles.y ? 'down' : 'no',
    ...(isCut ? { coverShare: figures.coverShare } : {}),
    mapMean: figures.mean,
    mapLow: figures.low,
    mapHigh: figures.high,
    histogram: figures.histogram.map(share => Math.round(share * 1000)).join(' '),
    ...computeSizeFacts(subject.widthMm, widthPx, heightPx),
    lrv,
    meanColor: toHex(albedo),
    palette: computePalette(picture)
      .map(c => `${toHex(c.color)} ${c.share.toFixed(3)}`)
      .join(', '),
    appearance: writeAppearance(appearance),
  }
  return { facts, findings: MAP_CHECKS.flatMap(check => check({ ...subject, figures, use, seams: tiles.seams })) }
}

/** 8 bits without alpha, small enough to look at. Of what is cut out only what is there is kept, packed in rows, so that its ground has no colour. */
function flatten({ width, height, channels, data }: Image): ByteImage {
  const scale = 255 / fullScale(data)
  const step = Math.max(1, Math.ceil(Math.max(width, height) / LOOKED_AT))
  const colors = channels < 3 ? 1 : 3
  const hasAlpha = channels === 2 || channels === 4
  const [wide, high] = [Math.ceil(width / step), Math.ceil(height / step)]
  const whole = new Uint8Array(wide * high * colors)
  const there: number[] = []
  for (let y = 0; y < height; y += step)
    for (let x = 0; x < width; x += step) {
      const p = (y * width + x) * channels
      const at = ((y / step) * wide + x / step) * colors
      for (let c = 0; c < colors; c++) whole[at + c] = Math.round(data[p + c] * scale)
      if (hasAlpha && data[p + channels - 1] * scale > 127) there.push(at)
    }
  if (!hasAlpha || there.length === 0 || there.length === wide * high)
    return { width: wide, height: high, channels: colors, data: whole }
  const side = Math.floor(Math.sqrt(there.length))
  const data8 = new Uint8Array(side * side * colors)
  for (let k = 0; k < side * side; k++) for (let c = 0; c < colors; c++) data8[k * colors + c] = whole[there[k] + c]
  return { width: side, height: side, channels: colors, data: data8 }
}
