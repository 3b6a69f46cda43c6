import { linearToLab } from '../../color/ciede2000'
import type { SeenColor } from './color-column'

/** C*ab under which a colour is called grey, white or black. */
const GREY_CHROMA = 8
/** Of the area a colour has to be to be named. */
const NAMED_SHARE = 0.3
/** The lower end of each hue in CIELAB, degrees, with what it is called; chosen by eye. */
const HUES: readonly [number, string][] = [
  [0, 'pink'],
  [20, 'red'],
  [48, 'orange'],
  [75, 'yellow'],
  [108, 'green'],
  [175, 'turquoise'],
  [230, 'blue'],
  [305, 'purple'],
  [340, 'pink'],
]

/** Every name that a colour can have, in the order of a colour wheel with the greys last. */
export const COLOR_NAMES: readonly string[] = [
  'red',
  'orange',
  'brown',
  'beige',
  'yellow',
  'green',
  'turquoise',
  'blue',
  'purple',
  'pink',
  'white',
  'grey',
  'black',
]

/** What a colour is called in one plain word; linear Rec.709. */
export const nameColor = (color: readonly [number, number, number]): string => nameLab(...linearToLab(...color))

/** The same for CIELAB. */
export function nameLab(l: number, a: number, b: number): string {
  const chroma = Math.hypot(a, b)
  if (l < 14) return 'black'
  if (chroma < GREY_CHROMA) return l > 88 ? 'white' : 'grey'
  const hue = (Math.atan2(b, a) * (180 / Math.PI) + 360) % 360
  const isWarm = hue > 30 && hue < 105
  // Dark or dull orange is what everybody calls brown, and light dull yellow beige.
  if (isWarm && chroma < 32 && l > 62) return l > 88 && chroma < 14 ? 'white' : 'beige'
  if (isWarm && l < 62 && chroma < 62 && !(hue < 42 && chroma > 40)) return 'brown'
  if (hue < 20 && l < 55) return 'red'
  return HUES.findLast(([from]) => hue >= from)![1]
}

/** Names of the colours that a good part of something is, each once. */
export const nameColors = (palette: readonly SeenColor[]): string[] => {
  const shares = new Map<string, number>()
  for (const { color, share } of palette) {
    const name = nameColor([color[0], color[1], color[2]])
    shares.set(name, (shares.get(name) ?? 0) + share)
  }
  return [...shares].filter(([, share]) => share >= NAMED_SHARE).map(([name]) => name)
}
