import type { ByteImage, Image } from '../image/image'
import { meanOfChannel } from '../image/image'
import { type MaterialSubject, mapOf } from './material-subject'
import { measureNormalLengths } from './normal-map'
import { measurePattern, OCTAVES, type Pattern } from './pattern'

/** What a material is known again by beside its palette: pattern, relief, how rough, how unevenly. */
export interface Appearance extends Pattern {
  /** Root mean square slope of the normals; 0 without them. */
  relief: number
  /** Mean roughness; null where no map says it. */
  roughness: number | null
  metal: number
}

/** Null without a colour map. */
export function measureAppearance(subject: MaterialSubject): Appearance | null {
  const color = mapOf(subject, 'baseColor')?.image
  if (!color || !(color.data instanceof Uint8Array)) return null
  const normal = mapOf(subject, 'normal')?.image
  const rough = mapOf(subject, 'roughness')?.image
  const gloss = mapOf(subject, 'gloss')?.image
  const metalness = mapOf(subject, 'metalness')?.image
  const mean = (image: Image) => meanOfChannel(image, 0)
  return {
    ...measurePattern(color as ByteImage),
    relief: normal && normal.channels >= 3 ? measureNormalLengths(normal).rmsSlope : 0,
    roughness: rough ? mean(rough) : gloss ? 1 - mean(gloss) : null,
    metal: metalness ? mean(metalness) : 0,
  }
}

/** Of a picture alone, without facts and maps. */
export const appearanceOfPicture = (picture: ByteImage): Appearance => ({
  ...measurePattern(picture),
  relief: 0,
  roughness: null,
  metal: 0,
})

const FIGURES = ['contrast', 'period', 'periodStrength', 'coherence', 'directionDeg', 'relief', 'metal'] as const

/** As a fact: figures in a fixed order, then roughness or a dash, then the octaves. */
export const writeAppearance = (appearance: Appearance): string =>
  [
    ...FIGURES.map(name => short(appearance[name])),
    appearance.roughness === null ? '-' : short(appearance.roughness),
    ...appearance.octaves.map(short),
  ].join(' ')

const short = (value: number): string => String(Number(value.toPrecision(3)))

/** Null where it is none. */
export function readAppearance(text: string): Appearance | null {
  const parts = text.split(' ')
  if (parts.length !== FIGURES.length + 1 + OCTAVES) return null
  const roughness = parts[FIGURES.length] === '-' ? null : Number(parts[FIGURES.length])
  const numbers = parts.map((part, k) => (k === FIGURES.length ? (roughness ?? 0) : Number(part)))
  if (!numbers.every(Number.isFinite)) return null
  const [contrast, period, periodStrength, coherence, directionDeg, relief, metal] = numbers
  const octaves = numbers.slice(FIGURES.length + 1)
  return { contrast, period, periodStrength, coherence, directionDeg, relief, metal, roughness, octaves }
}
