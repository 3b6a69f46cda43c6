import type { Look } from './look'

/** What one thing is more of than another, in a plain word for each group. */
export type Difference =
  | 'lighter'
  | 'darker'
  | 'warmer'
  | 'cooler'
  | 'moreColorful'
  | 'greyer'
  | 'otherHue'
  | 'coarser'
  | 'finer'
  | 'stronger'
  | 'calmer'
  | 'moreDirected'
  | 'lessDirected'
  | 'deeper'
  | 'flatter'
  | 'rougher'
  | 'smoother'
  | 'metallic'
  | 'notMetallic'
  | 'taller'
  | 'lower'
  | 'larger'
  | 'smaller'
  | 'higherSun'
  | 'lowerSun'
  | 'warmerLight'
  | 'coolerLight'
  | 'widerBeam'
  | 'narrowerBeam'

const either = (difference: number, least: number, more: Difference, less: Difference): Difference[] =>
  Math.abs(difference) < least ? [] : [difference > 0 ? more : less]

/** How `b` differs from `a`, what strikes first first. */
export function describeDifference(a: Look, b: Look, kind: string): Difference[] {
  const of = (group: keyof Look['groups'], k: number) => {
    const [p, q] = [a.groups[group], b.groups[group]]
    return p && q ? q[k] - p[k] : 0
  }
  if (kind === 'model')
    return [...either(of('size', 0), 0.2, 'larger', 'smaller'), ...either(of('shape', 2), 0.35, 'taller', 'lower')]
  if (kind === 'environment')
    return [
      ...either(of('light', 0), 0.15, 'higherSun', 'lowerSun'),
      ...either(of('light', 1), 0.3, 'warmerLight', 'coolerLight'),
    ]
  if (kind === 'light')
    return [
      ...either(of('light', 1), 0.2, 'widerBeam', 'narrowerBeam'),
      ...either(of('light', 2), 0.3, 'warmerLight', 'coolerLight'),
    ]
  return [
    ...describeColor(a, b),
    ...either(of('scale', 0), 0.5, 'coarser', 'finer'),
    ...either(of('pattern', 7), 0.15, 'stronger', 'calmer'),
    ...either(of('pattern', 9), 0.25, 'moreDirected', 'lessDirected'),
    ...either(of('relief', 0), 0.7, 'deeper', 'flatter'),
    ...either(of('surface', 0), 0.1, 'rougher', 'smoother'),
    ...either(of('surface', 1), 0.5, 'metallic', 'notMetallic'),
  ]
}

/** OKLab distances that are seen at a glance. */
const SEEN = { lightness: 0.05, chroma: 0.03, hue: 0.04 }

function describeColor(a: Look, b: Look): Difference[] {
  const [p, q] = [a.groups.color, b.groups.color]
  if (!p || !q) return []
  const [chromaA, chromaB] = [Math.hypot(p[1], p[2]), Math.hypot(q[1], q[2])]
  const turned = Math.sqrt(Math.max(0, (q[1] - p[1]) ** 2 + (q[2] - p[2]) ** 2 - (chromaB - chromaA) ** 2))
  // Along yellow and blue is what people call warm and cool.
  const warmth = (q[2] - p[2] + 0.5 * (q[1] - p[1])) / 1.118
  const hue: Difference[] =
    turned < SEEN.hue ? [] : Math.abs(warmth) > 0.7 * turned ? [warmth > 0 ? 'warmer' : 'cooler'] : ['otherHue']
  return [
    ...either(q[0] - p[0], SEEN.lightness, 'lighter', 'darker'),
    ...hue,
    ...(turned < SEEN.hue ? either(chromaB - chromaA, SEEN.chroma, 'moreColorful', 'greyer') : []),
  ]
}
