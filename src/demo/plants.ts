import { type Mesh, mergeMeshes } from '#core/geometry/mesh'
import { createLathe, createTube, roundCorners } from '#core/geometry/shapes'
import { toRadians } from '#core/math/angles'
import { createRandom, type Random } from '#core/math/random'
import { add, cross, normalize, scale, type Vec3 } from '#core/math/vec3'
import { anySide, type Card, cardsMesh, type LeafShape, leafFinish, turn } from './leaf-cards'
import type { ModelRecipe } from './model-file'
import { lch } from './texture-set'

/** Plants by branching growth. Metres, base at the origin. */

interface Species {
  stem: string
  seed: number
  heightM: number
  trunkRadiusM: number
  /** Branch orders after the trunk. */
  orders: number
  branches: number
  /** Angle of a branch from its parent, degrees. */
  angleDeg: number
  /** Length of a child over its parent's. */
  shorten: number
  /** Share of the trunk that is bare. */
  bare: number
  /** Upward pull: positive rises, negative hangs. */
  rise: number
  leaf: { shape: LeafShape; lengthM: number; widthM: number; perTwig: number; color: Vec3; droop: number }
  bark: Vec3
  pot?: boolean
}

const SPECIES: readonly Species[] = [
  {
    stem: 'Betula_pendula',
    seed: 1,
    heightM: 7,
    trunkRadiusM: 0.09,
    orders: 3,
    branches: 10,
    angleDeg: 42,
    shorten: 0.42,
    bare: 0.25,
    rise: -0.12,
    leaf: { shape: 'ovate', lengthM: 0.11, widthM: 0.085, perTwig: 7, color: lch(0.6, 0.12, 128), droop: 0.6 },
    bark: lch(0.85, 0.01, 80),
  },
  {
    stem: 'Quercus_robur',
    seed: 2,
    heightM: 9,
    trunkRadiusM: 0.24,
    orders: 3,
    branches: 11,
    angleDeg: 58,
    shorten: 0.5,
    bare: 0.22,
    rise: 0.1,
    leaf: { shape: 'lobed', lengthM: 0.17, widthM: 0.11, perTwig: 7, color: lch(0.48, 0.1, 132), droop: 0.3 },
    bark: lch(0.42, 0.02, 60),
  },
  {
    stem: 'Acer_palmatum',
    seed: 3,
    heightM: 3.2,
    trunkRadiusM: 0.06,
    orders: 3,
    branches: 9,
    angleDeg: 55,
    shorten: 0.52,
    bare: 0.15,
    rise: 0.16,
    leaf: { shape: 'palmate', lengthM: 0.1, widthM: 0.1, perTwig: 7, color: lch(0.46, 0.14, 30), droop: 0.4 },
    bark: lch(0.4, 0.02, 50),
  },
]

interface Growth {
  wood: Mesh[]
  leaves: Card[]
}

function growTree(species: Species): Growth {
  const random = createRandom(species.seed)
  const out: Growth = { wood: [], leaves: [] }
  growBranch(species, random, out, [0, 0, 0], [0, 1, 0], species.heightM, species.trunkRadiusM, 0)
  return out
}

function growBranch(
  s: Species,
  random: Random,
  out: Growth,
  from: Vec3,
  towards: Vec3,
  length: number,
  radius: number,
  order: number,
): void {
  const steps = order === 0 ? 10 : order === 1 ? 7 : 4
  const path: Vec3[] = [from]
  const radii: number[] = [radius * (order === 0 ? 1.35 : 1)]
  let direction = towards
  let at = from
  for (let i = 1; i <= steps; i++) {
    const wander = order === 0 ? 0.06 : 0.16
    direction = normalize([
      direction[0] + random.between(-wander, wander),
      direction[1] + random.between(-wander, wander) + (order > 0 ? (s.rise * 3) / steps : 0),
      direction[2] + random.between(-wander, wander),
    ])
    at = add(at, scale(direction, length / steps))
    path.push(at)
    radii.push(radius * (1 - 0.86 * (i / steps)))
  }
  out.wood.push(createTube(path, radii, order === 0 ? 14 : order === 1 ? 8 : 5))
  if (order >= s.orders) {
    addLeaves(s, random, out, path)
    return
  }
  const count = Math.max(3, Math.round(s.branches * (order === 0 ? 1.8 : 1)))
  let around = random.between(0, 6.28)
  for (let k = 0; k < count; k++) {
    const first = order === 0 ? s.bare : 0.2
    const t = first + (1 - first) * ((k + random.between(0.2, 0.8)) / count)
    const x = t * steps
    const i = Math.min(steps - 1, Math.floor(x))
    const origin = add(scale(path[i], 1 - (x - i)), scale(path[i + 1], x - i))
    const parent = normalize([path[i + 1][0] - path[i][0], path[i + 1][1] - path[i][1], path[i + 1][2] - path[i][2]])
    // The golden angle keeps successive branches out of each other's light.
    around += 2.39996 + random.between(-0.3, 0.3)
    const tilt = toRadians(s.angleDeg + random.between(-12, 12))
    const side = turn(anySide(parent), parent, around)
    const child = normalize(add(scale(parent, Math.cos(tilt)), scale(side, Math.sin(tilt))))
    const taper = order === 0 ? 1.15 - 0.75 * t : 1 - 0.45 * t
    growBranch(
      s,
      random,
      out,
      origin,
      child,
      length * s.shorten * taper * random.between(0.8, 1.15),
      radius * (1 - 0.86 * t) * 0.55,
      order + 1,
    )
  }
}

function addLeaves(s: Species, random: Random, out: Growth, path: readonly Vec3[]): void {
  for (let k = 0; k < s.leaf.perTwig; k++) {
    const t = (k + 1) / s.leaf.perTwig
    const x = t * (path.length - 1)
    const i = Math.min(path.length - 2, Math.floor(x))
    const base = add(scale(path[i], 1 - (x - i)), scale(path[i + 1], x - i))
    const azimuth = random.between(0, 6.28)
    const along = normalize([Math.cos(azimuth), random.between(-0.2, 0.7) - s.leaf.droop, Math.sin(azimuth)])
    const side = turn(anySide(along), along, random.between(-0.7, 0.7))
    const size = random.between(0.75, 1.2)
    out.leaves.push({
      base,
      along,
      side,
      lengthM: s.leaf.lengthM * size,
      widthM: s.leaf.widthM * size,
      bend: random.between(0.1, 0.35),
    })
  }
}

async function treeParts(species: Species): Promise<ModelRecipe['parts']> {
  const { wood, leaves } = growTree(species)
  return [
    { name: 'trunk and branches', mesh: mergeMeshes(wood), finish: { name: 'Bark', color: species.bark, roughness: 0.9 } },
    { name: 'foliage', mesh: cardsMesh(leaves), finish: await leafFinish('Leaf', species.leaf.shape, species.leaf.color) },
  ]
}

/** Long blades from one clump. */
async function grassParts(
  seed: number,
  count: number,
  heightM: number,
  color: Vec3,
  plume: Vec3 | null,
): Promise<ModelRecipe['parts']> {
  const random = createRandom(seed)
  const blades: Card[] = []
  const stalks: Mesh[] = []
  const plumes: Card[] = []
  for (let k = 0; k < count; k++) {
    const azimuth = random.between(0, 6.283)
    const r = 0.12 * Math.sqrt(random.next())
    const lean = random.between(0.05, 0.6)
    const along = normalize([Math.cos(azimuth) * lean, 1, Math.sin(azimuth) * lean])
    const side: Vec3 = normalize(cross(along, [Math.cos(azimuth + 1.2), 0.1, Math.sin(azimuth + 1.2)]))
    blades.push({
      base: [r * Math.cos(azimuth), 0, r * Math.sin(azimuth)],
      along,
      side: [Math.sin(azimuth), 0, -Math.cos(azimuth)],
      lengthM: heightM * random.between(0.5, 1),
      widthM: heightM * 0.011,
      bend: random.between(0.15, 0.6) * -1 * Math.sign(side[1] || 1) * -1,
    })
    if (plume && k % 24 === 0) {
      const top = add(blades[blades.length - 1].base, scale(along, heightM * 1.05))
      stalks.push(createTube([blades[blades.length - 1].base, top], [0.003, 0.0015], 5))
      for (let q = 0; q < 16; q++) {
        const a = random.between(0, 6.283)
        const out: Vec3 = normalize([Math.cos(a) * 0.5 + along[0], 1.1, Math.sin(a) * 0.5 + along[2]])
        plumes.push({
          base: add(top, scale(along, (q / 16) * heightM * 0.12)),
          along: out,
          side: anySide(out),
          lengthM: heightM * 0.12,
          widthM: 0.01,
          bend: 0.5,
        })
      }
    }
  }
  const parts: ModelRecipe['parts'] = [
    { name: 'blades', mesh: cardsMesh(blades, 6), finish: await leafFinish('Blade', 'blade', color) },
  ]
  if (plume) {
    parts.push({
      name: 'stalks',
      mesh: mergeMeshes(stalks),
      finish: { name: 'Stalk', color: lch(0.66, 0.07, 95), roughness: 0.8 },
    })
    parts.push({ name: 'plumes', mesh: cardsMesh(plumes, 3), finish: await leafFinish('Plume', 'blade', plume) })
  }
  return parts
}

/** Small leaves over a clipped ball. */
async function clippedBall(seed: number, radiusM: number, count: number): Promise<ModelRecipe['parts']> {
  const random = createRandom(seed)
  const cards: Card[] = []
  for (let k = 0; k < count; k++) {
    const y = 1 - (2 * (k + 0.5)) / count
    const a = k * 2.39996
    const r = Math.sqrt(1 - y * y)
    const out: Vec3 = [r * Math.cos(a), y, r * Math.sin(a)]
    const depth = radiusM * random.between(0.88, 1.01)
    const along = normalize([
      out[0] + random.between(-0.8, 0.8),
      out[1] + random.between(-0.5, 0.9),
      out[2] + random.between(-0.8, 0.8),
    ])
    cards.push({
      base: [out[0] * depth, radiusM + out[1] * depth, out[2] * depth],
      along,
      side: turn(anySide(along), along, random.between(0, 3)),
      lengthM: 0.032,
      widthM: 0.018,
      bend: 0.2,
    })
  }
  const core = createLathe(
    Array.from({ length: 17 }, (_, i): [number, number] => {
      const t = (i / 16) * Math.PI
      return [Math.max(0.001, radiusM * 0.9 * Math.sin(t)), radiusM - radiusM * 0.9 * Math.cos(t)]
    }),
    32,
  )
  return [
    { name: 'inner shade', mesh: core, finish: { name: 'Inner shade', color: lch(0.22, 0.03, 135), roughness: 1 } },
    { name: 'foliage', mesh: cardsMesh(cards), finish: await leafFinish('Leaf', 'ovate', lch(0.5, 0.11, 135)) },
  ]
}

/** Large leaves on arching stalks out of a pot. */
async function pottedPlant(
  seed: number,
  shape: LeafShape,
  leaves: number,
  heightM: number,
  leafM: number,
  color: Vec3,
): Promise<ModelRecipe['parts']> {
  const random = createRandom(seed)
  const stalks: Mesh[] = []
  const cards: Card[] = []
  const potHeight = 0.26
  for (let k = 0; k < leaves; k++) {
    const a = k * 2.39996
    const age = k / leaves
    const reach = heightM * (0.5 - 0.26 * age) * random.between(0.85, 1.15)
    const top: Vec3 = [Math.cos(a) * reach, potHeight + heightM * (0.34 + 0.6 * age), Math.sin(a) * reach]
    const middle: Vec3 = [top[0] * 0.3, potHeight + (top[1] - potHeight) * 0.7, top[2] * 0.3]
    stalks.push(createTube([[0.01 * Math.cos(a), potHeight - 0.03, 0.01 * Math.sin(a)], middle, top], [0.008, 0.0065, 0.004], 8))
    const along = normalize([Math.cos(a), -0.25 - 0.3 * (1 - age), Math.sin(a)])
    const side: Vec3 = normalize([-Math.sin(a), 0, Math.cos(a)])
    cards.push({
      base: top,
      along,
      side,
      lengthM: leafM * random.between(0.8, 1.1),
      widthM: leafM * (shape === 'split' ? 0.9 : 0.62),
      bend: -0.25,
    })
  }
  const pot = createLathe(
    roundCorners(
      [
        [0.001, 0],
        [0.12, 0],
        [0.15, potHeight],
        [0.138, potHeight],
        [0.13, potHeight - 0.03],
        [0.001, potHeight - 0.03],
      ],
      0.008,
    ),
    48,
  )
  return [
    { name: 'pot', mesh: pot, finish: { name: 'Glazed pot', color: lch(0.82, 0.02, 80), roughness: 0.3 } },
    { name: 'stalks', mesh: mergeMeshes(stalks), finish: { name: 'Stalk', color: lch(0.5, 0.09, 125), roughness: 0.6 } },
    { name: 'leaves', mesh: cardsMesh(cards, 5), finish: await leafFinish('Leaf', shape, color) },
  ]
}

async function shrubParts(): Promise<ModelRecipe['parts']> {
  const species: Species = {
    stem: 'Cornus_alba',
    seed: 8,
    heightM: 1.5,
    trunkRadiusM: 0.014,
    orders: 2,
    branches: 5,
    angleDeg: 34,
    shorten: 0.45,
    bare: 0.3,
    rise: 0.2,
    leaf: { shape: 'ovate', lengthM: 0.1, widthM: 0.06, perTwig: 8, color: lch(0.56, 0.1, 130), droop: 0.2 },
    bark: lch(0.44, 0.14, 26),
  }
  const all: Growth = { wood: [], leaves: [] }
  for (let k = 0; k < 11; k++) {
    const a = k * 2.39996
    const random = createRandom(80 + k)
    const lean = 0.12 + 0.35 * (k / 11)
    growBranch(
      species,
      random,
      all,
      [0.05 * Math.cos(a), 0, 0.05 * Math.sin(a)],
      normalize([Math.cos(a) * lean, 1, Math.sin(a) * lean]),
      species.heightM * random.between(0.75, 1),
      species.trunkRadiusM,
      0,
    )
  }
  return [
    { name: 'stems', mesh: mergeMeshes(all.wood), finish: { name: 'Red bark', color: species.bark, roughness: 0.7 } },
    { name: 'foliage', mesh: cardsMesh(all.leaves), finish: await leafFinish('Leaf', 'ovate', species.leaf.color) },
  ]
}

const HOLLOW = 'Hollowbrook Botanicals'

export const PLANT_RECIPES: readonly { folder: string; stem: string; build: () => Promise<ModelRecipe['parts']> }[] = [
  ...SPECIES.map(s => ({ folder: `${HOLLOW}/Trees`, stem: s.stem, build: () => treeParts(s) })),
  { folder: `${HOLLOW}/Shrubs`, stem: 'Cornus_alba', build: shrubParts },
  {
    folder: `${HOLLOW}/Shrubs`,
    stem: 'Miscanthus_sinensis',
    build: () => grassParts(5, 420, 1.35, lch(0.6, 0.1, 118), lch(0.82, 0.04, 80)),
  },
  { folder: `${HOLLOW}/Shrubs`, stem: 'Buxus_sempervirens', build: () => clippedBall(6, 0.42, 7000) },
  {
    folder: `${HOLLOW}/Indoor`,
    stem: 'Monstera_deliciosa',
    build: () => pottedPlant(7, 'split', 11, 0.85, 0.42, lch(0.42, 0.09, 140)),
  },
  { folder: `${HOLLOW}/Indoor`, stem: 'Ficus_lyrata', build: () => pottedPlant(9, 'ovate', 19, 1.3, 0.3, lch(0.47, 0.1, 133)) },
]
