import type { Image } from '../image/image'
import { fullScale } from '../image/image'
import type { MapFigures } from './measure-map'

/** What a stand-alone map is for. A stamp is one grey shape, a decal a picture cut out; colour is any other picture. */
export const MAP_USES = ['mask', 'grunge', 'stamp', 'decal', 'pattern', 'gradient', 'color'] as const
export type MapUse = (typeof MAP_USES)[number]

/** Words by which names of files and folders say it. */
const USE_WORDS: Readonly<Record<MapUse, readonly string[]>> = {
  mask: ['mask', 'masks', 'matte', 'mattes', 'selection', 'stencil', 'stencils'],
  grunge: [
    'grunge',
    'dirt',
    'dust',
    'smudge',
    'smudges',
    'scratch',
    'scratches',
    'wear',
    'stain',
    'stains',
    'drips',
    'leak',
    'leaks',
    'noise',
    'fingerprints',
    'imperfection',
    'imperfections',
  ],
  stamp: ['stamp', 'stamps', 'brush', 'brushes', 'splatter', 'splatters', 'cracks'],
  decal: [
    'decal',
    'decals',
    'sticker',
    'stickers',
    'label',
    'labels',
    'sign',
    'signs',
    'signage',
    'poster',
    'posters',
    'marking',
    'markings',
    'logo',
    'logos',
  ],
  pattern: ['pattern', 'patterns', 'ornament', 'perforation', 'motif', 'wallpaper', 'wallpapers'],
  gradient: ['gradient', 'gradients', 'ramp', 'ramps', 'falloff'],
  color: ['artwork', 'artworks', 'painting', 'paintings', 'backplate', 'backplates'],
}

/** What the words of a name, or else of its folder, say a map is for; null where they say nothing. */
export function readMapUse(words: readonly string[], folderWords: readonly string[] = []): MapUse | null {
  for (const said of [words, folderWords])
    for (const use of MAP_USES) if (said.some(word => USE_WORDS[use].includes(word))) return use
  return null
}

/** How well it repeats, of the autocorrelation; see `measurePattern`. */
const PATTERN_STRENGTH = 0.45
const MASK_SHARE = 0.9

/**
 * What the pixels of a map are for, where its name does not say.
 * @param tiles whether it repeats in either direction: what is laid over a surface does, a photograph does not
 */
export function guessMapUse(image: Image, figures: MapFigures, periodStrength: number, tiles: boolean): MapUse {
  if (figures.alpha === 'cutOut') return figures.isGrey ? 'stamp' : 'decal'
  if (isGradient(image)) return 'gradient'
  if (tiles && periodStrength > PATTERN_STRENGTH) return 'pattern'
  if (!figures.isGrey) return 'color'
  if (figures.extremeShare > MASK_SHARE) return 'mask'
  return tiles ? 'grunge' : 'color'
}

/** What speaks for and against a flat picture being a map by itself. */
export interface LoneEvidence {
  /** What its name or folder says, and what its pixels are. */
  said: MapUse | null
  guessed: MapUse
  figures: MapFigures
  /** Whether its pixels could be those of a surface: colour, or normals. */
  isSurfaceLike: boolean
  /** Whether its name is one of a surface, such as oak. */
  isNamedSurface: boolean
}

/** Whether a flat picture that no set has is a map by itself, and not the one picture of a surface. */
export function isStandAlone({ said, guessed, figures, isSurfaceLike, isNamedSurface }: LoneEvidence): boolean {
  if (figures.alpha === 'cutOut') return true
  // "Wood stain" in colour is wood; in grey it is a stain.
  if (isNamedSurface && isSurfaceLike && !figures.isGrey) return false
  // Bricks and weaves repeat as well as any pattern does.
  return said !== null || !isSurfaceLike || figures.isGrey || guessed === 'gradient'
}

const GRID = 48
/** Codes over full scale that a smooth run bends by from one cell of the grid to the next, at most in the mean. */
const MOST_BEND = 0.006
const LEAST_RANGE = 0.2
/** Difference of a texel to the mean of its cell. */
const MOST_GRAIN = 0.03

/** Whether a map runs smoothly from one value to another: no edges, no grain, and a way to go. */
export function isGradient(image: Image): boolean {
  const { width, height, channels, data } = image
  if (Math.min(width, height) < 2) return false
  const scale = 1 / fullScale(data)
  const taps = 3
  const cells = new Float64Array(GRID * GRID)
  let grain = 0
  for (let j = 0; j < GRID; j++)
    for (let i = 0; i < GRID; i++) {
      const values: number[] = []
      for (let k = 0; k < taps * taps; k++) {
        const x = Math.min(width - 1, Math.floor(((i + ((k % taps) + 0.5) / taps) * width) / GRID))
        const y = Math.min(height - 1, Math.floor(((j + (Math.floor(k / taps) + 0.5) / taps) * height) / GRID))
        const p = (y * width + x) * channels
        let value = 0
        const colors = Math.min(3, channels === 2 ? 1 : channels)
        for (let c = 0; c < colors; c++) value += data[p + c] / colors
        values.push(value * scale)
      }
      const mean = values.reduce((a, b) => a + b, 0) / values.length
      grain += values.reduce((a, b) => a + Math.abs(b - mean), 0) / values.length
      cells[j * GRID + i] = mean
    }
  let [bend, low, high] = [0, 1, 0]
  for (let j = 1; j < GRID - 1; j++)
    for (let i = 1; i < GRID - 1; i++) {
      const at = j * GRID + i
      const middle = 2 * cells[at]
      bend += Math.abs(cells[at - 1] + cells[at + 1] - middle) + Math.abs(cells[at - GRID] + cells[at + GRID] - middle)
      low = Math.min(low, cells[at])
      high = Math.max(high, cells[at])
    }
  const inner = (GRID - 2) ** 2
  return high - low > LEAST_RANGE && bend / inner < MOST_BEND * 2 && grain / (GRID * GRID) < MOST_GRAIN
}
