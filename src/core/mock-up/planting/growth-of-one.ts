import { multiply, type Quaternion, turnAbout } from '../../math/quaternion'
import { createRandom, hashCombine } from '../../math/random'
import type { Vec3 } from '../../math/vec3'

/** A species of a planting, and how its plants differ. */
export interface Species {
  /** How often, against the others. */
  share: number
  /** Size against the library's plant: the usual one, and the ends that nature has. */
  usualSize: number
  smallest: number
  largest: number
  /** Standard deviation of the logarithm of its size. */
  sizeSpread: number
  /** Standard deviation of the angle by which it leans. */
  leanDeg: number
}

export interface Grown {
  species: number
  turn: Quaternion
  scale: number
}

const UP: Vec3 = [0, 1, 0]

/**
 * What one plant of a planting is like, from the seed and its index alone: its species by shares, turned any way, leaning a little (for small
 * angles a von Mises-Fisher direction about the vertical), its size log-normal within the species' own range.
 * @throws RangeError where no species has a share
 */
export function growOne(seed: number, index: number, species: readonly Species[]): Grown {
  const all = species.reduce((sum, s) => sum + s.share, 0)
  if (!(all > 0)) throw new RangeError('a planting needs a species with a share')
  const random = createRandom(hashCombine(hashCombine(seed, 0x5eed), index))
  let left = random.next() * all
  let chosen = species.length - 1
  for (let k = 0; k < species.length; k++) {
    left -= species[k].share
    if (left < 0) {
      chosen = k
      break
    }
  }
  const { usualSize, smallest, largest, sizeSpread, leanDeg } = species[chosen]
  const turnDeg = 360 * random.next()
  const towards = 2 * Math.PI * random.next()
  // Of two normal components the length is Rayleigh.
  const lean = leanDeg * Math.sqrt(-2 * Math.log(1 - random.next()))
  const size = usualSize * Math.exp(sizeSpread * normal(random.next(), random.next()))
  const leaning = turnAbout([Math.cos(towards), 0, Math.sin(towards)], Math.min(lean, MOST_LEAN_DEG))
  return {
    species: chosen,
    turn: multiply(leaning, turnAbout(UP, turnDeg)),
    scale: Math.min(largest, Math.max(smallest, size)),
  }
}

const MOST_LEAN_DEG = 45

/** Standard normal from two uniform numbers (Box & Muller 1958). */
const normal = (u: number, v: number): number => Math.sqrt(-2 * Math.log(1 - u)) * Math.cos(2 * Math.PI * v)
